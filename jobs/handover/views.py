"""Sheets for the owner and the bay, on screen and as PDF; when to look again; whether a visit is a comeback."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from jobs.do.doing import doing_of
from jobs.floor.paging import ShallowPaginator
from jobs.handover.actions import AnsweredError, SeenAgainError, ring, say_comeback
from jobs.handover.bay import bay_context
from jobs.handover.calendar import look_again_ics
from jobs.handover.forms import RingForm
from jobs.handover.look_again import STATES, due_rows, waiting
from jobs.handover.owner import owner_context
from jobs.handover.paper import ask_for_pdf, qr_code
from jobs.models import Closing, Job
from jobs.prove.proving import proving_of
from workshop.addresses import address
from workshop.limits_of_asking import file_limit
from workshop.models import ShopFigures
from workshop.numbers_in_addresses import named, number_of
from workshop.permissions import Deed, may, require
from workshop.planning import planned_anew
from workshop.posting import counts_once, posted_from

PAGE = 20


@require_GET
def owner(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the owner's sheet."""
    return render(request, "jobs/handover/owner.html", _owner_context(request, pk))


@posted_from("jobs:owner", "pk")
@file_limit
@counts_once
def owner_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """Have the owner's sheet laid out as PDF."""
    name = _("iron-compass-owner-%(n)s") % {"n": pk}
    return _laid_out(request, "jobs/handover/owner.html", _owner_context(request, pk), name=name)


@require_GET
def bay(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the bay's sheet."""
    return render(request, "jobs/handover/bay.html", _bay_context(request, pk))


@posted_from("jobs:sheet", "pk")
@file_limit
@counts_once
def bay_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """Have the bay's sheet laid out as PDF."""
    name = _("iron-compass-job-%(n)s") % {"n": pk}
    return _laid_out(request, "jobs/handover/bay.html", _bay_context(request, pk), name=name)


@require_GET
def calendar(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out when to look again as iCalendar."""
    closing = Closing.of(request.user).standing(_job(request, pk))
    if closing is None or closing.due_on is None:
        raise Http404
    response = HttpResponse(look_again_ics(request, request.user, closing), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="look-again-{pk}.ics"'
    return response


@require_GET
def look_again(request: HttpRequest) -> HttpResponse:
    """List what is to be looked at again."""
    return _list(request)


@posted_from("jobs:look-again")
@counts_once
def rung(request: HttpRequest, pk: int) -> HttpResponse:
    """Note that the owner was rung."""
    closing = get_object_or_404(Closing.of(request.user).select_related("vehicle"), pk=pk)
    form = RingForm(request.POST, user=request.user, vehicle=closing.vehicle, auto_id=f"ring{pk}_%s")
    require(request.user, Deed.EDIT_JOB)
    if not form.is_valid():
        return _list(request, wrong=pk, form=form)
    data = form.cleaned_data
    try:
        row = ring(request.user, closing, said=data["said"], note=data["note"], odometer_km=data["odometer_km"])
        words = _("%(vehicle)s: on the record.")
        messages.success(request, words % {"vehicle": row.vehicle})
    except SeenAgainError:
        messages.error(request, _("The vehicle has been here since; nothing was kept of that call."))
    state = request.POST.get("state", "")
    return redirect(address("jobs:look-again") + (f"?state={state}" if state in STATES else ""))


@posted_from("jobs:floor")
@counts_once
def comeback(request: HttpRequest, pk: int) -> HttpResponse:
    """Say whether a visit is a comeback of an earlier job's work."""
    closing = get_object_or_404(Closing.of(request.user), pk=pk)
    answer = request.POST.get("comeback") == "yes"
    correct = request.POST.get("correct") == "yes"
    try:
        row = say_comeback(request.user, closing, comeback=answer, correct=correct)
        words = _("Noted: a comeback of job %(n)s.") if answer else _("Noted: no comeback of job %(n)s.")
        messages.success(request, words % {"n": row.job_id})
    except AnsweredError as error:
        said = _("a comeback") if error.closing.comeback else _("no comeback")
        words = _("%(who)s said meanwhile: %(said)s. Correct it there if that is wrong.")
        messages.error(request, words % {"who": error.closing.comeback_by, "said": said})
    except SeenAgainError:
        messages.error(request, _("The vehicle has not been here since that job."))
    return redirect("jobs:complaint", closing.seen_again_id or closing.job_id)


@planned_anew()
def _list(request: HttpRequest, *, wrong: int | None = None, form: RingForm | None = None) -> HttpResponse:
    require(request.user, Deed.READ_JOBS)
    today = timezone.localdate()
    state = request.POST.get("state") or request.GET.get("state", "due")
    state = state if state in STATES else "due"
    page = ShallowPaginator(waiting(request.user, state=state, today=today), PAGE).get_page(request.GET.get("page"))
    rows = due_rows(request.user, page.object_list, today=today)
    ringing = wrong or number_of("closing", request.GET.get("ring", ""))
    for row in rows:
        row["ring_at"] = f"?state={state}&page={page.number}&ring={named('closing', row['closing'].pk)}"
        if row["closing"].pk == ringing:
            vehicle, auto_id = row["closing"].vehicle, f"ring{ringing}_%s"
            row["form"] = form or RingForm(user=request.user, vehicle=vehicle, auto_id=auto_id, autofocus=True)
    context = {"rows": rows, "page": page, "state": state, "may_ring": may(request.user, Deed.EDIT_JOB)}
    return render(request, "jobs/handover/look_again.html", context, status=422 if wrong else 200)


def _job(request: HttpRequest, pk: int) -> Job:
    require(request.user, Deed.READ_JOBS)
    return get_object_or_404(Job.of(request.user).for_doing(), pk=pk)


def _letterhead(request: HttpRequest, pk: int, figures: ShopFigures) -> dict[str, Any]:
    return {"workshop": figures.called, "ring_us": figures.ring_us, "qr": qr_code(request, pk)}


def _owner_context(request: HttpRequest, pk: int) -> dict[str, Any]:
    job, figures = _job(request, pk), ShopFigures.in_force(request.user)
    proving = proving_of(request.user, job, figures=figures)
    return owner_context(request.user, job, proving, figures) | _letterhead(request, pk, figures)


def _bay_context(request: HttpRequest, pk: int) -> dict[str, Any]:
    job = _job(request, pk)
    figures = ShopFigures.in_force(request.user)
    return bay_context(request.user, job, doing_of(request.user, job)) | _letterhead(request, pk, figures)


def _laid_out(request: HttpRequest, template: str, context: dict[str, Any], *, name: str) -> HttpResponse:
    work = ask_for_pdf(template, context, request=request, name=name)
    return redirect(address("workshop:work", work.pk))
