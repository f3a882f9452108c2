"""The page of the drills: one statement, one press, why."""

from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from practice.drills.actions import due, say
from practice.drills.pictures import picture_of
from practice.drills.statements import BOTH, BY_CODE, NEITHER, ONE, OTHER, Drill
from practice.models import DrillAnswer, DrillCard
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


@require_GET
def drill(request: HttpRequest) -> HttpResponse:
    """Show the next statement that is due; with ``told`` in the address, what was said to one, and why."""
    require(request.user, Deed.PRACTISE)
    waiting = due(request.user)
    told = BY_CODE.get(request.GET.get("told", ""))
    last = DrillAnswer.of(request.user).filter(person=request.user, code=told.code).first() if told else None
    if told is not None and last is not None:
        return _page(request, told, left=len(waiting), said=last.said)
    if not waiting:
        return render(request, "practice/drilled.html", {"next": _next_due(request)})
    return _page(request, waiting[0], left=len(waiting))


@posted_from("practice:drills")
@counts_once
def answered(request: HttpRequest) -> HttpResponse:
    """Take what was said, and lead to why it is right or wrong."""
    require(request.user, Deed.PRACTISE)
    card, said = BY_CODE.get(request.POST.get("code", "")), request.POST.get("said", "")
    if card is None or said not in {code for code, _words in _choices(card)}:
        return redirect("practice:drills")
    say(request.user, card, said)
    return redirect(f"{reverse('practice:drills')}?{urlencode({'told': card.code})}")


def _page(request: HttpRequest, card: Drill, *, left: int, said: str = "") -> HttpResponse:
    shown = picture_of(card.picture)
    row = DrillCard.of(request.user).filter(person=request.user, code=card.code).first()
    choices = _choices(card)
    context: dict[str, Any] = {
        "drill": card,
        "speakers": list(zip((_("One says"), _("The other says")), card.says, strict=False)),
        "choices": choices,
        "shown": shown,
        "left": left,
        "said": said,
        "right": said == card.right,
        "right_words": dict(choices)[card.right],
        "said_words": dict(choices).get(said, ""),
        "again": row.due if row is not None else None,
    }
    return render(request, "practice/drill.html", context)


def _choices(card: Drill) -> list[tuple[str, Any]]:
    if card.choices:
        return [(str(k), words) for k, words in enumerate(card.choices, start=1)]
    return [(ONE, _("The one is right")), (OTHER, _("The other is right")), (BOTH, _("Both")), (NEITHER, _("Neither"))]


def _next_due(request: HttpRequest) -> Any:
    return DrillCard.of(request.user).filter(person=request.user).values_list("due", flat=True).first()
