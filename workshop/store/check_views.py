"""One instrument over its checks, repeatability studies, torque wrenches."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from workshop.addresses import address, chosen_row
from workshop.models import DeviceKey, Instrument, InstrumentCheck, RepeatabilityStudy, TorqueWrench
from workshop.permissions import Deed, may, require
from workshop.posting import counts_once, posted_from
from workshop.store.actions import (
    begin_study,
    check_instrument,
    keep_wrench,
    make_device_key,
    read_study,
    revoke_device_key,
    strike_check,
)
from workshop.store.checked import beside, instrument_context, read_typed, studies_of, study_context, wrench_card
from workshop.store.forms import CheckForm, StudyForm, WrenchForm
from workshop.versions import StaleError


@require_http_methods(["GET", "POST"])
@counts_once
def instrument(request: HttpRequest, pk: int) -> HttpResponse:
    """Show an instrument's checks and its drift; record a check."""
    require(request.user, Deed.READ_JOBS)
    row = get_object_or_404(Instrument.of(request.user), pk=pk)
    today = timezone.localdate()
    form = CheckForm(request.POST or None, unit=request.user.unit, today=today, initial={"on": today})
    if request.method == "POST":
        require(request.user, Deed.KEEP_STORE)
        if form.is_valid():
            check_instrument(request.user, row, **form.cleaned_data)
            messages.success(request, _("On the record."))
            return redirect("workshop:instrument", pk)
    return _instrument(request, row, form=form, status=422 if form.errors else 200)


def _page_of_check(request: HttpRequest, pk: int) -> str:
    return address("workshop:instrument", get_object_or_404(InstrumentCheck.of(request.user), pk=pk).instrument_id)


@posted_from(_page_of_check)
def strike(request: HttpRequest, pk: int) -> HttpResponse:
    """Strike a check out, or let it count again."""
    check = get_object_or_404(InstrumentCheck.of(request.user), pk=pk)
    strike_check(request.user, check, withdrawn=request.POST.get("struck") == "yes")
    return redirect("workshop:instrument", check.instrument_id)


@posted_from("workshop:instrument", "pk")
@counts_once
def new_key(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a key for an instrument that talks; it is shown once, on the next page."""
    row = get_object_or_404(Instrument.of(request.user), pk=pk)
    require(request.user, Deed.KEEP_STORE)
    name = request.POST.get("name", "").strip()[:40] or str(row)
    _key, secret = make_device_key(request.user, row, name=name)
    messages.success(request, _("Its key, told this once: %(secret)s") % {"secret": secret})
    return redirect("workshop:instrument", pk)


@posted_from("workshop:instruments")
def revoke_key(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a key back."""
    row = get_object_or_404(DeviceKey.of(request.user), pk=pk)
    if revoke_device_key(request.user, row.pk):
        messages.success(request, _("Revoked: nothing more is taken by it."))
    return redirect("workshop:instrument", row.instrument_id)


@posted_from("workshop:instrument", "pk")
@counts_once
def new_study(request: HttpRequest, pk: int) -> HttpResponse:
    """Lay a repeatability study out."""
    row = get_object_or_404(Instrument.of(request.user), pk=pk)
    require(request.user, Deed.KEEP_STORE)
    form = StudyForm(request.POST, unit=request.user.unit)
    if not form.is_valid():
        return _instrument(request, row, study_form=form, status=422)
    study = begin_study(request.user, row, **form.cleaned_data)
    return redirect("workshop:study", study.pk)


@require_http_methods(["GET", "POST"])
@counts_once
def study(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a study as a grid; keep what was typed, wrong cells beside their fault."""
    require(request.user, Deed.READ_JOBS)
    row = get_object_or_404(RepeatabilityStudy.of(request.user).select_related("instrument"), pk=pk)
    typed, wrong, theirs = list(row.typed), {}, {}
    if request.method == "POST":
        typed, read, wrong = read_typed(row, request.POST, request.user.unit)
        if not wrong:
            version = request.POST.get("version", "")
            try:
                seen = int(version) if version.isdecimal() and len(version) < 10 else 0
                read_study(request.user, row, version=seen, typed=typed, readings_mm=read)
                messages.success(request, _("Kept."))
                return redirect("workshop:study", pk)
            except StaleError:
                words = _(
                    "Somebody typed into this study meanwhile. Where you differ both stand below: look, then keep."
                )
                messages.error(request, words)
                row.refresh_from_db()
                typed, theirs = beside(row, typed)
    context = study_context(row, request.user.unit, typed=typed, wrong=wrong, theirs=theirs)
    context["types"] = may(request.user, Deed.MEASURE)
    return render(
        request, "workshop/store/study.html", context, status=422 if wrong else 409 if request.method == "POST" else 200
    )


@require_http_methods(["GET", "POST"])
@counts_once
def wrenches(request: HttpRequest) -> HttpResponse:
    """Show the torque wrenches and when they are due; add one, change one."""
    require(request.user, Deed.READ_JOBS)
    chosen = chosen_row(TorqueWrench.of(request.user), request)
    form = WrenchForm(request.POST or None, instance=chosen, unit=request.user.unit)
    if request.method == "POST":
        require(request.user, Deed.KEEP_STORE)
        if form.is_valid():
            keep_wrench(request.user, form.save(commit=False))
            messages.success(request, _("Saved."))
            return redirect("workshop:wrenches")
    today, unit = timezone.localdate(), request.user.unit
    cards = [wrench_card(row, unit, today) for row in TorqueWrench.of(request.user)]
    context = {"cards": cards, "form": form, "chosen": chosen, "edits": may(request.user, Deed.KEEP_STORE)}
    return render(request, "workshop/store/wrenches.html", context, status=422 if form.errors else 200)


def _instrument(
    request: HttpRequest,
    row: Instrument,
    *,
    form: CheckForm | None = None,
    study_form: StudyForm | None = None,
    status: int = 200,
) -> HttpResponse:
    today, unit = timezone.localdate(), request.user.unit
    context = instrument_context(row, unit) | {
        "form": form or CheckForm(unit=unit, today=today, initial={"on": today}),
        "study_form": study_form or StudyForm(unit=unit, initial={"parts": 5, "turns": 3}),
        "studies": studies_of(request.user, row),
        "keys": DeviceKey.of(request.user).filter(instrument=row, revoked_at=None).select_related("made_by"),
        "edits": may(request.user, Deed.KEEP_STORE),
    }
    return render(request, "workshop/store/instrument.html", context, status=status)
