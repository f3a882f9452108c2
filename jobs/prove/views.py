"""The Prove leg: the proof, an advice followed, a second signature; closing a job and opening it again."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from jobs.complaint.page import complaint_page
from jobs.do.running import (
    HoldError,
    NothingDecidedError,
    StepDoneError,
    UnknownStepError,
    WorkChangedError,
    follow_advice,
    sign_off,
)
from jobs.frame import job_context
from jobs.models import Closing, Job
from jobs.prove.actions import ReasonNeededError, close_job, reopen_job
from jobs.prove.again import again_words
from jobs.prove.page import nothing_to_prove, prove_context, reasons
from jobs.prove.proving import proving_of
from jobs.writing import JobClosedError
from workshop.models import ShopFigures
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


@require_GET
def prove(request: HttpRequest, pk: int, position: str = "") -> HttpResponse:
    """Show what the work has left at a corner, and what must hold before the job may close."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_doing(), pk=pk)
    proving = proving_of(request.user, job)
    context = job_context(job, leg="prove")
    if proving is None:
        return render(request, "jobs/do/nothing.html", context | {"leg": _("Prove"), **nothing_to_prove()})
    return render(request, "jobs/prove/prove.html", context | prove_context(request.user, proving, position))


@require_GET
def again(request: HttpRequest, pk: int) -> HttpResponse:
    """Say when to look again: a part of the proof of its own, since it asks for the vehicle's whole past."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_doing(), pk=pk)
    figures = ShopFigures.in_force(request.user)
    proving = proving_of(request.user, job, figures=figures)
    closing = Closing.of(request.user).filter(job=job, stands=True).first()
    sides = list(proving.sides.values()) if proving is not None else []
    words = again_words(request.user, job, closing, sides, figures=figures)
    return render(request, "jobs/prove/_again.html", {"again": words})


@posted_from("jobs:prove", "pk", "position")
@counts_once
def advice(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Note that an advice was followed: what is read now is read after it."""
    require(request.user, Deed.DO)
    job = get_object_or_404(Job.of(request.user), pk=pk)
    try:
        follow_advice(request.user, job, position, request.POST.get("code", ""))
        messages.success(request, _("On the record. Measure again: what you read now stands by itself."))
        return redirect("jobs:prepare", pk, position)
    except (UnknownStepError, StepDoneError, WorkChangedError, NothingDecidedError, JobClosedError):
        messages.error(request, _("The work was changed meanwhile; nothing was kept of that press."))
    return redirect("jobs:prove", pk, position)


@posted_from("jobs:prove-first", "pk")
@counts_once
def sign(request: HttpRequest, pk: int) -> HttpResponse:
    """Sign the work off as a second person."""
    require(request.user, Deed.SIGN_HOLD)
    try:
        sign_off(request.user, get_object_or_404(Job.of(request.user), pk=pk))
        messages.success(request, _("Signed off with your name."))
    except HoldError:
        messages.error(request, _("Somebody else signs: you cut this disc yourself, or nothing was begun."))
    except (WorkChangedError, NothingDecidedError, JobClosedError):
        messages.error(request, _("The work was changed meanwhile; nothing was kept of that press."))
    return redirect("jobs:prove-first", pk)


@posted_from("jobs:complaint", "pk")
@counts_once
def close(request: HttpRequest, pk: int) -> HttpResponse:
    """Close a job, with a reason where it is not proven."""
    job = get_object_or_404(Job.of(request.user), pk=pk)
    reason, found = request.POST.get("reason", "")[:1000], request.POST.get("found_cause", "")
    supplier = request.POST.get("supplier", "")
    try:
        close_job(request.user, job, reason=reason, found_cause=found, supplier=supplier)
        messages.success(request, _("Job %(number)s is closed.") % {"number": pk})
        return redirect("jobs:complaint", pk) if job.decided else redirect("jobs:floor")
    except ReasonNeededError as error:
        still = [_("Still open: %(reasons)s.") % {"reasons": "; ".join(reasons(error.open))}] if error.open else []
        still += [] if error.settled else [_("Not every corner is measured and within.")]
        words = " ".join([*still, _("Write why the job is closed all the same.")])
        refused = {"error": words, "found": found, "supplier": supplier}
        return complaint_page(
            request, get_object_or_404(Job.of(request.user).for_complaint(), pk=pk), refused=refused, status=422
        )
    except JobClosedError:
        messages.error(request, _("This job is closed already."))
    return redirect("jobs:complaint", pk)


@posted_from("jobs:complaint", "pk")
@counts_once
def reopen(request: HttpRequest, pk: int) -> HttpResponse:
    """Open a closed job again, with a reason."""
    try:
        reopen_job(request.user, get_object_or_404(Job.of(request.user), pk=pk), reason=request.POST.get("reason", ""))
        messages.success(request, _("Open again, and on the record."))
    except ReasonNeededError:
        messages.error(request, _("Write why the job is opened again."))
    return redirect("jobs:complaint", pk)
