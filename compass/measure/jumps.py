"""Lone jumps: rust, a slot, a hole under the tip; every way one is found, with all thresholds."""

from typing import Final

import numpy as np

from compass.ground.angles import difference_deg
from compass.ground.arrays import BoolArray, FloatArray
from compass.ground.uncertainty import rounding_sd
from compass.measure.plain_fit import TYPICAL_NOISE_MM, fit_orders, plain_system
from compass.measure.profile import Readings

JUMP_SCALES: Final = 3.5  # robust standard deviations; brief 2


JUMP_GRADUATIONS: Final = 2.0  # brief 2


_LEFT_OVER: Final = 0.2  # of a jump stays in the residual of even the most forgiving plain fit (leverage ≤ 0.8)


SPOILT: Final = 0.9  # how likely a reading must be spoilt to be called a jump


_PATCH_SHOULDER: Final = 0.33  # of the jump; a slot leaves its neighbours alone


def find_jumps(readings: Readings, *, orders: int, graduation_mm: float) -> BoolArray:
    """Mark lone stations that stand off the fitted curve: rust, a slot, a hole (n,).

    A least-absolute-deviation fit names the suspects, so that several cannot hide each other; each
    suspect is then held against a fit made without all of them. Two neighbours off to the same side
    are a patch, which is real, and are not marked.
    """
    count = readings.values_mm.size
    nothing = np.zeros(count, dtype=bool)
    design, y, ridge = plain_system(readings, orders)
    if count - design.shape[1] < 2:
        return nothing
    least = JUMP_GRADUATIONS * graduation_mm
    plain = fit_orders(readings, orders=orders).residuals_mm
    if np.abs(plain).max() < least * _LEFT_OVER:
        return nothing
    rough = y - design @ _least_absolute(design, y, ridge, softening_mm=graduation_mm / 4)
    suspects = np.abs(rough) > least
    spare = count - design.shape[1] - 1
    if suspects.sum() > spare:
        order = np.argsort(-np.abs(rough))
        suspects = nothing.copy()
        suspects[order[:spare]] = np.abs(rough[order[:spare]]) > least
    if not suspects.any():
        return nothing
    kept = design[~suspects]
    if np.linalg.matrix_rank(kept) < design.shape[1]:
        return nothing
    solution = np.linalg.lstsq(kept, y[~suspects], rcond=None)[0]
    dof = len(kept) - design.shape[1]
    scatter = float(((y[~suspects] - kept @ solution) ** 2).sum() / max(dof, 1)) ** 0.5
    floor = max(rounding_sd(readings.step_mm), TYPICAL_NOISE_MM)
    covariance = np.linalg.inv(kept.T @ kept)
    off = y - design @ solution
    spread = np.sqrt(1 + np.einsum("ij,jk,ik->i", design, covariance, design))
    allowed = JUMP_SCALES * (1 + 2 / max(dof, 1)) * max(scatter, floor) * spread
    jumps: BoolArray = suspects & (np.abs(off) > np.maximum(allowed, least))
    return jumps & ~_patches(design, y, readings.angles_deg, jumps)


def _least_absolute(design: FloatArray, y: FloatArray, ridge: FloatArray | None, *, softening_mm: float) -> FloatArray:
    """Fit by least absolute deviations through reweighting (Schlossmacher 1973)."""
    penalty = np.zeros((design.shape[1],) * 2) if ridge is None else ridge.T @ ridge
    weights: FloatArray = np.ones(len(y))
    solution: FloatArray = np.zeros(design.shape[1])
    for _ in range(12):
        weighted = design.T * weights
        solution = np.linalg.solve(weighted @ design + penalty, weighted @ y)
        weights = softening_mm / np.maximum(np.abs(y - design @ solution), softening_mm / 50)
    return solution


def _patches(design: FloatArray, y: FloatArray, angles_deg: FloatArray, jumps: BoolArray) -> BoolArray:
    """Mark jumps whose neighbour stations are off to the same side too (n,): a pad-wide patch has shoulders.

    Both neighbours are left out of the fit they are held against, or they would pull it to themselves.
    """
    marked = np.zeros_like(jumps)
    around = np.argsort(np.mod(angles_deg, 360.0), kind="stable")
    count = around.size
    for place in np.flatnonzero(jumps[around]):
        here, beside = around[place], [around[(place + 1) % count], around[place - 1]]
        kept = ~jumps
        kept[beside] = False
        if kept.sum() < design.shape[1]:
            continue
        off = y - design @ np.linalg.lstsq(design[kept], y[kept], rcond=None)[0]
        for there in beside:
            near = 0 < abs(difference_deg(float(angles_deg[here]), float(angles_deg[there]))) <= 31
            if near and off[there] / off[here] > _PATCH_SHOULDER:
                marked[here] = True
    return marked
