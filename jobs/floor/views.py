"""The floor, and opening a job."""

from contextlib import nullcontext

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from compass.words.codes import CAUSES
from jobs.bays.day import day_drawing
from jobs.floor.actions import open_job
from jobs.floor.first_steps import first_steps
from jobs.floor.forms import JobForm
from jobs.floor.paging import ShallowPaginator
from jobs.floor.strips import strips
from jobs.models import Job
from workshop.models import Vehicle
from workshop.numbers_in_addresses import number_of
from workshop.permissions import Deed, require
from workshop.planning import planned_anew
from workshop.posting import counts_once
from workshop.store.limits import models_known
from workshop.vehicles import add_vehicle

PAGE = 12


@require_GET
def floor(request: HttpRequest) -> HttpResponse:
    """Show the jobs as strips; search by words, filter by state."""
    require(request.user, Deed.READ_JOBS)
    words, state = request.GET.get("q", "")[:80], request.GET.get("state", "")
    jobs = Job.of(request.user).matching(words)
    if state in Job.State.values:
        jobs = jobs.filter(state=state)
    found_cause = request.GET.get("cause", "")
    if found_cause in CAUSES:
        jobs = jobs.filter(found_cause=found_cause)
    # Numbers first: joined to their vehicles, all jobs of a large workshop would be sorted for the newest few.
    with planned_anew() if words else nullcontext():
        page = ShallowPaginator(jobs.values_list("pk", flat=True), PAGE).get_page(request.GET.get("page"))
        numbers = list(page.object_list)
    shown = Job.of(request.user).for_floor().filter(pk__in=numbers)
    context = {
        "steps": first_steps(request.user) if not (words or state or found_cause or numbers) else [],
        "day": "" if request.htmx else day_drawing(request.user, timezone.localdate()),
        "strips": strips(shown, unit=request.user.unit),
        "page": page,
        "q": words,
        "state": state,
        "states": Job.State.choices,
        "cause": found_cause,
        "cause_choices": [(code, _(name)) for code, name in CAUSES.items()],
    }
    return render(request, "jobs/floor/_strips.html" if request.htmx else "jobs/floor/floor.html", context)


@require_http_methods(["GET", "POST"])
@counts_once
def new_job(request: HttpRequest) -> HttpResponse:
    """Open a job."""
    require(request.user, Deed.OPEN_JOB)
    fleet = list(Vehicle.of(request.user).values_list("label", "registration", "pk"))
    wanted = number_of("vehicle", request.GET.get("vehicle", ""))
    asked = next((label for label, _reg, pk in fleet if pk == wanted), "")
    form = JobForm(request.POST or None, user=request.user, initial={"label": asked})
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        vehicle: Vehicle = data["vehicle"] or add_vehicle(request.user, **form.new_vehicle())
        job = open_job(
            request.user,
            vehicle,
            complaint=data["complaint"],
            odometer_km=data["odometer_km"],
            odometer_runs_back=True,  # the form has asked
            assigned_to=request.user,
        )
        warn_of_open_beside(request, job)
        return redirect("jobs:prepare", job.pk, vehicle.positions[0])
    context = {"form": form, "models": models_known(request.user), "fleet": fleet}
    return render(request, "jobs/floor/new_job.html", context, status=422 if form.errors else 200)


def warn_of_open_beside(request: HttpRequest, job: Job) -> None:
    """Say where another job of the same vehicle is open."""
    if (other := Job.of(request.user).open_beside(job)) is not None:
        words = _("Job %(n)s of %(vehicle)s is open too. Close the one that is not needed.")
        messages.warning(request, words % {"n": other.pk, "vehicle": job.vehicle})
