"""What the workshop's own jobs say of its figures: pairs out of the rows, refits out of the core. Reads only."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

import numpy as np

from compass.cause.causes import BASE_RATES, adjusted_rates
from compass.choose.offers import REMEDIES
from compass.choose.remedies.replacing import NEW_ROTOR_MM
from compass.do.tasks import MINUTES as MINUTES_OF_PARTS
from compass.do.tasks import usual_minutes
from compass.evidence.shop import GROWTH_MM, MINUTES, QUIET_RUNOUT_MM, SEATING_TIR_MM
from compass.learn.came_true import Share, share_of
from compass.learn.refits import (
    Grown,
    Refit,
    refit_growth,
    refit_lathe,
    refit_minutes,
    refit_new_rotors,
    refit_seating,
)
from jobs.kept import KeptCorner
from jobs.models import Closing, Corner, CornerWorked
from ledger.facts import causes_closed
from workshop.models import MINUTE_FIELDS, Lathe, Learned, ShopFigures, User

MOST: Final = 300  # pairs of one figure: the newest say how the workshop works now
_FEWEST_KM: Final = 500.0
_ON_VEHICLE: Final = tuple(code for code in REMEDIES if code.endswith("on_vehicle_cut"))
Figure = Learned.Figure


@dataclass(frozen=True)
class Learning:
    """One figure with its refit, what is judged by now, and the row by which a lead accepted that (None: ours)."""

    figure: str
    whose: str
    name: str
    refit: Refit
    in_force: float
    accepted: Learned | None

    @property
    def key(self) -> str:
        """Name it in a form."""
        return f"{self.figure}|{self.whose}"


def on_record(user: User) -> list[Learned]:
    """Return what was ever accepted, the newest first: some hundreds in ten years."""
    return list(Learned.of(user).select_related("accepted_by", "taken_back_by").order_by("-pk"))


def all_learning(user: User, record: Sequence[Learned]) -> list[Learning]:
    """Return every figure that is learnt, in a fixed order; ``record`` is ``on_record``."""
    standing = [row for row in record if row.taken_back_by_id is None]
    accepted = {(row.figure, row.whose): row for row in reversed(standing)}
    priors = {(row.figure, row.whose): row.prior for row in standing}  # what stood before the first was accepted

    def told(figure: str, refit: Refit, ours: float, *, whose: str = "", name: str = "") -> Learning:
        row = accepted.get((figure, whose))
        return Learning(figure, whose, name, refit, row.value if row is not None else ours, row)

    # The newest by their day: an index that begins with the workshop has them in that order, whoever else closed since.
    works = CornerWorked.of(user).filter(stands=True).order_by("-on", "-pk")
    growth, quiet = _refitted(tuple(grown_pairs(user)))
    rows = [
        told(Figure.GROWTH, growth, GROWTH_MM),
        told(Figure.QUIET, quiet, QUIET_RUNOUT_MM),
        told(Figure.SEATING, refit_seating(_seatings(works)), SEATING_TIR_MM),
    ]
    rows += [
        told(Figure.LATHE, refit, lathe.runout_left_mm, whose=str(lathe.pk), name=lathe.name)
        for lathe, refit in _lathes(user, works, priors)
    ]
    rows += [told(Figure.MINUTES, refit, ours, whose=remedy) for remedy, ours, refit in _minutes(user, works)]
    rows += [told(Figure.PART, refit, usual_minutes(part), whose=part) for part, refit in _parts(user)]
    fitted = _new_rotors(works)
    rows += [told(Figure.NEW_ROTOR, refit, NEW_ROTOR_MM, whose=supplier, name=supplier) for supplier, refit in fitted]
    return rows


@lru_cache(maxsize=8)
def _refitted(grown: tuple[Grown, ...]) -> tuple[Refit, Refit]:
    """Refit once for the same pairs: it takes a good part of a second."""
    return refit_growth(grown)


def grown_pairs(user: User) -> list[Grown]:
    """Return discs met again with their variation then and now: three queries, the newest ``MOST``."""
    works = CornerWorked.of(user).filter(stands=True, runout_mm__isnull=False, variation_mm__isnull=False)
    figures = ("runout_mm", "runout_expanded_mm", "variation_mm", "variation_expanded_mm", "gone_km")
    # Three plain queries: joined, all works of ten years would be sorted for the newest few.
    rows = (
        works.filter(gone_km__isnull=False).order_by("-on", "-pk").values_list("closing", "position", *figures)[:MOST]
    )
    again = dict(Closing.of(user).filter(pk__in={closing for closing, *_ in rows}).values_list("pk", "seen_again"))
    seen = Corner.of(user).filter(job_id__in=set(again.values()))
    now = {
        (job, place): KeptCorner.read(data) for job, place, data in seen.values_list("job_id", "position", "verdict")
    }
    pairs = []
    for closing, position, runout, runout_u, variation, variation_u, km in rows:
        kept = now.get((again[closing], position))
        if kept is None or kept.variation_mm is None or km < _FEWEST_KM:
            continue
        then = (runout, (runout_u or 0.004) / 2, variation, (variation_u or 0.002) / 2)
        pairs.append(Grown(*then, kept.variation_mm, (kept.variation_expanded_mm or 0.002) / 2, float(km)))
    return pairs


def _seatings(works: Any) -> list[Any]:
    return [np.array(told) for told in works.exclude(seating=[]).values_list("seating", flat=True)[:MOST]]


def _lathes(user: User, works: Any, priors: dict[tuple[str, str], float]) -> list[tuple[Lathe, Refit]]:
    """Refit what each lathe on the vehicle leaves; on the bench what stands afterwards is the hub's too.

    A prior is what stood before the first refit was accepted, not what the data have made of it since.
    """
    read: dict[int, list[tuple[float, float]]] = {}
    # Which lathe is not asked for: the newest few are found by their day, and not among all that a lathe ever cut.
    cut = works.filter(remedy__in=_ON_VEHICLE, runout_mm__isnull=False)
    for lathe, runout, expanded in cut.values_list("lathe_id", "runout_mm", "runout_expanded_mm")[:MOST]:
        if lathe is not None:
            read.setdefault(lathe, []).append((runout, (expanded or 0.004) / 2))
    rows = []
    for lathe in Lathe.of(user).filter(retired=False, kind=Lathe.Kind.ON_VEHICLE):
        pairs = read.get(lathe.pk, [])
        ours = priors.get((Figure.LATHE, str(lathe.pk)), lathe.runout_left_mm)
        refit = refit_lathe(ours, [left for left, _u in pairs], [u for _left, u in pairs])
        rows.append((lathe, refit))
    return rows


def _minutes(user: User, works: Any) -> list[tuple[str, float, Refit]]:
    taken: dict[str, list[float]] = {}
    timed = works.filter(minutes_taken__isnull=False).values_list("remedy", "minutes_taken")[: 4 * MOST]
    for remedy, minutes in timed:
        taken.setdefault(remedy, []).append(minutes)
    said = ShopFigures.in_force(user).told(MINUTE_FIELDS)
    rows = []
    for remedy in MINUTE_FIELDS:
        if remedy in taken:
            rows.append(
                (remedy, float(said.get(remedy, MINUTES[remedy])), refit_minutes(MINUTES[remedy], taken[remedy]))
            )
    return rows


def _parts(user: User) -> list[tuple[str, Refit]]:
    """Refit the minutes of each part of a work, from the newest closings: one query."""
    taken: dict[str, list[float]] = {}
    closings = Closing.of(user).filter(stands=True).exclude(part_minutes={}).order_by("-at")
    for minutes in closings.values_list("part_minutes", flat=True)[:MOST]:
        for part, every in minutes.items():
            taken.setdefault(part, []).extend(every)
    return [(part, refit_minutes(usual_minutes(part), taken[part])) for part in MINUTES_OF_PARTS if part in taken]


def _new_rotors(works: Any) -> list[tuple[str, Refit]]:
    """Refit the runout of new rotors: of all suppliers together, and of each that is named."""
    read: dict[str, list[tuple[float, float]]] = {"": []}
    measured = works.filter(new_rotor_mm__isnull=False).values_list("supplier", "new_rotor_mm", "new_rotor_u_mm")[:MOST]
    for supplier, runout, u in measured:
        read[""].append((runout, u or 0.002))
        if supplier:
            read.setdefault(supplier, []).append((runout, u or 0.002))
    return [(supplier, _rotors_refitted(tuple(pairs))) for supplier, pairs in read.items()]


@lru_cache(maxsize=64)
def _rotors_refitted(pairs: tuple[tuple[float, float], ...]) -> Refit:
    return refit_new_rotors(NEW_ROTOR_MM, [mm for mm, _u in pairs], [u for _mm, u in pairs])


@dataclass(frozen=True)
class Rate:
    """One cause: our share of complaints, how many were closed as it, and the share by both."""

    cause: str
    prior: float
    closed: Share
    now: float


def base_rates(user: User) -> list[Rate]:
    """Return the base rates of causes as they are weighed at the next opening; they need no accepting."""
    counts = dict(causes_closed(user))
    total, of = sum(counts.values()), sum(BASE_RATES.values())
    adjusted = adjusted_rates(counts)
    whole = sum(adjusted.values())
    rates = [
        Rate(cause.value, rate / of, share_of(counts.get(cause.value, 0), total), adjusted[cause] / whole)
        for cause, rate in BASE_RATES.items()
    ]
    return sorted(rates, key=lambda rate: -rate.now)
