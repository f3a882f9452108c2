"""Pages of the simulated corner."""

from contextlib import suppress
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from compass.ground.errors import UnreadableNumberError
from practice.corner.actions import SHOP, EndedError, act, answer, begin, keep_draft
from practice.corner.forms import AnswerForm, TouchForm
from practice.corner.page import last_marks, result_context, said_words, stage_context, turn_data
from practice.corner.standing import AtBench, at_bench
from practice.models import Attempt, MadeExercise
from workshop.permissions import Deed, require
from workshop.posting import posted_from
from workshop.words import unreadable


@posted_from("practice:home")
def begun(request: HttpRequest) -> HttpResponse:
    """Begin an exercise, or go on with it where it stood."""
    code = request.POST.get("exercise", "")
    made = None
    if code.startswith("made-") and code[5:].isdecimal():
        made = get_object_or_404(MadeExercise.of(request.user), pk=int(code[5:][:18]), retired=False)
    try:
        row = begin(request.user, code, made=made)
    except KeyError as error:
        raise Http404 from error
    return redirect("practice:corner", row.pk)


@require_GET
def corner(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the corner to work at, or the marks when it is over."""
    bench = _bench(request, pk)
    if bench.attempt.ended_at is not None:
        said = said_words(bench.attempt, bench.exercise.at)
        return render(request, "practice/result.html", result_context(request.user, bench) | {"said": said})
    return _page(request, bench)


def _page(request: HttpRequest, bench: AtBench, *, form: AnswerForm | None = None, status: int = 200) -> HttpResponse:
    context = stage_context(bench) | {
        "exercise": bench.exercise,
        "spec": bench.spec,
        "form": form or _form(bench, initial=bench.attempt.draft),
        "last": last_marks(request.user, bench.attempt.exercise),
    }
    return render(request, "practice/corner.html", context, status=status)


@posted_from("practice:corner", "pk")
def acted(request: HttpRequest, pk: int) -> HttpResponse:
    """Carry one act out, and draw the corner as it stands then; a turn alone comes as figures."""
    _bench(request, pk)
    form = TouchForm(request.POST)
    if not form.is_valid():
        return HttpResponse(status=400)
    name, touch = form.cleaned_data["act"], form.touch()
    try:
        bench = act(request.user, pk, name, touch)
    except EndedError:
        return _elsewhere(request, pk)
    except UnreadableNumberError as error:
        context = stage_context(_bench(request, pk), error=unreadable(error), typed=touch.value)
        return render(request, "practice/_acted.html", context, status=422)
    if name == "next_turn":
        return JsonResponse(turn_data(bench))
    if not request.htmx:
        return redirect("practice:corner", pk)
    return render(request, "practice/_acted.html", stage_context(bench, noted=name == "note"))


@posted_from("practice:corner", "pk")
def drafted(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep the answer as far as it is typed."""
    bench = _bench(request, pk)
    form = _form(bench)
    try:
        keep_draft(request.user, pk, {name: request.POST.get(name, "") for name in form.fields})
    except EndedError:
        return _elsewhere(request, pk)
    return HttpResponse(status=204)


@posted_from("practice:corner", "pk")
def answered(request: HttpRequest, pk: int) -> HttpResponse:
    """Take the answer, or say beside the field what is wrong with it."""
    bench = _bench(request, pk)
    form = _form(bench, data=request.POST)
    if not form.is_valid():
        return _page(request, bench, form=form, status=422)
    said = form.answer(SHOP)
    if not any((said.high_deg is not None, said.tir_mm, said.state, said.variation, said.thinnest_mm, said.cause)):
        form.add_error(None, _("Say something of what you found first: nothing is asked of you but to try."))
        return _page(request, bench, form=form, status=422)
    with suppress(EndedError):  # pressed twice: its marks are there
        answer(request.user, pk, said)
    return redirect("practice:corner", pk)


def _form(bench: AtBench, **options: Any) -> AnswerForm:
    exercise = bench.exercise
    return AnswerForm(
        asks=exercise.asks, spec=bench.specs[exercise.at], corners=list(bench.corners), shop=SHOP, **options
    )


def _bench(request: HttpRequest, pk: int) -> AtBench:
    """Return one's own attempt; anybody else's is not there."""
    require(request.user, Deed.PRACTISE)
    rows = Attempt.of(request.user).select_related("made")
    return at_bench(get_object_or_404(rows, pk=pk, person=request.user))


def _elsewhere(request: HttpRequest, pk: int) -> HttpResponse:
    """Another tab has ended it: go to its marks."""
    response = redirect("practice:corner", pk)
    if request.htmx:
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
    return response
