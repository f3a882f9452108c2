"""What the reading tape sends: one edit, zero, undo, another turn. Each answers with the redrawn instruments."""

import json
from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit
from compass.words.codes import SEEN
from jobs.frame import corner_of
from jobs.judging import judge
from jobs.look_fields import FIELDS
from jobs.measure import actions
from jobs.measure.doubts import doubt_words
from jobs.measure.forms import EntryForm, QuickForm
from jobs.measure.page import corner_context, live_context
from jobs.models import Job, QuickReading, Sweep, Tape, ThicknessRound
from jobs.prepare.actions import add_turn
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.permissions import Deed, require
from workshop.words import unreadable

_MOST = 120  # characters of a field

_KINDS: dict[str, type[Tape]] = {"sweep": Sweep, "thickness": ThicknessRound}


@require_POST
def reading(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Store one edit of one slot and redraw."""
    tape = _tape(kind, pk)
    form = EntryForm(request.POST)
    unfit = HttpResponse(_("This reading does not fit this tape. Reload the page."), status=400)
    if not form.is_valid():
        return unfit
    data = form.cleaned_data
    entry = actions.Entry(**{name: data[name] for name in ("slot", "text", "client", "number", "was", "final")})
    try:
        typed = actions.type_reading(request.user, tape, entry)
    except actions.SlotConflictError as conflict:
        note = _("Meanwhile somebody typed “%(theirs)s” here. Enter keeps yours, Esc takes theirs.")
        return _answer(request, tape, data, note=note % {"theirs": conflict.theirs}, conflict=conflict.theirs)
    except Job.DoesNotExist as error:
        raise Http404 from error
    except actions.NoSuchSlotError:
        return unfit
    except JobClosedError:
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
    sweep = get_object_or_404(Sweep.of(request.user).select_related("corner__job"), pk=pk)
    corner = sweep.corner
    url = address("jobs:measure", corner.job_id, corner.position)
    try:
        sweep = add_turn(request.user, sweep)
    except JobClosedError:
        return redirect(url)
    return redirect(f"{url}?tape=s{sweep.pk}")


def _whole_tape(request: HttpRequest, kind: str, pk: int, act: Callable[[Any, Tape], actions.Typed]) -> HttpResponse:
    tape = _tape(kind, pk)
    at = request.POST.get("at", "")
    data = {"slot": 0, "at": int(at) if at.isdecimal() else 0, "view": request.POST.get("view", "")[:12]}
    try:
        typed = act(request.user, tape)
    except Job.DoesNotExist as error:
        raise Http404 from error
    except actions.NothingToUndoError:
        return _answer(request, tape, data, message=_("Nothing to undo on this tape."))
    except JobClosedError:
        return _answer(request, tape, data, message=_("This job is closed; nothing was changed."))
    return _answer(request, typed.tape, data, typed=typed)


def _tape(kind: str, pk: int) -> Tape:
    """Name a tape; its row is read under the lock."""
    if kind not in _KINDS:
        raise Http404
    return _KINDS[kind](pk=pk)


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
    if typed is not None:
        job, judged = typed.job, typed.judged
    else:
        tape = get_object_or_404(type(tape).of(request.user).select_related("corner", "instrument"), pk=tape.pk)
        job = Job.of(request.user).for_page().get(pk=tape.corner.job_id)
        tape.corner = corner_of(job, tape.corner.position)
        judged = judge(tape.corner)
    context = live_context(
        request.user, job, tape, current=data.get("at") or data["slot"], judged=judged, view=data["view"]
    )
    context |= {"slot": data["slot"], "note": note, "message": message}
    status = 409 if conflict is not None else 422 if note else 200
    response = render(request, "jobs/measure/_live.html", context, status=status)
    state = {"typed": tape.typed, "stored": typed is not None, "slot": data["slot"], "conflict": conflict}
    response["HX-Trigger"] = json.dumps({"tape-state": state})
    return response


@require_GET
def measure(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """The workbench of a corner."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    if corner.limits_id is None or not (corner.sweeps.exists() or corner.rounds.exists() or corner.kept):
        return redirect("jobs:prepare", pk, position)
    tape, view = request.GET.get("tape", ""), request.GET.get("view", "")
    context = corner_context(request.user, job, corner, tape_name=tape, view=view)
    return render(request, "jobs/measure/measure.html", context)


@require_POST
def quick(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Take a quick reading with the set-up that was laid out last."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    last = corner.sweeps.last()
    if corner.limits is None or last is None:
        return redirect("jobs:prepare", pk, position)
    form = QuickForm(request.POST, studs=corner.limits.studs)
    if form.is_valid():
        set_up = {
            name: getattr(last, name)
            for name in ("surface", "radius_mm", "index_deg", "cleaned", "nuts_torqued", "graduation_mm", "instrument")
        }
        place = {"high_deg": form.high_deg, "within_deg": form.cleaned_data["within"]}
        try:
            amount = form.cleaned_data["amount"]
            actions.add_quick(request.user, corner, typed=amount, unit=last.unit, **set_up, **place)
            return redirect(address("jobs:measure", pk, position) + "?tape=quick")
        except UnreadableNumberError as error:
            form.add_error("amount", unreadable(error))
        except JobClosedError:
            form.add_error(None, _("This job is closed; nothing more is measured on it."))
    context = corner_context(request.user, job, corner, tape_name="quick") | {"quick_form": form}
    return render(request, "jobs/measure/measure.html", context, status=422)


@require_POST
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike a quick reading out, or let it count again."""
    reading = get_object_or_404(QuickReading.of(request.user).select_related("corner__job", "corner__limits"), pk=pk)
    try:
        actions.withdraw_quick(request.user, reading, withdrawn=not reading.withdrawn)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    corner = reading.corner
    return redirect(address("jobs:measure", corner.job_id, corner.position) + "?tape=quick")


@require_POST
def look(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Keep what was typed and ticked, field by field as it changes, and redraw."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    texts = {field.name: request.POST.get(field.name, "").strip()[:_MOST] for field in FIELDS}
    findings = [code for code in request.POST.getlist("findings") if code in SEEN]
    unit = request.user.unit
    try:
        fresh, judged = actions.keep_look(
            request.user,
            corner,
            typed={name: text for name, text in texts.items() if text},
            findings=findings,
            unit=Unit.MM if unit is Unit.MM else Unit.THOU,
        )
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
        return redirect(address("jobs:measure", pk, position) + "?tape=look")
    if not request.htmx:
        return redirect(address("jobs:measure", pk, position) + "?tape=look")
    corner = corner_of(fresh, position)
    context = corner_context(request.user, fresh, corner, tape_name="look", judged=judged.corners[position])
    wrong = any(field["error"] for field in context["look_fields"])
    return render(request, "jobs/measure/_look_live.html", context, status=422 if wrong else 200)
