"""From complaint to root cause: the interview, the weighed causes, the road test."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.words.codes import FELT
from jobs.cause.actions import WorkDecidedError, put_right_beside, say_felt
from jobs.cause.beside import beside_context, read_place
from jobs.cause.forms import RecordingForm
from jobs.cause.page import cause_context
from jobs.cause.recordings import ask_to_read, unread_of
from jobs.cause.road_test import driven_context, road_test_context
from jobs.frame import job_context
from jobs.judging import judge_job
from jobs.models import Job
from jobs.writing import JobClosedError, still_open
from workshop.addresses import address
from workshop.limits_of_asking import file_limit
from workshop.long_work.asking import shown
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


@require_GET
def cause(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the weighed causes: the chain, the ledger, the next best check."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    return _cause_page(request, job)


@file_limit
@posted_from("jobs:cause", "pk")
@counts_once
def road_test(request: HttpRequest, pk: int) -> HttpResponse:
    """Have a recording read by a worker; what it shows, or what is wrong with it, is said on the Cause page."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    form = RecordingForm(request.POST, request.FILES)
    try:
        still_open(request.user, job)
    except JobClosedError:
        return _cause_page(request, job, refusal=_("This job is closed; nothing more is recorded."), status=422)
    if not form.is_valid():
        return _cause_page(request, job, refusal=str(form.errors["recording"][0]), status=422)
    ask_to_read(request.user, job, form.cleaned_data["recording"])
    return redirect(address("jobs:cause", pk) + "#road")


@posted_from("jobs:cause", "pk")
@counts_once
def felt(request: HttpRequest, pk: int) -> HttpResponse:
    """Note what is felt on the road though nothing was worked on: what was put right to be swept may have been it."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    said = request.POST.get("felt", "")
    if said not in ("", *FELT):
        return _cause_page(request, job, refusal=_("Not noted: press one of the answers."), status=422)
    try:
        say_felt(request.user, job, said)
    except WorkDecidedError:
        refusal = _("Not noted: work was decided, and what is felt after it is said at its road test, on Do.")
        return _cause_page(request, job, refusal=refusal, status=422)
    except JobClosedError:
        return _cause_page(request, job, refusal=_("This job is closed; nothing more is recorded."), status=422)
    return redirect(address("jobs:cause", pk) + "#road")


@posted_from("jobs:cause", "pk")
@counts_once
def beside(request: HttpRequest, pk: int) -> HttpResponse:
    """Note that something beside the discs was put right, or take that back."""
    require(request.user, Deed.DO)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    place = read_place(request.POST.get("what", ""), job)
    if place is None:
        return _cause_page(request, job, beside_refusal=_("Choose what was seen to, and where."), status=422)
    try:
        put_right_beside(request.user, job, *place, back="back" in request.POST)
    except JobClosedError:
        refused = _("This job is closed; nothing more is recorded.")
        return _cause_page(request, job, beside_refusal=refused, status=422)
    return redirect(address("jobs:cause", pk) + "#beside")


def _cause_page(
    request: HttpRequest, job: Job, *, refusal: str = "", beside_refusal: str = "", status: int = 200
) -> HttpResponse:
    judged, unread = judge_job(request.user, job), unread_of(request.user, job)
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
        **driven_context(request.user, job),
        **beside_context(job, judged, user=request.user),
        "refusal": refusal,
        "beside_refusal": beside_refusal,
        "takes": not job.is_closed and not (unread is not None and unread.is_under_way),
        "unread": shown(unread) if unread is not None else None,
    }
    return render(request, "jobs/cause/cause.html", context, status=status)
