"""The Prepare leg."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from jobs.frame import corner_of, job_context
from jobs.models import Corner, Job
from jobs.prepare import actions
from jobs.prepare.forms import CONFIRMATIONS, SetUpForm
from jobs.prepare.page import instruments_in_use, limits_initial, set_up_initial, star_context
from jobs.writing import JobClosedError
from workshop.adapters import spec_of
from workshop.addresses import address
from workshop.permissions import Deed, may, require
from workshop.store.limits_forms import LimitsForm
from workshop.vehicles import set_limits


@require_http_methods(["GET", "POST"])
def prepare(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Set the limits of the axle and confirm the set-up of the corner; then the tapes are laid out."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = corner_of(job, position)
    unit, posted = request.user.unit, request.POST or None
    sets_limits = may(request.user, Deed.SET_LIMITS)
    kind = {"unit": unit, "motorcycle": job.vehicle.is_motorcycle}
    limits = LimitsForm(posted if sets_limits else None, initial=limits_initial(corner), **kind)
    instruments = instruments_in_use(request.user)
    initial = set_up_initial(request.user, corner, request.GET, instruments)
    set_up = SetUpForm(posted, instruments=instruments, initial=initial, **kind)
    if request.method == "POST":
        ready = [set_up.is_valid(), limits.is_valid() if sets_limits else corner.limits_id is not None]
        if all(ready) and set_up.fits_disc(_measured_at_mm(corner, limits if sets_limits else None)):
            try:
                return _lay_out(request, corner, limits if sets_limits else None, set_up)
            except JobClosedError:
                set_up.add_error(None, _("This job is closed; nothing more is measured on it."))
    confirm = next((name for name in CONFIRMATIONS if not initial.get(name)), CONFIRMATIONS[0])
    first = limits["measuring_radius_mm"] if sets_limits and corner.limits_id is None else set_up[confirm]
    first.field.widget.attrs["autofocus"] = True
    context = {
        **job_context(job, leg="prepare", corner=corner),
        **star_context(corner),
        "limits_form": limits,
        "set_up_form": set_up,
        "sets_limits": sets_limits,
        "comes_off": "turned" in request.GET,
        "only_miked": _only_miked(request),
    }
    return render(request, "jobs/prepare/prepare.html", context, status=422 if posted else 200)


def _measured_at_mm(corner: Corner, limits: LimitsForm | None) -> float:
    return limits.cleaned_data["measuring_radius_mm"] if limits else corner.limits.measuring_radius_mm


def _only_miked(request: HttpRequest) -> bool:
    """Whether the thickness alone is laid out: the disc is swept already."""
    return request.GET.get("tape") == "thickness"


def _lay_out(request: HttpRequest, corner: Corner, limits: LimitsForm | None, set_up: SetUpForm) -> HttpResponse:
    user, vehicle = request.user, corner.job.vehicle
    in_force = corner.limits
    if limits is not None:
        kept = in_force.figures() if in_force else {}
        in_force = set_limits(user, vehicle, corner.axle, **{**kept, **limits.cleaned_data})
        actions.use_limits(user, corner, in_force)
        corner.refresh_from_db()
    studs = spec_of(in_force).studs
    url = address("jobs:measure", corner.job_id, corner.position)
    if _only_miked(request) and not set_up.quick:
        measured = actions.start_round(user, corner, **set_up.round_set_up(studs))
        return redirect(f"{url}?tape=t{measured.pk}")
    sweep = actions.start_sweep(user, corner, **set_up.sweep_set_up(studs))
    read = [r for r in corner.rounds.filter(episode=corner.episode) if not r.is_empty and not r.struck]
    # Another micrometer, or radii, were asked for: that is another round.
    if not read or set_up.cleaned_data["radii"] or set_up.changes_micrometer(read[-1]):
        actions.start_round(user, corner, **set_up.round_set_up(studs))
    return redirect(f"{url}?tape=quick" if set_up.quick else f"{url}?tape=s{sweep.pk}")
