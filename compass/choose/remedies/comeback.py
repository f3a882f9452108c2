"""When a corner comes back: variation grows while the disc runs out, until it is felt. An estimate, told as one.

DTV grows by g·max(0, LRO − L0) per 1,000 km until the felt level (measurement.md#what-remedies-leave).
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.evidence.shop import Shop
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import share

FELT_MM: Final = 0.02  # variation that is felt; measurement.md#what-remedies-leave
NEVER_KM: Final = 200_000.0  # told where nothing would bring it back


@dataclass(frozen=True, slots=True)
class Comebacks:
    """Odds of being felt within the warranty distance, and the middle distance to it (km, at most NEVER_KM)."""

    odds: float
    middle_km: float


def comebacks(runout_mm: FloatArray, variation_mm: FloatArray, *, shop: Shop) -> Comebacks:
    """Return odds and middle distance of a comeback for runouts (n,) and variations (n,)."""
    km = distance_km(runout_mm, variation_mm, shop=shop)
    return Comebacks(odds=share(km < shop.warranty_km), middle_km=float(np.sort(km)[km.size // 2]))


def distance_km(runout_mm: FloatArray, variation_mm: FloatArray, *, shop: Shop) -> FloatArray:
    """Return the distance until the variation is felt (n,), km, at most NEVER_KM."""
    growth = shop.growth_mm * np.maximum(0.0, runout_mm - shop.quiet_runout_mm)
    to_go = np.maximum(0.0, FELT_MM - variation_mm)
    # Where nothing grows the quotient is far beyond NEVER_KM, unless nothing is left to grow: then it is 0.
    km: FloatArray = np.minimum(to_go / np.maximum(growth, 1e-12) * 1000, NEVER_KM)
    return km


def outlay(
    today: float, lasts_km: float, *, renewal: float, renewal_km: float, over_km: float
) -> tuple[tuple[float, float], ...]:
    """Return what is spent by when, steps (km, money so far) over a distance: today's bill, then new rotors each time.

    ``lasts_km`` is how far the disc goes after today's work, ``renewal_km`` how far a new one goes.
    """
    steps = [(0.0, today)]
    at = lasts_km
    while at < over_km and len(steps) < _MOST_STEPS:
        steps.append((at, steps[-1][1] + renewal))
        at += max(renewal_km, over_km / _MOST_STEPS)
    return tuple(steps)


_MOST_STEPS: Final = 12
