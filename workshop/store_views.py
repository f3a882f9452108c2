"""The store: the limits library with its files and its service, and the instruments with their checks."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from workshop.actions import keep_instrument
from workshop.adapters import unit_of
from workshop.forms import InstrumentForm, LibraryFileForm, LibraryForm
from workshop.library import library_rows, put_into_library
from workshop.library_files import read_file, write_csv, write_json
from workshop.limits_service import LimitsUnreachableError, limits_source
from workshop.models import Instrument, LibraryLimits
from workshop.policy import Deed, may, require


@require_http_methods(["GET", "POST"])
def library(request: HttpRequest) -> HttpResponse:
    """Show the library; add or change the limits of one model's axle."""
    require(request.user, Deed.READ_JOBS)
    chosen = LibraryLimits.objects.filter(pk=request.GET.get("change") or 0).first()
    initial = {"model": chosen.model, "axle": chosen.axle, **chosen.figures()} if chosen is not None else {}
    form = LibraryForm(request.POST or None, unit=unit_of(request.user), initial=initial)
    if request.method == "POST":
        require(request.user, Deed.SET_LIMITS)
        if form.is_valid():
            kept = chosen.figures() if chosen is not None else {"index_positions": None}
            put_into_library(request.user, [{**kept, **form.cleaned_data}])
            messages.success(request, _("In the library now."))
            return redirect("workshop:library")
    return render(
        request, "workshop/library.html", _library_context(request, form=form), status=422 if form.errors else 200
    )


@require_GET
def library_file(request: HttpRequest, kind: str) -> HttpResponse:
    """Hand out the library as CSV or JSON."""
    require(request.user, Deed.READ_JOBS)
    rows = LibraryLimits.objects.in_force()
    text, mime = (write_csv(rows), "text/csv") if kind == "csv" else (write_json(rows), "application/json")
    response = HttpResponse(text, content_type=f"{mime}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="iron-compass-limits.{kind}"'
    return response


@require_POST
def library_import(request: HttpRequest) -> HttpResponse:
    """Read a file: a dry run names every bad row and column; only a file without any is taken, whole."""
    require(request.user, Deed.SET_LIMITS)
    files = LibraryFileForm(request.POST, request.FILES)
    context = _library_context(request)
    if not files.is_valid():
        return render(request, "workshop/library.html", context | {"file_form": files}, status=422)
    read = read_file(files.cleaned_data["file"].read())
    if read.bad or request.POST.get("dry"):
        context |= {"read": read, "dry": not read.bad}
        return render(request, "workshop/library.html", context, status=422 if read.bad else 200)
    fresh = put_into_library(request.user, read.rows)
    messages.success(request, _("%(n)s rows read, %(fresh)s new or changed.") % {"n": len(read.rows), "fresh": fresh})
    return redirect("workshop:library")


@require_http_methods(["GET", "POST"])
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
        return render(request, "workshop/library.html", _library_context(request) | context, status=502)
    if request.method == "POST" and read.rows and not read.bad:
        fresh = put_into_library(request.user, read.rows)
        messages.success(request, _("%(n)s taken into the library.") % {"n": fresh})
        return redirect("workshop:library")
    context["found"] = [LibraryLimits(**row) for row in read.rows]
    return render(request, "workshop/library.html", _library_context(request) | context)


@require_http_methods(["GET", "POST"])
def instruments(request: HttpRequest) -> HttpResponse:
    """Show the instruments and when they are due; add one, change one."""
    require(request.user, Deed.READ_JOBS)
    chosen = None
    if request.GET.get("change", "").isdecimal():
        chosen = get_object_or_404(Instrument, pk=request.GET["change"])
    form = InstrumentForm(request.POST or None, instance=chosen, unit=unit_of(request.user))
    if request.method == "POST":
        require(request.user, Deed.SET_LIMITS)
        if form.is_valid():
            keep_instrument(request.user, form.save(commit=False))
            messages.success(request, _("Saved: %(name)s.") % {"name": form.instance})
            return redirect("workshop:instruments")
    today = timezone.localdate()
    rows = [{"row": i, "due": i.is_due(today)} for i in Instrument.objects.all()]
    context = {"instruments": rows, "form": form, "chosen": chosen, "edits": may(request.user, Deed.SET_LIMITS)}
    return render(request, "workshop/instruments.html", context, status=422 if form.errors else 200)


def _library_context(request: HttpRequest, *, form: LibraryForm | None = None) -> dict[str, Any]:
    words = request.GET.get("q", "")[:60]
    return {
        "rows": library_rows(words),
        "q": words,
        "form": form or LibraryForm(unit=unit_of(request.user)),
        "file_form": LibraryFileForm(),
        "edits": may(request.user, Deed.SET_LIMITS),
        "source_name": limits_source().name,
    }
