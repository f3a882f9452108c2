"""What the reading tape sends: one edit, zero, undo, another turn. Each answers with the redrawn instruments."""

import json
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_POST

from jobs import actions
from jobs.doubts import doubt_words
from jobs.forms import EntryForm
from jobs.models import Job, Sweep, Tape, ThicknessRound
from jobs.pages import live_context
from workshop.wording import unreadable

_KINDS: dict[str, type[Tape]] = {"sweep": Sweep, "thickness": ThicknessRound}


@require_POST
def reading(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Store one edit of one slot and redraw."""
    tape = _tape(kind, pk)
    form = EntryForm(request.POST)
    if not form.is_valid() or form.cleaned_data["slot"] >= tape.slots:
        return HttpResponse(_("This reading does not fit this tape. Reload the page."), status=400)
    data = form.cleaned_data
    entry = actions.Entry(**{name: data[name] for name in ("slot", "text", "client", "number", "was", "final")})
    try:
        typed = actions.type_reading(request.user, tape, entry)
    except actions.SlotConflictError as conflict:
        note = _("Meanwhile somebody typed “%(theirs)s” here. Enter keeps yours, Esc takes theirs.")
        return _answer(request, tape, data, note=note % {"theirs": conflict.theirs}, conflict=conflict.theirs)
    except actions.JobClosedError:
        return _answer(request, tape, data, note=_("This job is closed; this reading was not stored."))
    note = unreadable(typed.error) if typed.error and (entry.final or typed.error.code != "no_digits") else ""
    doubt = "" if note else doubt_words(typed.tape, entry.slot)
    return _answer(request, typed.tape, data, typed=typed, note=note, message=doubt)


@require_POST
def zero(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Zero the tape on its lowest reading."""
    return _whole_tape(request, kind, pk, actions.zero_on_lowest)


@require_POST
def undo(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Take back the last change of the tape."""
    return _whole_tape(request, kind, pk, actions.undo)


@require_POST
def turn(request: HttpRequest, pk: int) -> HttpResponse:
    """Lay out another turn under the same conditions."""
    sweep = get_object_or_404(Sweep.objects.select_related("corner__job"), pk=pk)
    corner = sweep.corner
    address = reverse("jobs:measure", args=[corner.job_id, corner.position])
    try:
        sweep = actions.add_turn(request.user, sweep)
    except actions.JobClosedError:
        return redirect(address)
    return redirect(f"{address}?tape=s{sweep.pk}")


def _whole_tape(request: HttpRequest, kind: str, pk: int, act: Callable[[Any, Tape], actions.Typed]) -> HttpResponse:
    tape = _tape(kind, pk)
    at = request.POST.get("at", "")
    data = {"slot": 0, "at": int(at) if at.isdecimal() else 0, "view": request.POST.get("view", "")[:12]}
    try:
        typed = act(request.user, tape)
    except actions.NothingToUndoError:
        return _answer(request, tape, data, message=_("Nothing to undo on this tape."))
    except actions.JobClosedError:
        return _answer(request, tape, data, message=_("This job is closed; nothing was changed."))
    return _answer(request, typed.tape, data, typed=typed)


def _tape(kind: str, pk: int) -> Tape:
    if kind not in _KINDS:
        raise Http404
    return get_object_or_404(_KINDS[kind].objects.select_related("corner__limits", "corner__look", "instrument"), pk=pk)


def _answer(
    request: HttpRequest,
    tape: Tape,
    data: dict[str, Any],
    *,
    typed: actions.Typed | None = None,
    note: str = "",
    message: str = "",
    conflict: str | None = None,
) -> HttpResponse:
    """Redraw, and tell the page what the tape now holds; 422 where the text could not be used, 409 on conflict."""
    job = Job.objects.for_floor().get(pk=tape.corner.job_id)
    judged = typed.judged if typed else actions.judge(tape.corner)
    context = live_context(
        request.user, job, tape, current=data.get("at") or data["slot"], judged=judged, view=data["view"]
    )
    context |= {"slot": data["slot"], "note": note, "message": message}
    status = 409 if conflict is not None else 422 if note else 200
    response = render(request, "jobs/_live.html", context, status=status)
    state = {"typed": tape.typed, "stored": typed is not None, "slot": data["slot"], "conflict": conflict}
    response["HX-Trigger"] = json.dumps({"tape-state": state})
    return response
