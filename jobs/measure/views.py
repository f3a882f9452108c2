"""The workbench of a corner, quick readings, what is looked at beside the disc."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit
from compass.words.codes import SEEN
from jobs.adapters import look_of
from jobs.frame import corner_of
from jobs.judging import fetch_evidence
from jobs.look_fields import FIELDS
from jobs.measure import actions
from jobs.measure.device_views import listening_context
from jobs.measure.forms import QuickForm
from jobs.measure.looking import Written, write_look
from jobs.measure.page import LookPage, corner_context, look_context
from jobs.measure.sending import page_of_tape
from jobs.models import Corner, Job, QuickReading, Sweep
from jobs.prepare.actions import add_turn
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from
from workshop.words import unreadable

_MOST = 120  # characters of a field


@posted_from(page_of_tape)
@counts_once
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


def _laid_out(corner: Corner) -> bool:
    fetch_evidence([corner])  # the page shows it in any case
    return bool(corner.sweeps.all() or corner.rounds.all())


def _is_to_lay_out(corner: Corner, tape: str) -> bool:
    """Whether the kind of tape asked for was never laid out since the last work, or every one was struck out."""
    tapes = {"sweep": corner.sweeps, "thickness": corner.rounds}.get(tape)
    return tapes is not None and not any(row.episode == corner.episode and not row.struck for row in tapes.all())


@require_GET
def measure(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """The workbench of a corner."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    if corner.limits_id is None or not (_laid_out(corner) or corner.kept):
        return redirect("jobs:prepare", pk, position)
    tape, view = request.GET.get("tape", ""), request.GET.get("view", "")
    if _is_to_lay_out(corner, tape) and not job.is_closed:
        return redirect(f"{address('jobs:prepare', pk, position)}?tape={tape}")
    context = corner_context(request.user, job, corner, tape_name=tape, view=view)
    if context["tape"].pk and not context["locked"]:
        context["talks"] = listening_context(request.user, context["tape"])
    return render(request, "jobs/measure/measure.html", context)


@posted_from("jobs:measure", "pk", "position", query="?tape=quick")
@counts_once
def quick(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Take a quick reading with the set-up that was laid out last."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    last = corner.sweeps.filter(struck=False, episode=corner.episode).last()
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


def _page_of_quick(request: HttpRequest, pk: int) -> str:
    quick = get_object_or_404(QuickReading.of(request.user).select_related("corner"), pk=pk)
    return address("jobs:measure", quick.corner.job_id, quick.corner.position) + "?tape=quick"


@posted_from(_page_of_quick)
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike a quick reading out, or let it count again."""
    reading = get_object_or_404(QuickReading.of(request.user).select_related("corner__job", "corner__limits"), pk=pk)
    try:
        actions.withdraw_quick(request.user, reading, withdrawn=request.POST.get("struck") == "yes")
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    corner = reading.corner
    return redirect(address("jobs:measure", corner.job_id, corner.position) + "?tape=quick")


@posted_from("jobs:measure", "pk", "position", query="?tape=look")
def look(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Keep what was typed and ticked since this page was drawn, and redraw; what was left alone is not written."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    back = redirect(address("jobs:measure", pk, position) + "?tape=look")
    asked = _of_look(request)
    try:
        written = write_look(request.user, corner, **asked)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
        return back
    refused = bool(written.conflicts or written.held)
    if not request.htmx and not refused:
        return back
    fresh = corner_of(written.job, position)
    judged = written.judged.corners[position]
    context = corner_context(request.user, written.job, fresh, tape_name="look", judged=judged)
    context |= look_context(request.user, fresh, page=_look_page(request, fresh, asked, written))
    if not request.htmx:
        return render(request, "jobs/measure/measure.html", context, status=422)
    wrong = refused or any(field["error"] for field in context["look_fields"])
    return render(request, "jobs/measure/_look_live.html", context, status=422 if wrong else 200)


def _of_look(request: HttpRequest) -> dict[str, Any]:
    """Return what a page changes: each figure beside what stood there, each finding that was ticked or unticked."""
    sent, unit = request.POST, request.user.unit
    names = [field.name for field in FIELDS if field.name in sent]
    figures = {name: (sent.get(f"was-{name}", ""), sent[name].strip()[:_MOST]) for name in names}
    before, now = sent.get("was-findings", "").split(), sent.getlist("findings")
    changed = {code: code in now for code in SEEN if (code in now) != (code in before)}
    lifted = sent.get("lifted", "")  # only the button lifts, never a reason that is still being typed
    return {
        "figures": {name: edit for name, edit in figures.items() if edit[0] != edit[1]},
        "seen": changed | ({lifted: False} if lifted in SEEN else {}),
        "unit": Unit.MM if unit is Unit.MM else Unit.THOU,
        "reason": sent.get("reason", "") if lifted in SEEN else "",
    }


def _look_page(request: HttpRequest, corner: Corner, asked: dict[str, Any], written: Written) -> LookPage:
    """Return what the asking page shows after its write: its own edits as they are stored, all else as it was."""
    sent, stored = request.POST, look_of(corner)
    typed = stored.typed if stored is not None else {}
    figures = {
        f.name: typed.get(f.name, "") for f in FIELDS if f.name in asked["figures"] or f"was-{f.name}" not in sent
    }
    figures |= {f.name: sent[f"was-{f.name}"] for f in FIELDS if f.name not in figures}
    lifted = sent.get("lifted", "") if sent.get("lifted") not in written.held else ""
    shown = {*sent.getlist("findings"), *written.held} - {lifted}
    return LookPage(
        figures=figures,
        findings=tuple(code for code in SEEN if code in shown),
        conflicts={name: (theirs, asked["figures"][name][1]) for name, theirs in written.conflicts.items()},
        held=written.held,
        lifted=lifted,
        reason=sent.get("reason", "")[:_MOST],
        asked=sent.get("asked", ""),
    )
