"""A limits file tried or taken by a worker: asked for at the library, which tells what came of it."""

from typing import Final

from django.db import transaction
from django.utils.translation import gettext_lazy, ngettext

from workshop.long_work.asking import ask_for, named_from
from workshop.long_work.kinds import Made, Report, WorkRefusedError, can_do
from workshop.models import LongWork, User
from workshop.store.limits import put_into_library
from workshop.store.limits_files import Read, read_file

_TRY: Final = "limits-try"
_TAKE: Final = "limits-take"
KINDS: Final = (_TRY, _TAKE)


def can_be_done() -> None:
    """Tell workers of both."""
    can_do(_TRY, gettext_lazy("The limits file"), try_limits, leads_to=where_it_stands)
    can_do(_TAKE, gettext_lazy("The limits file"), take_limits, leads_to=where_it_stands)


def ask_to_read(user: User, content: bytes, *, name: str, dry: bool) -> LongWork:
    """Have a limits file read, and taken unless ``dry``."""
    return ask_for(user, _TRY if dry else _TAKE, content, name=name)


def try_limits(work: LongWork, report: Report) -> Made:
    """Say what is wrong with a file, and write nothing."""
    read = _read(work, report)
    n = len(read.rows)
    words = ngettext(
        "%(n)s row can be taken. Nothing was written yet.", "All %(n)s rows can be taken. Nothing was written yet.", n
    )
    return Made(said=(words % {"n": n}, *map(str, read.unusual)))


def take_limits(work: LongWork, report: Report) -> Made:
    """Put a file into the library, whole or not at all. A second try finds nothing new in what the first has put."""
    read = _read(work, report)
    rows = read.rows
    with transaction.atomic():
        fresh = put_into_library(work.asked_by, rows)
        report.note(len(rows), len(rows))  # stopped meanwhile: nothing is written
    words = ngettext(
        "%(n)s row read, %(fresh)s new or changed.", "%(n)s rows read, %(fresh)s new or changed.", len(rows)
    )
    return Made(said=(words % {"n": len(rows), "fresh": fresh}, *map(str, read.unusual)))


def where_it_stands(work: LongWork) -> str:
    """Return the address of the library, which shows how far it is and what came of it."""
    return named_from("workshop:library", work)


def _read(work: LongWork, report: Report) -> Read:
    read = read_file(bytes(work.given), note=report.note)
    if read.bad:
        n = len(read.bad)
        words = ngettext(
            "%(n)s thing is wrong; nothing was written.", "%(n)s things are wrong; nothing was written.", n
        )
        raise WorkRefusedError(words % {"n": n}, *map(str, read.bad))
    return read
