"""Lathes over time: what their compensation read, what they left, what the tips in use have cut. Reads only."""

from typing import Any

from django.db.models import Max
from django.utils.formats import date_format
from django.utils.translation import gettext as _

from compass.ground.units import Unit
from drawing.drift import DriftLine, draw_drift
from jobs.models import CornerWorked, Cut
from workshop.models import Lathe, TipTurned, User

_MOST = 120


def lathe_rows(user: User, unit: Unit) -> list[dict[str, Any]]:
    """Return every lathe in use with its compensations, what it left and its tips; four queries for all."""
    lathes = list(Lathe.of(user).filter(retired=False))
    turned = dict(TipTurned.of(user).values_list("lathe").annotate(at=Max("at")))
    checks: dict[int, list[tuple[Any, float]]] = {}
    for lathe, at, mm in (
        Cut.of(user)
        .filter(check_read_mm__isnull=False)
        .order_by("-pk")
        .values_list("lathe", "created_at", "check_read_mm")
    )[:_MOST]:
        checks.setdefault(lathe, []).append((at, mm))
    left: dict[int, list[tuple[Any, float]]] = {}
    for lathe, at, mm in (
        CornerWorked.of(user)
        .filter(lathe__kind=Lathe.Kind.ON_VEHICLE, runout_mm__isnull=False, closing__stands=True)
        .order_by("-pk")
        .values_list("lathe", "closing__at", "runout_mm")
    )[:_MOST]:
        left.setdefault(lathe, []).append((at, mm))
    return [
        _row(user, lathe, checks.get(lathe.pk, []), left.get(lathe.pk, []), turned.get(lathe.pk), unit)
        for lathe in lathes
    ]


def discs_since(user: User, lathe: Lathe, since: Any) -> int:
    """Return how many discs were cut on a lathe since a moment (None: ever), by jobs closed."""
    works = CornerWorked.of(user).filter(lathe=lathe, closing__stands=True)
    return int((works if since is None else works.filter(closing__at__gt=since)).count())


def last_turned(user: User, lathe: Lathe) -> Any:
    """Return when a lathe's tips were turned last; None where that is not on record."""
    return TipTurned.of(user).filter(lathe=lathe).aggregate(at=Max("at"))["at"]


def _row(user: User, lathe: Lathe, checks: Any, left: Any, since: Any, unit: Unit) -> dict[str, Any]:
    return {
        "lathe": lathe,
        "checks": _drawn(checks, lathe, unit, _("What the dial on the compensated lathe read, cut by cut")),
        "left": _drawn(left, lathe, unit, _("Runout the lathe left, job by job, beside what its profile states")),
        "discs": discs_since(user, lathe, since),
        "since": since,
    }


def _drawn(points: list[tuple[Any, float]], lathe: Lathe, unit: Unit, title: str) -> str:
    if len(points) < 2:
        return ""
    ordered = sorted(points)
    at = tuple((moment.timestamp() / 86_400, mm) for moment, mm in ordered)
    limit = lathe.runout_left_mm
    said = f"{limit / 0.0254:.2f} thou" if unit is Unit.THOU else f"{limit * 1000:.0f} µm"
    first, last = (date_format(moment, "j M Y") for moment in (ordered[0][0], ordered[-1][0]))
    return draw_drift(DriftLine(at, limit, both=False), first=first, last=last, limit=said, title=title)
