"""The work to read: its checklist, the cut plan of a corner; plates taken from the stock and taken out."""

from typing import Any

from django.contrib import messages
from django.db.models import prefetch_related_objects
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.ground.positions import axle_of
from jobs.choose.axle import weigh_axle
from jobs.choose.views import _job
from jobs.do.actions import (
    NoPlateError,
    fit_plate,
    take_out,
)
from jobs.do.cut_page import cut_context
from jobs.do.doing import doing_of
from jobs.do.work_page import work_context
from jobs.frame import job_context
from jobs.models import Corner, FittedPlate, Job
from jobs.writing import JobClosedError
from workshop.models import Lathe
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


@require_GET
def work(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Show the decided work of a corner, step by step, with the figures of its plan; a checklist on paper."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_doing(), pk=pk)
    doing = doing_of(request.user, job)
    if doing is None or position not in doing.sides:
        return redirect("jobs:do", pk)
    corner = doing.sides[position].corner
    context = {**job_context(job, leg="do"), **work_context(request.user, doing, corner), "corner": corner, "act": None}
    return render(request, "jobs/do/work.html", context)


@require_GET
def cut(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Show the cut plan: refused before the tip touches where the metal will not do."""
    require(request.user, Deed.READ_JOBS)
    job, corner = _corner(request, pk, position)
    choice = weigh_axle(request.user, job, corner.axle, as_decided=True) if corner.limits_id else None
    lathes = list(Lathe.of(request.user).filter(retired=False))
    context: dict[str, Any] = {
        **job_context(job, leg="choose"),
        "act": None,
        **cut_context(request.user, job, corner, choice, lathes, chosen=request.GET.get("lathe", "")),
        "corner": corner,
    }
    return render(request, "jobs/do/cut.html", context)


def _corner(request: HttpRequest, pk: int, position: str) -> tuple[Job, Corner]:
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = next((c for c in job.corners.all() if c.position == position), None)
    if corner is None:
        raise Http404
    prefetch_related_objects([corner], "cuts__passes")
    return job, corner


@posted_from("jobs:turn-rotor", "pk", "position")
@counts_once
def fit(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Take the decided plate from the stock and put it on the vehicle's record."""
    require(request.user, Deed.CHOOSE)
    job = _job(request, pk)
    corner = get_object_or_404(job.corners, position=position)
    try:
        fit_plate(request.user, job, position)
        messages.success(request, _("Plate taken from the stock; it is on the vehicle’s record."))
    except NoPlateError:
        messages.error(request, _("No such plate is left, or it is fitted already. One a side, always a new one."))
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing is fitted on it any more."))
    return redirect("jobs:choose", pk, corner.axle)


@posted_from("jobs:choose-worst", "pk")
def out(request: HttpRequest, pk: int, plate: int) -> HttpResponse:
    """Note that a plate of an earlier job was taken out."""
    require(request.user, Deed.CHOOSE)
    job = _job(request, pk)
    fitted = get_object_or_404(FittedPlate.of(request.user), pk=plate, vehicle=job.vehicle, taken_out=False)
    try:
        take_out(request.user, job, fitted)
        messages.success(request, _("Out, and on the record. Clean the joint and sweep again."))
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing is changed on it any more."))
    return redirect("jobs:choose", pk, axle_of(fitted.position))
