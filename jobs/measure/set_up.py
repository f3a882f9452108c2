"""One tape as a whole: its set-up put right, struck out and brought back, another round at the same places."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from compass.ground.units import Unit
from compass.words.figures import plain_figure
from jobs.frame import job_context
from jobs.measure import actions
from jobs.measure.sending import named_tape, page_of_tape
from jobs.models import Job, Sweep, Tape
from jobs.prepare.forms import DIALS, MICROMETERS, AnotherRoundForm, RoundSetUpForm, SweepSetUpForm
from jobs.prepare.page import code_of, instruments_in_use
from jobs.writing import JobClosedError
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


@require_http_methods(["GET", "POST"])
def set_up(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Put a tape's set-up right: what was typed stays, everything is worked out anew."""
    require(request.user, Deed.MEASURE)
    job, tape = _tape(request, kind, pk)
    form = set_up_form(request.user, tape, request.POST or None)
    disc_mm = tape.corner.limits.measuring_radius_mm
    if request.method == "POST" and form.is_valid() and form.fits_disc(disc_mm):
        try:
            actions.correct_set_up(request.user, tape, **form.set_up(tape.corner.limits.studs))
            return redirect(page_of_tape(request, pk, kind))
        except JobClosedError:
            form.add_error(None, _("This job is closed; nothing was changed."))
    context = {**job_context(job, leg="measure", corner=tape.corner), "tape": tape, "set_up_form": form}
    context["other_corners"] = _other_corners(job, tape)
    return render(request, "jobs/measure/set_up.html", context, status=422 if form.errors else 200)


@posted_from(page_of_tape)
def strike_tape(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Strike a tape out, or let it count again."""
    _job, tape = _tape(request, kind, pk)
    try:
        actions.strike_tape(request.user, tape, struck=request.POST.get("struck") == "yes")
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    return redirect(page_of_tape(request, pk, kind))


@posted_from(page_of_tape)
def other_corner(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Give a tape to the corner that it was read at."""
    job, tape = _tape(request, kind, pk)
    position, names = request.POST.get("position", ""), {c.position: str(c) for c in job.corners.all()}
    try:
        actions.give_to_corner(request.user, tape, position)
        messages.success(request, _("Now at: %(corner)s.") % {"corner": names[position]})
    except actions.OtherCornerError:
        messages.error(request, _("It cannot be of that corner; nothing was changed."))
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    return redirect(page_of_tape(request, pk, kind))


def _other_corners(job: Job, tape: Tape) -> list[tuple[str, str]]:
    """Return the corners a tape may have been read at instead, position and name; none for one of before a work."""
    if job.is_closed or tape.episode != tape.corner.episode:
        return []
    others = (corner for corner in job.corners.all() if corner.pk != tape.corner_id and corner.limits_id)
    return [(corner.position, str(corner)) for corner in others]


@posted_from(page_of_tape)
@counts_once
def another_round(request: HttpRequest, pk: int) -> HttpResponse:
    """Lay out another thickness round with the micrometer that was chosen."""
    _job, tape = _tape(request, "thickness", pk)
    sent = request.POST if request.POST.get("micrometer") else {"micrometer": code_of(tape, MICROMETERS)}
    own = instruments_in_use(request.user)
    form = AnotherRoundForm(sent, instruments=own, unit=request.user.unit, radii=len(tape.radii_mm))
    if form.is_valid():
        try:
            fresh = actions.another_round(request.user, tape, **form.micrometer())
            return redirect(page_of_tape(request, fresh.pk, "thickness"))
        except JobClosedError:
            messages.error(request, _("This job is closed; nothing more is measured on it."))
    return redirect(page_of_tape(request, pk, "thickness"))


def set_up_form(user: Any, tape: Tape, posted: Any) -> SweepSetUpForm:
    """Return the form of a tape's set-up, as it stands now."""
    studs = tape.corner.limits.studs
    kind = {
        "unit": user.unit,
        "motorcycle": tape.corner.job.vehicle.is_motorcycle,
        "instruments": instruments_in_use(user),
    }
    initial: dict[str, Any] = {"turned": round(tape.index_deg * studs / 360)}
    if isinstance(tape, Sweep):
        names = ("surface", "cleaned", "nuts_torqued", "entry_unit", "radius_mm")
        initial |= {name: getattr(tape, name) for name in names}
        initial |= {"read_to": f"{tape.read_to:g}", "dial": code_of(tape, DIALS)}
        return SweepSetUpForm(posted, initial=initial, **kind)
    large = Unit.MM if user.unit is Unit.MM else Unit.INCH
    initial |= {
        "radii": " ".join(plain_figure(radius, large) for radius in tape.radii_mm),
        "micrometer": code_of(tape, MICROMETERS),
        "micrometer_unit": tape.entry_unit,
    }
    return RoundSetUpForm(posted, initial=initial, radii=len(tape.radii_mm), **kind)


def _tape(request: HttpRequest, kind: str, pk: int) -> tuple[Job, Any]:
    """Return a tape on its job's page; 404 where its axle has lost its limits."""
    model: type[Tape] = type(named_tape(kind, pk))
    tape = get_object_or_404(
        model.of(request.user).select_related("instrument", "corner__limits"), pk=pk, corner__limits__isnull=False
    )
    job = get_object_or_404(Job.of(request.user).for_page(), pk=tape.corner.job_id)
    tape.corner = next(corner for corner in job.corners.all() if corner.pk == tape.corner_id)
    return job, tape
