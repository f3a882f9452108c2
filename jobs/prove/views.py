"""Closing a job."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _

from jobs.models import Job
from jobs.prove.actions import ReasonNeededError, close_job, reopen_job
from jobs.writing import JobClosedError
from workshop.posting import counts_once, posted_from


@posted_from("jobs:complaint", "pk")
@counts_once
def close(request: HttpRequest, pk: int) -> HttpResponse:
    """Close a job, with a reason where it is not proven."""
    job = get_object_or_404(Job.of(request.user), pk=pk)
    reason = request.POST.get("reason", "")[:1000]
    try:
        close_job(request.user, job, reason=reason, found_cause=request.POST.get("found_cause", ""))
        messages.success(request, _("Job %(number)s is closed.") % {"number": pk})
        return redirect("jobs:floor")
    except ReasonNeededError:
        messages.error(request, _("Not every corner is measured and within. Write why the job is closed all the same."))
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
