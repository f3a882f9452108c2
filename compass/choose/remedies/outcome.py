"""What a remedy would leave: the draws of an outcome, and the summary that is told and ranked."""

import math
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from compass.choose.remedies.comeback import Comebacks, comebacks
from compass.choose.remedies.corner_draws import CornerDraws
from compass.evidence.shop import Shop
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import share

POINTS: Final = (0.05, 0.5, 0.95)


@dataclass(frozen=True, slots=True)
class Option:
    """One way a remedy could be set: index and plate (degrees, mm), what it would leave (5, 50, 95 %), its odds."""

    index_deg: float
    plate_mm: float | None
    plate_deg: float | None
    runout_mm: tuple[float, float, float]
    odds_within: float

    @property
    def rank(self) -> tuple[float, float]:
        """What settings are sorted by, best first: odds as they are said, never over 99 in 100, then what is left."""
        return -min(round(self.odds_within, 2), 0.99), self.runout_mm[1]


@dataclass(frozen=True, slots=True, eq=False)
class Outcome:
    """Draws after a remedy: TIR (n,), variation (m,), least thickness (m,) or None; how it is set; its mean trace.

    ``before_plate_mm`` (n,) is the TIR a plate would have to deal with, for rule 5.
    """

    runout_mm: FloatArray
    variation_mm: FloatArray
    least_mm: FloatArray | None
    settings: dict[str, float] = field(default_factory=dict)
    trace_mm: FloatArray | None = None
    options: tuple[Option, ...] = ()
    before_plate_mm: FloatArray | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Remedy:
    """A remedy at one corner as it is told: 5, 50 and 95 % points in mm, odds, distances (km), price, minutes.

    ``sides`` is 2 where the bill holds the axle's other side too. ``per_1000_km`` spreads bill and odds of a comeback
    over the distance the metal lasts. ``blocked_by`` are codes of rules.
    """

    code: str
    feasible: bool
    blocked_by: tuple[str, ...]
    settings: dict[str, float]
    runout_mm: tuple[float, float, float] | None
    odds_within: float | None
    thickness_mm: tuple[float, float, float] | None
    odds_metal: float | None
    comeback: Comebacks | None
    remaining_km: tuple[float, float, float] | None
    price: float
    minutes: float
    cost: float
    per_1000_km: float | None
    sides: int = 1
    trace_mm: FloatArray | None = None
    options: tuple[Option, ...] = ()
    variation_mm: tuple[float, float, float] | None = None  # None where the disc stays and nobody has miked it


def points(draws: FloatArray) -> tuple[float, float, float]:
    """Return the 5, 50 and 95 % points."""
    places = [round(p * (draws.size - 1)) for p in POINTS]
    low, middle, high = np.sort(draws)[places].tolist()
    return low, middle, high


def odds(draws: FloatArray, *, at_most: float) -> float:
    """Return the share of draws within a limit."""
    return share(draws <= at_most)


def summary(
    code: str,
    outcome: Outcome,
    *,
    draws: CornerDraws,
    shop: Shop,
    blocked_by: tuple[str, ...],
    odds_metal: float | None,
) -> Remedy:
    """Tell an outcome in points, odds and money."""
    spec = draws.spec
    returns = comebacks(outcome.runout_mm, outcome.variation_mm, shop=shop)
    price, minutes = shop.bill(code), shop.minutes_of(code)
    cost = price + returns.odds * shop.price_of("comeback")
    remaining = _remaining(outcome, draws)
    lasts = min(remaining[1], returns.middle_km) if remaining is not None else None
    return Remedy(
        code=code,
        feasible=not blocked_by,
        blocked_by=blocked_by,
        settings=outcome.settings,
        runout_mm=points(outcome.runout_mm),
        odds_within=odds(outcome.runout_mm, at_most=spec.max_runout_mm),
        thickness_mm=points(outcome.least_mm) if outcome.least_mm is not None else None,
        odds_metal=odds_metal,
        comeback=returns,
        remaining_km=remaining,
        price=price,
        minutes=minutes,
        cost=cost,
        per_1000_km=cost / lasts * 1000 if lasts else None,
        trace_mm=outcome.trace_mm,
        options=outcome.options,
        variation_mm=points(outcome.variation_mm) if draws.variation_known or _another_disc(code) else None,
    )


def _another_disc(code: str) -> bool:
    """Whether the faces are cut or new: what they were says nothing of what they will be."""
    return any(work in ("bench_cut", "on_vehicle_cut", "new_rotors") for work in code.split("+"))


def _remaining(outcome: Outcome, draws: CornerDraws) -> tuple[float, float, float] | None:
    """Return how far the metal would last to discard, where the wear rate is known."""
    if outcome.least_mm is None or draws.wear_mm is None:
        return None
    left = np.maximum(outcome.least_mm - draws.spec.discard_thickness_mm, 0.0)
    rate = np.resize(draws.wear_mm, left.size)
    with np.errstate(divide="ignore"):
        distance = np.where(rate > 1e-6, left / np.maximum(rate, 1e-6) * 1000, math.inf)
    return points(np.minimum(distance, FARTHEST_KM))


FARTHEST_KM: Final = 500_000.0  # beyond which a distance says nothing
