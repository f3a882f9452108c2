"""Pages of the simulated lathes."""

from contextlib import suppress

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET

from practice.lathe.actions import ACTS, MOST_LINES, OverError, act, at_lathe, begin, finish
from practice.lathe.page import lathe_context
from practice.models import LatheTry
from workshop.permissions import Deed, require
from workshop.posting import posted_from


class LatheForm(forms.Form):
    """One act, and what the knobs and the feed stand at."""

    act = forms.ChoiceField(choices=[(name, name) for name in ACTS])
    out_lines = forms.FloatField(min_value=0, max_value=MOST_LINES, required=False)
    in_lines = forms.FloatField(min_value=0, max_value=MOST_LINES, required=False)
    feed = forms.ChoiceField(choices=[("rough", "rough"), ("finish", "finish")], required=False)


@posted_from("practice:home")
def begun(request: HttpRequest) -> HttpResponse:
    """Put a disc on a lathe, or go on where it stood."""
    try:
        return redirect("practice:lathe", begin(request.user, request.POST.get("task", "")).pk)
    except KeyError as error:
        raise Http404 from error


@require_GET
def lathe(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the lathe."""
    require(request.user, Deed.PRACTISE)
    row = get_object_or_404(LatheTry.of(request.user), pk=pk, person=request.user)
    return render(request, "practice/lathe.html", lathe_context(request.user, at_lathe(row)))


@posted_from("practice:lathe", "pk")
def acted(request: HttpRequest, pk: int) -> HttpResponse:
    """Do something at the lathe, and draw it as it stands then."""
    require(request.user, Deed.PRACTISE)
    row = get_object_or_404(LatheTry.of(request.user), pk=pk, person=request.user)
    form = LatheForm(request.POST)
    if not form.is_valid():
        context = lathe_context(request.user, at_lathe(row)) | {"form": form}
        return render(request, "practice/_lathe.html" if request.htmx else "practice/lathe.html", context, status=422)
    told = form.cleaned_data
    lines = (told["out_lines"] or 0.0, told["in_lines"] or 0.0)
    try:
        bench, said = act(request.user, pk, told["act"], lines=lines, feed=told["feed"] or "finish")
    except OverError:
        return redirect("practice:lathe", pk)
    if not request.htmx:
        return redirect("practice:lathe", pk)
    return render(request, "practice/_lathe.html", lathe_context(request.user, bench, said=said))


@posted_from("practice:lathe", "pk")
def finished(request: HttpRequest, pk: int) -> HttpResponse:
    """Take the disc off and show the marks."""
    get_object_or_404(LatheTry.of(request.user), pk=pk, person=request.user)
    with suppress(OverError):
        finish(request.user, pk)
    return redirect("practice:lathe", pk)
