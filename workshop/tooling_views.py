"""The store's tooling and figures: lathes, correction plates, prices, minutes and policy."""

from typing import Any

from django.contrib import messages
from django.forms import ModelForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from compass.choose.policies import POLICIES
from workshop.actions import StaleFiguresError, keep_figures, keep_tooling
from workshop.adapters import unit_of
from workshop.forms import FiguresForm, LatheForm, PlateForm
from workshop.models import Lathe, PlateKind, ShopFigures
from workshop.policy import Deed, may, require


@require_http_methods(["GET", "POST"])
def lathes(request: HttpRequest) -> HttpResponse:
    """Show the lathes and their profiles; add one, change one."""
    return _tooling(request, LatheForm, Lathe, "workshop/lathes.html", "workshop:lathes")


@require_http_methods(["GET", "POST"])
def plates(request: HttpRequest) -> HttpResponse:
    """Show the correction plates and how many are left; add a kind, count the stock."""
    return _tooling(request, PlateForm, PlateKind, "workshop/plates.html", "workshop:plates")


def _tooling(request: HttpRequest, form_class: type[ModelForm], model: Any, template: str, here: str) -> HttpResponse:
    require(request.user, Deed.READ_JOBS)
    chosen = None
    if request.GET.get("change", "").isdecimal():
        chosen = get_object_or_404(model, pk=request.GET["change"])
    form = form_class(request.POST or None, instance=chosen, unit=unit_of(request.user))
    if request.method == "POST":
        require(request.user, Deed.KEEP_STORE)
        if form.is_valid():
            keep_tooling(request.user, form.save(commit=False))
            messages.success(request, _("Saved."))
            return redirect(here)
    context = {
        "rows": model.objects.all(),
        "form": form,
        "chosen": chosen,
        "edits": may(request.user, Deed.KEEP_STORE),
    }
    return render(request, template, context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def figures(request: HttpRequest) -> HttpResponse:
    """Show the workshop's prices, minutes and policy; only the lead changes them."""
    require(request.user, Deed.READ_JOBS)
    kept = ShopFigures.in_force()
    form = FiguresForm(request.POST or None, instance=kept, unit=unit_of(request.user))
    if request.method == "POST":
        require(request.user, Deed.SET_PRICES)
        if form.is_valid():
            try:
                keep_figures(request.user, version=form.cleaned_data["version"], **form.figures())
                messages.success(request, _("Saved. Every open job counts with these figures now."))
                return redirect("workshop:figures")
            except StaleFiguresError:
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
    return render(request, "workshop/figures.html", context, status=422 if form.errors else 200)
