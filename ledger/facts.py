"""Aggregates over closed jobs, made in the database. Reads only."""

from dataclasses import dataclass
from typing import Any, Final, Protocol

from django.db.models import Avg, Case, CharField, Count, F, IntegerField, Q, Sum, Value, When
from django.db.models.functions import Cast, Concat, Greatest

from jobs.models import Closing, Job
from workshop.models import User

BIN_KM: Final = 250
MOST_GROUPS: Final = 40


@dataclass(frozen=True)
class Kind:
    """Something that is counted over works: by which key, of which of them, which sums."""

    key: Any
    only: Q
    sums: dict[str, Any]


class Counts(Protocol):
    """Works that can be counted: row by row, or by sums that are kept month by month."""

    def of(self, kind: str) -> list[dict[str, Any]]:
        """Return a row a key, with the sums of that kind (``KINDS``); sums over nothing are 0."""
        ...


# Rows are counted by their workshop, which every index begins with: counted by their number, no index would do alone.
_SUMS: Final[dict[str, Any]] = {
    "corners": Count("workshop"),
    "jobs": Count("workshop", filter=Q(leads=True)),
    "measured": Count("within"),
    "within_n": Count("workshop", filter=Q(within=True)),
    "inside": Count("workshop", filter=Q(came="inside")),
    "better": Count("workshop", filter=Q(came="better")),
    "worse": Count("workshop", filter=Q(came="worse")),
    "back": Count("workshop", filter=Q(leads=True, back=True)),
    "needless_n": Count("workshop", filter=Q(leads=True, needless=True)),
    "spared_n": Count("workshop", filter=Q(spared=True)),
    "spent": Sum("price", default=0.0),
    "before_sum": Sum("runout_before_mm", default=0.0),
    "before_n": Count("runout_before_mm"),
    "after_sum": Sum("runout_mm", default=0.0),
    "after_n": Count("runout_mm"),
    "said_sum": Sum("minutes_said", default=0.0),
    "taken_sum": Sum("minutes_taken", default=0.0),
    "taken_n": Count("minutes_taken"),
}
_TENTH_SUMS: Final = {
    "said_sum": Sum("odds_within", default=0.0),
    "n": Count("workshop"),
    "came_n": Count("workshop", filter=Q(within=True)),
}
_SHARE: Final = Greatest(Value(0.0), Case(When(hub_share__gt=1.0, then=Value(1.0)), default=F("hub_share")))
_HUB_SUMS: Final = {
    "n": Count("workshop"),
    "share_sum": Sum(_SHARE, default=0.0),
    "hub_sum": Sum("hub_mm", default=0.0),
    "hub_n": Count("hub_mm"),
    "rotor_sum": Sum("rotor_mm", default=0.0),
    "rotor_n": Count("rotor_mm"),
    "mostly_hub": Count("workshop", filter=Q(hub_share__gte=0.6)),
    "mostly_rotor": Count("workshop", filter=Q(hub_share__lte=0.4)),
}
_TOLD_APART: Final = Q(hub_share__isnull=False, root_cause__gt="") & ~Q(root_cause="none_found")
_BACK: Final = Case(When(back=True, then=Value(1)), default=Value(0), output_field=IntegerField())
_HELD: Final = Concat(  # remedy, bin of the distance, whether it came back: one key
    "remedy",
    *(part for n in (F("gone_km") / BIN_KM, _BACK) for part in (Value("|"), Cast(n, CharField()))),
)
KINDS: Final[dict[str, Kind]] = {
    "cause": Kind(F("root_cause"), Q(), _SUMS),
    "remedy": Kind(F("remedy"), Q(), _SUMS),
    "model": Kind(F("model"), Q(), _SUMS),
    "axle": Kind(F("axle"), Q(), _SUMS),
    "person": Kind(F("done_by"), Q(), _SUMS),
    "lathe": Kind(F("lathe_id"), Q(lathe__isnull=False), _SUMS),
    "plate": Kind(F("plate_id"), Q(plate__isnull=False), _SUMS),
    "supplier": Kind(F("supplier"), Q(supplier__gt=""), _SUMS),
    "month": Kind(F("month"), Q(), _SUMS),
    "tenth": Kind(F("odds_tenth"), Q(odds_tenth__isnull=False, within__isnull=False), _TENTH_SUMS),
    "held": Kind(_HELD, Q(leads=True, gone_km__isnull=False), {"n": Count("workshop")}),
    "hub": Kind(F("model"), _TOLD_APART, _HUB_SUMS),
}


@dataclass(frozen=True)
class RowByRow:
    """Works of any choice, counted by one query a kind."""

    works: Any

    def of(self, kind: str) -> list[dict[str, Any]]:
        """Count them in the database."""
        counted = KINDS[kind]
        return list(self.works.filter(counted.only).values(key=counted.key).annotate(**counted.sums).order_by())


def grouped(counts: Counts, group: str) -> list[dict[str, Any]]:
    """Return what was found, foretold and came true, group by group.

    ``jobs`` and ``back`` count jobs, the rest corners. The largest groups first, months in their order.
    """
    rows = [
        row
        | {
            "before_mm": _mean(row, "before"),
            "after_mm": _mean(row, "after"),
            "minutes_said_avg": row["said_sum"] / row["corners"],
            "minutes_taken_avg": _mean(row, "taken"),
        }
        for row in counts.of(group)
    ]
    by_size = sorted(rows, key=lambda row: (-row["corners"], str(row["key"])))
    if group == "month":
        return sorted(by_size, key=lambda row: row["key"])[-MOST_GROUPS:]
    return by_size[:MOST_GROUPS]


def whole(counts: Counts) -> dict[str, Any]:
    """Return the counts over all that fits."""
    rows = counts.of("axle")
    return {name: sum(row[name] for row in rows) for name in COUNTED}


COUNTED: Final = ("corners", "jobs", "measured", "within_n", "back", "needless_n", "spared_n")


def _mean(row: dict[str, Any], name: str) -> float | None:
    return row[f"{name}_sum"] / row[f"{name}_n"] if row[f"{name}_n"] else None


def jobs_closed(user: User) -> dict[str, int]:
    """Return how many jobs were closed, proven, with nothing found, in one query."""
    return dict(
        Closing.of(user)
        .filter(stands=True)
        .aggregate(
            closed=Count("workshop"),
            proven_n=Count("workshop", filter=Q(proven=True)),
            nothing=Count("workshop", filter=Q(found_cause="none_found")),
        )
    )


def followed(counts: Counts, works: Any) -> list[dict[str, Any]]:
    """Return how far works have gone, in bins of ``BIN_KM``: remedy, km, whether they came back, how many.

    Those seen again, no further than that visit; by one query those still on the road, as far as is known today.
    """
    rows: dict[tuple[str, int, int], int] = {}
    for row in counts.of("held"):
        remedy, gone, is_back = row["key"].rsplit("|", 2)
        rows[remedy, int(gone), int(is_back)] = row["n"]
    far = F("vehicle__odometer_km") - F("odometer_km")
    waiting = works.filter(leads=True, gone_km__isnull=True, closing__seen_again__isnull=True).annotate(far=far)
    for row in (
        waiting.filter(far__gte=0).values("remedy", gone=F("far") / BIN_KM).annotate(n=Count("workshop")).order_by()
    ):
        key = (row["remedy"], row["gone"], 0)
        rows[key] = rows.get(key, 0) + row["n"]
    return [dict(zip(("remedy", "gone", "is_back", "n"), (*key, n), strict=True)) for key, n in sorted(rows.items())]


def tenths(counts: Counts) -> list[dict[str, Any]]:
    """Return what was said with which odds of running within, and how often it came true, by tenths."""
    rows = [row | {"tenth": row["key"], "said": row["said_sum"] / row["n"]} for row in counts.of("tenth")]
    return sorted(rows, key=lambda row: row["tenth"])


def comeback_tenths(works: Any, *, warranty_km: float) -> list[dict[str, Any]]:
    """Return the same of comebacks within the warranty distance, of vehicles that have gone it since; one query.

    Whether a job came back early or not at all, it counts only once its vehicle has had the whole distance to do so.
    """
    gone = F("vehicle__odometer_km") - F("odometer_km")
    rows = works.filter(leads=True, comeback_tenth__isnull=False).annotate(gone=gone)
    came = Count("workshop", filter=Q(back=True, gone_km__lt=warranty_km))
    counts = {"said": Avg("comeback_odds"), "n": Count("workshop"), "came_n": came}
    rows = rows.filter(gone__gte=warranty_km).values(tenth=F("comeback_tenth"))
    return list(rows.annotate(**counts).order_by("tenth"))


def hub_shares(counts: Counts) -> list[dict[str, Any]]:
    """Return the hub's share of the runout by model: corners told apart, the mean, hub and rotor."""
    rows = [
        row | {"share": row["share_sum"] / row["n"], "hub": _mean(row, "hub"), "rotor": _mean(row, "rotor")}
        for row in counts.of("hub")
    ]
    return sorted(rows, key=lambda row: (-row["n"], row["key"]))[:MOST_GROUPS]


def causes_closed(user: User) -> list[tuple[str, int]]:
    """Return how many jobs were closed as which cause, in one query."""
    rows = Job.of(user).filter(state=Job.State.CLOSED).exclude(found_cause="").values("found_cause")
    return [(row["found_cause"], row["n"]) for row in rows.annotate(n=Count("workshop")).order_by("-n")]
