"""Figures refitted from a workshop's own pairs: our prior, what the data alone say, and what both say together.

Every figure is a positive number with a lognormal prior about ours, so that a handful of jobs moves it a little and
many move it all the way (Bayes on a grid: Gelman et al., Bayesian Data Analysis, section 2.8). Nothing takes effect
here: a lead accepts a refit.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.evidence.shop import GROWTH_MM, QUIET_RUNOUT_MM, SEATING_TIR_MM
from compass.ground.arrays import FloatArray
from compass.measure.separation import VectorEvidence, rows_of, seatings, variances_of

LOW, HIGH = 0.05, 0.95
_NINE_IN_TEN: Final = 1.645  # standard normal
_POINTS: Final = 121
_REACH: Final = 3.5  # prior standard deviations on either side of our figure
_SEATING_SD: Final = 0.6  # of the logarithm of a figure about ours: how little we claim to know it; our estimates
_GROWTH_SD: Final = 0.5
_QUIET_SD: Final = 0.35
_LATHE_SD: Final = 0.5
_MINUTES_SD: Final = 0.4
_ROTOR_SD: Final = 0.5
_LATHE_SCATTER: Final = 0.3  # of one cut about what its lathe usually leaves, relative; our estimate
_JOB_SCATTER: Final = 0.35  # of one job's minutes about the usual, of the logarithm; our estimate
_ODD_JOBS, _ODD_SCATTER = 0.1, 1.5  # now and then somebody goes to lunch in the middle
_DRIVEN: Final = (0.05, 0.25, 0.5)  # how differently vehicles are driven: scatter of growth, relative
_ODD_DISCS, _ODD_MM = 0.03, 0.3  # a disc that grew otherwise: a patch, a seized slide; spread over this, mm
_ANYHOW_MM: Final = 0.0007  # variation moves by itself, one sd: seasons, a new pad; our estimate
_NODES: Final = 5


@dataclass(frozen=True, slots=True)
class Refit:
    """One figure: ours with its 90 % range, what ``pairs`` of the workshop say alone (None: nothing), and both.

    ``now`` lies between ``low`` and ``high`` with odds of 9 in 10.
    """

    prior: float
    prior_low: float
    prior_high: float
    data: float | None
    now: float
    low: float
    high: float
    pairs: int


@dataclass(frozen=True, slots=True)
class Grown:
    """A disc met again: its runout after the work, its variation then and now (mm with standard u), km between."""

    runout_mm: float
    u_runout_mm: float
    then_mm: float
    u_then_mm: float
    now_mm: float
    u_now_mm: float
    km: float


def seating_likelihood(evidence: Sequence[VectorEvidence]) -> FloatArray:
    """Return the log likelihood (n,) of clean vectors of one corner, for each usual seating of ``seating_grid_mm()``.

    Restricted likelihood (Harville 1977): −½(log|V| + log|XᵀV⁻¹X| + rᵀV⁻¹r), over the alternatives of one mounting.
    Zeros where nothing is redundant: such a corner cannot say how rotors seat.
    """
    clean = [e for e in evidence if not e.before]
    grid = seating_grid_mm()
    design = np.concatenate([rows_of(e, []) for e in clean]) if clean else np.zeros((0, 4))
    reached = design[:, np.abs(design).sum(axis=0) > 0]
    if not reached.size or len(design) <= np.linalg.matrix_rank(reached):
        return np.zeros(grid.size)
    target = np.array([part for e in clean for part in (e.vector.real, e.vector.imag)])
    own, shared = variances_of(clean)
    mixture = np.array(seatings(1.0))  # times the usual amount, weight
    tirs = (grid[:, None] * mixture[None, :, 0]).ravel()
    root = np.linalg.cholesky(own + ((tirs / 2) ** 2 / 2)[:, None, None] * shared)
    white = np.linalg.solve(root, np.column_stack([reached, target]))
    u, s, _vt = np.linalg.svd(white[:, :, :-1], full_matrices=False)
    kept = s > 1e-7 * s[:, :1]
    along = np.einsum("jnk,jn->jk", u, white[:, :, -1])
    off = np.square(white[:, :, -1]).sum(axis=1) - (np.square(along) * kept).sum(axis=1)
    log_det = np.log(np.diagonal(root, axis1=1, axis2=2)).sum(axis=1) + np.log(np.where(kept, s, 1.0)).sum(axis=1)
    logs = (-log_det - 0.5 * off).reshape(grid.size, -1) + np.log(mixture[:, 1])
    return _log_sum(logs, 1)


def seating_grid_mm() -> FloatArray:
    """Return the usual seatings tried, TIR in mm."""
    return _grid(SEATING_TIR_MM, _SEATING_SD)


def refit_seating(likelihoods: Sequence[FloatArray]) -> Refit:
    """Refit how far a mounting usually moves a rotor, TIR in mm, from corners' ``seating_likelihood``."""
    told = [one for one in likelihoods if np.ptp(one) > 0]
    total = np.sum(told, axis=0) if told else np.zeros(_POINTS)
    return _refit(SEATING_TIR_MM, _SEATING_SD, total, len(told))


def refit_growth(grown: Sequence[Grown]) -> tuple[Refit, Refit]:
    """Refit g (mm of variation a 1,000 km and mm of runout over L0) and L0 (mm) from discs met again.

    The true runout is any within its u (Gauss–Hermite), and vehicles are driven differently. Discs that nobody saw
    again say nothing here, so g is that of vehicles which come back, called or by themselves.
    """
    growth, quiet = _grid(GROWTH_MM, _GROWTH_SD)[::6], _grid(QUIET_RUNOUT_MM, _QUIET_SD)[::6]
    about = (GROWTH_MM, QUIET_RUNOUT_MM)
    for _finer in range(3):
        of_growth, of_quiet = _grown_likelihood(grown, growth, quiet, about)
        refits = (
            _refit(GROWTH_MM, _GROWTH_SD, of_growth, len(grown), grid=growth),
            _refit(QUIET_RUNOUT_MM, _QUIET_SD, of_quiet, len(grown), grid=quiet),
        )
        growth, quiet = (_about(refit, grid) for refit, grid in zip(refits, (growth, quiet), strict=True))
        about = (refits[0].now, refits[1].now)
    return refits


def _about(refit: Refit, grid: FloatArray) -> FloatArray:
    """Return a finer grid over all that is likely still."""
    step, reach = math.log(grid[1] / grid[0]), math.log(refit.high / refit.low)
    finer: FloatArray = np.exp(np.linspace(math.log(refit.low) - reach - step, math.log(refit.high) + reach + step, 25))
    return finer


def _grown_likelihood(
    grown: Sequence[Grown], growth: FloatArray, quiet: FloatArray, about: tuple[float, float]
) -> tuple[FloatArray, FloatArray]:
    """Return the log likelihoods of g and of L0; the other, the scatter and the joining are summed out.

    What was uneven before adds to what has grown where both lie in one place, and joins it as the root of the squares
    where they do not, as reading noise does too: a workshop's pairs say which is nearer. The scatter of driving is that
    about the figures found so far (``about``): a spread that shrank with the figure tried would draw it down
    (quasi-likelihood, Wedderburn 1974).
    """
    log = np.zeros((growth.size, quiet.size, 2 * len(_DRIVEN)))
    nodes, weights = np.polynomial.hermite_e.hermegauss(_NODES)
    log_weights = np.log(weights / weights.sum())
    scatter = np.array(_DRIVEN)[:, None, None, None]
    for one in grown:
        runout = np.maximum(one.runout_mm + one.u_runout_mm * nodes, 0.0)
        over = np.maximum(runout[None, :] - quiet[:, None], 0.0)  # (quiet, nodes)
        grew = growth[:, None, None] * over[None] * one.km / 1000  # (growth, quiet, nodes)
        usual_mm = about[0] * np.maximum(runout - about[1], 0.0) * one.km / 1000  # (nodes,)
        variance = (scatter * usual_mm) ** 2 + one.u_then_mm**2 + one.u_now_mm**2 + _ANYHOW_MM**2
        width = np.log(2 * math.pi * variance)
        usual = np.concatenate(
            [
                _log_sum(-0.5 * ((one.now_mm - foretold) ** 2 / variance + width) + log_weights, -1)
                for foretold in (one.then_mm + grew, np.hypot(one.then_mm, grew))
            ]
        )
        log += np.moveaxis(np.logaddexp(math.log(1 - _ODD_DISCS) + usual, math.log(_ODD_DISCS / _ODD_MM)), 0, -1)
    log -= log.max()
    prior_growth, prior_quiet = _log_prior(growth, GROWTH_MM, _GROWTH_SD), _log_prior(quiet, QUIET_RUNOUT_MM, _QUIET_SD)
    of_growth = _log_sum(_log_sum(log, 2) + prior_quiet[None, :], 1)
    of_quiet = _log_sum(_log_sum(log, 2) + prior_growth[:, None], 0)
    return of_growth, of_quiet


def _log_sum(logs: FloatArray, axis: int) -> FloatArray:
    most = logs.max(axis=axis, keepdims=True)
    total: FloatArray = np.squeeze(most, axis) + np.log(np.exp(logs - most).sum(axis=axis))
    return total


def refit_lathe(profile_mm: float, left_mm: Sequence[float], u_mm: Sequence[float]) -> Refit:
    """Refit what a lathe leaves, TIR in mm, from what was read after its cuts beside what its profile states."""
    grid = _grid(profile_mm, _LATHE_SD)
    log = np.zeros(grid.size)
    for left, u in zip(left_mm, u_mm, strict=True):
        variance = (_LATHE_SCATTER * grid) ** 2 + u**2
        log -= 0.5 * ((left - grid) ** 2 / variance + np.log(variance))
    return _refit(profile_mm, _LATHE_SD, log, len(left_mm))


def refit_minutes(usual: float, taken: Sequence[float]) -> Refit:
    """Refit the minutes a work takes at a corner from how long it took."""
    grid = _grid(usual, _MINUTES_SD)
    logs = np.log(np.array([minutes for minutes in taken if minutes > 0]))
    off = logs[:, None] - np.log(grid)[None, :]
    usual_job = (1 - _ODD_JOBS) * np.exp(-0.5 * np.square(off / _JOB_SCATTER)) / _JOB_SCATTER
    odd_job = _ODD_JOBS * np.exp(-0.5 * np.square(off / _ODD_SCATTER)) / _ODD_SCATTER
    log = np.log(usual_job + odd_job + 1e-300).sum(axis=0)
    return _refit(usual, _MINUTES_SD, log, logs.size)


def refit_new_rotors(most_mm: float, read_mm: Sequence[float], u_mm: Sequence[float]) -> Refit:
    """Refit the most that new rotors of one supplier run out, TIR in mm: each lies evenly between nothing and it."""
    grid = _grid(most_mm, _ROTOR_SD)
    log = np.zeros(grid.size)
    share = (np.arange(40) + 0.5) / 40
    for read, u in zip(read_mm, u_mm, strict=True):
        u = max(u, 0.0005)
        log += np.log(np.exp(-0.5 * ((read - grid[:, None] * share[None, :]) / u) ** 2).mean(axis=1) / u + 1e-12)
    return _refit(most_mm, _ROTOR_SD, log, len(read_mm))


def _grid(ours: float, sd: float) -> FloatArray:
    grid: FloatArray = ours * np.exp(np.linspace(-_REACH * sd, _REACH * sd, _POINTS))
    return grid


def _log_prior(grid: FloatArray, ours: float, sd: float) -> FloatArray:
    """Return the log density on a grid even in the logarithm."""
    log: FloatArray = -0.5 * np.square(np.log(grid / ours) / sd)
    return log


def _refit(ours: float, sd: float, log_likelihood: FloatArray, pairs: int, *, grid: FloatArray | None = None) -> Refit:
    grid = _grid(ours, sd) if grid is None else grid
    prior = _log_prior(grid, ours, sd)
    reach = math.exp(_NINE_IN_TEN * sd)
    low, now, high = _quantiles(grid, prior + log_likelihood)
    data = _likeliest(grid, log_likelihood) if pairs and np.ptp(log_likelihood) > 0 else None
    return Refit(ours, ours / reach, ours * reach, data, now, low, high, pairs)


def _likeliest(grid: FloatArray, log: FloatArray) -> float:
    """Return where a log likelihood is highest: the top of the parabola through the three points about its highest."""
    k = int(log.argmax())
    if not 0 < k < log.size - 1:
        return float(grid[k])
    before, top, after = log[k - 1 : k + 2]
    off = 0.5 * (before - after) / (before - 2 * top + after)  # of a step: between −½ and ½, since the top is highest
    return float(grid[k] * (grid[k + 1] / grid[k]) ** off)


def _quantiles(grid: FloatArray, log: FloatArray) -> tuple[float, float, float]:
    weights = np.exp(log - log.max())
    share = np.cumsum(weights) / weights.sum() - 0.5 * weights / weights.sum()
    low, middle, high = np.exp(np.interp((LOW, 0.5, HIGH), share, np.log(grid)))
    return float(low), float(middle), float(high)
