"""The cut plan of a corner: scratch, compensation check, pass after pass with the reading after each."""

from typing import Any

from django.contrib import messages
from django.db.models import prefetch_related_objects
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.ground.errors import UnreadableNumberError
from compass.ground.positions import axle_of
from jobs.choose.axle import weigh_axle
from jobs.choose.page import act_of_decision
from jobs.choose.views import _job
from jobs.do.actions import (
    CutRefusedError,
    FarReadingError,
    NoPlateError,
    PassConflictError,
    fit_plate,
    keep_compensation,
    keep_scratch,
    record_pass,
    strike_pass,
    take_out,
)
from jobs.do.cut_page import cut_context, refused_words
from jobs.do.work_page import decided_corners, work_context
from jobs.frame import job_context
from jobs.models import Corner, FittedPlate, Job
from jobs.writing import JobClosedError
from workshop.addresses import address
from workshop.models import Lathe
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from
from workshop.words import unreadable


@require_GET
def work_first(request: HttpRequest, pk: int) -> HttpResponse:
    """Lead to the work of the first corner for which any is decided; say so where none is."""
    require(request.user, Deed.READ_JOBS)
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    decided = decided_corners(job)
    if decided:
        return redirect("jobs:work", pk, decided[0][0].position)
    return render(request, "jobs/do/work.html", job_context(job, leg="do"))


@require_GET
def work(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Show the decided work of a corner, step by step, with the figures of its plan; a checklist on paper."""
    require(request.user, Deed.READ_JOBS)
    job, corner = _corner(request, pk, position)
    if corner.pk not in {other.pk for other, _decision, _code in decided_corners(job)}:
        return redirect("jobs:do", pk)
    choice = weigh_axle(request.user, job, corner.axle, past=False) if corner.limits_id else None
    context = {
        **job_context(job, leg="do"),
        **work_context(request.user, job, corner, choice),
        "corner": corner,
        "act": act_of_decision(job, corner.axle),
    }
    return render(request, "jobs/do/work.html", context)


@require_GET
def cut(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Show the cut plan: refused before the tip touches where the metal will not do."""
    require(request.user, Deed.READ_JOBS)
    return _cut_page(request, *_corner(request, pk, position))


@posted_from("jobs:cut", "pk", "position")
def cut_step(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Keep a scratch finding, a compensation check or a pass, or strike the last pass; what was typed stays."""
    require(request.user, Deed.CHOOSE)
    job, corner = _corner(request, pk, position)
    lathe = get_object_or_404(Lathe.of(request.user), pk=request.POST.get("lathe") or 0)
    errors: dict[str, str] = {}
    try:
        _keep(request, job, corner, lathe)
        return redirect(f"{address('jobs:cut', pk, position)}?lathe={lathe.pk}#passes")
    except UnreadableNumberError as error:
        field = "reading" if request.POST.get("step") == "pass" else "check"
        errors[field] = unreadable(error)
    except PassConflictError:
        errors["reading"] = _("That pass is on record already. Compare the plan below with the disc before you go on.")
    except FarReadingError:
        errors["reading"] = _("More than 1 mm from what is expected. Check the decimal sign and the unit.")
    except CutRefusedError as error:
        errors["reading"] = refused_words(error.reason)
    except ValueError:
        errors["scratch"] = _("Choose one of the three.")
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing more is recorded."))
    return _cut_page(request, job, corner, errors=errors, status=422)


def _keep(request: HttpRequest, job: Job, corner: Corner, lathe: Lathe) -> None:
    unit, sent = request.user.unit, request.POST
    match sent.get("step"):
        case "scratch":
            keep_scratch(request.user, corner, lathe, scratch=sent.get("scratch", ""))
        case "check":
            keep_compensation(
                request.user, corner, lathe, read=sent.get("read", ""), arm=sent.get("arm", ""), unit=unit
            )
        case "pass":
            number = int(sent.get("number", "")) if sent.get("number", "").isdecimal() else 0
            typed = sent.get("reading", "")[:40]
            record_pass(request.user, job, corner, lathe, number=number, typed=typed, unit=unit)
        case "strike":
            strike_pass(request.user, corner, lathe)
        case _:
            raise CutRefusedError("")


def _corner(request: HttpRequest, pk: int, position: str) -> tuple[Job, Corner]:
    job = get_object_or_404(Job.of(request.user).for_page(), pk=pk)
    corner = next((c for c in job.corners.all() if c.position == position), None)
    if corner is None:
        raise Http404
    prefetch_related_objects([corner], "cuts__passes")
    return job, corner


def _cut_page(
    request: HttpRequest, job: Job, corner: Corner, *, errors: dict[str, str] | None = None, status: int = 200
) -> HttpResponse:
    choice = weigh_axle(request.user, job, corner.axle, past=False) if corner.limits_id else None
    lathes = list(Lathe.of(request.user).filter(retired=False))
    chosen = request.POST.get("lathe") or request.GET.get("lathe", "")
    context: dict[str, Any] = {
        **job_context(job, leg="choose"),
        "act": None,
        **cut_context(request.user, job, corner, choice, lathes, chosen=chosen),
        "corner": corner,
        "errors": errors or {},
        "typed": request.POST,
    }
    return render(request, "jobs/do/cut.html", context, status=status)


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
