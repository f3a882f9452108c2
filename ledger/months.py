"""Sums of closed months, kept: counted once after a month's works have changed, then read. The only reader of them."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Final

from django.db import connection
from django.db.models import Q
from django.db.models.fields.json import KeyTransform
from psycopg.types.json import Jsonb

from jobs.models import ClosedMonth, CornerWorked
from ledger.facts import KINDS
from workshop.models import User


@dataclass(frozen=True)
class ByMonths:
    """All works of whole months; ``since`` is the first day of one, ``until`` the last; None is without end."""

    user: User
    since: date | None
    until: date | None

    def of(self, kind: str) -> list[dict[str, Any]]:
        """Add up what is kept; months that changed since are counted first."""
        fits = Q()
        if self.since:
            fits &= Q(month__gte=self.since)
        if self.until:
            fits &= Q(month__lte=self.until)
        of_month = "axle" if kind == "month" else kind
        months = ClosedMonth.of(self.user).filter(fits).values_list("month", "version", KeyTransform(of_month, "sums"))
        rows = {month: (version, sums) for month, version, sums in months}
        missing = {month: version for month, (version, sums) in rows.items() if sums is None}
        counted = _count(self.user, of_month, missing) if missing else {}
        names = list(KINDS[kind].sums)
        added: dict[Any, list[float]] = {}
        for month, (_version, sums) in rows.items():
            for key, *numbers in counted.get(month, sums):
                at = month if kind == "month" else key
                added[at] = [a + b for a, b in zip(added[at], numbers, strict=True)] if at in added else numbers
        return [{"key": key, **dict(zip(names, numbers, strict=True))} for key, numbers in added.items()]


# Works that changed while they were counted have moved the version on: what was counted is not kept then.
_KEEP: Final = """
update jobs_closedmonth kept set sums = coalesce(kept.sums, '{}') || jsonb_build_object(%s::text, told.sums)
from jsonb_to_recordset(%s) as told (month date, version int, sums jsonb)
where kept.workshop_id = %s and kept.month = told.month and kept.version = told.version
"""


def _count(user: User, kind: str, versions: dict[date, int]) -> dict[date, list[list[Any]]]:
    """Count months anew in one kind, and keep what is still true once it is counted."""
    what = KINDS[kind]
    counted: dict[date, list[list[Any]]] = {month: [] for month in versions}
    works = CornerWorked.of(user).filter(what.only, stands=True, month__in=list(versions))
    for month, *numbers in works.values_list("month", what.key).annotate(**what.sums).order_by():
        counted[month].append(numbers)
    told = [{"month": f"{month}", "version": versions[month], "sums": numbers} for month, numbers in counted.items()]
    with connection.cursor() as cursor:
        cursor.execute(_KEEP, [kind, Jsonb(told), user.here_id])
    return counted
