"""From complaint to root cause: the interview, the weighed causes, the road test."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.measure.recording import RecordingError
from jobs import writing as actions
from jobs.cause.actions import keep_road_test
from jobs.cause.forms import RecordingForm
from jobs.cause.page import cause_context
from jobs.cause.road_test import refusal_words, road_test_context
from jobs.frame import job_context
from jobs.judging import judge_job
from jobs.models import Job
from workshop.limits_of_asking import file_limit
from workshop.permissions import Deed, require
from workshop.posting import posted_from


@require_GET
def cause(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the weighed causes: the chain, the ledger, the next best check."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    return _cause_page(request, job)


@file_limit
@posted_from("jobs:cause", "pk")
def road_test(request: HttpRequest, pk: int) -> HttpResponse:
    """Read a recording, or refuse it with what is wrong."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
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
    judged = judge_job(request.user, job)
    context = {
        **job_context(job, leg="cause"),
        **cause_context(
            job,
            judged,
            unit=request.user.unit,
            currency=judged.beside.shop.currency,
            chosen=request.GET.get("cause", ""),
        ),
        **road_test_context(job),
        "refusal": refusal,
    }
    return render(request, "jobs/cause/cause.html", context, status=status)
