"""Odds held against what came: calibration by tenths, how long works hold, shares with their uncertainty."""

import warnings
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray

CONFIDENCE: Final = 0.9


@dataclass(frozen=True, slots=True)
class Share:
    """How many of how many, with the range its true share lies in nine times of ten (Wilson 1927)."""

    hits: int
    of: int
    low: float
    high: float

    @property
    def share(self) -> float | None:
        """The share itself; None where there was nothing."""
        return self.hits / self.of if self.of else None


@lru_cache(maxsize=1024)
def share_of(hits: int, of: int) -> Share:
    """Return a share with its range."""
    from scipy import stats  # a second and a half to load: only who looks back waits for it

    if not of:
        return Share(0, 0, 0.0, 1.0)
    interval = stats.binomtest(hits, of).proportion_ci(CONFIDENCE, method="wilson")
    return Share(hits, of, float(interval.low), float(interval.high))


@dataclass(frozen=True, slots=True, eq=False)
class Held:
    """How long works hold: the share not back after ``km`` (n,), with its range (n,), and how many were followed."""

    km: FloatArray
    share: FloatArray
    low: FloatArray
    high: FloatArray
    followed: int
    back: int

    def at(self, km: float) -> float:
        """Return the share not back after a distance."""
        at = int(np.searchsorted(self.km, km, side="right")) - 1
        return float(self.share[at]) if at >= 0 else 1.0


def held(back_km: Sequence[float], not_back_km: Sequence[float]) -> Held | None:
    """Return how long works hold, knowing the ones not yet back (Kaplan & Meier 1958); None where none came back.

    ``back_km`` are distances at which one came back, ``not_back_km`` how far the others have gone since.
    """
    from scipy import stats

    if not back_km:
        return None
    gone = stats.CensoredData(uncensored=np.asarray(back_km, float), right=np.asarray(not_back_km, float))
    function = stats.ecdf(gone).sf
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # undefined before the first comes back: seen to below
        band = function.confidence_interval(CONFIDENCE, method="log-log")
    followed = len(back_km) + len(not_back_km)
    # Before the first comes back the formula says nothing: as many as are followed say how low it may be.
    low = np.nan_to_num(band.low.probabilities, nan=share_of(followed, followed).low)
    low, high = np.minimum(low, function.probabilities), np.nan_to_num(band.high.probabilities, nan=1.0)
    return Held(function.quantiles, function.probabilities, low, high, followed, len(back_km))
