"""The floor, and a job with its legs."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from compass.words.codes import CAUSES
from jobs import actions
from jobs.audit import changes_of
from jobs.bookings import day_drawing
from jobs.forms import BookingForm, JobForm, JobWordsForm, SetUpForm
from jobs.models import Corner, Job
from jobs.pages import corner_context, job_context, limits_initial, set_up_initial, star_context, strips
from jobs.paging import ShallowPaginator
from jobs.story import StoryForm, story_initial
from jobs.weighing import cause_context, expected_frequencies, measuring_order, next_of_job, speed_scale, weigh_job
from workshop.actions import add_vehicle, set_limits
from workshop.adapters import spec_of, unit_of
from workshop.forms import LimitsForm
from workshop.models import Vehicle
from workshop.policy import Deed, may, require

PAGE = 12


@require_GET
def floor(request: HttpRequest) -> HttpResponse:
    """Show the jobs as strips; search by words, filter by state."""
    require(request.user, Deed.READ_JOBS)
    words, state = request.GET.get("q", "")[:80], request.GET.get("state", "")
    jobs = Job.objects.for_floor().matching(words)
    if state in Job.State.values:
        jobs = jobs.filter(state=state)
    found_cause = request.GET.get("cause", "")
    if found_cause in CAUSES:
        jobs = jobs.filter(found_cause=found_cause)
    page = ShallowPaginator(jobs, PAGE).get_page(request.GET.get("page"))
    context = {
        "day": "" if request.htmx else day_drawing(timezone.localdate()),
        "strips": strips(page.object_list),
        "page": page,
        "q": words,
        "state": state,
        "states": Job.State.choices,
        "cause": found_cause,
        "cause_choices": [(code, _(name)) for code, name in CAUSES.items()],
    }
    return render(request, "jobs/_strips.html" if request.htmx else "jobs/floor.html", context)


@require_http_methods(["GET", "POST"])
def new_job(request: HttpRequest) -> HttpResponse:
    """Open a job."""
    require(request.user, Deed.OPEN_JOB)
    form = JobForm(request.POST or None, initial={"vehicle": request.GET.get("vehicle")})
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        vehicle: Vehicle = data["vehicle"] or add_vehicle(
            request.user, label=data["label"].strip(), kind=data["kind"], registration=data["registration"]
        )
        job = actions.open_job(
            request.user,
            vehicle,
            complaint=data["complaint"],
            odometer_km=data["odometer_km"],
            assigned_to=request.user,
        )
        return redirect("jobs:prepare", job.pk, vehicle.positions[0])
    return render(request, "jobs/new_job.html", {"form": form}, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def complaint(request: HttpRequest, pk: int) -> HttpResponse:
    """The job's home in this version: the driver's words, the corners in plan, closing."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    form = JobWordsForm(request.POST or None, instance=Job.objects.get(pk=pk), initial={"version": job.version})
    status = 200
    if request.method == "POST":
        require(request.user, Deed.EDIT_JOB)
        if form.is_valid():
            try:
                actions.edit_job(request.user, job, **form.cleaned_data)
                messages.success(request, _("Saved."))
                return redirect("jobs:complaint", pk)
            except actions.StaleJobError:
                form.add_error(None, _("Somebody changed this job meanwhile. Compare with theirs, then save again."))
                form.data = {**form.data.dict(), "version": job.version}
            except actions.JobClosedError:
                form.add_error(None, _("This job is closed; its words stay as they are."))
        status = 422
    return complaint_page(request, job, form=form, status=status)


def complaint_page(
    request: HttpRequest,
    job: Job,
    *,
    form: JobWordsForm | None = None,
    story_form: StoryForm | None = None,
    booking_form: BookingForm | None = None,
    status: int = 200,
) -> HttpResponse:
    """Draw the job's home: words, interview, corners in plan, what to measure first, closing."""
    weighed = weigh_job(job)
    context = {
        **job_context(job, leg="complaint"),
        "form": form or JobWordsForm(instance=Job.objects.get(pk=job.pk), initial={"version": job.version}),
        "story_form": story_form or StoryForm(initial=story_initial(job.story)),
        "booking_form": booking_form or BookingForm(initial={"day": timezone.localdate()}),
        "bookings": job.bookings.all(),
        "order": measuring_order(job),
        "expected": expected_frequencies(job),
        "speeds_svg": speed_scale(job),
        "holes": cause_context(job, weighed)["holes"],
        "cause_choices": [(code, _(name)) for code, name in CAUSES.items()],
        "likely": weighed.differential.causes[0][0].value,
    }
    context["act"] = next_of_job(job, weighed) or context["act"]
    return render(request, "jobs/complaint.html", context, status=status)


@require_POST
def close(request: HttpRequest, pk: int) -> HttpResponse:
    """Close a job, with a reason where it is not proven."""
    job = get_object_or_404(Job, pk=pk)
    reason = request.POST.get("reason", "")[:1000]
    try:
        actions.close_job(request.user, job, reason=reason, found_cause=request.POST.get("found_cause", ""))
        messages.success(request, _("Job %(number)s is closed.") % {"number": pk})
        return redirect("jobs:floor")
    except actions.ReasonNeededError:
        messages.error(request, _("Not every corner is measured and within. Write why the job is closed all the same."))
    except actions.JobClosedError:
        messages.error(request, _("This job is closed already."))
    return redirect("jobs:complaint", pk)


@require_http_methods(["GET", "POST"])
def prepare(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Set the limits of the axle and confirm the set-up of the corner; then the tapes are laid out."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    corner = corner_of(job, position)
    unit, posted = unit_of(request.user), request.POST or None
    sets_limits = may(request.user, Deed.SET_LIMITS)
    limits = LimitsForm(posted if sets_limits else None, unit=unit, initial=limits_initial(corner))
    set_up = SetUpForm(posted, unit=unit, initial=set_up_initial(corner, request.GET))
    if request.method == "POST":
        ready = [set_up.is_valid(), limits.is_valid() if sets_limits else corner.limits_id is not None]
        if all(ready):
            try:
                return _lay_out(request, corner, limits if sets_limits else None, set_up)
            except actions.JobClosedError:
                set_up.add_error(None, _("This job is closed; nothing more is measured on it."))
    context = {
        **job_context(job, leg="prepare", corner=corner),
        **star_context(corner),
        "limits_form": limits,
        "set_up_form": set_up,
        "sets_limits": sets_limits,
    }
    return render(request, "jobs/prepare.html", context, status=422 if posted else 200)


@require_GET
def measure(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """The workbench of a corner."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    corner = corner_of(job, position)
    if corner.limits_id is None or not (corner.sweeps.exists() or corner.rounds.exists() or corner.verdict):
        return redirect("jobs:prepare", pk, position)
    tape, view = request.GET.get("tape", ""), request.GET.get("view", "")
    context = corner_context(request.user, job, corner, tape_name=tape, view=view)
    return render(request, "jobs/measure.html", context)


@require_GET
def changes(request: HttpRequest, pk: int) -> HttpResponse:
    """List who changed what on a job, newest first."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    context: dict[str, Any] = {**job_context(job, leg="changes"), "changes": changes_of(job)}
    return render(request, "jobs/changes.html", context)


def corner_of(job: Job, position: str) -> Corner:
    """Return a corner of a job fetched for its page; 404 where the vehicle has none there."""
    corner = next((c for c in job.corners.all() if c.position == position), None)
    return corner or get_object_or_404(Corner, pk=None)


def _lay_out(request: HttpRequest, corner: Corner, limits: LimitsForm | None, set_up: SetUpForm) -> HttpResponse:
    user, vehicle = request.user, corner.job.vehicle
    in_force = corner.limits
    if limits is not None:
        kept = in_force.figures() if in_force else {}
        in_force = set_limits(user, vehicle, corner.axle, **{**kept, **limits.cleaned_data})
        actions.use_limits(user, corner, in_force)
        corner.refresh_from_db()
    studs = spec_of(in_force).studs
    sweep = actions.start_sweep(user, corner, **set_up.sweep_set_up(studs))
    radii = set_up.cleaned_data["radii"]
    if radii or not any(not r.is_empty for r in corner.rounds.all()):
        actions.start_round(user, corner, **set_up.round_set_up(studs))
    address = reverse("jobs:measure", args=[corner.job_id, corner.position])
    return redirect(f"{address}?tape=quick" if set_up.quick else f"{address}?tape=s{sweep.pk}")
