"""Estimate a closed profile (a face's runout, a rotor's thickness round the disc) from readings at stations.

The profile is a sum of orders with Gaussian priors, p(θ) = Σ (a_n cos nθ + b_n sin nθ) with
a_n, b_n ~ N(0, τ_n²), read with a constant, an optional drift and independent noise: a Bayesian linear
model in closed form (Rasmussen & Williams, Gaussian Processes for Machine Learning, eqs. 2.8 and 5.8).
How large the noise and the orders are is not known beforehand: a small grid of alternatives is weighed by
its marginal likelihood, and the draws come from the mixture. That is what makes U honest where plain
formulas fall short:

* the range of noisy readings is biased upward: draws of the profile are not;
* few degrees of freedom: the alternatives that the data cannot tell apart all stay in;
* stations fold high orders onto low ones: the orders stations cannot see stay at their prior;
* a pad-wide patch needs orders beyond the third: they are there, up to the eighth;
* drift and wobble look alike on few stations: both are in the model, and so is their covariance.
"""

import math
from dataclasses import dataclass, replace
from functools import cache
from itertools import product
from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import DRAWS, normal_draws

ORDERS: Final = 8
GRID_DEG: Final = 2.5  # a pure wobble between grid points under-reads by 0.02 %
_CONSTANT_SD_MM: Final = 1.0  # readings are centred first, so this is as good as flat
_NEGLIGIBLE_WEIGHT: Final = 1e-3
_JUMP_SD_MM: Final = 0.06  # how far a lone jump stands off; our estimate
_SUSPECT_SD: Final = 2.0  # under which a reading is no suspect
_SUSPECT_MM: Final = 0.012
_MOST_JUMPS: Final = 3
_HOPELESS_NATS: Final = 5.0  # a story so much worse than the best is not weighed


@dataclass(frozen=True, slots=True)
class Prior:
    """What is believed of a kind of profile before reading it; every entry in mm (standard deviations).

    ``first`` and ``drift`` are alternatives; ``shapes`` (orders 2..8) and ``noise`` (sd of one reading)
    are alternatives beside their prior weights: smooth waves fall off fast, pad-wide patches slowly.
    ``unseen_drift`` is the creep of a turn nobody closed: it cannot be fitted, but it is in every order.
    """

    first: tuple[float, ...]
    shapes: tuple[tuple[tuple[float, ...], float], ...]
    noise: tuple[tuple[float, float], ...]
    drift: tuple[float, ...] = (0.0015, 0.015)
    unseen_drift: float = 0.0
    spoilt: float = 0.0  # how likely a reading is to be a lone jump (rust, a slot, a slip), before it is read


@dataclass(frozen=True, slots=True, eq=False)
class Readings:
    """Readings pooled over turns: one row an angle, plus one for the reading back at the start.

    ``turns`` (n,) tells how many turns each row is the mean of, ``within_ss`` and ``within_dof`` what the
    turns say about the random noise, ``progress`` (n,) how much of the turn had passed (drift), or None.
    """

    angles_deg: FloatArray
    values_mm: FloatArray
    turns: FloatArray
    progress: FloatArray | None
    step_mm: float
    within_ss: float = 0.0
    within_dof: int = 0


@dataclass(frozen=True, slots=True, eq=False)
class Profile:
    """Draws of a profile: constant (k,) and coefficients (k, 2·ORDERS) as a_1, b_1, a_2, b_2, …, in mm.

    They stand in a frame turned by ``frame_deg``: the result then turns with the readings exactly.
    """

    constant_mm: FloatArray
    coefficients_mm: FloatArray
    frame_deg: float
    noise_mm: float
    spoilt: FloatArray | None = None  # (n,): how likely each reading is one that its neighbours know nothing of

    def curves_mm(self, *, radius_ratio: float = 1.0) -> FloatArray:
        """Return the drawn profiles on the grid, shape (k, GRID points), without their constant.

        ``radius_ratio`` is r_m/r: order n scales with its n-th power (brief 2).
        """
        basis = _grid_basis()
        if radius_ratio != 1.0:
            basis = basis * _scales(radius_ratio)[:, None]
        curves: FloatArray = self.coefficients_mm @ basis
        return curves

    def curves_at_mm(self, angles_deg: FloatArray, *, radius_ratio: float = 1.0) -> FloatArray:
        """Evaluate every draw at hub angles (n,), without its constant, shape (k, n)."""
        basis = harmonics(np.asarray(angles_deg) - self.frame_deg, ORDERS)
        curves: FloatArray = self.coefficients_mm @ (basis * _scales(radius_ratio)[:, None])
        return curves

    def first_order(self, *, radius_ratio: float = 1.0) -> tuple[complex, FloatArray]:
        """Return the mean first-order vector A·e^{iα} and the covariance (2, 2) of its two components, mm and mm²."""
        turn = np.exp(1j * math.radians(self.frame_deg))
        drawn = (self.coefficients_mm[:, 0] + 1j * self.coefficients_mm[:, 1]) * turn * radius_ratio
        return complex(drawn.mean()), np.cov(np.stack([drawn.real, drawn.imag]))

    def mean_coefficients_mm(self) -> FloatArray:
        """Return the mean a_1, b_1, a_2, b_2, … in the hub's own frame, shape (2·ORDERS,)."""
        mean = self.coefficients_mm.mean(axis=0)
        turn = np.exp(1j * np.arange(1, ORDERS + 1) * math.radians(self.frame_deg))
        turned = (mean[0::2] + 1j * mean[1::2]) * turn
        return np.column_stack([turned.real, turned.imag]).ravel()

    def plus(self, other: "Profile") -> "Profile":
        """Return the sum of two profiles that were estimated apart, in this one's frame; draws are taken pairwise."""
        turn = np.exp(1j * np.arange(1, ORDERS + 1) * math.radians(other.frame_deg - self.frame_deg))
        turned = (other.coefficients_mm[:, 0::2] + 1j * other.coefficients_mm[:, 1::2]) * turn
        coefficients = self.coefficients_mm.copy()
        coefficients[:, 0::2] += turned.real
        coefficients[:, 1::2] += turned.imag
        return replace(self, constant_mm=self.constant_mm + other.constant_mm, coefficients_mm=coefficients)

    def scaled(self, radius_ratio: float) -> "Profile":
        """Return the profile at another radius: order n with the n-th power of ``radius_ratio`` (brief 2)."""
        if radius_ratio == 1.0:
            return self
        return replace(self, coefficients_mm=self.coefficients_mm * _scales(radius_ratio))

    def orders(self, first: int, last: int = ORDERS) -> tuple[FloatArray, FloatArray]:
        """Return the drawn a and b of orders ``first`` to ``last`` in the hub's own frame, each (k, orders)."""
        turn = np.exp(1j * np.arange(first, last + 1) * math.radians(self.frame_deg))
        drawn = (
            self.coefficients_mm[:, 2 * first - 2 : 2 * last : 2]
            + 1j * self.coefficients_mm[:, 2 * first - 1 : 2 * last : 2]
        )
        turned = drawn * turn
        return turned.real, turned.imag

    def turned(self, by_deg: float) -> "Profile":
        """Return the profile of the same part turned on by ``by_deg``."""
        return replace(self, frame_deg=self.frame_deg + by_deg)

    def mean_at_mm(self, angles_deg: FloatArray, *, radius_ratio: float = 1.0) -> FloatArray:
        """Return the mean profile at hub angles (n,), without its constant."""
        mean: FloatArray = (self.coefficients_mm.mean(axis=0) * _scales(radius_ratio)) @ harmonics(
            np.asarray(angles_deg) - self.frame_deg, ORDERS
        )
        return mean


def scaled(shape: tuple[float, ...], *scales: tuple[float, float]) -> tuple[tuple[tuple[float, ...], float], ...]:
    """Spell out one shape (orders 2..8) at several (scale, weight)."""
    return tuple((tuple(scale * s for s in shape), weight) for scale, weight in scales)


def harmonics(angles_deg: FloatArray, orders: int) -> FloatArray:
    """Return rows cos θ, sin θ, cos 2θ, … at ``angles_deg`` (n,), shape (2·orders, n)."""
    n_theta = np.arange(1, orders + 1)[:, None] * np.radians(angles_deg)[None, :]
    rows = np.empty((2 * orders, n_theta.shape[1]))
    rows[0::2] = np.cos(n_theta)
    rows[1::2] = np.sin(n_theta)
    return rows


def _scales(radius_ratio: float) -> FloatArray:
    """Return what each coefficient is scaled with at another radius: order n with the n-th power (brief 2)."""
    return np.repeat(radius_ratio ** np.arange(1, ORDERS + 1), 2)


@cache
def _grid_basis() -> FloatArray:
    return harmonics(np.arange(0, 360, GRID_DEG), ORDERS)


def estimate_profile(readings: Readings, *, prior: Prior, stream: int = 0) -> Profile:
    """Draw from the posterior of the profile behind ``readings``."""
    frame_deg = _phase_deg(readings)
    centre = float(readings.values_mm.mean())
    y = readings.values_mm - centre
    columns = [np.ones_like(y)[None, :], harmonics(readings.angles_deg - frame_deg, ORDERS)]
    if readings.progress is not None:
        columns.append(readings.progress[None, :])
    design = np.concatenate(columns).T  # (n, p)

    noise_sd, prior_sd, log_prior = _alternatives(prior, readings.progress is not None)  # (J,), (J, p), (J,)
    rounding_var = readings.step_mm**2 / 12
    # Repeat turns share rounding: only the random part is divided by their number.
    row_var = noise_sd[:, None] ** 2 / readings.turns[None, :] + rounding_var  # (J, n)
    if readings.within_dof:
        one_var = noise_sd**2 + rounding_var
        log_prior = log_prior - 0.5 * (readings.within_dof * np.log(one_var) + readings.within_ss / one_var)
    means, factors, log_weight = _posteriors(design, y, row_var, prior_sd)
    log_weight += log_prior
    spoilt = None
    if prior.spoilt:
        jumps = _lone_jumps(
            design, y, row_var, prior_sd, log_prior, log_weight, chance=prior.spoilt, step_mm=readings.step_mm
        )
        means = np.concatenate([means, *(jump.means for jump in jumps)])
        factors = np.concatenate([factors, *(jump.factors for jump in jumps)])
        log_weight = np.concatenate([log_weight, *(jump.log_weight for jump in jumps)])
        noise_sd = np.tile(noise_sd, 1 + len(jumps))
    weight = np.exp(log_weight - log_weight.max())
    weight[weight < _NEGLIGIBLE_WEIGHT * weight.max()] = 0.0
    weight /= weight.sum()
    if prior.spoilt:
        by_story = weight.reshape(1 + len(jumps), -1).sum(axis=1)
        spoilt = sum((p * jump.rows for p, jump in zip(by_story[1:], jumps, strict=True)), np.zeros(len(y)))

    draws = _mixture_draws(means, factors, weight, stream=stream)
    coefficients = draws[:, 1 : 1 + 2 * ORDERS]
    if readings.progress is None and prior.unseen_drift:
        # A creep of d over the turn is a sawtooth: −(d/π) Σ sin(nθ)/n from wherever the turn began.
        fall = np.repeat(1 / np.arange(1, ORDERS + 1), 2) * (prior.unseen_drift / (math.pi * math.sqrt(2)))
        coefficients = coefficients + normal_draws(2 * ORDERS, stream=stream + 100) * fall
    return Profile(
        constant_mm=draws[:, 0] + centre,
        coefficients_mm=coefficients,
        frame_deg=frame_deg,
        noise_mm=float(np.sqrt(weight @ noise_sd**2)),
        spoilt=spoilt,
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Story:
    """That these rows (n,) are lone jumps: posteriors and log weights (J,) of all alternatives under it."""

    rows: FloatArray
    means: FloatArray
    factors: FloatArray
    log_weight: FloatArray

    @property
    def score(self) -> float:
        """The log weight of the whole story."""
        return float(np.logaddexp.reduce(self.log_weight))


def _lone_jumps(
    design: FloatArray,
    y: FloatArray,
    row_var: FloatArray,
    prior_sd: FloatArray,
    log_prior: FloatArray,
    log_weight: FloatArray,
    *,
    chance: float,
    step_mm: float,
) -> list[_Story]:
    """Name the stories of spoilt readings worth weighing: stations far off what the others say of them, one by one.

    A reading is held against the prediction of all others (R&W eq. 5.12, leave-one-out) under the best alternative of
    every noise; each next suspect is sought with the ones before it set aside, so that several cannot hide each other.
    """
    stories: list[_Story] = []
    rows: FloatArray = np.zeros(len(y))
    best = float(np.logaddexp.reduce(log_weight))
    for _ in range(min(_MOST_JUMPS, max(len(y) - 4, 0) // 2)):
        j = int(np.argmax(log_weight))
        variance = row_var[j] + _JUMP_SD_MM**2 * rows
        off_sd, off_mm = _left_out(design, y, variance, prior_sd[j])
        suspect = (np.abs(off_sd) >= _SUSPECT_SD) & (np.abs(off_mm) >= max(_SUSPECT_MM, 1.5 * step_mm)) & (rows == 0)
        tried = []
        for k in sorted(np.flatnonzero(suspect), key=lambda k: -abs(off_sd[k]))[:2]:
            with_k = rows.copy()
            with_k[k] = 1.0
            means, factors, evidence = _posteriors(design, y, row_var + _JUMP_SD_MM**2 * with_k[None, :], prior_sd)
            log_odds = float(with_k.sum()) * math.log(chance)
            tried.append(_Story(with_k, means, factors, evidence + log_prior + log_odds))
        worth = [story for story in tried if story.score > best - _HOPELESS_NATS]
        if not worth:
            break
        stories += worth
        story = max(worth, key=lambda s: s.score)
        best, rows, log_weight = max(best, story.score), story.rows, story.log_weight
    return stories


def _left_out(
    design: FloatArray, y: FloatArray, variance: FloatArray, prior_sd: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return how far each reading stands off what the others predict of it, in standard deviations and in mm (n,)."""
    covariance = np.diag(variance) + (design * prior_sd**2) @ design.T
    inverse = np.linalg.inv(covariance)
    off = inverse @ y
    return off / np.sqrt(np.diag(inverse)), off / np.diag(inverse)


def _phase_deg(readings: Readings) -> float:
    """Return the phase of the plain first order: the frame in which the draws are made."""
    z = readings.values_mm - readings.values_mm.mean()
    first = np.sum(z * np.exp(1j * np.radians(readings.angles_deg)))
    return math.degrees(float(np.angle(first))) if abs(first) > 1e-12 else 0.0


@cache
def _alternatives(prior: Prior, drift: bool) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Spell out the grid: noise (J,), prior sd of every column (J, p), log prior weight (J,)."""
    noise, rows, log_weight = [], [], []
    drifts = prior.drift if drift else (None,)
    for (noise_mm, noise_weight), first, (shape, shape_weight), drift_mm in product(
        prior.noise, prior.first, prior.shapes, drifts
    ):
        orders = np.repeat([first, *shape], 2)
        rows.append(np.concatenate([[_CONSTANT_SD_MM], orders, [] if drift_mm is None else [drift_mm]]))
        noise.append(noise_mm)
        log_weight.append(math.log(noise_weight * shape_weight))
    return np.array(noise), np.array(rows), np.array(log_weight)


def _posteriors(
    design: FloatArray, y: FloatArray, row_var: FloatArray, prior_sd: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return posterior means (J, p), Cholesky factors of the precisions (J, p, p), log evidence (J,).

    R&W eq. 2.8: A = Φ Σ_n⁻¹ Φᵀ + Σ_p⁻¹, mean = A⁻¹ Φ Σ_n⁻¹ y. The evidence follows from |A| and the
    quadratic form by the matrix determinant and inversion lemmas (A.9, A.10).
    """
    weighted = design.T[None, :, :] / row_var[:, None, :]  # (J, p, n)
    precision = weighted @ design
    diagonal = np.arange(design.shape[1])
    precision[:, diagonal, diagonal] += prior_sd**-2.0
    right = weighted @ y  # (J, p)
    factors = np.linalg.cholesky(precision)
    means = np.linalg.solve(precision, right[..., None])[..., 0]
    log_det = 2 * np.log(factors[:, diagonal, diagonal]).sum(axis=1)
    misfit = (y**2 / row_var).sum(axis=1) - (right * means).sum(axis=1)
    log_evidence = -0.5 * (np.log(row_var).sum(axis=1) + log_det + 2 * np.log(prior_sd).sum(axis=1) + misfit)
    return means, factors, log_evidence


def _mixture_draws(means: FloatArray, factors: FloatArray, weight: FloatArray, *, stream: int) -> FloatArray:
    """Draw from Σ_j w_j N(mean_j, A_j⁻¹), shape (DRAWS, p): systematic over j, antithetic within."""
    half = DRAWS // 2
    bounds = np.round(np.cumsum(weight) * half).astype(int)  # draws stand in blocks, one block an alternative
    bounds[-1] = half
    starts = np.concatenate([[0], bounds[:-1]])
    taken = np.flatnonzero(bounds > starts)
    roots = np.linalg.inv(factors[taken])
    z = normal_draws(means.shape[1], stream=stream)
    draws = np.empty_like(z)
    for j, root in zip(taken, roots, strict=True):
        rows = slice(starts[j], bounds[j])
        # x = mean + L⁻ᵀ z has covariance (L Lᵀ)⁻¹ = A⁻¹
        off = z[rows] @ root
        draws[rows] = means[j] + off
        draws[half + starts[j] : half + bounds[j]] = means[j] - off
    return draws
