"""From complaint to root cause: the interview, the weighed causes, the road test."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from compass.measure.recording import RecordingError
from jobs import actions
from jobs.forms import RecordingForm
from jobs.models import Job
from jobs.pages import job_context
from jobs.roadtests import keep_road_test, refusal_words, road_test_context
from jobs.story import StoryForm
from jobs.views import complaint_page
from jobs.weighing import cause_context, next_of_job, weigh_job
from workshop.policy import Deed, require


@require_POST
def story(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what the driver tells, as choices."""
    require(request.user, Deed.EDIT_JOB)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    form = StoryForm(request.POST)
    if form.is_valid():
        try:
            actions.keep_story(request.user, job, form.story())
            return redirect("jobs:complaint", pk)
        except actions.JobClosedError:
            form.add_error(None, _("This job is closed; its story stays as it is."))
    return complaint_page(request, job, story_form=form, status=422)


@require_GET
def cause(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the weighed causes: the chain, the ledger, the next best check."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    return _cause_page(request, job)


@require_POST
def road_test(request: HttpRequest, pk: int) -> HttpResponse:
    """Read a recording, or refuse it with what is wrong."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    form = RecordingForm(request.POST, request.FILES)
    if not form.is_valid():
        return _cause_page(request, job, refusal=str(form.errors["recording"][0]), status=422)
    try:
        keep_road_test(request.user, job, form.cleaned_data["recording"].read())
        messages.success(request, _("The recording was read."))
        return redirect("jobs:cause", pk)
    except RecordingError as error:
        return _cause_page(request, job, refusal=refusal_words(error), status=422)
    except actions.JobClosedError:
        return _cause_page(request, job, refusal=_("This job is closed; nothing more is recorded."), status=422)


def _cause_page(request: HttpRequest, job: Job, *, refusal: str = "", status: int = 200) -> HttpResponse:
    weighed = weigh_job(job)
    context = {
        **job_context(job, leg="cause"),
        **cause_context(job, weighed, chosen=request.GET.get("cause", "")),
        **road_test_context(job),
        "refusal": refusal,
    }
    context["act"] = next_of_job(job, weighed) or context["act"]
    return render(request, "jobs/cause.html", context, status=status)
