"""A vehicle's past: its jobs, what its discs have lost, the rotors fitted; its name, and a job's vehicle, put right."""

from copy import copy

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from jobs.floor.strips import strips
from jobs.floor.views import warn_of_open_beside
from jobs.frame import job_context
from jobs.models import Job, RotorFitting
from jobs.vehicle.actions import fit_rotor, strike_fitting
from jobs.vehicle.forms import FittingForm, MoveForm, NameForm
from jobs.vehicle.moving import HELD, HeldError, move_job
from jobs.vehicle.past import fittings_of, plates_of, vehicle_history
from jobs.vehicle.putting_right import put_right
from jobs.words import axle_name
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.models import Vehicle
from workshop.permissions import Deed, may, require
from workshop.posting import counts_once, posted_from

_JOBS = 8


@require_http_methods(["GET", "POST"])
@counts_once
def vehicle(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a vehicle's wear and its last jobs; record a rotor fitted."""
    require(request.user, Deed.READ_JOBS)
    row = get_object_or_404(Vehicle.of(request.user), pk=pk)
    form = FittingForm(request.POST or None, unit=request.user.unit, vehicle=row)
    if request.method == "POST":
        require(request.user, Deed.EDIT_JOB)
        if form.is_valid():
            fit_rotor(request.user, row, **form.cleaned_data)
            messages.success(request, _("Recorded. Wear is counted from there."))
            return redirect("jobs:vehicle", pk)
    return _page(request, row, form=form)


def _page_of_fitting(request: HttpRequest, pk: int) -> str:
    return address("jobs:vehicle", get_object_or_404(RotorFitting.of(request.user), pk=pk).vehicle_id)


@posted_from(_page_of_fitting)
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike a rotor fitted out, or let it count again."""
    fitting = get_object_or_404(RotorFitting.of(request.user), pk=pk)
    strike_fitting(request.user, fitting, withdrawn=request.POST.get("struck") == "yes")
    return redirect("jobs:vehicle", fitting.vehicle_id)


@posted_from("jobs:vehicle", "pk")
@counts_once
def rename(request: HttpRequest, pk: int) -> HttpResponse:
    """Put right what a vehicle is called, and what it is."""
    require(request.user, Deed.EDIT_JOB)
    row = get_object_or_404(Vehicle.of(request.user), pk=pk)
    form = NameForm(request.POST, instance=copy(row), user=request.user)
    if form.is_valid():
        fields = {name: form.cleaned_data[name] for name in (*form.Meta.fields, "kind", "layout")}
        try:
            has_other_corners = put_right(request.user, row, **fields)
            messages.success(request, _("Saved."))
            if has_other_corners:
                messages.warning(request, _("It has other corners now. Look at their limits before they are measured."))
            return redirect("jobs:vehicle", pk)
        except HeldError as error:
            form.add_error("kind", HELD[str(error)])
    return _page(request, row, name_form=form)


def _page(
    request: HttpRequest, row: Vehicle, *, form: FittingForm | None = None, name_form: NameForm | None = None
) -> HttpResponse:
    form = form or FittingForm(unit=request.user.unit, vehicle=row)
    name_form = name_form or NameForm(instance=row, user=request.user)
    context = {
        "vehicle": row,
        "corners": vehicle_history(row, unit=request.user.unit),
        "strips": strips(Job.of(request.user).for_floor().filter(vehicle=row)[:_JOBS], unit=request.user.unit),
        "plates": plates_of(row, unit=request.user.unit),
        "fittings": fittings_of(row, unit=request.user.unit),
        "form": form,
        "name_form": name_form,
        "may_record": may(request.user, Deed.EDIT_JOB),
    }
    return render(request, "jobs/vehicle/vehicle.html", context, status=422 if form.errors or name_form.errors else 200)


@require_http_methods(["GET", "POST"])
@counts_once
def other_vehicle(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a job that was opened for another vehicle to the one that stands here."""
    require(request.user, Deed.EDIT_JOB)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    form = MoveForm(request.POST or None, user=request.user, job=job)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        try:
            moved = move_job(
                request.user, job, data["vehicle"],
                odometer_km=data["odometer_km"], odometer_runs_back=bool(form.data.get("odometer_meant")),
                take_out=bool(data.get("take_out")),
            )  # fmt: skip
            messages.success(request, _("This is %(vehicle)s’s job now.") % {"vehicle": moved.job.vehicle})
            for axle in moved.brought:
                words = _("%(axle)s: no limits on record, so those of %(vehicle)s came along. Check them.")
                messages.warning(request, words % {"axle": axle_name(moved.job.vehicle, axle), "vehicle": job.vehicle})
            warn_of_open_beside(request, moved.job)
            return redirect("jobs:complaint", pk)
        except HeldError as error:
            form.add_error("label", HELD[str(error)])
        except JobClosedError:
            form.add_error(None, _("This job is closed; it stays with its vehicle."))
    fleet = Vehicle.of(request.user).exclude(pk=job.vehicle_id).values_list("label", "registration")
    context = {**job_context(job, leg="complaint"), "form": form, "fleet": fleet}
    return render(request, "jobs/vehicle/other.html", context, status=422 if form.errors else 200)
