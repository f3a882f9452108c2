"""What is taken at a corner beside the tapes: quick readings, and what is measured and seen by looking."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_POST

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit
from compass.words.codes import SEEN
from jobs import record_actions
from jobs.actions import JobClosedError
from jobs.forms import QuickForm
from jobs.looking import FIELDS
from jobs.models import Corner, Job, QuickReading
from jobs.pages import corner_context
from jobs.views import corner_of
from workshop.adapters import unit_of
from workshop.policy import Deed, require
from workshop.wording import unreadable

_MOST = 120  # characters of a field


@require_POST
def quick(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Take a quick reading with the set-up that was laid out last."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    corner = corner_of(job, position)
    last = corner.sweeps.last()
    if corner.limits is None or last is None:
        return redirect("jobs:prepare", pk, position)
    form = QuickForm(request.POST, studs=corner.limits.studs)
    if form.is_valid():
        set_up = {
            name: getattr(last, name)
            for name in ("surface", "radius_mm", "index_deg", "cleaned", "nuts_torqued", "graduation_mm", "instrument")
        }
        place = {"high_deg": form.high_deg, "within_deg": form.cleaned_data["within"]}
        try:
            amount = form.cleaned_data["amount"]
            record_actions.add_quick(request.user, corner, typed=amount, unit=last.unit, **set_up, **place)
            return redirect(reverse("jobs:measure", args=[pk, position]) + "?tape=quick")
        except UnreadableNumberError as error:
            form.add_error("amount", unreadable(error))
        except JobClosedError:
            form.add_error(None, _("This job is closed; nothing more is measured on it."))
    context = corner_context(request.user, job, corner, tape_name="quick") | {"quick_form": form}
    return render(request, "jobs/measure.html", context, status=422)


@require_POST
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike a quick reading out, or let it count again."""
    reading = get_object_or_404(QuickReading.objects.select_related("corner__job", "corner__limits"), pk=pk)
    try:
        record_actions.withdraw_quick(request.user, reading, withdrawn=not reading.withdrawn)
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
    corner = reading.corner
    return redirect(reverse("jobs:measure", args=[corner.job_id, corner.position]) + "?tape=quick")


@require_POST
def look(request: HttpRequest, pk: int, position: str) -> HttpResponse:
    """Keep what was typed and ticked, field by field as it changes, and redraw."""
    require(request.user, Deed.MEASURE)
    job = get_object_or_404(Job.objects.for_page(), pk=pk)
    corner = corner_of(job, position)
    texts = {field.name: request.POST.get(field.name, "").strip()[:_MOST] for field in FIELDS}
    findings = [code for code in request.POST.getlist("findings") if code in SEEN]
    unit = unit_of(request.user)
    try:
        record_actions.keep_look(
            request.user,
            Corner.objects.select_related("limits", "look").get(pk=corner.pk),
            typed={name: text for name, text in texts.items() if text},
            findings=findings,
            unit=Unit.MM if unit is Unit.MM else Unit.THOU,
        )
    except JobClosedError:
        messages.error(request, _("This job is closed; nothing was changed."))
        return redirect(reverse("jobs:measure", args=[pk, position]) + "?tape=look")
    if not request.htmx:
        return redirect(reverse("jobs:measure", args=[pk, position]) + "?tape=look")
    fresh = Job.objects.for_page().get(pk=pk)
    context = corner_context(request.user, fresh, corner_of(fresh, position), tape_name="look")
    wrong = any(field["error"] for field in context["look_fields"])
    return render(request, "jobs/_look_live.html", context, status=422 if wrong else 200)
