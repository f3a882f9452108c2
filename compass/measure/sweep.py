"""One sweep, or its repeat turns: total indicated runout, wobble, saddle, high spot, and what spoils them."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from itertools import combinations
from typing import Final

import numpy as np

from compass.evidence.records import ROTOR_SURFACES, HighSpot, Spec, Surface, Sweep
from compass.ground.angles import wrap_deg
from compass.ground.arrays import BoolArray, FloatArray
from compass.ground.uncertainty import (
    Estimate,
    estimate_from_draws,
    even_bound_sd,
    even_draws,
    normal_draws,
    rounding_sd,
)
from compass.measure.plain_fit import fit_orders, order_count, order_of, plain_residuals
from compass.measure.profile import GRID_DEG, Prior, Profile, Readings, estimate_profile, scaled

MIN_STATIONS: Final = 4
SPOILT: Final = 0.5  # a reading is called a jump where it is likelier spoilt than not
STEADY_GRADUATIONS: Final = 2.0  # closing error and turns; measurement.md#flags
STEADY_SHARE_OF_LIMIT: Final = 0.2  # measurement.md#flags
COARSE_SHARE_OF_LIMIT: Final = 0.25  # measurement.md#flags
TIP_SHARE_OF_RADIUS: Final = 0.8  # measurement.md#flags
_UNMEASURED_THICKNESS_MM: Final = (0.004, 0.002, 0.001, 0.0005, 0.0003, 0.0002, 0.0001, 0.0001)  # sd an order
_UNIT_SLIP_RATIOS: Final = ((8.5, 11.8), (21.0, 30.0))  # ×10 and mm against thou, with reading noise

# Orders of a mounted rotor face, one component, mm. Our estimate of ordinary discs: the alternatives are
# wide enough that readings, not the prior, decide (docs/measurement.md).
FACE: Final = Prior(
    first=(0.004, 0.016, 0.064),
    shapes=(
        *scaled((0.005, 0.002, 0.001, 0.0006, 0.0004, 0.0002, 0.0001), (0.3, 0.3), (1.0, 0.4), (2.5, 0.1)),
        *scaled((0.0013, 0.001, 0.0007, 0.0004, 0.00025, 0.0002, 0.0001), (1.0, 0.1), (3.0, 0.1)),
    ),
    noise=((0.0004, 0.2), (0.001, 0.3), (0.002, 0.25), (0.004, 0.17), (0.008, 0.08)),
    unseen_drift=0.003,
    spoilt=0.01,
)


@dataclass(frozen=True, slots=True, eq=False)
class SweepResult:
    """What the turns of one set-up say, at the measuring radius, outboard sense. Lengths mm, angles degrees.

    ``vector`` is the best estimate of order 1 with its covariance (2, 2), for ``compass.measure.separation``;
    ``wobble`` and ``saddle`` are TIRs (2A) of orders 1 and 2 from the plain least-squares fit;
    ``curve_mm`` is the best estimate on ``curve_deg`` about its mean (a hub face's at its own radius);
    ``residuals_mm`` (n,) stand at the first turn's stations; ``station_range_mm`` is the plain range as read.
    ``face`` is the drawn outboard profile at the measuring radius, for what a remedy would leave of it.
    """

    tir: Estimate | None
    station_range_mm: float
    wobble_mm: float | None
    high_deg: float | None
    saddle_mm: float | None
    saddle_deg: float | None
    drift_mm: float | None
    closing_error_mm: float | None
    repeatability_mm: float | None
    turns: int
    stations: int
    level_mm: float
    vector: complex | None
    vector_covariance: FloatArray | None
    curve_deg: FloatArray
    curve_mm: FloatArray
    residuals_mm: FloatArray
    jumps_deg: tuple[float, ...]
    flags: tuple[str, ...]
    face: Profile | None = None


def analyse_sweep(turns: Sequence[Sweep], *, spec: Spec, thickness: Profile | None = None) -> SweepResult:
    """Analyse one sweep or several turns made under the same conditions.

    An inboard sweep shows z_out − T (measurement.md#inboard-faces), so ``thickness``, the profile of T at the sweep's
    index, is added to it; where T was not measured (None) an ordinary disc's unevenness widens what is said.
    Fewer than four stations give an undetermined result flagged ``too_few_stations``, never an exception.
    """
    first = turns[0]
    ratio = spec.measuring_radius_mm / first.radius_mm
    # A flange's own unevenness does not grow to the disc's edge as a face does: only its tilt does.
    flange = first.surface is Surface.HUB_FACE
    shape_ratio = 1.0 if flange else ratio
    flags = list(set_up_flags(first, spec=spec))
    closing = [t.closing_mm - t.readings_mm[0] for t in turns if t.closing_mm is not None and len(t.readings_mm)]
    closing_error = float(max(closing, key=abs)) if closing else None
    steady_mm = max(STEADY_GRADUATIONS * first.graduation_mm, STEADY_SHARE_OF_LIMIT * spec.max_runout_mm)
    if closing_error is not None and abs(closing_error) > steady_mm + 1e-9:
        flags.append("clamp_moved")

    readings = pool_turns(turns)
    stations = len({round(angle % 360.0, 6) for angle in readings.angles_deg.tolist()})
    plain_range = float(np.ptp(first.readings_mm)) if len(first.readings_mm) else 0.0
    if stations < MIN_STATIONS:
        return _undetermined(first, readings, closing_error, flags, plain_range, len(turns))

    repeatability = (readings.within_ss / readings.within_dof) ** 0.5 if readings.within_dof else None
    if _turns_spread_mm(turns) > steady_mm + 1e-9:
        flags.append("turns_disagree")
    if _ranges_slip([float(np.ptp(t.readings_mm)) for t in turns if t.readings_mm.size]):
        flags.append("unit_slip")

    profile = estimate_profile(readings, prior=FACE)
    nothing = np.zeros(readings.angles_deg.size)
    jumps: BoolArray = (nothing if profile.spoilt is None else profile.spoilt) > SPOILT
    jumps_deg = tuple(sorted({wrap_deg(float(a)) for a in readings.angles_deg[jumps]}))
    if not spec.broken_by_design:
        flags.extend(f"lone_jump:{angle:g}" for angle in jumps_deg)
    orders = order_count(stations)
    fit = fit_orders(_without(readings, jumps), orders=orders)
    added = (thickness or unmeasured_thickness()) if first.surface is Surface.ROTOR_INBOARD else None
    tir = _tir(profile, added, ratio=ratio, shape_ratio=shape_ratio, sweep=first)
    vector, covariance = profile.first_order(radius_ratio=ratio)
    coefficients = fit.coefficients_mm
    if added is not None:
        shift, widened = added.first_order(radius_ratio=ratio)
        vector, covariance = vector + shift, covariance + widened
        coefficients = coefficients + added.mean_coefficients_mm()[: coefficients.size]
    # A dial's error limit enters a vector once (measurement.md#verdicts); half of it, for an amplitude.
    covariance = covariance + np.eye(2) * (even_bound_sd(first.instrument_error_mm) * ratio / 2) ** 2
    curve_deg = np.arange(0.0, 360.0 + GRID_DEG / 2, GRID_DEG)
    curve_mm = profile.mean_at_mm(curve_deg, radius_ratio=shape_ratio)
    if added is not None:
        curve_mm = curve_mm + added.mean_at_mm(curve_deg, radius_ratio=ratio)
    wobble, high = order_of(coefficients, 1, ratio)
    saddle, saddle_deg = order_of(coefficients, 2, shape_ratio) if orders > 1 else (None, None)
    return SweepResult(
        tir=tir,
        station_range_mm=plain_range,
        wobble_mm=wobble,
        high_deg=high,
        saddle_mm=saddle,
        saddle_deg=saddle_deg,
        drift_mm=fit.drift_mm,
        closing_error_mm=closing_error,
        repeatability_mm=repeatability,
        turns=len(turns),
        stations=stations,
        level_mm=float(profile.constant_mm.mean()),
        vector=vector,
        vector_covariance=covariance,
        curve_deg=curve_deg,
        curve_mm=curve_mm,
        residuals_mm=plain_residuals(first, fit),
        jumps_deg=jumps_deg,
        flags=tuple(flags),
        face=None if flange else _face(profile, added, ratio),
    )


def pool_turns(turns: Sequence[Sweep]) -> Readings:
    """Pool turns into mean readings per angle, outboard sense; the closing readings become rows of their own.

    A turn's own zero means nothing, so each turn is first brought to the level of the first one over the
    stations they share.
    """
    sums: dict[tuple[float, bool], list[float]] = {}
    progress: dict[tuple[float, bool], float] = {}
    reference = {round(float(a), 6): z for a, z in _pairs(turns[0])}
    drifts = any(turn.closing_mm is not None for turn in turns)
    for turn in turns:
        pairs = _pairs(turn)
        shared = [z - reference[round(a, 6)] for a, z in pairs if round(a, 6) in reference]
        level = float(np.mean(shared)) if shared else 0.0
        for k, (angle, z) in enumerate(pairs):
            sums.setdefault((angle, False), []).append(z - level)
            progress[angle, False] = k / max(len(pairs), 1)
        if turn.closing_mm is not None and pairs:
            sign = -1.0 if turn.surface is Surface.ROTOR_INBOARD else 1.0
            sums.setdefault((pairs[0][0], True), []).append(sign * turn.closing_mm - level)
            progress[pairs[0][0], True] = 1.0
    keys = list(sums)
    within = list(sums.values())
    means = [sum(v) / len(v) for v in within]
    rows = len([key for key in keys if not key[1]])
    dof = sum(len(v) - 1 for v in within) - (len(turns) - 1)
    return Readings(
        angles_deg=np.array([key[0] for key in keys], dtype=np.float64),
        values_mm=np.array(means, dtype=np.float64),
        turns=np.array([len(v) for v in within], dtype=np.float64),
        progress=np.array([progress[key] for key in keys]) if drifts and rows else None,
        step_mm=turns[0].resolution_mm,
        within_ss=sum((z - m) ** 2 for v, m in zip(within, means, strict=True) for z in v) if dof > 0 else 0.0,
        within_dof=max(dof, 0),
    )


@cache
def unmeasured_thickness() -> Profile:
    """Return what is believed of the thickness of a disc nobody has miked: nothing on average, our estimate wide."""
    drawn = normal_draws(2 * len(_UNMEASURED_THICKNESS_MM), stream=60) * np.repeat(_UNMEASURED_THICKNESS_MM, 2)
    return Profile(constant_mm=np.zeros(len(drawn)), coefficients_mm=drawn, frame_deg=0.0, noise_mm=0.0)


def unit_slip(result: SweepResult, earlier: SweepResult) -> bool:
    """Whether every reading looks a tenth, ten times, or mm-for-thou of an earlier sweep of this corner."""
    return _ranges_slip([result.station_range_mm, earlier.station_range_mm])


def _ranges_slip(ranges_mm: Sequence[float]) -> bool:
    return any(
        low <= max(a, b) / min(a, b) <= high
        for a, b in combinations(ranges_mm, 2)
        if min(a, b) > 0
        for low, high in _UNIT_SLIP_RATIOS
    )


def set_up_flags(sweep: Sweep | HighSpot, *, spec: Spec) -> list[str]:
    """Return what the set-up of a sweep or a quick reading spoils, whatever was read."""
    flags = []
    if not sweep.cleaned:
        flags.append("joint_not_cleaned")
    if not sweep.nuts_torqued and sweep.surface in ROTOR_SURFACES:
        flags.append("nuts_not_torqued")
    if sweep.graduation_mm > COARSE_SHARE_OF_LIMIT * spec.max_runout_mm + 1e-9:
        flags.append("dial_too_coarse")
    if sweep.surface is not Surface.HUB_FACE and (sweep.radius_mm < TIP_SHARE_OF_RADIUS * spec.measuring_radius_mm):
        flags.append("tip_too_far_in")
    return flags


def _pairs(sweep: Sweep) -> list[tuple[float, float]]:
    return [(wrap_deg(float(a)), float(z)) for a, z in zip(sweep.stations_deg, sweep.outboard_readings_mm, strict=True)]


def _turns_spread_mm(turns: Sequence[Sweep]) -> float:
    """Return the largest spread of any station over the turns, each turn's own level taken off."""
    if len(turns) < 2:
        return 0.0
    by_angle: dict[float, list[float]] = {}
    for turn in turns:
        for angle, z in _pairs(turn):
            by_angle.setdefault(round(angle, 6), []).append(z)
    shared = np.array([v for v in by_angle.values() if len(v) == len(turns)])
    if shared.size == 0:
        return 0.0
    return float(np.ptp(shared - shared.mean(axis=0), axis=1).max())


def _without(readings: Readings, jumps: BoolArray) -> Readings:
    if not jumps.any():
        return readings
    keep = ~jumps
    return Readings(
        angles_deg=readings.angles_deg[keep],
        values_mm=readings.values_mm[keep],
        turns=readings.turns[keep],
        progress=None if readings.progress is None else readings.progress[keep],
        step_mm=readings.step_mm,
        within_ss=readings.within_ss,
        within_dof=readings.within_dof,
    )


def _tir(profile: Profile, added: Profile | None, *, ratio: float, shape_ratio: float, sweep: Sweep) -> Estimate:
    if added is None:
        low, high = profile.extremes_mm(radius_ratio=shape_ratio)
        draws = high - low
    else:
        grid_deg = np.arange(0, 360, GRID_DEG) + profile.frame_deg
        curves = profile.curves_mm(radius_ratio=shape_ratio) + added.curves_at_mm(grid_deg, radius_ratio=ratio).T
        draws = np.ptp(curves, axis=0).astype(np.float64)
    if shape_ratio == 1.0:
        draws = draws * ratio
    if sweep.instrument_error_mm:
        # Once to a difference of two readings (measurement.md#verdicts: E/√3).
        draws = np.abs(draws + ratio * sweep.instrument_error_mm * even_draws(stream=1))
    return estimate_from_draws(
        draws,
        budget_parts=(
            profile.noise_mm,
            rounding_sd(sweep.resolution_mm),
            even_bound_sd(sweep.instrument_error_mm) * ratio,
        ),
    )


def _face(profile: Profile, added: Profile | None, ratio: float) -> Profile:
    """Return the outboard face's profile at the measuring radius: an inboard sweep's plus the thickness."""
    return (profile if added is None else profile.plus(added)).scaled(ratio)


def _undetermined(
    sweep: Sweep,
    readings: Readings,
    closing_error_mm: float | None,
    flags: list[str],
    plain_range_mm: float,
    turns: int,
) -> SweepResult:
    nothing = np.zeros(0)
    return SweepResult(
        tir=None,
        station_range_mm=plain_range_mm,
        wobble_mm=None,
        high_deg=None,
        saddle_mm=None,
        saddle_deg=None,
        drift_mm=None,
        closing_error_mm=closing_error_mm,
        repeatability_mm=None,
        turns=turns,
        stations=len(sweep.readings_mm),
        level_mm=float(readings.values_mm.mean()) if readings.values_mm.size else 0.0,
        vector=None,
        vector_covariance=None,
        curve_deg=nothing,
        curve_mm=nothing,
        residuals_mm=nothing,
        jumps_deg=(),
        flags=(*flags, "too_few_stations"),
    )
