"""When to look again: so that it is unlikely to be felt before, and while there is metal to look at."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.choose.remedies.comeback import NEVER_KM, distance_km
from compass.evidence.records import WearRate
from compass.evidence.shop import Shop
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import Estimate, normal_draws

CHANCE: Final = 0.1  # of being felt again before it is looked at, unless the workshop says otherwise; our estimate
LATEST_KM: Final = 20_000.0  # nobody is left unlooked at for longer; our estimate
DAILY_KM: Final = 40.0  # where a vehicle's own distances say nothing; our estimate
_STEP_KM: Final = 100.0
_STREAMS: Final = (110, 111)


@dataclass(frozen=True, slots=True)
class After:
    """A corner after the work: runout, variation, thinnest (None: not read), and what it loses to its discard mm."""

    runout: Estimate | None
    variation: Estimate | None
    thinnest: Estimate | None = None
    wear: WearRate | None = None
    discard_mm: float | None = None

    @property
    def metal_km(self) -> float | None:
        """How far the metal lasts at the least, by U of thickness and of wear; None where that is not known."""
        if self.thinnest is None or self.wear is None or self.discard_mm is None:
            return None
        spare = self.thinnest.value_mm - self.thinnest.expanded_mm - self.discard_mm
        rate = self.wear.mm_per_1000_km + self.wear.expanded_mm
        return max(spare, 0.0) / rate * 1000 if rate > 0 else None


@dataclass(frozen=True, slots=True)
class CheckBack:
    """Look again within ``km`` of now and ``days`` of today; ``why``: felt, metal or latest; ``chance`` of being felt.

    ``chance`` is that of its being felt again before that distance.
    """

    km: float
    days: int
    why: str
    chance: float


def check_back(
    corners: Sequence[After], *, shop: Shop, daily_km: float | None = None, chance: float = CHANCE
) -> CheckBack:
    """Return when to look again: before it is felt with more than ``chance``, before the metal may be gone.

    Draws runout and variation within their U and lets the variation grow (compass.choose.remedies.comeback). An
    estimate. Distances are rounded down to 100 km.
    """
    felt = [_felt_km(c.runout, c.variation, shop, k) for k, c in enumerate(corners) if c.runout is not None]
    soonest = np.min(felt, axis=0) if felt else np.full(1, NEVER_KM)
    ways = [(LATEST_KM, "latest"), (float(np.quantile(soonest, chance)), "felt")]
    ways += [(km, "metal") for corner in corners if (km := corner.metal_km) is not None]
    km, why = min(ways)
    km = max(km // _STEP_KM * _STEP_KM, 0.0)
    days = int(km / (daily_km if daily_km and daily_km > 1 else DAILY_KM))
    return CheckBack(km, days, why, float((soonest < km).mean()))


def _felt_km(runout: Estimate, variation: Estimate | None, shop: Shop, place: int) -> FloatArray:
    z = normal_draws(2, stream=_STREAMS[place % 2])
    runout_mm = np.maximum(runout.value_mm + runout.expanded_mm / 2 * z[:, 0], 0.0)
    variation_mm = np.zeros(len(z))
    if variation is not None:
        variation_mm = np.maximum(variation.value_mm + variation.expanded_mm / 2 * z[:, 1], 0.0)
    return distance_km(runout_mm, variation_mm, shop=shop)
