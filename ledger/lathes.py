"""Lathes over time: what their compensation read, what they left, what the tips in use have cut. Reads only."""

from datetime import timedelta
from typing import Any

from django.db.models import Count, Max, Q
from django.utils.formats import date_format
from django.utils.translation import gettext as _

from compass.ground.translation import written
from compass.ground.units import Unit
from drawing.drift import DriftLine, draw_drift
from jobs.models import Closing, CornerWorked, Cut
from workshop.models import Lathe, TipTurned, User

_MOST = 120


def lathe_rows(user: User, unit: Unit) -> list[dict[str, Any]]:
    """Return every lathe in use with its compensations, what it left and its tips; no query a lathe."""
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
    on_vehicle = [one.pk for one in lathes if one.kind == Lathe.Kind.ON_VEHICLE]
    worked = list(
        CornerWorked.of(user)
        .filter(lathe__in=on_vehicle, runout_mm__isnull=False, stands=True)
        .order_by("-pk")
        .values_list("lathe", "closing", "runout_mm")[:_MOST]
    )
    closed_at = dict(Closing.of(user).filter(pk__in={pk for _lathe, pk, _mm in worked}).values_list("pk", "at"))
    for lathe, closing, mm in worked:
        left.setdefault(lathe, []).append((closed_at[closing], mm))
    discs = discs_cut(user)
    return [
        _row(one, checks.get(one.pk, []), left.get(one.pk, []), turned.get(one.pk), discs.get(one.pk, 0), unit)
        for one in lathes
    ]


def discs_cut(user: User) -> dict[int, int]:
    """Return how many discs each lathe has cut since its tips were turned last, by jobs closed; three queries.

    All works of ten years are counted without their closings; only those since the tips were turned are looked up.
    """
    turned = dict(TipTurned.of(user).values_list("lathe").annotate(at=Max("at")))
    works = CornerWorked.of(user).filter(lathe__isnull=False, stands=True).order_by()
    counts = dict(works.exclude(lathe__in=turned).values_list("lathe").annotate(n=Count("workshop")))
    if turned:
        since = Q()
        for lathe, at in turned.items():
            since |= Q(lathe=lathe, on__gte=at.date() - timedelta(days=1))  # the day here may be another than UTC's
        for lathe, at in works.filter(since).values_list("lathe", "closing__at"):
            counts[lathe] = counts.get(lathe, 0) + (at > turned[lathe])
    return counts


def _row(lathe: Lathe, checks: Any, left: Any, since: Any, discs: int, unit: Unit) -> dict[str, Any]:
    return {
        "lathe": lathe,
        "checks": _drawn(checks, lathe, unit, _("What the dial on the compensated lathe read, cut by cut")),
        "left": _drawn(left, lathe, unit, _("Runout the lathe left, job by job, beside what its profile states")),
        "discs": discs,
        "since": since,
    }


def _drawn(points: list[tuple[Any, float]], lathe: Lathe, unit: Unit, title: str) -> str:
    if len(points) < 2:
        return ""
    ordered = sorted(points)
    at = tuple((moment.timestamp() / 86_400, mm) for moment, mm in ordered)
    limit = lathe.runout_left_mm
    said = written(f"{limit / 0.0254:.2f} thou" if unit is Unit.THOU else f"{limit * 1000:.0f} µm")
    first, last = (date_format(moment, "DAY") for moment in (ordered[0][0], ordered[-1][0]))
    return draw_drift(DriftLine(at, limit, both=False), first=first, last=last, limit=said, title=title)
