"""Aggregates over closed jobs, made in the database. Reads only; each function says how many queries it makes."""

from typing import Any, Final

from django.db.models import Avg, Case, Count, F, IntegerField, Q, Sum, Value, When
from django.db.models.functions import Greatest

from jobs.models import Closing, Job
from workshop.models import User

_KEYS: Final[dict[str, Any]] = {
    "cause": F("root_cause"),
    "remedy": F("remedy"),
    "model": F("model"),
    "axle": F("axle"),
    "person": F("done_by"),
    "lathe": F("lathe__name"),
    "plate": F("plate__correction_mm"),
    "supplier": F("supplier"),
    "month": F("month"),
}
_ONLY: Final[dict[str, dict[str, Any]]] = {
    "lathe": {"lathe__isnull": False},
    "plate": {"plate__isnull": False},
    "supplier": {"supplier__gt": ""},
}
BIN_KM: Final = 250
MOST_GROUPS: Final = 40


def grouped(works: Any, group: str) -> list[dict[str, Any]]:
    """Return what was found, foretold and came true, group by group, in one query.

    ``jobs`` and ``back`` count jobs, the rest corners. The largest groups first, months in their order.
    """
    rows = works.filter(**_ONLY.get(group, {})).values(key=_KEYS[group]).annotate(**_COUNTS)
    return list(rows.order_by("key" if group == "month" else "-corners")[:MOST_GROUPS])


def whole(works: Any, rows: list[dict[str, Any]], group: str) -> dict[str, Any]:
    """Return the counts over all that fits: of the groups where they hold everything, else by one query."""
    if group in _ONLY or len(rows) >= MOST_GROUPS:
        return dict(works.aggregate(**{name: _COUNTS[name] for name in COUNTED}))
    return {name: sum(row[name] for row in rows) for name in COUNTED}


COUNTED: Final = ("corners", "jobs", "measured", "within_n", "back", "needless_n", "spared_n")


_COUNTS: Final[dict[str, Any]] = {
    "corners": Count("*"),
    "jobs": Count("pk", filter=Q(leads=True)),
    "measured": Count("within"),
    "within_n": Count("pk", filter=Q(within=True)),
    "inside": Count("pk", filter=Q(came="inside")),
    "better": Count("pk", filter=Q(came="better")),
    "worse": Count("pk", filter=Q(came="worse")),
    "back": Count("pk", filter=Q(leads=True, back=True)),
    "needless_n": Count("pk", filter=Q(leads=True, needless=True)),
    "spared_n": Count("pk", filter=Q(spared=True)),
    "before_mm": Avg("runout_before_mm"),
    "after_mm": Avg("runout_mm"),
    "spent": Sum("price"),
    "minutes_said_avg": Avg("minutes_said"),
    "minutes_taken_avg": Avg("minutes_taken"),
}


def jobs_closed(user: User) -> dict[str, int]:
    """Return how many jobs were closed, proven, with nothing found, in one query."""
    return dict(
        Closing.of(user)
        .filter(stands=True)
        .aggregate(
            closed=Count("pk"),
            proven_n=Count("pk", filter=Q(proven=True)),
            nothing=Count("pk", filter=Q(found_cause="none_found")),
        )
    )


def followed(works: Any) -> list[dict[str, Any]]:
    """Return how far works have gone, in bins of ``BIN_KM``: remedy, km, whether they came back, how many.

    Two queries: those seen again, no further than that visit, and those still on the road, as far as is known.
    """
    keys = ("remedy", "gone", "is_back")
    led = works.filter(leads=True)
    seen = led.filter(gone_km__isnull=False).annotate(gone=F("gone_km") / BIN_KM, is_back=_BACK)
    last = F("vehicle__odometer_km") - F("odometer_km")
    waiting = led.filter(gone_km__isnull=True, closing__seen_again__isnull=True).annotate(far=last)
    waiting = waiting.filter(far__gte=0).annotate(gone=F("far") / BIN_KM, is_back=Value(0))
    rows: dict[tuple[Any, ...], int] = {}
    for some in (seen, waiting):
        for row in some.values(*keys).annotate(n=Count("pk")).order_by():
            key = tuple(row[name] for name in keys)
            rows[key] = rows.get(key, 0) + row["n"]
    return [dict(zip((*keys, "n"), (*key, n), strict=True)) for key, n in sorted(rows.items())]


_BACK: Final = Case(When(back=True, then=Value(1)), default=Value(0), output_field=IntegerField())


def tenths(works: Any) -> list[dict[str, Any]]:
    """Return what was said with which odds of running within, and how often it came true, by tenths; one query."""
    rows = works.filter(odds_tenth__isnull=False, within__isnull=False)
    counts = {"said": Avg("odds_within"), "n": Count("pk"), "came_n": Count("pk", filter=Q(within=True))}
    return list(rows.values(tenth=F("odds_tenth")).annotate(**counts).order_by("tenth"))


def comeback_tenths(works: Any, *, warranty_km: float) -> list[dict[str, Any]]:
    """Return the same of comebacks within the warranty distance, of vehicles that have gone it since; one query.

    Whether a job came back early or not at all, it counts only once its vehicle has had the whole distance to do so.
    """
    gone = F("vehicle__odometer_km") - F("odometer_km")
    rows = works.filter(leads=True, comeback_tenth__isnull=False).annotate(gone=gone)
    came = Count("pk", filter=Q(back=True, gone_km__lt=warranty_km))
    counts = {"said": Avg("comeback_odds"), "n": Count("pk"), "came_n": came}
    rows = rows.filter(gone__gte=warranty_km).values(tenth=F("comeback_tenth"))
    return list(rows.annotate(**counts).order_by("tenth"))


def hub_shares(works: Any) -> list[dict[str, Any]]:
    """Return the hub's share of the runout by model: corners told apart, the mean, hub and rotor; one query."""
    share = Greatest(Value(0.0), Case(When(hub_share__gt=1.0, then=Value(1.0)), default=F("hub_share")))
    rows = works.filter(hub_share__isnull=False, root_cause__gt="").exclude(root_cause="none_found")
    return list(
        rows.values(key=F("model"))
        .annotate(
            n=Count("pk"),
            share=Avg(share),
            hub=Avg("hub_mm"),
            rotor=Avg("rotor_mm"),
            mostly_hub=Count("pk", filter=Q(hub_share__gte=0.6)),
            mostly_rotor=Count("pk", filter=Q(hub_share__lte=0.4)),
        )
        .order_by("-n")[:MOST_GROUPS]
    )


def causes_closed(user: User) -> list[tuple[str, int]]:
    """Return how many jobs were closed as which cause, in one query."""
    rows = Job.of(user).filter(state=Job.State.CLOSED).exclude(found_cause="").values("found_cause")
    return [(row["found_cause"], row["n"]) for row in rows.annotate(n=Count("pk")).order_by("-n")]
