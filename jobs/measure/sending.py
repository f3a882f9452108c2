"""What the reading tape sends, and what it is answered: readings, zero, undo, and the plain form without scripts.

An edit counts as stored only where the answer says so by the edit's own name; whatever else comes back (a sign-in page,
a refusal, nothing), the browser keeps it (static/js/outbox.js).
"""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect
from django.template.loader import render_to_string
from django.utils.translation import gettext as _

from compass.files.strict_json import load_json
from jobs.frame import corner_of
from jobs.judging import judge
from jobs.measure import actions
from jobs.measure.doubts import doubt_words
from jobs.measure.forms import EntryForm
from jobs.measure.page import live_context
from jobs.models import Job, Sweep, Tape, ThicknessRound
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.posting import posted_from
from workshop.words import unreadable

MOST_EDITS = 200
_KINDS: dict[str, type[Tape]] = {"sweep": Sweep, "thickness": ThicknessRound}


def page_of_tape(request: HttpRequest, pk: int, kind: str = "sweep") -> str:
    """Return the address of the page a tape stands on."""
    tape = get_object_or_404(named_tape(kind, pk).__class__.of(request.user).select_related("corner"), pk=pk)
    return f"{address('jobs:measure', tape.corner.job_id, tape.corner.position)}?tape={tape.kind[0]}{pk}"


@posted_from(page_of_tape)
def readings(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Store edits of one tape and redraw; each is answered by its name."""
    tape = named_tape(kind, pk)
    entries = _entries(request.POST.get("edits", ""))
    if entries is None:
        return JsonResponse({"why": _("This reading does not fit this tape. Reload the page.")}, status=400)
    if request.POST.get("person", str(request.user.pk)) != str(request.user.pk):
        # Somebody else has signed in on this device meanwhile: nothing is written in a name that did not type it.
        return JsonResponse({"outcomes": {e.id: {"kind": "other"} for e in entries}}, status=403)
    try:
        typed = actions.type_readings(request.user, tape, entries)
    except Job.DoesNotExist as error:
        raise Http404 from error
    except JobClosedError:
        why = _("This job is closed; this reading was not stored.")
        return JsonResponse(
            {"why": why, "outcomes": {e.id: {"kind": "closed", "why": why} for e in entries}}, status=409
        )
    outcomes = {o.entry.id: {"kind": o.kind, "theirs": o.theirs} for o in typed.outcomes}
    last = next((o.entry for o in reversed(typed.outcomes) if o.kind == "stored"), None)
    return _answer(request, typed.tape, typed=typed, last=last, outcomes=outcomes)


@posted_from(page_of_tape)
def zero(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Zero the tape on its lowest reading."""
    return _whole_tape(request, kind, pk, actions.zero_on_lowest)


@posted_from(page_of_tape)
def undo(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Take back the last change of the tape."""
    return _whole_tape(request, kind, pk, actions.undo)


@posted_from(page_of_tape)
def plain(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Store a whole tape from a form without scripts: only what was changed in it is written."""
    tape = get_object_or_404(named_tape(kind, pk).__class__.of(request.user), pk=pk)
    sent = request.POST
    entries = [
        actions.Entry(slot, sent[f"slot-{slot}"][:40], "plain form", 0, sent.get(f"was-{slot}", ""), final=True)
        for slot in range(tape.slots)
        if sent.get(f"slot-{slot}", "").strip() != sent.get(f"was-{slot}", "") and f"slot-{slot}" in sent
    ]
    try:
        typed = actions.type_readings(request.user, tape, entries)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
        return redirect(page_of_tape(request, pk, kind))
    for outcome in typed.outcomes:
        if outcome.kind == "conflict":
            named = {"theirs": outcome.theirs, "yours": outcome.entry.text}
            words = _("Somebody typed “%(theirs)s” where you typed “%(yours)s”: theirs stands.")
            messages.error(request, words % named)
    for error in actions.unread(typed.tape).values():
        messages.error(request, unreadable(error))
    return redirect(page_of_tape(request, pk, kind))


def _entries(text: str) -> list[actions.Entry] | None:
    """Read the edits a page sends; None where they are not what a page of ours sends."""
    try:
        sent = load_json(text)
        forms = [EntryForm({**edit, "heirs": ",".join(edit.get("heirs", ()))}) for edit in sent]
    except (ValueError, TypeError, AttributeError):
        return None
    if len(forms) > MOST_EDITS or not all(form.is_valid() for form in forms):
        return None
    return [form.entry() for form in forms]


def _whole_tape(request: HttpRequest, kind: str, pk: int, act: Callable[[Any, Tape], actions.Typed]) -> HttpResponse:
    tape = named_tape(kind, pk)
    try:
        typed = act(request.user, tape)
    except Job.DoesNotExist as error:
        raise Http404 from error
    except actions.NothingToUndoError:
        return _answer(request, tape, message=_("Nothing to undo on this tape."))
    except JobClosedError:
        return _answer(request, tape, message=_("This job is closed; nothing was changed."))
    return _answer(request, typed.tape, typed=typed)


def named_tape(kind: str, pk: int) -> Tape:
    """Name a tape; its row is read under the lock."""
    if kind not in _KINDS:
        raise Http404
    return _KINDS[kind](pk=pk)


def _answer(
    request: HttpRequest,
    tape: Tape,
    *,
    typed: actions.Typed | None = None,
    last: actions.Entry | None = None,
    message: str = "",
    outcomes: dict[str, Any] | None = None,
) -> HttpResponse:
    """Say what the tape now holds and what became of each edit; redraw for a page that shows this corner."""
    return JsonResponse(
        answer_of(request, request.POST, tape, typed=typed, last=last, message=message, outcomes=outcomes)
    )


def answer_of(
    request: HttpRequest,
    asked: QueryDict,
    tape: Tape,
    *,
    typed: actions.Typed | None = None,
    last: actions.Entry | None = None,
    message: str = "",
    outcomes: dict[str, Any] | None = None,
) -> dict[str, Any]:
    """Return what the tape now holds, and all that is redrawn on the page that asks (``asked``: show, at, view)."""
    if typed is not None:
        job, judged = typed.job, typed.judged
    else:
        tape = get_object_or_404(type(tape).of(request.user).select_related("corner", "instrument"), pk=tape.pk)
        job = Job.of(request.user).for_page().get(pk=tape.corner.job_id)
        tape.corner = corner_of(job, tape.corner.position)
        judged = judge(tape.corner, episode=tape.episode)
    faults = actions.unread(tape)
    if last is not None and not last.final and last.slot in faults and faults[last.slot].code == "no_digits":
        del faults[last.slot]  # a sign alone: still typing
    wrong = {slot: unreadable(error) for slot, error in faults.items()}
    shown = _shown(asked, tape, judged.sweeps + judged.rounds)
    state = {"typed": tape.typed, "wrong": wrong}
    answer: dict[str, Any] = {"state": state, "outcomes": outcomes or {}}
    if shown is not None:
        slot = last.slot if last is not None else 0
        note = wrong.get(slot, "") if shown is tape and last is not None else ""
        if shown is tape and last is not None and not note:
            message = doubt_words(tape, slot)
        at = asked.get("at", "")
        context = live_context(
            request.user,
            job,
            shown,
            current=int(at) if at.isdecimal() else 0,
            judged=judged,
            view=asked.get("view", "")[:12],
        )
        context |= {"slot": slot, "note": note, "message": message}
        answer["flagged"] = [cell.slot for cell in context["bench"].cells if cell.flagged]
        answer["html"] = render_to_string("jobs/measure/_live.html", context, request)
    return answer


def _shown(asked: QueryDict, tape: Tape, tapes: list[Any]) -> Tape | None:
    """Return the tape the asking page shows, where it is of this corner; None where it shows something else."""
    named = asked.get("show", "")
    if named == tape.name:
        return tape
    shown = next((other for other in tapes if named == other.name), None)
    if shown is not None:
        shown.corner = tape.corner
    return shown
