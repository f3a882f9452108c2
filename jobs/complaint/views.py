"""The Complaint leg: words, interview, bookings."""

from copy import copy

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from jobs.bays.actions import PlaceTakenError
from jobs.bays.actions import book as take_place
from jobs.bays.actions import give_up as give_place_up
from jobs.bays.forms import BookingForm
from jobs.complaint import actions
from jobs.complaint.forms import JobWordsForm, StoryForm
from jobs.complaint.page import complaint_page
from jobs.models import Booking, Job
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from
from workshop.versions import StaleError


@require_http_methods(["GET", "POST"])
def complaint(request: HttpRequest, pk: int) -> HttpResponse:
    """The job's home in this version: the driver's words, the corners in plan, closing."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_complaint(), pk=pk)
    form = JobWordsForm(
        request.POST or None,
        user=request.user,
        instance=copy(job),  # a form writes into its instance what it was sent, taken or not
        initial={"version": job.version},
    )
    if request.method == "GET":
        return complaint_page(request, job, form=form)
    require(request.user, Deed.EDIT_JOB)
    if form.is_valid():
        try:
            job = actions.edit_job(request.user, job, **form.cleaned_data)
            if not request.htmx:
                messages.success(request, _("Saved."))
                return redirect("jobs:complaint", pk)
            form = JobWordsForm(user=request.user, instance=job, initial={"version": job.version})
            return render(request, "jobs/complaint/_words_state.html", {"form": form, "current": job, "saved": True})
        except StaleError:
            form.add_error(None, _("Somebody changed this job meanwhile. Compare with theirs, then save again."))
            form.data = {**form.data.dict(), "version": job.version}
        except JobClosedError:
            form.add_error(None, _("This job is closed; its words stay as they are."))
    if request.htmx:
        return render(request, "jobs/complaint/_words_state.html", {"form": form, "current": job}, status=422)
    return complaint_page(request, job, form=form, status=422)


@posted_from("jobs:complaint", "pk")
def story(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what the driver tells, as choices."""
    require(request.user, Deed.EDIT_JOB)
    job = get_object_or_404(Job.of(request.user).for_complaint(), pk=pk)
    form = StoryForm(request.POST, unit=request.user.unit, kind=job.vehicle.kind)
    if form.is_valid():
        try:
            told = actions.keep_story(request.user, job, form.story(), was=form.cleaned_data["was"])
            for name in told.unlike:
                question, theirs = form.answer(name, told.theirs, request.user.unit)
                words = _("%(question)s: somebody said “%(theirs)s” meanwhile, and that stands; you said “%(mine)s”.")
                mine = form.answer(name, form.story(), request.user.unit)[1]
                messages.warning(request, words % {"question": question, "theirs": theirs, "mine": mine})
            if told.by_another and request.htmx:  # the page is drawn anew, with what both said
                return HttpResponse(status=204, headers={"HX-Refresh": "true"})
            return redirect("jobs:complaint", pk)
        except JobClosedError:
            form.add_error(None, _("This job is closed; its story stays as it is."))
    return complaint_page(request, job, story_form=form, status=422)


@posted_from("jobs:complaint", "pk")
@counts_once
def book(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a place; where another job stands there then, say so and keep what was typed."""
    require(request.user, Deed.EDIT_JOB)
    job = get_object_or_404(Job.of(request.user).for_complaint(), pk=pk)
    form = BookingForm(request.POST)
    if form.is_valid():
        data = form.cleaned_data
        try:
            take_place(request.user, job, place=data["place"], starts_at=form.starts_at(), minutes=data["minutes"])
            return redirect("jobs:complaint", pk)
        except PlaceTakenError:
            form.add_error("place", _("Another job stands there then. Choose another time or place."))
        except JobClosedError:
            form.add_error(None, _("This job is closed; it needs no place any more."))
    return complaint_page(request, job, booking_form=form, status=422)


def _page_of_booking(request: HttpRequest, pk: int) -> str:
    return address("jobs:complaint", get_object_or_404(Booking.of(request.user), pk=pk).job_id)


@posted_from(_page_of_booking)
def give_up(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a place free again."""
    booking = get_object_or_404(Booking.of(request.user).select_related("job"), pk=pk)
    try:
        give_place_up(request.user, booking)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    return redirect("jobs:complaint", booking.job_id)
