"""A vehicle's past: its jobs, what its discs have lost, and the rotors fitted."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from jobs.floor.strips import strips
from jobs.models import Job
from jobs.vehicle.actions import fit_rotor
from jobs.vehicle.forms import FittingForm
from jobs.vehicle.past import plates_of, vehicle_history
from workshop.models import Vehicle
from workshop.permissions import Deed, may, require
from workshop.posting import counts_once

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
    context = {
        "vehicle": row,
        "corners": vehicle_history(row, unit=request.user.unit),
        "strips": strips(Job.of(request.user).for_floor().filter(vehicle=row)[:_JOBS], unit=request.user.unit),
        "plates": plates_of(row, unit=request.user.unit),
        "form": form,
        "may_record": may(request.user, Deed.EDIT_JOB),
    }
    return render(request, "jobs/vehicle/vehicle.html", context, status=422 if form.errors else 200)
