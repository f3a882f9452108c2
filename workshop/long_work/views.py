"""How far a long work is; its file; stopping it, asking again."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from workshop.addresses import address
from workshop.long_work.asking import ask_again, stop, works_of
from workshop.long_work.kinds import KINDS
from workshop.models import LongWork
from workshop.posting import counts_once, posted_from


@require_GET
def work(request: HttpRequest, pk: int) -> HttpResponse:
    """Show how far a work is; a page that waits asks for the middle of it anew, and is led to what was made."""
    row = _work(request, pk)
    kind = KINDS[row.kind]
    context = {"work": row, "title": kind.title, "share": percent_done(row)}
    if not request.htmx:
        if kind.leads_to is not None:
            return redirect(kind.leads_to(row))
        return render(request, "workshop/long_work/work.html", context)
    partial = "_work" if kind.leads_to is None else "_beside"
    response = render(request, f"workshop/long_work/{partial}.html", context)
    if row.made_type == "application/pdf":
        response["HX-Redirect"] = reverse("workshop:work-file", args=[pk])
    elif kind.leads_to is not None and not row.is_under_way:
        response["HX-Refresh"] = "true"  # it is asked for by that very page
    return response


@require_GET
def work_file(request: HttpRequest, pk: int) -> HttpResponse:
    """Hand out what a work made."""
    row = _work(request, pk)
    if row.made is None:
        raise Http404
    response = HttpResponse(bytes(row.made), content_type=row.made_type)
    way = "inline" if row.made_type == "application/pdf" else "attachment"
    response["Content-Disposition"] = f'{way}; filename="{row.made_name}"'
    return response


@posted_from("workshop:work", "pk")
@counts_once
def stopped(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a work."""
    stop(_work(request, pk))
    return redirect(address("workshop:work", pk))


@posted_from("workshop:work", "pk")
@counts_once
def asked_again(request: HttpRequest, pk: int) -> HttpResponse:
    """Try a work once more."""
    ask_again(_work(request, pk))
    return redirect(address("workshop:work", pk))


def _work(request: HttpRequest, pk: int) -> LongWork:
    return get_object_or_404(works_of(request.user), pk=pk)


def percent_done(row: LongWork) -> int:
    """Return how much of a work is done."""
    return round(100 * row.steps_done / row.steps) if row.steps else 0
