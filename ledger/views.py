"""The ledger: what was found, done, foretold and came true; what the workshop learns from it."""

import csv
from typing import Any, Final

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ledger.actions import MovedError, accept, take_back
from ledger.forms import LedgerForm
from ledger.lathes import discs_cut, lathe_rows
from ledger.learning import all_learning, last_refitted, on_record
from ledger.learning_page import learning_rows, rates_table
from ledger.page import PAGES, Table, comebacks, hubs, odds, overview
from ledger.refitting import asked_anew
from workshop.long_work.asking import shown
from workshop.models import Lathe, Learned
from workshop.permissions import Deed, may, require
from workshop.planning import planned_anew
from workshop.posting import counts_once, posted_from
from workshop.storable import cell
from workshop.store.actions import turn_tips

_LOOKS: Final = {"overview": overview, "comebacks": comebacks, "odds": odds, "hubs": hubs}


@require_GET
def look(request: HttpRequest, page: str = "overview") -> HttpResponse:
    """Show one page of the ledger, or hand its table out as CSV."""
    require(request.user, Deed.READ_JOBS)
    form = LedgerForm(request.GET, user=request.user, today=timezone.localdate())
    context = _LOOKS[page](request.user, form)
    if request.GET.get("as") == "csv":
        return _csv(context["table"], page)
    context |= {"form": form, "here": page, "pages": PAGES, "grouped": page == "overview"}
    return render(request, "ledger/look.html", context)


@require_GET
def learning(request: HttpRequest) -> HttpResponse:
    """Show every figure that is learnt: ours, the data, now."""
    require(request.user, Deed.READ_JOBS)
    record, kept = on_record(request.user), last_refitted(request.user)
    anew = asked_anew(request.user, kept)
    context: dict[str, Any] = {
        **learning_rows(all_learning(request.user, record, kept), request.user.unit),
        "kept": kept,
        "anew": shown(anew) if anew is not None else None,
        "rates": rates_table(request.user),
        "past": record[:20],
        "accepts": may(request.user, Deed.SET_PRICES),
        "here": "learning",
        "pages": PAGES,
    }
    return render(request, "ledger/learning.html", context)


@require_GET
@planned_anew()
def lathes(request: HttpRequest) -> HttpResponse:
    """Show what each lathe left and read over time, and its tips."""
    require(request.user, Deed.READ_JOBS)
    rows = lathe_rows(request.user, request.user.unit)
    context = {"rows": rows, "turns": may(request.user, Deed.KEEP_STORE), "here": "lathes", "pages": PAGES}
    return render(request, "ledger/lathes.html", context)


@posted_from("ledger:lathes")
@counts_once
def tips_turned(request: HttpRequest, pk: int) -> HttpResponse:
    """Turn a lathe's tips, or put new ones in."""
    lathe = get_object_or_404(Lathe.of(request.user), pk=pk)
    now = request.POST.get("now", "")
    discs = discs_cut(request.user).get(pk, 0)
    seen = int(now) if now.isdecimal() and len(now) < 5 else 0
    row = turn_tips(request.user, lathe, now=seen, new=request.POST.get("new") == "yes", discs=discs)
    messages.success(request, _("%(lathe)s: tip corner %(n)s is in use.") % {"lathe": row, "n": row.tip_corner_now})
    return redirect("ledger:lathes")


@posted_from("ledger:learning")
@counts_once
def accepted(request: HttpRequest) -> HttpResponse:
    """Put a refit into force."""
    require(request.user, Deed.SET_PRICES)
    try:
        row = accept(request.user, request.POST.get("key", ""), seen=_number(request.POST.get("seen", "")))
        messages.success(request, _("In force from the next job on: %(name)s.") % {"name": row.get_figure_display()})
    except MovedError:
        messages.error(request, _("The jobs have moved this figure since you looked; look again, then accept."))
    return redirect("ledger:learning")


@posted_from("ledger:learning")
@counts_once
def taken_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an accepted figure back."""
    require(request.user, Deed.SET_PRICES)
    row = take_back(request.user, get_object_or_404(Learned.of(request.user), pk=pk).pk)
    if row is None:
        messages.error(request, _("That one is not in force any more; nothing was changed."))
    else:
        messages.success(request, _("Taken back: what stood before counts again."))
    return redirect("ledger:learning")


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return float("nan")


def _csv(table: Table, page: str) -> HttpResponse:
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="iron-compass-ledger-{page}.csv"'
    writer = csv.writer(response)
    writer.writerow(table.heads)
    writer.writerows([cell(text) for text in row] for row in table.rows)
    return response
