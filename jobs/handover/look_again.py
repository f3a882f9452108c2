"""What is to be looked at again: overdue, due, and to come. Reads only."""

from datetime import date, timedelta
from typing import Any, Final

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from compass.words.codes import CAUSES, remedy_name
from compass.words.figures import odds_text
from jobs.models import Closing
from workshop.models import POSITION_NAMES, User

SOON: Final = timedelta(days=30)
STATES: Final = ("due", "soon", "all", "gone")


def due_rows(user: User, closings: Any, *, today: date) -> list[dict[str, Any]]:
    """Return closings as rows of the list, in two queries."""
    rows = closings.select_related("vehicle", "rung_by").prefetch_related("works")
    return [_row(row, today) for row in rows]


def waiting(user: User, *, state: str, today: date) -> Any:
    """Return the closings of a state, the longest overdue first: due now, within a month, all that wait, or sold."""
    rows = Closing.of(user)
    if state == "gone":
        return rows.gone().order_by("-rung_at", "-pk")
    kept = rows.due(today) if state == "due" else rows.due(today + SOON) if state == "soon" else rows.waiting()
    return kept.order_by("due_on", "pk")


def _row(closing: Closing, today: date) -> dict[str, Any]:
    vehicle = closing.vehicle
    gone = closing.due_km is not None and (vehicle.odometer_km or 0) >= closing.due_km
    late = (today - closing.due_on).days if closing.due_on is not None else 0
    if gone:
        state = _("its distance is gone")
    elif late > 0:
        state = ngettext("%(n)s day overdue", "%(n)s days overdue", late) % {"n": late}
    elif late == 0:
        state = _("due today")
    else:
        state = _("in %(n)s days") % {"n": -late}
    return {
        "closing": closing,
        "vehicle": vehicle,
        "state": state,
        "overdue": gone or late > 0,
        "done": works_words(closing),
        "chance": odds_text(closing.chance) if closing.chance is not None else "",
        "cause": _(CAUSES[closing.found_cause]) if closing.found_cause in CAUSES else "",
    }


def works_words(closing: Closing) -> str:
    """Say what was done, corner by corner."""
    by_remedy: dict[str, list[str]] = {}
    for worked in closing.works.all():
        by_remedy.setdefault(worked.remedy, []).append(worked.position)
    return "; ".join(
        ", ".join(str(POSITION_NAMES[p]) for p in positions) + ": " + _(remedy_name(remedy, positions[0]))
        for remedy, positions in by_remedy.items()
    )
