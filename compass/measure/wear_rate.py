"""How long the metal lasts: wear over distance from thicknesses of the past."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from types import MappingProxyType
from typing import Final

import numpy as np

from compass.ground.arrays import require_positive
from compass.ground.errors import EvidenceError
from compass.ground.uncertainty import normal_draws

DRIVEN_OTHERWISE: Final = 0.1  # how much the rate ahead differs from that behind, one sd of its logarithm; our estimate


@dataclass(frozen=True, slots=True)
class Metal:
    """One thickness of one rotor: mm with its standard uncertainty, at a distance driven (km)."""

    distance_km: float
    thickness_mm: float
    u_mm: float

    def __post_init__(self) -> None:
        require_positive(self.thickness_mm, field="thickness_mm")
        if not (self.distance_km >= 0 and self.u_mm >= 0):
            raise EvidenceError("distance_km", "a distance and an uncertainty of at least 0")


@dataclass(frozen=True, slots=True)
class Remaining:
    """Distance left to a limit, km: the 5, 50 and 95 % points; ``math.inf`` where no wear can be seen."""

    low_km: float
    middle_km: float
    high_km: float


@dataclass(frozen=True, slots=True)
class Life:
    """Wear rate, mm per 1,000 km with its expanded U, and how far the metal lasts to each limit asked for."""

    rate_mm: float
    expanded_rate_mm: float
    to: Mapping[str, Remaining]


def life(metal: Sequence[Metal], limits_mm: Mapping[str, float]) -> Life | None:
    """Work out the wear rate from thicknesses over distance (weighted straight line), and the distance left.

    ``limits_mm`` names the limits (discard, machine-to). None with fewer than two different distances. Rates are
    drawn from their uncertainty and from driving otherwise than before; a rate not above zero wears nothing away.
    """
    if len({m.distance_km for m in metal}) < 2:
        return None
    return _life(tuple(metal), tuple(limits_mm.items()))


@lru_cache(maxsize=512)  # every page of a job asks for its corners' again
def _life(metal: tuple[Metal, ...], limits_mm: tuple[tuple[str, float], ...]) -> Life:
    now = max(m.distance_km for m in metal)
    x = np.array([m.distance_km - now for m in metal]) / 1000
    y = np.array([m.thickness_mm for m in metal])
    weight = 1 / np.maximum([m.u_mm for m in metal], 1e-4) ** 2
    design = np.column_stack([np.ones_like(x), -x])  # thickness now, rate of loss
    covariance = np.linalg.inv((design.T * weight) @ design)
    here, rate = covariance @ (design.T * weight) @ y
    drawn = normal_draws(2, stream=70) @ np.linalg.cholesky(covariance).T + np.array([here, rate])
    # What lies ahead is not driven quite as what lies behind.
    drawn[:, 1] *= np.exp(DRIVEN_OTHERWISE * normal_draws(1, stream=71)[:, 0])
    to = {}
    for name, limit_mm in limits_mm:
        with np.errstate(divide="ignore", invalid="ignore"):
            left = np.where(drawn[:, 1] > 1e-6, (drawn[:, 0] - limit_mm) / drawn[:, 1] * 1000, math.inf)
        left = np.where(drawn[:, 0] <= limit_mm, 0.0, left)
        low, middle, high = np.quantile(left, (0.05, 0.5, 0.95), method="nearest")
        to[name] = Remaining(float(low), float(middle), float(high))
    expanded_rate_mm = 2 * float(covariance[1, 1]) ** 0.5
    return Life(rate_mm=float(rate), expanded_rate_mm=expanded_rate_mm, to=MappingProxyType(to))


def unswept_edge(edge_mm: float, *, within_mm: float = 0.1) -> tuple[float, float]:
    """Return original thickness and its standard uncertainty from the unswept edge (even bound, rust and paint)."""
    require_positive(edge_mm, field="edge_mm")
    return edge_mm, within_mm / math.sqrt(3)


def falls(metal: Sequence[Metal]) -> bool:
    """Whether thickness never grows with distance by more than both readings allow; a new rotor makes it jump."""
    ordered = sorted(metal, key=lambda m: m.distance_km)
    return all(b.thickness_mm <= a.thickness_mm + 3 * (a.u_mm + b.u_mm) for a, b in pairwise(ordered))
