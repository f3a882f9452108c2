"""The workbench of a corner, quick readings, what is looked at beside the disc."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit
from compass.words.codes import SEEN
from jobs.frame import corner_of
from jobs.look_fields import FIELDS
from jobs.measure import actions
from jobs.measure.forms import QuickForm
from jobs.measure.page import corner_context
from jobs.measure.sending import page_of_tape
from jobs.models import Job, QuickReading, Sweep
from jobs.prepare.actions import add_turn
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.permissions import Deed, require
from workshop.posting import posted_from
from workshop.words import unreadable

_MOST = 120  # characters of a field


@posted_from(page_of_tape)
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


@posted_from("jobs:measure", "pk", "position", query="?tape=quick")
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


def _page_of_quick(request: HttpRequest, pk: int) -> str:
    quick = get_object_or_404(QuickReading.of(request.user).select_related("corner"), pk=pk)
    return address("jobs:measure", quick.corner.job_id, quick.corner.position) + "?tape=quick"


@posted_from(_page_of_quick)
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike a quick reading out, or let it count again."""
    reading = get_object_or_404(QuickReading.of(request.user).select_related("corner__job", "corner__limits"), pk=pk)
    try:
        actions.withdraw_quick(request.user, reading, withdrawn=not reading.withdrawn)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    corner = reading.corner
    return redirect(address("jobs:measure", corner.job_id, corner.position) + "?tape=quick")


@posted_from("jobs:measure", "pk", "position", query="?tape=look")
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
