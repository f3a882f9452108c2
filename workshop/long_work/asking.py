"""Asking for a long work, stopping it, asking again."""

from datetime import timedelta
from typing import Final

from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone
from django.utils.translation import get_language

from workshop.addresses import address
from workshop.long_work.kinds import KINDS
from workshop.models import LongWork, User
from workshop.models.long_work import UNDER_WAY
from workshop.numbers_in_addresses import named, number_of
from workshop.tasks import carry_out

KEPT: Final = timedelta(days=1)
_LISTED: Final = 8


@transaction.atomic
def ask_for(user: User, kind: str, given: bytes = b"", *, name: str = "", about: int | None = None) -> LongWork:
    """Put a work into the queue and return its row. What others left here a day ago is forgotten by the way."""
    LongWork.of(user).filter(asked_at__lt=timezone.now() - KEPT).exclude(state__in=UNDER_WAY).delete()
    language = get_language() or ""
    row = LongWork(kind=kind, asked_by=user, given=given, given_name=name[:120], about=about, language=language)
    row.save()
    _queue(row)
    return row


def works_of(user: User) -> QuerySet[LongWork]:
    """Return the works a person asked for, newest first; nobody sees another's. What they hold is read when asked."""
    rows: QuerySet[LongWork] = LongWork.of(user)
    return rows.filter(asked_by=user).defer("given", "made").order_by("-pk")


def newest_of(user: User, kind: str, about: int) -> LongWork | None:
    """Return the last work of a kind that a person asked for about something; None where none is kept."""
    return works_of(user).filter(kind=kind, about=about, asked_at__gte=timezone.now() - KEPT).first()


def named_in(request: HttpRequest, *kinds: str) -> LongWork | None:
    """Return the work of some kinds that ``?work=`` of an address names; None where it names none of this person's."""
    number = number_of("work", request.GET.get("work", ""))
    return None if number is None else works_of(request.user).filter(pk=number, kind__in=kinds).first()


def named_from(page: str, work: LongWork) -> str:
    """Return the address of a page that shows a work (``named_in``)."""
    return f"{address(page)}?work={named('work', work.pk)}"


def listed(user: User) -> list[dict[str, object]]:
    """Return the newest works of a person that a page lists."""
    return [shown(row) for row in works_of(user)[:_LISTED]]


def shown(work: LongWork) -> dict[str, object]:
    """Return a work with what it is called, for a template."""
    return {"row": work, "title": KINDS[work.kind].title}


def stop(work: LongWork) -> None:
    """Stop it: a worker that has it leaves off at its next step. What was done by then stays done."""
    LongWork.of(None).filter(pk=work.pk, state__in=UNDER_WAY).update(state=LongWork.State.STOPPED)


@transaction.atomic
def ask_again(work: LongWork) -> None:
    """Try a work that failed or was stopped once more; it goes on after what is behind it."""
    again = LongWork.of(None).filter(pk=work.pk, state__in=(LongWork.State.FAILED, LongWork.State.STOPPED))
    if again.update(state=LongWork.State.WAITING, tries=0, said=[]):
        _queue(work)


def _queue(work: LongWork) -> None:
    # In the same transaction as the row: no work without its place in the queue, none in the queue without its row.
    carry_out.defer(work=work.pk, workshop=work.workshop_id)
