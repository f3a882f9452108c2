"""A quick reading: amount and place of the high spot only. Good for everything below, with a wider uncertainty.

What a dial shows on a slow turn is the range of the whole face; hub and rotor are told apart by first orders. How
the two hang together is taken from a bank of faces drawn from the same prior as the sweeps': among the faces that
would show this amount, where is the wobble, and how large (importance weights, Rubin 1988).
"""

import math
from functools import cache
from typing import Final

import numpy as np

from compass.evidence.records import HighSpot, Spec
from compass.ground.angles import wrap_deg
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import Budget, Estimate, rounding_sd
from compass.measure.plain_fit import TYPICAL_NOISE_MM
from compass.measure.profile import GRID_DEG, ORDERS, harmonics, scaled
from compass.measure.sweep import FACE

_BANK: Final = 8000  # faces
# Orders 2..8 beside the wobble, one component, mm. Narrower than the sweeps' alternatives: one amount cannot tell a
# bad saddle from a large wobble, so ordinary faces must speak for it (our estimate).
_BESIDE: Final = scaled((0.005, 0.002, 0.001, 0.0006, 0.0004, 0.0002, 0.0001), (0.2, 0.35), (0.5, 0.35), (1.0, 0.3))
_KERNEL_SHARE: Final = 0.04  # of the amount: how near a face's range must come to count
_SEED: Final = 30_203


def quick_tir(spot: HighSpot, *, spec: Spec) -> Estimate:
    """Return the TIR at the measuring radius: a difference of two readings, u = √(2u²) (measurement.md#verdicts)."""
    ratio = spec.measuring_radius_mm / spot.radius_mm
    rounding = rounding_sd(spot.graduation_mm)
    u = math.sqrt(2) * max(rounding, TYPICAL_NOISE_MM) * ratio
    budget = Budget(noise_mm=TYPICAL_NOISE_MM, rounding_mm=rounding, instrument_mm=0.0, fit_mm=u)
    return Estimate(value_mm=spot.tir_mm * ratio, expanded_mm=2 * u, budget=budget)


def quick_vector(spot: HighSpot, *, spec: Spec) -> tuple[complex, FloatArray]:
    """Return the first-order vector (mm, at the measuring radius) and its covariance (2, 2) in mm²."""
    ratio = spec.measuring_radius_mm / spot.radius_mm
    ranges, along, across = _bank()
    u = math.sqrt(2) * max(rounding_sd(spot.graduation_mm), TYPICAL_NOISE_MM)
    kernel = max(u, _KERNEL_SHARE * spot.tir_mm)
    weight = np.exp(-0.5 * ((ranges - spot.tir_mm) / kernel) ** 2)
    if weight.sum() < 1e-9:  # far beyond any face of the bank: all wobble
        amplitude, radial, tangential = spot.tir_mm / 2, (spot.tir_mm / 20) ** 2, (spot.tir_mm / 20) ** 2
    else:
        weight = weight / weight.sum()
        amplitude = float(weight @ along)  # across is 0 on average, by symmetry
        radial = float(weight @ along**2) - amplitude**2
        tangential = float(weight @ across**2)
    # The place is known to ± an even bound w: E e^{iε} = sin w / w.
    shrink, double = _sinc(spot.within_deg), _sinc(2 * spot.within_deg)
    mean = amplitude * shrink
    square_along, square_across = amplitude**2 + radial, tangential
    radial = square_along * (1 + double) / 2 + square_across * (1 - double) / 2 - mean**2
    tangential = square_along * (1 - double) / 2 + square_across * (1 + double) / 2
    turn = math.radians(wrap_deg(spot.high_deg))
    axes = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    covariance: FloatArray = axes @ np.diag([radial, tangential]) @ axes.T * ratio**2
    return complex(math.cos(turn), math.sin(turn)) * mean * ratio, covariance


def _sinc(half_width_deg: float) -> float:
    return float(np.sinc(half_width_deg / 180.0))


@cache
def _bank() -> tuple[FloatArray, FloatArray, FloatArray]:
    """Draw faces: range (n,), wobble along and across the seen high spot (n,), mm."""
    generator = np.random.default_rng(_SEED)
    amplitude = generator.choice(FACE.first, _BANK) * generator.rayleigh(1.0, _BANK)
    shapes = np.array([shape for shape, _ in _BESIDE])
    chosen = generator.choice(len(shapes), _BANK, p=[weight for _, weight in _BESIDE])
    coefficients = np.zeros((_BANK, 2 * ORDERS))
    coefficients[:, 0] = amplitude
    coefficients[:, 2:] = generator.standard_normal((_BANK, 2 * ORDERS - 2)) * np.repeat(shapes[chosen], 2, axis=1)
    grid = np.arange(0, 360, GRID_DEG)
    curves = coefficients @ harmonics(grid, ORDERS)
    high = np.radians(grid[np.argmax(curves, axis=1)])
    return np.ptp(curves, axis=1), amplitude * np.cos(high), -amplitude * np.sin(high)
