"""Hub, rotor and joint as draws: what all the evidence and an ordinary workshop's experience say together.

``compass.measure.separation`` says what the evidence alone reaches. A prediction needs more: one sweep at one index
leaves open how hub and rotor share it, and yet odds can be told. So the same linear equations are solved with
heavy-tailed priors (a mixture of Gaussians, Bayesian linear model: Rasmussen & Williams eq. 2.8), over the
alternatives of seating.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from itertools import product
from typing import Final

import numpy as np

from compass.evidence.shop import SEATING_TIR_MM
from compass.ground.arrays import ComplexArray, FloatArray, IntArray
from compass.ground.uncertainty import DRAWS, normal_draws, symmetric_root
from compass.measure.separation import VectorEvidence, rows_of, seatings, variances_of

ROWS: Final = DRAWS  # of a prediction: as many as of the profiles they meet
# Amplitude of one component, mm, beside its prior weight: mostly small tilts, now and then a bad part. Our estimate.
_TILTS: Final = ((0.004, 0.25), (0.014, 0.5), (0.05, 0.25))
_JOINT_TILTS: Final = ((0.004, 0.4), (0.03, 0.6))


@dataclass(frozen=True, slots=True, eq=False)
class Parts:
    """Draws (ROWS,) of first-order vectors A·e^{iα}, mm at the measuring radius; ``joint`` where it is still in.

    ``seating`` is what one further mounting adds.
    """

    hub: ComplexArray
    rotor: ComplexArray
    joint: ComplexArray | None
    seating: ComplexArray


def draw_parts(evidence: Sequence[VectorEvidence], *, usual_mm: float = SEATING_TIR_MM) -> Parts:
    """Draw hub and rotor from all clean evidence; from dirty evidence only where there is no other."""
    clean = [e for e in evidence if not e.before]
    used = clean or list(evidence)
    states = [] if clean else list(dict.fromkeys(e.mounting for e in used))
    scales, log_prior, seating = _alternatives(len(states), usual_mm)
    if used:
        means, covariance, log_weight = _posteriors(used, states, scales, seating)
        log_weight = log_weight + log_prior
    else:
        means, covariance, log_weight = (
            np.zeros_like(scales),
            scales[:, :, None] ** 2 * np.eye(scales.shape[1]),
            log_prior,
        )
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    last = np.round(np.cumsum(weight) * ROWS).astype(int)
    last[-1] = ROWS
    share = last.copy()
    share[1:] -= last[:-1]
    taken = np.flatnonzero(share)
    roots = symmetric_root(covariance[taken])
    which = np.repeat(np.arange(taken.size), share[taken])
    z = normal_draws(means.shape[1], stream=80, rows=ROWS)
    x = means[taken][which] + np.einsum("kq,kpq->kp", z, roots[which])
    seat_mm = seating[taken][which]
    # Alternatives stand in blocks: shuffled, or they would meet those of other estimates row by row.
    x, seat_mm = x[_shuffled()], seat_mm[_shuffled()]
    # TIR = 2A, split over two components (measurement.md#whose-runout: how repeatably the rotor seats).
    seats = normal_draws(2, stream=81, rows=ROWS) * (seat_mm[:, None] / 2 / math.sqrt(2))
    return Parts(
        hub=x[:, 0] + 1j * x[:, 1],
        rotor=x[:, 2] + 1j * x[:, 3],
        joint=x[:, 4] + 1j * x[:, 5] if states else None,
        seating=seats[:, 0] + 1j * seats[:, 1],
    )


@cache
def _shuffled() -> IntArray:
    order: IntArray = np.random.default_rng(82).permutation(ROWS)
    return order


@cache
def _alternatives(states: int, usual_mm: float) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Spell out the grid: prior sd of every unknown (j, p), log weight (j,), seating TIR (j,)."""
    scales, log_weight, seating = [], [], []
    for (seat_mm, seat_weight), *tilts in product(
        seatings(usual_mm), _TILTS, _TILTS, *([_JOINT_TILTS] if states else [])
    ):
        unknowns = [tilts[0][0], tilts[1][0]] + [tilts[2][0]] * states if states else [t[0] for t in tilts]
        scales.append(np.repeat(unknowns, 2))
        log_weight.append(math.log(seat_weight) + sum(math.log(t[1]) for t in tilts))
        seating.append(seat_mm)
    return np.array(scales), np.array(log_weight), np.array(seating)


def _posteriors(
    evidence: Sequence[VectorEvidence], states: Sequence[str], scales: FloatArray, seating: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return posterior means (j, p), covariances (j, p, p) and log evidence (j,)."""
    design = np.concatenate([rows_of(e, states) for e in evidence])
    target = np.array([part for e in evidence for part in (e.vector.real, e.vector.imag)])
    own, shared = variances_of(evidence)
    variance = own + ((seating / 2) ** 2 / 2)[:, None, None] * shared  # (j, 2n, 2n)
    cross = design[None] * scales[:, None, :] ** 2  # X Σ, (j, 2n, p)
    total = variance + cross @ design.T
    factor = np.linalg.cholesky(total)
    white = np.linalg.solve(factor, np.concatenate([cross, np.broadcast_to(target[:, None], (*cross.shape[:2], 1))], 2))
    gain, off = white[..., :-1], white[..., -1:]
    means = (np.swapaxes(gain, 1, 2) @ off)[..., 0]
    covariance = scales[:, :, None] ** 2 * np.eye(scales.shape[1]) - np.swapaxes(gain, 1, 2) @ gain
    log_det = 2 * np.log(np.diagonal(factor, axis1=1, axis2=2)).sum(axis=1)
    log_evidence = -0.5 * (log_det + (off**2).sum(axis=(1, 2)))
    return means, covariance, log_evidence
