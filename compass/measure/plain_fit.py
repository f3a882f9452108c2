"""The plain fit: least squares with a few orders and a drift, for what is shown as wobble and saddle."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from compass.evidence.records import Sweep
from compass.ground.angles import wrap_deg
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import rounding_sd
from compass.measure.profile import Readings, harmonics

TYPICAL_NOISE_MM: Final = 0.0015  # lift-and-drop repeatability of a clamped lever dial; our estimate
_DRIFT_SD_MM: Final = 0.02  # ridge on drift in the plain fit: a clamp seldom creeps further in one turn


def order_count(stations: int) -> int:
    """Return how many orders the fit takes: 1 for 4–7 stations, 2 for 8–11, 3 from 12 (measurement.md#the-sweep)."""
    if stations < 8:
        return 1
    return 2 if stations < 12 else 3


@dataclass(frozen=True, slots=True, eq=False)
class PlainFit:
    """Least squares with a few orders: coefficients (2·orders,), constant and drift, mm."""

    constant_mm: float
    coefficients_mm: FloatArray
    drift_mm: float | None
    residuals_mm: FloatArray
    dof: int


def fit_orders(readings: Readings, *, orders: int) -> PlainFit:
    """Fit z_k = c + d·k/N + Σ (a_n cos nθ_k + b_n sin nθ_k) by weighted least squares (measurement.md#the-sweep).

    The drift carries a ridge: on few stations it is nearly collinear with the wobble.
    """
    weights = np.sqrt(readings.turns)
    progress = None if readings.progress is None else readings.progress.tobytes()
    design, solver = _solver(readings.angles_deg.tobytes(), progress, weights.tobytes(), orders, readings.step_mm)
    target = readings.values_mm
    solution = solver @ (target * weights)
    last = solution[-1] if progress is not None else None
    return PlainFit(
        constant_mm=float(solution[0]),
        coefficients_mm=solution[1 : 1 + 2 * orders],
        drift_mm=None if last is None else float(last),
        residuals_mm=target - design @ solution,
        dof=len(target) - design.shape[1],
    )


@lru_cache(maxsize=256)
def _solver(
    angles: bytes, progress: bytes | None, weights: bytes, orders: int, step_mm: float
) -> tuple[FloatArray, FloatArray]:
    """Return the design (n, p) of a set-up and what solves it for weighted readings (p, n): it knows no reading."""
    angles_deg = np.frombuffer(angles)
    columns = [np.ones((1, angles_deg.size)), harmonics(angles_deg, orders)]
    if progress is not None:
        columns.append(np.frombuffer(progress)[None, :])
    design = np.concatenate(columns).T
    rows = design * np.frombuffer(weights)[:, None]
    if progress is not None:
        ridge = np.zeros((1, design.shape[1]))
        ridge[0, -1] = max(rounding_sd(step_mm), TYPICAL_NOISE_MM) / _DRIFT_SD_MM
        rows = np.vstack([rows, ridge])
    solver: FloatArray = np.linalg.pinv(rows)[:, : angles_deg.size]
    return design, solver


def order_of(coefficients: FloatArray, order: int, ratio: float) -> tuple[float, float]:
    """Return TIR (2A, mm, at the measuring radius) and the first high spot (degrees) of one order."""
    a, b = coefficients[2 * order - 2], coefficients[2 * order - 1]
    amplitude = float(np.hypot(a, b)) * ratio**order
    return 2 * amplitude, wrap_deg(float(np.degrees(np.arctan2(b, a))) / order)


def plain_residuals(sweep: Sweep, fit: PlainFit) -> FloatArray:
    orders = fit.coefficients_mm.size // 2
    fitted = fit.constant_mm + fit.coefficients_mm @ harmonics(sweep.stations_deg, orders)
    if fit.drift_mm is not None:
        fitted = fitted + fit.drift_mm * np.arange(fitted.size) / fitted.size
    residuals: FloatArray = sweep.outboard_readings_mm - fitted
    return residuals
