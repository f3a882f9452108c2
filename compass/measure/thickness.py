"""A round of micrometer readings: minimum, variation, taper. The smallest counts against the limit."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.evidence.records import Spec, ThicknessRound
from compass.ground.arrays import BoolArray, FloatArray
from compass.ground.uncertainty import Estimate, estimate_from_draws, even_bound_sd, even_draws, rounding_sd
from compass.measure.profile import GRID_DEG, Prior, Profile, Readings, estimate_profile, scaled

MIN_STATIONS: Final = 4
MANY_STATIONS: Final = 8  # beyond which readings share rounding errors rather than average them
COARSE_SHARE_OF_LIMIT: Final = 0.25  # measurement.md#thickness
# Neighbouring thicknesses fall into the same step of a coarse micrometer, so part of the rounding error is common
# to all readings and does not average out. The share is fitted to simulated corners (docs/measurement.md).
_SHARED_ROUNDING: Final = 0.42
_LEAST, _MOST = 0.7, 1.25  # times discard, times new: beyond them no disc is measured
_MOST_OF_DISCARD: Final = 1.5  # where nobody says how thick it is when new
_OVER_NEW_MM: Final = 0.3  # what a new disc may have over the maker's figure, with rust; our estimate
_APART_MM: Final = 0.5  # from the middle of its fellows: no disc that still brakes varies so much
_FELLOWS: Final = 3
_THINNEST: Final = 0.3  # times discard: a disc as thin as that has come apart; our estimate
_MOST_LONE: Final = 1 / 3  # of the stations; where more stand apart nobody knows which are the disc's
_STANDS_OUT_MM: Final = 0.04  # between its neighbours, more than a pad's print goes down in one station; our estimate
_OF_THE_REST: Final = 4.0  # times what the other stations stand out between theirs
_ENOUGH_TO_TELL: Final = 6  # stations of a row that are read
_MODEL_ERROR: Final = 1.05  # U of the draws falls a little short over simulated corners, patches above all; fitted

# Orders of thickness round a disc, one component, mm; our estimate, with wide alternatives as for faces.
THICKNESS: Final = Prior(
    first=(0.0006, 0.003, 0.012),
    shapes=(
        *scaled((0.002, 0.001, 0.0005, 0.0003, 0.0002, 0.0001, 0.0001), (0.3, 0.25), (1.0, 0.25), (3.0, 0.2)),
        *scaled((0.0013, 0.001, 0.0007, 0.0004, 0.00025, 0.0002, 0.0001), (1.0, 0.15)),
        *scaled((0.0013, 0.0011, 0.0008, 0.0005, 0.00035, 0.0002, 0.0001), (4.0, 0.15)),
    ),
    noise=((0.0005, 0.22), (0.001, 0.34), (0.002, 0.33), (0.004, 0.11)),
)

# What one radius has of its own beside the others, one component, mm; mostly little (our estimate).
OWN_OF_A_RADIUS: Final = Prior(
    first=(0.0001, 0.0008, 0.004),
    shapes=scaled((0.002, 0.001, 0.0005, 0.0003, 0.0002, 0.0001, 0.0001), (0.05, 0.5), (0.3, 0.3), (1.0, 0.2)),
    noise=((0.0005, 0.2), (0.001, 0.25), (0.002, 0.35), (0.004, 0.2)),
)


@dataclass(frozen=True, slots=True, eq=False)
class ThicknessResult:
    """Minimum (with place), variation and taper of a round; curves (radii, GRID) at ``curve_deg``, all mm.

    ``taper_mm`` is mean(inner) − mean(outer): positive where the outer edge is thinner; None with one radius.
    ``offset_mm`` and ``variation_mm`` (k,) are draws: what is common to all readings, and the variation. ``readings``
    are those it rests on: without the stations where one can hardly be of this disc; ``alone_deg`` is where one of them
    stands out between its neighbours, in the only round there is.
    """

    minimum: Estimate
    minimum_deg: float
    variation: Estimate | None
    taper_mm: float | None
    as_read_min_mm: float
    as_read_range_mm: float
    curve_deg: FloatArray
    curve_mm: FloatArray
    radii_mm: FloatArray
    profiles: tuple[Profile, ...]
    offset_mm: FloatArray
    variation_mm: FloatArray
    flags: tuple[str, ...]
    readings: ThicknessRound
    alone_deg: tuple[float, ...] = ()

    @property
    def is_doubted(self) -> bool:
        """Whether a reading, or all of them, can hardly be of this disc: nothing is cleared by them."""
        return any(flag.partition(":")[0] in ("lone_jump", "unit_slip") for flag in self.flags)

    def profile_near(self, radius_mm: float) -> Profile:
        """Return the profile (hub angles as miked) of the measured radius nearest to ``radius_mm``."""
        return self.profiles[int(np.argmin(np.abs(self.radii_mm - radius_mm)))]


def analyse_thickness(measured: ThicknessRound, *, spec: Spec) -> ThicknessResult:
    """Analyse a thickness grid; under four stations the variation is undetermined and flagged.

    Stations where a reading can hardly be of this disc are left out and flagged ``lone_jump:<hub angle>``, unless
    another round read the same there; a round that cannot be of it as a whole is flagged ``unit_slip``.
    """
    lone = lone_readings(measured.readings_mm).any(axis=0) & (measured.rounds == 1)
    flags = [f"lone_jump:{angle:g}" for angle in measured.stations_deg[lone]]
    measured = replace(measured, stations_deg=measured.stations_deg[~lone], readings_mm=measured.readings_mm[:, ~lone])
    if _slipped(measured, spec):
        flags.append("unit_slip")
    if measured.graduation_mm > COARSE_SHARE_OF_LIMIT * spec.max_thickness_variation_mm + 1e-9:
        flags.append("micrometer_too_coarse")
    if measured.stations_deg.size < MIN_STATIONS:
        flags.append("too_few_stations")
    if measured.over_lips is not None and not measured.over_lips.is_measured:
        flags.append("lips_not_measured")

    lows, ranges, curves = [], [], []
    noise = 0.0
    grid_deg = np.arange(0.0, 360.0 + GRID_DEG / 2, GRID_DEG)
    profiles = _profiles(measured)
    for profile in profiles:
        lowest, highest = profile.extremes_mm()
        lows.append(profile.constant_mm + lowest)
        ranges.append(highest - lowest)
        curves.append(profile.constant_mm.mean() + profile.mean_at_mm(grid_deg))
        noise = max(noise, profile.noise_mm)

    offset_draws, lips_mm, offset_sd = _offsets(measured)
    parts = (noise, rounding_sd(measured.graduation_mm), offset_sd)
    curve = np.array(curves) - lips_mm
    # The rounding errors at the thickest and at the thinnest place do not average out over many stations.
    crowded = max(0.0, 1 - MANY_STATIONS / measured.stations_deg.size) ** 0.5
    common_mm = _SHARED_ROUNDING * measured.graduation_mm / 2 * crowded
    variation_draws = np.abs(np.max(ranges, axis=0) + common_mm * (even_draws(stream=6) + even_draws(stream=7)))
    means = measured.readings_mm.mean(axis=1)
    taper = None
    if means.size > 1:
        inner, outer = int(np.argmin(measured.radii_mm)), int(np.argmax(measured.radii_mm))
        taper = float(means[inner] - means[outer])
    return ThicknessResult(
        minimum=estimate_from_draws(
            np.min(lows, axis=0) - lips_mm + offset_draws, budget_parts=parts, widened=_MODEL_ERROR
        ),
        minimum_deg=float(grid_deg[int(np.argmin(curve.min(axis=0)))] % 360.0),
        # A micrometer's error limit is an offset: it cancels in the variation (measurement.md#thickness).
        variation=(
            None
            if measured.stations_deg.size < MIN_STATIONS
            else estimate_from_draws(variation_draws, budget_parts=(noise, parts[1], 0.0), widened=_MODEL_ERROR)
        ),
        taper_mm=taper,
        as_read_min_mm=float(measured.readings_mm.min()) - lips_mm,
        as_read_range_mm=float(np.ptp(measured.readings_mm, axis=1).max()),
        curve_deg=grid_deg,
        curve_mm=curve,
        radii_mm=measured.radii_mm,
        profiles=tuple(profiles),
        offset_mm=offset_draws - lips_mm,
        variation_mm=variation_draws,
        flags=tuple(flags),
        readings=measured,
        alone_deg=_alone_deg(measured) if measured.rounds == 1 else (),
    )


def lone_readings(rows_mm: FloatArray) -> BoolArray:
    """Return which readings (radii, stations) of one round stand far from the rest of their row; none where many do."""
    apart: BoolArray = np.abs(rows_mm - np.median(rows_mm, axis=1, keepdims=True)) > _APART_MM
    few = rows_mm.shape[1] > _FELLOWS and apart.any(axis=0).mean() <= _MOST_LONE
    return apart if few else np.zeros_like(apart)


def _alone_deg(measured: ThicknessRound) -> tuple[float, ...]:
    found = {k for k in map(stands_alone, measured.readings_mm) if k is not None}
    return tuple(float(measured.stations_deg[k]) for k in sorted(found))


def _slipped(measured: ThicknessRound, spec: Spec) -> bool:
    """Whether no such disc can have been miked: far thicker than new, thinner than one that holds, or of two kinds."""
    lips = measured.over_lips
    over_mm = 0.0 if lips is None else lips.outboard_mm + lips.inboard_mm
    middle = float(np.median(measured.readings_mm)) - over_mm
    apart = measured.rounds == 1 and np.ptp(measured.readings_mm, axis=1).max() > 2 * _APART_MM
    return bool(apart or middle < _THINNEST * spec.discard_thickness_mm or middle > _most_mm(spec))


def _most_mm(spec: Spec) -> float:
    new, discard = spec.nominal_thickness_mm, spec.discard_thickness_mm
    return _MOST * new if new is not None else _MOST_OF_DISCARD * discard


def is_doubtful(mm: float, others_mm: Sequence[float], *, spec: Spec) -> bool:
    """Whether a reading (mm) can hardly be of this disc: far beyond what it may measure, or far from its fellows.

    A digit missed, another unit, a reading of the dial: our estimates of how far no disc goes, wide on either side.
    """
    if not _LEAST * spec.discard_thickness_mm <= mm <= _most_mm(spec):
        return True
    return len(others_mm) >= _FELLOWS and abs(mm - float(np.median(others_mm))) > _APART_MM


def stands_alone(row: FloatArray) -> int | None:
    """Return which reading of a row (n,), in the order of its stations, stands out between its neighbours, mm.

    A figure slipped by a tenth looks like a narrow patch, and one round cannot tell. NaN where nothing was read; None
    where no reading stands out, or too few are read to say.
    """
    if np.isfinite(row).sum() < _ENOUGH_TO_TELL:
        return None
    out = row - (np.roll(row, 1) + np.roll(row, -1)) / 2
    size = np.where(np.isfinite(out), np.abs(out), 0.0)
    k = int(np.argmax(size))
    beside = max(size[k - 1], size[(k + 1) % row.size])
    rest = np.delete(size, [(k + step) % row.size for step in (-1, 0, 1)])
    alone = size[k] > _STANDS_OUT_MM and size[k] > _OF_THE_REST * rest.max()
    # Two stations of a wider patch stand out alike, and neither alone.
    return k if alone and beside < 0.75 * size[k] else None


def is_over_new(mm: float, *, spec: Spec) -> bool:
    """Whether a reading (mm) is thicker than the disc can have been when it was new: over a lip, on rust, another."""
    return spec.nominal_thickness_mm is not None and mm > spec.nominal_thickness_mm + _OVER_NEW_MM


def _profiles(measured: ThicknessRound) -> tuple[Profile, ...]:
    """Return the profile at every radius: what all radii share, and what each has of its own.

    Wear and casting follow the angle more than the radius. Estimating every radius by itself would let noise choose
    the largest of several ranges.
    """
    shared_mm = measured.readings_mm.mean(axis=0)
    radii = measured.radii_mm.size

    def read(values: FloatArray, turns: float, prior: Prior, stream: int) -> Profile:
        readings = Readings(measured.stations_deg, values, np.full(values.size, turns), None, measured.graduation_mm)
        return estimate_profile(readings, prior=prior, stream=stream)

    shared = read(shared_mm, float(radii * measured.rounds), THICKNESS, 0)
    if radii == 1:
        return (shared,)
    return tuple(
        shared.plus(read(values - shared_mm, float(measured.rounds), OWN_OF_A_RADIUS, 10 + row))
        for row, values in enumerate(measured.readings_mm)
    )


def _offsets(measured: ThicknessRound) -> tuple[FloatArray, float, float]:
    """Return draws of what is common to all readings (k,), the lips to take off, and the offset's u, mm."""
    shared_mm = _SHARED_ROUNDING * measured.graduation_mm / 2
    draws = measured.instrument_error_mm * even_draws(stream=2) + shared_mm * even_draws(stream=5)
    variance = even_bound_sd(measured.instrument_error_mm) ** 2 + even_bound_sd(shared_mm) ** 2
    if measured.over_lips is None:
        return draws, 0.0, float(variance**0.5)
    lips = measured.over_lips
    # T = overall − outboard lip − inboard lip, each an even bound (measurement.md#thickness).
    draws = draws + lips.within_mm * (even_draws(stream=3) + even_draws(stream=4))
    variance += 2 * even_bound_sd(lips.within_mm) ** 2
    return draws, lips.outboard_mm + lips.inboard_mm, float(variance**0.5)
