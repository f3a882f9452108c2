"""The Choose leg: the lanes of an axle, one decision, index and plate tried on the rose."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.choose.rules import REASONS
from jobs.choose.actions import WhyNeededError, decide, withdraw
from jobs.choose.axle import ForbiddenRemedyError, axles_of, weigh_axle, worst_axle
from jobs.choose.forms import SettingForm
from jobs.choose.page import act_of_decision, choose_context
from jobs.choose.setting_page import turning_context
from jobs.frame import job_context
from jobs.models import Job
from jobs.writing import JobClosedError
from workshop.models import POSITION_NAMES
from workshop.permissions import Deed, require
from workshop.posting import counts_once, posted_from


@require_GET
def choose_worst(request: HttpRequest, pk: int) -> HttpResponse:
    """Lead to the axle that needs it most."""
    require(request.user, Deed.READ_JOBS)
    return redirect("jobs:choose", pk, worst_axle(_job(request, pk)))


@require_GET
def choose(request: HttpRequest, pk: int, axle: str) -> HttpResponse:
    """Show what each remedy would leave on this axle, best first."""
    require(request.user, Deed.READ_JOBS)
    return _choose_page(request, _job(request, pk), axle)


@posted_from("jobs:choose", "pk", "axle")
@counts_once
def decide_axle(request: HttpRequest, pk: int, axle: str) -> HttpResponse:
    """Record the decision, or say what stands against it; nothing typed is lost."""
    require(request.user, Deed.CHOOSE)
    job = _job(request, pk)
    form = SettingForm(request.POST)
    refusal = ""
    try:
        if not form.is_valid():
            raise ForbiddenRemedyError(())
        decide(
            request.user,
            job,
            axle,
            code=request.POST.get("remedy", ""),
            reason=request.POST.get("reason", "")[:500],
            setting=form.setting(),
        )
    except ForbiddenRemedyError as error:
        refusal = _refusal(error)
    except WhyNeededError:
        refusal = _("This is not what is advised. Write why: it stands on the record with your name.")
    except JobClosedError:
        refusal = _("This job is closed; nothing is decided on it any more.")
    if refusal and form.is_valid() and form.setting():
        setting = form.setting() or {}
        return _turning_page(request, job, setting["position"], setting, refusal=refusal, status=422)
    if refusal:
        return _choose_page(request, job, axle, refusal=refusal, status=422)
    messages.success(request, _("Decided, and on the record."))
    return redirect("jobs:choose", pk, axle)


@posted_from("jobs:choose", "pk", "axle")
def withdraw_decision(request: HttpRequest, pk: int, axle: str) -> HttpResponse:
    """Take the decision for this axle back, with a reason."""
    try:
        withdraw(request.user, _job(request, pk), axle, reason=request.POST.get("reason", "")[:500])
        messages.success(request, _("Withdrawn, and on the record."))
    except WhyNeededError:
        messages.error(request, _("Write why the decision is withdrawn."))
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing is decided on it any more."))
    return redirect("jobs:choose", pk, axle)


@require_GET
def turn_rotor(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Show one corner's rotor on its studs and a plate under it, as set by hand; a part of the page to htmx."""
    require(request.user, Deed.READ_JOBS)
    form = SettingForm({**request.GET.dict(), "position": position})
    if not form.is_valid():
        raise Http404
    return _turning_page(request, _job(request, pk), position, form.setting() or {"position": position})


def _job(request: HttpRequest, pk: int) -> Job:
    return get_object_or_404(Job.of(request.user).for_choosing(), pk=pk)


def _choose_page(request: HttpRequest, job: Job, axle: str, *, refusal: str = "", status: int = 200) -> HttpResponse:
    if axle not in axles_of(job):
        raise Http404
    choice = weigh_axle(request.user, job, axle, policy=request.GET.get("policy"))
    context = {
        **job_context(job, leg="choose"),
        **choose_context(request.user, job, axle, choice),
        "refusal": refusal,
        "picked": request.POST.get("remedy", ""),
        "typed_reason": request.POST.get("reason", ""),
    }
    context["act"] = act_of_decision(job, axle) or (None if job.is_closed else context.get("first"))
    return render(request, "jobs/choose/choose.html", context, status=status)


def _turning_page(
    request: HttpRequest, job: Job, position: str, setting: dict[str, Any], *, refusal: str = "", status: int = 200
) -> HttpResponse:
    corner = next((c for c in job.corners.all() if c.position == position), None)
    choice = weigh_axle(request.user, job, corner.axle) if corner is not None and corner.limits is not None else None
    side = choice.corner(position) if choice is not None else None
    if corner is None or choice is None or side is None or not side.remedies:
        raise Http404
    try:
        context = turning_context(request.user, job, corner, choice, setting)
    except ForbiddenRemedyError:
        raise Http404 from None
    context |= {"refusal": refusal, "typed_reason": request.POST.get("reason", ""), "corner": corner, "job": job}
    if request.htmx:
        return render(request, "jobs/choose/_setting.html", context)
    return render(request, "jobs/choose/setting.html", {**job_context(job, leg="choose"), **context}, status=status)


def _refusal(error: ForbiddenRemedyError) -> str:
    if not error.rules:
        return _("That is not among what can be done here. Choose a lane.")
    position, rule = error.rules[0]
    return f"{POSITION_NAMES[position]}: {_(REASONS[rule])}"
