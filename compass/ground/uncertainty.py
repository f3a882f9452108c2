"""How sure: standard uncertainties, their budget, and the expanded U that is shown.

Names follow the Guide to the Expression of Uncertainty in Measurement: u is a standard uncertainty,
U the half-width that holds the truth with about 95 %.
"""

import math
from dataclasses import dataclass
from functools import cache
from statistics import NormalDist
from typing import Final

import numpy as np

from compass.ground.arrays import BoolArray, FloatArray

COVERAGE: Final = 0.95  # share of truths that a stated U is to hold; measurement.md#verdicts
DRAWS: Final = 1024  # even; posterior draws a profile. Monte-Carlo error of U is then near 3 %
_SEED: Final = 20_101  # any fixed number: the same case must give the same verdict


@dataclass(frozen=True, slots=True)
class Budget:
    """Where an uncertainty comes from, all in mm, standard uncertainties of one reading or of the result."""

    noise_mm: float  # random reading noise of one reading
    rounding_mm: float  # from the step that was read to, one reading
    instrument_mm: float  # error limit of the instrument, once in the result
    fit_mm: float  # of the result, from readings, stations and what stations cannot see


@dataclass(frozen=True, slots=True)
class Estimate:
    """A value with its expanded uncertainty U (about 95 %), mm, and where U comes from."""

    value_mm: float
    expanded_mm: float
    budget: Budget | None = None


def even_bound_sd(half_width: float) -> float:
    """Return the standard uncertainty of an even bound ±``half_width`` (GUM 4.3.7: a/√3)."""
    return half_width / math.sqrt(3)


def rounding_sd(step_mm: float) -> float:
    """Return the standard uncertainty of reading to ``step_mm`` (GUM F.2.2.1: g/√12)."""
    return step_mm / math.sqrt(12)


@cache
def normal_draws(columns: int, *, stream: int = 0, rows: int = DRAWS) -> FloatArray:
    """Return fixed standard-normal draws, shape (rows, columns), in antithetic pairs.

    The same numbers every time: a verdict never changes because it was asked for twice. A column holds every stratum
    of the normal once, shuffled by itself (a Latin hypercube, McKay 1979): a thousand draws then say as much as
    several thousand thrown freely.
    """
    generator = np.random.default_rng((_SEED, stream, columns))
    half = generator.permuted(np.tile(_strata(rows // 2), (columns, 1)), axis=1).T
    draws = np.concatenate([half, -half])
    draws.flags.writeable = False
    return draws


@cache
def _strata(count: int) -> FloatArray:
    """Return the middles of ``count`` equally likely strata of the standard normal, (count,)."""
    normal = NormalDist()
    return np.array([normal.inv_cdf((k + 0.5) / count) for k in range(count)])


@cache
def even_draws(*, stream: int, rows: int = DRAWS) -> FloatArray:
    """Return fixed draws, even in −1..1 and shuffled, shape (rows,)."""
    grid = (np.arange(rows) + 0.5) / rows * 2 - 1
    draws = np.random.default_rng((_SEED, 77, stream)).permutation(grid)
    draws.flags.writeable = False
    return draws


def symmetric_root(covariance: FloatArray) -> FloatArray:
    """Return the symmetric square root of covariances (…, p, p), for draws from them.

    Unlike other roots it moves no further than the covariance does: what is drawn with it jumps at no keystroke.
    """
    values, vectors = np.linalg.eigh(covariance)
    root: FloatArray = (vectors * np.sqrt(np.maximum(values, 0.0))[..., None, :]) @ np.swapaxes(vectors, -1, -2)
    return root


def share(of_draws: BoolArray) -> float:
    """Return how many of the draws it holds for: the odds."""
    return float(np.count_nonzero(of_draws) / of_draws.size)


def median(draws: FloatArray) -> float:
    """Return the median of draws (k, even). To sort a thousand is quicker than to ask numpy for it."""
    middle = draws.size // 2
    below, above = np.sort(draws)[middle - 1 : middle + 1].tolist()
    return float(below + above) / 2


def estimate_from_draws(
    draws: FloatArray, *, budget_parts: tuple[float, float, float], widened: float = 1.0
) -> Estimate:
    """Summarise posterior ``draws`` (k, even) of a quantity by its median and the U that holds 95 % of them.

    ``budget_parts`` are noise, rounding and instrument, mm; ``widened`` makes up for what the model leaves out.
    """
    value = median(draws)
    reach = COVERAGE * (draws.size - 1)
    below, share = int(reach), reach - int(reach)
    near, far = np.sort(np.abs(draws - value))[below : below + 2].tolist()
    u_expanded = widened * (near + share * (far - near))
    return Estimate(
        value_mm=value,
        expanded_mm=u_expanded,
        budget=Budget(*budget_parts, fit_mm=float(draws.std())),
    )
