"""The store: the limits library with its files and its service, and the instruments with their checks."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.forms import ModelForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from compass.choose.policies import POLICIES
from compass.ground.units import Unit
from workshop.addresses import chosen_row
from workshop.limits_of_asking import file_limit
from workshop.long_work.asking import named_in, shown
from workshop.models import Instrument, Lathe, LibraryLimits, PlateKind, ShopFigures
from workshop.permissions import Deed, may, require
from workshop.posting import counts_once, posted_from
from workshop.store.actions import keep_figures, keep_instrument, keep_tooling
from workshop.store.forms import FiguresForm, InstrumentForm, LatheForm, PlateForm
from workshop.store.limits import library_rows, put_into_library
from workshop.store.limits_files import write_csv, write_json
from workshop.store.limits_forms import LibraryFileForm, LibraryForm
from workshop.store.limits_import import KINDS, ask_to_read, where_it_stands
from workshop.store.limits_service import LimitsUnreachableError, limits_source
from workshop.store.racks import instrument_card, lathe_card, plate_card
from workshop.versions import StaleError


@require_http_methods(["GET", "POST"])
@counts_once
def library(request: HttpRequest) -> HttpResponse:
    """Show the library; add or change the limits of one model's axle."""
    require(request.user, Deed.READ_JOBS)
    chosen = chosen_row(LibraryLimits.of(request.user), request)
    initial = {"model": chosen.model, "axle": chosen.axle, **chosen.figures()} if chosen is not None else {}
    form = LibraryForm(request.POST or None, unit=request.user.unit, initial=initial)
    if request.method == "POST":
        require(request.user, Deed.SET_LIMITS)
        if form.is_valid():
            kept = chosen.figures() if chosen is not None else {"index_positions": None}
            put_into_library(request.user, [{**kept, **form.cleaned_data}])
            messages.success(request, _("In the library now."))
            return redirect("workshop:library")
    return render(
        request, "workshop/store/library.html", _library_context(request, form=form), status=422 if form.errors else 200
    )


@require_GET
def library_file(request: HttpRequest, kind: str) -> HttpResponse:
    """Hand out the library as CSV or JSON."""
    require(request.user, Deed.READ_JOBS)
    rows = LibraryLimits.of(request.user).in_force()
    text, mime = (write_csv(rows), "text/csv") if kind == "csv" else (write_json(rows), "application/json")
    response = HttpResponse(text, content_type=f"{mime}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="iron-compass-limits.{kind}"'
    return response


@file_limit
@posted_from("workshop:library")
@counts_once
def library_import(request: HttpRequest) -> HttpResponse:
    """Have a file read by a worker: a dry run names every bad row and column; one without any is taken, whole."""
    require(request.user, Deed.SET_LIMITS)
    files = LibraryFileForm(request.POST, request.FILES)
    if not files.is_valid():
        context = _library_context(request) | {"file_form": files}
        return render(request, "workshop/store/library.html", context, status=422)
    file = files.cleaned_data["file"]
    work = ask_to_read(request.user, file.read(), name=file.name, dry=bool(request.POST.get("dry")))
    return redirect(where_it_stands(work))


@require_http_methods(["GET", "POST"])
@counts_once
def library_service(request: HttpRequest) -> HttpResponse:
    """Ask the limits service for a model, and take what it says into the library."""
    require(request.user, Deed.SET_LIMITS)
    words = (request.POST.get("model") or request.GET.get("model", "")).strip()[:60]
    source = limits_source()
    context: dict[str, Any] = {"asked": words, "source_name": source.name}
    try:
        read = source.find(words)
    except LimitsUnreachableError:
        context["unreachable"] = True
        return render(request, "workshop/store/library.html", _library_context(request) | context, status=502)
    if request.method == "POST" and read.rows and not read.bad:
        fresh = put_into_library(request.user, read.rows)
        messages.success(request, _("%(n)s taken into the library.") % {"n": fresh})
        return redirect("workshop:library")
    context |= {"found": [LibraryLimits(**row) for row in read.rows], "unusual": read.unusual}
    return render(request, "workshop/store/library.html", _library_context(request) | context)


@require_http_methods(["GET", "POST"])
@counts_once
def instruments(request: HttpRequest) -> HttpResponse:
    """Show the instruments and when they are due; add one, change one."""
    require(request.user, Deed.READ_JOBS)
    chosen = chosen_row(Instrument.of(request.user), request)
    form = InstrumentForm(request.POST or None, instance=chosen, unit=request.user.unit)
    if request.method == "POST":
        require(request.user, Deed.SET_LIMITS)
        if form.is_valid():
            keep_instrument(request.user, form.save(commit=False))
            messages.success(request, _("Saved: %(name)s.") % {"name": form.instance})
            return redirect("workshop:instruments")
    today = timezone.localdate()
    cards = [instrument_card(i, request.user.unit, today) for i in Instrument.of(request.user)]
    context = {"cards": cards, "form": form, "chosen": chosen, "edits": may(request.user, Deed.SET_LIMITS)}
    return render(request, "workshop/store/instruments.html", context, status=422 if form.errors else 200)


def _library_context(request: HttpRequest, *, form: LibraryForm | None = None) -> dict[str, Any]:
    words = request.GET.get("q", "")[:60]
    sent = named_in(request, *KINDS)
    return {
        "sent": shown(sent) if sent is not None else None,
        "rows": library_rows(request.user, words),
        "q": words,
        "form": form or LibraryForm(unit=request.user.unit),
        "file_form": LibraryFileForm(),
        "edits": may(request.user, Deed.SET_LIMITS),
        "source_name": limits_source().name,
    }


@require_http_methods(["GET", "POST"])
@counts_once
def lathes(request: HttpRequest) -> HttpResponse:
    """Show the lathes and their profiles; add one, change one."""
    return _tooling(request, LatheForm, Lathe, lathe_card, "workshop/store/lathes.html", "workshop:lathes")


@require_http_methods(["GET", "POST"])
@counts_once
def plates(request: HttpRequest) -> HttpResponse:
    """Show the correction plates and how many are left; add a kind, count the stock."""
    return _tooling(request, PlateForm, PlateKind, plate_card, "workshop/store/plates.html", "workshop:plates")


def _tooling(
    request: HttpRequest,
    form_class: type[ModelForm],
    model: Any,
    card: Callable[[Any, Unit], dict[str, Any]],
    template: str,
    here: str,
) -> HttpResponse:
    require(request.user, Deed.READ_JOBS)
    chosen = chosen_row(model.of(request.user), request)
    form = form_class(request.POST or None, instance=chosen, unit=request.user.unit)
    if request.method == "POST":
        require(request.user, Deed.KEEP_STORE)
        if form.is_valid():
            keep_tooling(request.user, form.save(commit=False))
            messages.success(request, _("Saved."))
            return redirect(here)
    context = {
        "cards": [card(row, request.user.unit) for row in model.of(request.user)],
        "form": form,
        "chosen": chosen,
        "edits": may(request.user, Deed.KEEP_STORE),
    }
    return render(request, template, context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def figures(request: HttpRequest) -> HttpResponse:
    """Show the workshop's prices, minutes and policy; only the lead changes them."""
    require(request.user, Deed.READ_JOBS)
    kept = ShopFigures.in_force(request.user)
    form = FiguresForm(request.POST or None, instance=kept, unit=request.user.unit)
    if request.method == "POST":
        require(request.user, Deed.SET_PRICES)
        if form.is_valid():
            try:
                keep_figures(request.user, version=form.cleaned_data["version"], **form.figures())
                messages.success(request, _("Saved. Every open job counts with these figures now."))
                return redirect("workshop:figures")
            except StaleError:
                form.add_error(None, _("Somebody changed these figures meanwhile. Open the page again and compare."))
    context = {
        "form": form,
        "edits": may(request.user, Deed.SET_PRICES),
        "policies": [
            {"code": code, "name": ShopFigures.School(code).label, "reason": _(policy.reason)}
            for code, policy in POLICIES.items()
        ],
        "policy": kept.policy,
    }
    return render(request, "workshop/store/figures.html", context, status=422 if form.errors else 200)
