"""Whose runout it is: one weighted least-squares solution for hub, rotor and joint over all the evidence.

Unknown are complex first-order vectors at the measuring radius: H (hub), R (rotor, in its own frame at index 0)
and, for every state swept before the work, J (what dirt or loose nuts added). A rotor sweep at index φ gives
H + R·e^{iφ} (+ J), a hub-face sweep scaled by r_m/r gives H, an arbor sweep gives R (measurement.md#whose-runout).
What the evidence does not reach stays None. Knows nothing of readings, remedies or verdicts.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from compass.evidence.shop import SEATING_TIR_MM
from compass.ground.angles import tir_and_high, wrap_deg
from compass.ground.arrays import FloatArray
from compass.ground.uncertainty import COVERAGE, DRAWS, normal_draws, symmetric_root

# How far a mounting moves the rotor, TIR in mm, beside its prior weight: about 2 µm (measurement.md#whose-runout);
# redundant evidence says better, and a careless mounting stays possible.
SEATING: Final = ((0.001, 0.25), (0.002, 0.5), (0.004, 0.18), (0.01, 0.06), (0.03, 0.01))
_SURPRISE: Final = 2.326  # standard normal, 1 in 100
_UNKNOWN_SD_MM: Final = 0.1  # a part known no better than this is not known
_STATES: Final = ("both", "dirt", "nuts")  # what had not been put right, the most telling first
_RANK: Final = 1e-7  # relative singular value under which a direction is not reached


@dataclass(frozen=True, slots=True, eq=False)
class VectorEvidence:
    """One first-order vector: ``hub`` and ``rotor`` tell whose it holds, ``index_deg`` how the rotor stood.

    ``vector`` is A·e^{iα} in mm at the measuring radius, ``covariance`` (2, 2) that of its real and imaginary
    part in mm², seating not included. ``before`` names what had not been put right yet ("" where all had),
    ``mounting`` one mounting of the rotor: evidence that shares it shares its seating. ``source`` says where
    it comes from, for the cross-check.
    """

    hub: bool
    rotor: bool
    index_deg: float
    vector: complex
    covariance: FloatArray
    before: str = ""
    mounting: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True)
class Part:
    """A first order: TIR with U (mm), high spot (degrees), share of the runout it is part of."""

    vector: complex
    tir_mm: float
    expanded_mm: float
    high_deg: float
    share: float | None


@dataclass(frozen=True, slots=True)
class Disagreement:
    """Two ways to the same part that do not agree: TIRs in mm, the direct one and the one by turning."""

    part: str
    direct_mm: float
    turned_mm: float


@dataclass(frozen=True, slots=True)
class Separation:
    """Hub, rotor and joint, each None where the evidence does not reach it, and how well redundant evidence agrees.

    ``joint_of`` says what the joint's vector is made of: ``dirt``, ``nuts`` or ``both``. ``misfit`` is χ² per
    degree of freedom with the usual seating, None without redundancy; ``seating_mm`` the TIR a mounting moves by.
    """

    hub: Part | None = None
    rotor: Part | None = None
    joint: Part | None = None
    joint_of: str = ""
    misfit: float | None = None
    seating_mm: float = SEATING_TIR_MM
    disagrees: bool = False
    disagreement: Disagreement | None = None

    @property
    def told_apart(self) -> bool:
        """Whether hub and rotor are both known."""
        return self.hub is not None and self.rotor is not None


def separate(evidence: Sequence[VectorEvidence], *, usual_mm: float = SEATING_TIR_MM) -> Separation:
    """Solve by generalised least squares, x = (XᵀV⁻¹X)⁺XᵀV⁻¹y (Aitken 1935), over the alternatives of seating.

    A direction the evidence does not reach leaves its part None; nothing is ever divided by a guess. ``usual_mm`` is
    the TIR by which a mounting usually moves a rotor here.
    """
    if len(evidence) < 2 and all(e.hub and e.rotor for e in evidence):
        return Separation()
    # Dirt lies anew at every mounting, so each mounting from before has a joint of its own.
    first_of = {e.mounting: e for e in reversed(evidence) if e.before}
    states = sorted(first_of, key=lambda m: (_STATES.index(first_of[m].before), wrap_deg(first_of[m].index_deg)))
    solution = _solve(evidence, states, usual_mm)
    hub = _part(solution, 0)
    rotor = _part(solution, 2)
    joints = [(first_of[m], _part(solution, 4 + 2 * k)) for k, m in enumerate(states)]
    witness, joint = next(((e, part) for e, part in joints if part is not None), (None, None))
    if hub is not None and rotor is not None:
        hub, rotor = (replace(p, share=_share(p.vector, hub.vector + rotor.vector)) for p in (hub, rotor))
    if joint is not None and witness is not None:
        joint = replace(joint, share=_share(joint.vector, witness.vector))
    disagrees = solution.misfit is not None and _surprising(solution.misfit * solution.spare, solution.spare)
    return Separation(
        hub=hub,
        rotor=rotor,
        joint=joint,
        joint_of=witness.before if witness is not None else "",
        misfit=solution.misfit,
        seating_mm=solution.seating_mm,
        disagrees=disagrees,
        disagreement=_disagreement(evidence, usual_mm) if disagrees else None,
    )


def expected_sds_mm(evidence: Sequence[VectorEvidence], ways: Sequence[VectorEvidence]) -> list[float]:
    """Return how well each of some ``ways`` to measure further would tell hub and rotor: root mean variance, mm.

    A way is a mounting of its own, so that what it tells is added to what is known. Only its equations and covariance
    count; its ``vector`` may be anything. Infinite where hub and rotor would still not be told apart.
    """
    if not ways:
        return []
    used = [e for e in evidence if not e.before]
    known = np.zeros((4, 4))
    if used:
        design = np.concatenate([rows_of(e, []) for e in used])
        known = design.T @ np.linalg.solve(variance_of(used, SEATING_TIR_MM), design)
    rows = np.array([rows_of(way, []) for way in ways])
    variances = np.array([variance_of([way], SEATING_TIR_MM) for way in ways])
    values = np.linalg.eigvalsh(known + np.swapaxes(rows, 1, 2) @ np.linalg.solve(variances, rows))
    apart = values[:, 0] >= 1 / _UNKNOWN_SD_MM**2
    sds = np.sqrt((1 / np.where(apart[:, None], values, 1.0)).sum(axis=1) / 4)
    return [float(sd) for sd in np.where(apart, sds, math.inf)]


@dataclass(frozen=True, slots=True, eq=False)
class _Solution:
    """Mean (p,), covariance (p, p) and unreached directions (p, m) of all unknowns, and draws (k, p) about 0."""

    mean: FloatArray
    covariance: FloatArray
    unreached: FloatArray
    offsets: FloatArray
    spare: int
    misfit: float | None
    seating_mm: float

    def reached(self, first: int) -> bool:
        block = slice(first, first + 2)
        if self.unreached.size and np.abs(self.unreached[block]).max() > 1e-6:
            return False
        return float(np.sqrt(np.trace(self.covariance[block, block]) / 2)) <= _UNKNOWN_SD_MM


def _solve(evidence: Sequence[VectorEvidence], states: Sequence[str], usual_mm: float) -> _Solution:
    design = np.concatenate([rows_of(e, states) for e in evidence])
    target = np.array([part for e in evidence for part in (e.vector.real, e.vector.imag)])
    means, covariances, log_weights = [], [], []
    unreached, misfit, spare = np.zeros((design.shape[1], 0)), None, 0
    mixture = seatings(usual_mm)
    for seating_mm, weight in mixture:
        variance = variance_of(evidence, seating_mm)
        root = np.linalg.cholesky(variance)
        white = np.linalg.solve(root, np.column_stack([design, target]))
        u, s, vt = np.linalg.svd(white[:, :-1], full_matrices=True)
        rank = int((s > _RANK * s[0]).sum())
        projected = u[:, :rank].T @ white[:, -1]
        means.append(vt[:rank].T @ (projected / s[:rank]))
        covariances.append((vt[:rank].T / s[:rank] ** 2) @ vt[:rank])
        off = float(white[:, -1] @ white[:, -1] - projected @ projected)
        # Restricted likelihood (Harville 1977): −½(log|V| + log|XᵀV⁻¹X| + rᵀV⁻¹r).
        log_det = 2 * float(np.log(np.diag(root)).sum()) + 2 * float(np.log(s[:rank]).sum())
        log_weights.append(math.log(weight) - 0.5 * (log_det + off))
        spare = len(target) - rank
        if seating_mm == usual_mm:
            misfit = off / spare if spare else None
            unreached = vt[rank:].T
    weights = np.exp(np.array(log_weights) - max(log_weights))
    weights /= weights.sum()
    mean: FloatArray = np.einsum("j,jp->p", weights, np.array(means))
    between = np.array(means) - mean
    covariance = np.einsum("j,jpq->pq", weights, np.array(covariances)) + (between.T * weights) @ between
    return _Solution(
        mean=mean,
        covariance=covariance,
        unreached=unreached,
        offsets=_offsets(np.array(means) - mean, covariances, weights),
        spare=spare,
        misfit=misfit,
        seating_mm=float(weights @ np.array([s for s, _ in mixture])),
    )


def seatings(usual_mm: float) -> tuple[tuple[float, float], ...]:
    """Return the alternatives of seating, TIR (mm) and prior weight, where a mounting usually moves ``usual_mm``."""
    return tuple((tir_mm * usual_mm / SEATING_TIR_MM, weight) for tir_mm, weight in SEATING)


def variance_of(evidence: Sequence[VectorEvidence], seating_mm: float) -> FloatArray:
    """Return the covariance of all vectors (2n, 2n): that of each, plus the seating that one mounting shares."""
    own, shared = variances_of(evidence)
    return own + (seating_mm / 2) ** 2 / 2 * shared


def variances_of(evidence: Sequence[VectorEvidence]) -> tuple[FloatArray, FloatArray]:
    """Return what the covariance is made of, each (2n, 2n): the vectors' own, and what a seating's variance adds to.

    TIR = 2A, split over two components; a bare hub face is not mounted, so it does not seat.
    """
    count = len(evidence)
    own, shared = np.zeros((2 * count, 2 * count)), np.zeros((2 * count, 2 * count))
    for i, one in enumerate(evidence):
        own[2 * i : 2 * i + 2, 2 * i : 2 * i + 2] = one.covariance
        own[2 * i, 2 * i] += 1e-12
        own[2 * i + 1, 2 * i + 1] += 1e-12
        for k, other in enumerate(evidence[: i + 1]):
            if one.rotor and other.rotor and (i == k or (one.mounting and one.mounting == other.mounting)):
                for at in (0, 1):
                    shared[2 * i + at, 2 * k + at] = shared[2 * k + at, 2 * i + at] = 1.0
    return own, shared


def rows_of(evidence: VectorEvidence, states: Sequence[str]) -> FloatArray:
    """Return the two real equations of one vector over (H, R, J of every mounting from before), (2, 4 + 2·states)."""
    rows = np.zeros((2, 4 + 2 * len(states)))
    if evidence.hub:
        rows[:, :2] = np.eye(2)
    if evidence.rotor:
        cos, sin = math.cos(math.radians(evidence.index_deg)), math.sin(math.radians(evidence.index_deg))
        rows[:, 2:4] = [[cos, -sin], [sin, cos]]
    if evidence.before:
        first = 4 + 2 * states.index(evidence.mounting)
        rows[:, first : first + 2] = np.eye(2)
    return rows


def _offsets(means: FloatArray, covariances: Sequence[FloatArray], weights: FloatArray) -> FloatArray:
    """Draw from the mixture about its mean, shape (DRAWS, p): every alternative its share of fixed normal draws."""
    z = normal_draws(means.shape[1], stream=50)
    half = DRAWS // 2
    bounds = np.round(np.cumsum(weights) * half).astype(int)
    bounds[-1] = half
    offsets = np.empty_like(z)
    first = 0
    for mean, covariance, last in zip(means, covariances, bounds, strict=True):
        if last > first:
            off = z[first:last] @ symmetric_root(covariance)
            offsets[first:last], offsets[half + first : half + last] = mean + off, mean - off
        first = max(first, last)
    return offsets


def _part(solution: _Solution, first: int) -> Part | None:
    """Give a reached vector its U: 95 % of the draws of its TIR lie within it."""
    if not solution.reached(first):
        return None
    vector = complex(solution.mean[first], solution.mean[first + 1])
    drawn = solution.offsets[:, first : first + 2] + solution.mean[first : first + 2]
    tir, high = tir_and_high(vector)
    expanded_mm = float(np.quantile(np.abs(2 * np.hypot(drawn[:, 0], drawn[:, 1]) - tir), COVERAGE))
    return Part(vector=vector, tir_mm=tir, expanded_mm=expanded_mm, high_deg=high, share=None)


def _share(part: complex, whole: complex) -> float | None:
    """Return the part of ``whole`` along its own direction that ``part`` carries; signed."""
    if abs(whole) < 1e-9:
        return None
    return (part * whole.conjugate()).real / abs(whole) ** 2


def _surprising(chi2: float, dof: int) -> bool:
    """Whether χ² with ``dof`` degrees is met by chance less than once in a hundred (Wilson & Hilferty 1931)."""
    spread = 2 / (9 * dof)
    return math.cbrt(chi2 / dof) > 1 - spread + _SURPRISE * math.sqrt(spread)


def _disagreement(evidence: Sequence[VectorEvidence], usual_mm: float) -> Disagreement | None:
    """Name the part that two ways see differently: direct (bare hub, arbor) against turning the rotor."""
    turned = [e for e in evidence if e.hub and e.rotor and not e.before]
    for part, first, direct in (
        ("hub", 0, [e for e in evidence if e.hub and not e.rotor]),
        ("rotor", 2, [e for e in evidence if e.rotor and not e.hub]),
    ):
        if not direct or not turned:
            continue
        by_itself, by_turning = _part(_solve(direct, [], usual_mm), first), _part(_solve(turned, [], usual_mm), first)
        if by_itself is not None and by_turning is not None:
            return Disagreement(part, by_itself.tir_mm, by_turning.tir_mm)
    return None
