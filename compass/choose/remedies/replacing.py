"""New parts: rotors as fitted, after the best index, with the best plate, cut to match; a new hub unit."""

from typing import Final

import numpy as np

from compass.choose.remedies.corner_draws import CornerDraws, at_random, band_mm, ranges, trace_mm
from compass.choose.remedies.cutting import lathe_variation, left_by
from compass.choose.remedies.outcome import Outcome
from compass.choose.remedies.part_draws import ROWS
from compass.choose.remedies.plating import best_of_kit, fitting
from compass.evidence.shop import Lathe, Shop
from compass.ground.arrays import ComplexArray, FloatArray
from compass.ground.uncertainty import DRAWS, even_draws, median, normal_draws

NEW_ROTOR_MM: Final = 0.03  # TIR, where the part's tolerance is not told; our estimate
NEW_HUB_MM: Final = 0.02  # TIR; measurement.md#what-remedies-leave
_NEW_VARIATION_MM: Final = 0.006  # of a new rotor, at most; our estimate
_NEW_THICKNESS_MM: Final = 0.03  # a new rotor's thickness beside its nominal, even bound; our estimate
_REREAD_MM: Final = 0.0015  # sd of the amplitude read again when fitted; our estimate


def new_rotors(draws: CornerDraws) -> Outcome:
    """Return a new rotor as fitted: its own runout even in 0..max, at any angle, on the old hub."""
    installed = _installed(draws)
    return _new(draws, 2 * np.abs(installed), trace=trace_mm(draws.parts.hub, None))


def new_indexed(draws: CornerDraws) -> Outcome:
    """Return a new rotor at the best of its positions, as measured when fitted."""
    positions = np.exp(1j * np.radians(draws.spec.positions_deg))
    hub, rotor = draws.parts.hub + draws.parts.seating, _new_rotor(draws)
    after = hub[:, None] + rotor[:, None] * positions[None, :]
    noise = normal_draws(2, stream=101, rows=ROWS) * _REREAD_MM
    read = np.abs(after + (noise[:, 0] + 1j * noise[:, 1])[:, None])
    best = np.take_along_axis(after, read.argmin(axis=1)[:, None], axis=1)[:, 0]
    return _new(draws, 2 * np.abs(best))


def new_plated(draws: CornerDraws, shop: Shop) -> Outcome | None:
    """Return a new rotor with the plate that suits what is measured when fitted; None without a plate that fits."""
    fits = fitting(shop, draws)
    if not fits:
        return None
    installed = _installed(draws)
    after = best_of_kit(installed, fits, radius_mm=draws.spec.measuring_radius_mm)
    return _new(draws, after, before=2 * np.abs(installed))


def new_matched(draws: CornerDraws, lathe: Lathe) -> Outcome:
    """Return a new rotor cut to match its hub: the installed wobble comes off the new metal."""
    installed, left = _installed(draws), left_by(lathe, rows=ROWS)
    spec = draws.spec
    reach = band_mm(spec)[1] / spec.measuring_radius_mm
    # A plane face tilted by A loses 2A·r/r_m from each pair of faces: T − (max z − min z) − d_out − d_in.
    wobble = 2 * np.abs(installed - at_random(left, stream=97)) * reach
    fed = median(wobble) + lathe.min_depth_mm
    nominal = _thickness(draws, rows=ROWS)
    # A new rotor's thin place is half its variation under its mean.
    uneven = _NEW_VARIATION_MM / 4 * (1 + even_draws(stream=108, rows=ROWS))
    return Outcome(
        runout_mm=left,
        variation_mm=lathe_variation(),
        least_mm=nominal - wobble - uneven - 2 * lathe.min_depth_mm if nominal is not None else None,
        settings={"cut_out_mm": fed, "cut_in_mm": fed},
    )


def hub_unit(draws: CornerDraws) -> Outcome:
    """Return the present rotor on a new hub: then it is measured again."""
    most = draws.spec.new_hub_runout_mm or NEW_HUB_MM
    hub = at_random(most / 2 * (1 + even_draws(stream=102, rows=ROWS)), stream=103)
    runout = ranges(draws.parts.rotor + hub + draws.parts.seating, draws.higher_mm)
    return Outcome(
        runout_mm=runout,
        variation_mm=draws.variation_mm,
        least_mm=draws.metal.least_mm if draws.metal is not None else None,
        trace_mm=trace_mm(draws.parts.rotor, draws.higher_mm),
    )


def _new_rotor(draws: CornerDraws) -> ComplexArray:
    most = draws.spec.new_rotor_runout_mm or NEW_ROTOR_MM
    return at_random(most / 2 * (1 + even_draws(stream=104, rows=ROWS)), stream=105)


def _installed(draws: CornerDraws) -> ComplexArray:
    return draws.parts.hub + draws.parts.seating + _new_rotor(draws)


def _thickness(draws: CornerDraws, *, rows: int) -> FloatArray | None:
    nominal = draws.spec.nominal_thickness_mm
    return None if nominal is None else nominal + _NEW_THICKNESS_MM * even_draws(stream=106, rows=rows)


def _new(
    draws: CornerDraws, runout: FloatArray, *, before: FloatArray | None = None, trace: FloatArray | None = None
) -> Outcome:
    return Outcome(
        runout_mm=runout,
        variation_mm=_NEW_VARIATION_MM / 2 * (1 + even_draws(stream=107)),
        least_mm=_thickness(draws, rows=DRAWS),
        trace_mm=np.zeros(0) if trace is None else trace,
        before_plate_mm=before,
    )
