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

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, lru_cache
from itertools import product
from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray, IntArray
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
        """Return the drawn profiles on the grid, shape (GRID points, k), single precision, without their constant.

        ``radius_ratio`` is r_m/r: order n scales with its n-th power (measurement.md#radius).
        """
        basis = _grid_basis()
        if radius_ratio != 1.0:
            basis = basis * _scales(radius_ratio).astype(np.float32)
        curves: FloatArray = basis @ self.coefficients_mm.T.astype(np.float32)
        return curves

    def extremes_mm(self, *, radius_ratio: float = 1.0) -> tuple[FloatArray, FloatArray]:
        """Return the lowest and the highest place of every drawn profile (k,), without its constant."""
        curves = self.curves_mm(radius_ratio=radius_ratio)
        return curves.min(axis=0).astype(np.float64), curves.max(axis=0).astype(np.float64)

    def curves_at_mm(self, angles_deg: FloatArray, *, radius_ratio: float = 1.0) -> FloatArray:
        """Evaluate every draw at hub angles (n,), without its constant, shape (k, n)."""
        basis = harmonics(np.asarray(angles_deg) - self.frame_deg, ORDERS)
        curves: FloatArray = self.coefficients_mm @ (basis * _scales(radius_ratio)[:, None])
        return curves

    def first_order(self, *, radius_ratio: float = 1.0) -> tuple[complex, FloatArray]:
        """Return the mean first-order vector A·e^{iα} and the covariance (2, 2) of its two components, mm and mm²."""
        drawn = self.coefficients_mm[:, :2] * radius_ratio
        mean = drawn.mean(axis=0)
        off = (drawn - mean) @ _turning(1, self.frame_deg)[:2, :2]
        vector = complex(*mean.tolist()) * cmath.exp(1j * math.radians(self.frame_deg))
        return vector, off.T @ off / (len(off) - 1)

    def mean_coefficients_mm(self) -> FloatArray:
        """Return the mean a_1, b_1, a_2, b_2, … in the hub's own frame, shape (2·ORDERS,)."""
        mean: FloatArray = self.coefficients_mm.mean(axis=0) @ _turning(1, self.frame_deg)
        return mean

    def plus(self, other: "Profile") -> "Profile":
        """Return the sum of two profiles that were estimated apart, in this one's frame; draws are taken pairwise."""
        turn = np.exp(1j * np.arange(1, ORDERS + 1) * math.radians(other.frame_deg - self.frame_deg))
        turned = (other.coefficients_mm[:, 0::2] + 1j * other.coefficients_mm[:, 1::2]) * turn
        coefficients = self.coefficients_mm.copy()
        coefficients[:, 0::2] += turned.real
        coefficients[:, 1::2] += turned.imag
        return replace(self, constant_mm=self.constant_mm + other.constant_mm, coefficients_mm=coefficients)

    def scaled(self, radius_ratio: float) -> "Profile":
        """Return the profile at another radius: order n times ``radius_ratio``ⁿ (measurement.md#radius)."""
        if radius_ratio == 1.0:
            return self
        return replace(self, coefficients_mm=self.coefficients_mm * _scales(radius_ratio))

    def orders_mm(self, first: int = 1) -> FloatArray:
        """Return the drawn orders from ``first`` in the hub's own frame: a, b, a, b, … (k, 2·orders)."""
        turned: FloatArray = self.coefficients_mm[:, 2 * first - 2 :] @ _turning(first, self.frame_deg)
        return turned

    def turned(self, by_deg: float) -> "Profile":
        """Return the profile of the same part turned on by ``by_deg``."""
        return replace(self, frame_deg=self.frame_deg + by_deg)

    def mean_at_mm(self, angles_deg: FloatArray, *, radius_ratio: float = 1.0) -> FloatArray:
        """Return the mean profile at hub angles (n,), without its constant."""
        angles = np.ascontiguousarray(angles_deg, dtype=np.float64)
        mean: FloatArray = (self.mean_coefficients_mm() * _scales(radius_ratio)) @ _harmonics_at(angles.tobytes())
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


@lru_cache(maxsize=64)
def _harmonics_at(angles_deg: bytes) -> FloatArray:
    """Return ``harmonics`` of all orders at angles that are asked for again and again: a grid, a set-up's stations."""
    rows = harmonics(np.frombuffer(angles_deg), ORDERS)
    rows.flags.writeable = False
    return rows


def _scales(radius_ratio: float) -> FloatArray:
    """Return what each coefficient is scaled with at another radius: the n-th power (measurement.md#radius)."""
    return np.repeat(radius_ratio ** np.arange(1, ORDERS + 1), 2)


@cache
def _grid_basis() -> FloatArray:
    """Return cos and sin columns of all orders on the grid (points, 2·ORDERS), single precision."""
    return np.ascontiguousarray(harmonics(np.arange(0, 360, GRID_DEG), ORDERS).T, dtype=np.float32)


def estimate_profile(readings: Readings, *, prior: Prior, stream: int = 0) -> Profile:
    """Draw from the posterior of the profile behind ``readings``."""
    frame_deg = _phase_deg(readings)
    centre = float(readings.values_mm.mean())
    y = readings.values_mm - centre
    noise_sd, noise_log, _shapes, shape_log = _alternatives(prior, readings.progress is not None)
    rounding_var = readings.step_mm**2 / 12
    log_prior = noise_log[:, None] + shape_log[None, :]  # (N, S)
    if readings.within_dof:
        one_var = noise_sd**2 + rounding_var
        log_prior = log_prior - 0.5 * (readings.within_dof * np.log(one_var) + readings.within_ss / one_var).reshape(
            -1, 1
        )
    stories = [_story(readings, y, prior, noise_sd, rounding_var, log_prior, spoilt=())]
    if prior.spoilt:
        stories += _lone_jumps(readings, y, prior, noise_sd, rounding_var, log_prior, stories[0])
    log_weight = np.concatenate([story.log_weight.ravel() for story in stories])
    weight = np.exp(log_weight - log_weight.max())
    weight[weight < _NEGLIGIBLE_WEIGHT * weight.max()] = 0.0
    weight /= weight.sum()
    spoilt = None
    if prior.spoilt:
        spoilt = np.zeros(len(y))
        for share, story in zip(weight.reshape(len(stories), -1).sum(axis=1), stories, strict=True):
            spoilt[list(story.spoilt)] += share

    draws = _mixture_draws(stories, weight, frame_deg=frame_deg, stream=stream)
    coefficients = draws[:, 1 : 1 + 2 * ORDERS]
    if readings.progress is None and prior.unseen_drift:
        # A creep of d over the turn is a sawtooth: −(d/π) Σ sin(nθ)/n from wherever the turn began.
        fall = np.repeat(1 / np.arange(1, ORDERS + 1), 2) * (prior.unseen_drift / (math.pi * math.sqrt(2)))
        coefficients = coefficients + normal_draws(2 * ORDERS, stream=stream + 100) * fall
    by_noise = weight.reshape(len(stories), noise_sd.size, -1).sum(axis=(0, 2))
    return Profile(
        constant_mm=draws[:, 0] + centre,
        coefficients_mm=coefficients,
        frame_deg=frame_deg,
        noise_mm=float(np.sqrt(by_noise @ noise_sd**2)),
        spoilt=spoilt,
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Spectrum:
    """A set-up's prior covariances of its readings, by alternative: K = U λ Uᵀ (S, n), and W = Σ_p^½ Φᵀ U (S, p, n).

    It knows no reading and no noise, so it is worked out once for a set-up. Columns p: constant, orders, drift, then
    one for every reading that is taken to be spoilt.
    """

    values: FloatArray
    vectors: FloatArray
    weights: FloatArray
    prior_sd: FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class _Story:
    """That the readings ``spoilt`` are lone jumps: log weights (N, S) of noises and shapes under it.

    ``read`` is Uᵀ y (S, n) and ``noise_var`` (N, 1) or, where turns are not alike, 1 for whitened readings.
    """

    spoilt: tuple[int, ...]
    spectrum: _Spectrum
    read: FloatArray
    noise_var: FloatArray
    log_weight: FloatArray
    whitened: bool

    @property
    def score(self) -> float:
        """The log weight of the whole story."""
        return float(np.logaddexp.reduce(self.log_weight, axis=None))

    def parts(self, alternatives: IntArray) -> tuple[IntArray, FloatArray]:
        """Return which spectrum and which noise variance (k,) flattened alternatives (k,) have."""
        if self.whitened:  # a spectrum for every alternative
            return alternatives, np.ones(alternatives.size)
        noise, shape = np.divmod(alternatives, self.log_weight.shape[1])
        return shape, self.noise_var[noise, 0]


def _story(
    readings: Readings,
    y: FloatArray,
    prior: Prior,
    noise_sd: FloatArray,
    rounding_var: float,
    log_prior: FloatArray,
    *,
    spoilt: tuple[int, ...],
) -> _Story:
    """Weigh every alternative with some readings taken to be spoilt.

    Evidence: log N(y | 0, K + v·1) from the spectrum of K (Rasmussen & Williams eq. 2.30). Repeat turns share
    rounding: only the random part is divided by their number.
    """
    turns = readings.turns
    progress = None if readings.progress is None else readings.progress.tobytes()
    alike = bool((turns == turns[0]).all())
    if alike:
        spectrum = _spectrum(prior, readings.angles_deg.tobytes(), progress, spoilt)
        noise_var = (noise_sd**2 / turns[0] + rounding_var)[:, None]  # (N, 1)
        read = np.einsum("snk,n->sk", spectrum.vectors, y)
        total = spectrum.values[None] + noise_var[:, :, None]  # (N, S, n)
        log_weight = -0.5 * (np.log(total) + read[None] ** 2 / total).sum(axis=2)
    else:
        row_sd = np.sqrt(noise_sd[:, None] ** 2 / turns + rounding_var)  # (N, n)
        _noise, _log, shapes, _shape_log = _alternatives(prior, readings.progress is not None)
        scaled = _scaled_design(readings.angles_deg, readings.progress, shapes, spoilt)  # (S, n, p)
        spectrum = _spectrum_of(
            (scaled[None] / row_sd[:, None, :, None]).reshape(-1, *scaled.shape[1:]), shapes, spoilt
        )
        white = np.repeat(y / row_sd, len(shapes), axis=0)  # (N·S, n)
        read = np.einsum("snk,sn->sk", spectrum.vectors, white)
        total = spectrum.values + 1.0
        log_weight = -0.5 * (np.log(total) + read**2 / total).sum(axis=1).reshape(log_prior.shape)
        log_weight = log_weight - np.log(row_sd).sum(axis=1)[:, None]
        noise_var = np.ones((1, 1))
    log_weight = log_weight + log_prior + len(spoilt) * math.log(prior.spoilt or 1.0)
    return _Story(spoilt, spectrum, read, noise_var, log_weight, not alike)


@lru_cache(maxsize=256)
def _spectrum(prior: Prior, angles: bytes, progress: bytes | None, spoilt: tuple[int, ...]) -> _Spectrum:
    shapes = _alternatives(prior, progress is not None)[2]
    passed = None if progress is None else np.frombuffer(progress)
    return _spectrum_of(_scaled_design(np.frombuffer(angles), passed, shapes, spoilt), shapes, spoilt)


def _scaled_design(
    angles_deg: FloatArray, progress: FloatArray | None, shapes: FloatArray, spoilt: tuple[int, ...]
) -> FloatArray:
    """Return Φ Σ_p^½ (S, n, p): a column for what a spoilt reading is off by stands last."""
    columns = [np.ones((1, angles_deg.size)), harmonics(angles_deg, ORDERS)]
    if progress is not None:
        columns.append(progress[None, :])
    columns += [np.eye(angles_deg.size)[[k]] for k in spoilt]
    design = np.concatenate(columns).T
    scaled: FloatArray = design[None] * _with_jumps(shapes, spoilt)[:, None, :]
    return scaled


def _with_jumps(shapes: FloatArray, spoilt: tuple[int, ...]) -> FloatArray:
    return np.concatenate([shapes, np.full((len(shapes), len(spoilt)), _JUMP_SD_MM)], axis=1)


def _spectrum_of(scaled: FloatArray, shapes: FloatArray, spoilt: tuple[int, ...]) -> _Spectrum:
    values, vectors = np.linalg.eigh(scaled @ np.swapaxes(scaled, 1, 2))
    prior_sd = _with_jumps(shapes, spoilt)
    return _Spectrum(
        np.maximum(values, 0.0),
        vectors,
        np.swapaxes(scaled, 1, 2) @ vectors,
        np.tile(prior_sd, (len(scaled) // len(prior_sd), 1)),
    )


def _lone_jumps(
    readings: Readings,
    y: FloatArray,
    prior: Prior,
    noise_sd: FloatArray,
    rounding_var: float,
    log_prior: FloatArray,
    plain: _Story,
) -> list[_Story]:
    """Name the stories of spoilt readings worth weighing: stations far off what the others say of them, one by one.

    A reading is held against the prediction of all others (R&W eq. 5.12, leave-one-out) under the likeliest
    alternative; each next suspect is sought with the ones before it set aside, so that several cannot hide each other.
    """
    stories: list[_Story] = []
    story, best = plain, plain.score
    for _ in range(min(_MOST_JUMPS, max(len(y) - 4, 0) // 2)):
        off_sd, off_mm = _left_out(story, readings, noise_sd, rounding_var)
        least_mm = max(_SUSPECT_MM, 1.5 * readings.step_mm)
        suspect = (np.abs(off_sd) >= _SUSPECT_SD) & (np.abs(off_mm) >= least_mm)
        suspect[list(story.spoilt)] = False
        tried = [
            _story(readings, y, prior, noise_sd, rounding_var, log_prior, spoilt=(*story.spoilt, int(k)))
            for k in sorted(np.flatnonzero(suspect), key=lambda k: -abs(off_sd[k]))[:2]
        ]
        worth = [s for s in tried if s.score > best - _HOPELESS_NATS]
        if not worth:
            break
        stories += worth
        story = max(worth, key=lambda s: s.score)
        best = max(best, story.score)
    return stories


def _left_out(
    story: _Story, readings: Readings, noise_sd: FloatArray, rounding_var: float
) -> tuple[FloatArray, FloatArray]:
    """Return how far each reading stands off what the others predict of it, in standard deviations and in mm (n,)."""
    best = int(np.argmax(story.log_weight))
    which, noise_var = (part[0] for part in story.parts(np.array([best])))
    vectors = story.spectrum.vectors[which]
    shrunk = 1 / (story.spectrum.values[which] + noise_var)
    off = vectors @ (story.read[which] * shrunk)
    inverse = vectors**2 @ shrunk
    if story.whitened:  # back to millimetres
        row_sd = np.sqrt(noise_sd[best // story.log_weight.shape[1]] ** 2 / readings.turns + rounding_var)
        return off / np.sqrt(inverse), off / inverse * row_sd
    return off / np.sqrt(inverse), off / inverse


def _phase_deg(readings: Readings) -> float:
    """Return the phase of the plain first order: the frame in which the draws are made."""
    z = readings.values_mm - readings.values_mm.mean()
    along, across = (_harmonics_at(readings.angles_deg.tobytes())[:2] @ z).tolist()
    return math.degrees(math.atan2(across, along)) if math.hypot(along, across) > 1e-12 else 0.0


@cache
def _alternatives(prior: Prior, drift: bool) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Spell out the grid: noise sd (N,) and log weight (N,), prior sd of every column (S, p) and log weight (S,)."""
    rows, log_weight = [], []
    drifts = prior.drift if drift else (None,)
    for first, (shape, shape_weight), drift_mm in product(prior.first, prior.shapes, drifts):
        orders = np.repeat([first, *shape], 2)
        rows.append(np.concatenate([[_CONSTANT_SD_MM], orders, [] if drift_mm is None else [drift_mm]]))
        log_weight.append(math.log(shape_weight))
    noise = np.array([noise_mm for noise_mm, _ in prior.noise])
    noise_log = np.log([noise_weight for _, noise_weight in prior.noise])
    return noise, noise_log, np.array(rows), np.array(log_weight)


def _mixture_draws(stories: Sequence[_Story], weight: FloatArray, *, frame_deg: float, stream: int) -> FloatArray:
    """Draw from Σ_j w_j N(mean_j, C_j), shape (DRAWS, p): systematic over j, antithetic within.

    With K = U λ Uᵀ, W = Σ_p^½ Φᵀ U and q = Uᵀ y (R&W eq. 2.25): mean = Σ_p^½ W q/(λ+v), and Σ_p^½ (1 − W h Wᵀ) with
    h = 1/(λ + v + √(v(λ+v))) is a root of C = Σ_p − Σ_p^½ W (1/(λ+v)) Wᵀ Σ_p^½. The draws stand in a frame that turns
    with the readings: they are turned out of it for W, whose harmonics stand still, and back.
    """
    half = DRAWS // 2
    bounds = np.round(np.cumsum(weight) * half).astype(int)  # draws stand in blocks, one block an alternative
    bounds[-1] = half
    blocks = bounds.copy()
    blocks[1:] -= bounds[:-1]
    alternatives = np.repeat(np.arange(weight.size), blocks)  # (half,)
    columns = stories[0].spectrum.prior_sd.shape[1]
    z = normal_draws(columns, stream=stream)[:half].copy()
    harmonic = slice(1, 1 + 2 * ORDERS)
    turn = _turning(1, frame_deg)
    z[:, harmonic] = z[:, harmonic] @ turn
    draws = np.empty((DRAWS, columns))
    a_story = stories[0].log_weight.size
    for number, story in enumerate(stories):
        first, last = np.searchsorted(alternatives, (number * a_story, (number + 1) * a_story))
        if first == last:
            continue
        which, noise_var = story.parts(alternatives[first:last] - number * a_story)
        free = z[first:last]
        if story.spoilt:
            extra = normal_draws(len(story.spoilt), stream=stream + 200)[first:last]
            free = np.concatenate([free, extra], axis=1)
        spectrum = story.spectrum
        # Shape by shape: whatever their noise, draws of a shape share its spectrum, and one product serves them all.
        order = np.argsort(which, kind="stable")
        which, noise, free = which[order], noise_var[order, None], free[order]
        total = spectrum.values[which] + noise
        shrinks, explained = 1 / (total + np.sqrt(noise * total)), story.read[which] / total
        mean, off = np.empty_like(free), np.empty_like(free)
        begins = [0, *(np.flatnonzero(which[1:] != which[:-1]) + 1).tolist()]
        for begin, end in zip(begins, [*begins[1:], which.size], strict=True):
            rows, own = slice(begin, end), spectrum.weights[which[begin]]
            np.matmul((free[rows] @ own) * shrinks[rows], own.T, out=off[rows])
            np.matmul(explained[rows], own.T, out=mean[rows])
        np.subtract(free, off, out=off)
        sd = spectrum.prior_sd[which]
        draws[first + order] = ((mean + off) * sd)[:, :columns]
        draws[half + first + order] = ((mean - off) * sd)[:, :columns]
    draws[:, harmonic] = draws[:, harmonic] @ turn.T
    return draws


@lru_cache(maxsize=64)
def _turning(first: int, by_deg: float) -> FloatArray:
    """Return what turns rows a, b, a, b, … of orders ``first`` to the last by ``by_deg``: (a + ib)·e^{inφ}."""
    by = np.arange(first, ORDERS + 1) * math.radians(by_deg)
    turn = np.zeros((2 * by.size, 2 * by.size))
    a, b = np.arange(0, 2 * by.size, 2), np.arange(1, 2 * by.size, 2)
    turn[a, a] = turn[b, b] = np.cos(by)
    turn[a, b] = np.sin(by)
    turn[b, a] = -turn[a, b]
    turn.flags.writeable = False
    return turn
