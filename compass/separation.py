"""Whose runout it is: one weighted least-squares solution for hub and rotor over all clean evidence.

Unknown are two complex first-order vectors at the measuring radius, H (hub) and R (rotor, in its own frame at
index 0). A rotor sweep at index φ gives H + R·e^{iφ}, a hub-face sweep scaled by r_m/r gives H, an arbor sweep
gives R (brief 2, Whose runout). Knows nothing of remedies or verdicts.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.angles import tir_and_high, wrap_deg
from compass.numbers import FloatArray
from compass.uncertainty import COVERAGE, normal_draws

SEATING_TIR_MM: Final = 0.002  # TIR a mounting moves by; brief 2's starting value


@dataclass(frozen=True, slots=True, eq=False)
class VectorEvidence:
    """One first-order vector: ``hub`` and ``rotor`` tell whose it holds, ``index_deg`` how the rotor stood.

    ``vector`` is A·e^{iα} in mm at the measuring radius, ``covariance`` (2, 2) that of its real and imaginary
    part in mm², seating not included.
    """

    hub: bool
    rotor: bool
    index_deg: float
    vector: complex
    covariance: FloatArray


@dataclass(frozen=True, slots=True)
class Part:
    """Hub's or rotor's first order: TIR with U (mm), high spot (degrees), share of the installed runout."""

    vector: complex
    tir_mm: float
    u_mm: float
    high_deg: float
    share: float | None


@dataclass(frozen=True, slots=True)
class Separation:
    """Hub and rotor, each None where the evidence does not reach it, and how well redundant evidence agrees.

    ``misfit`` is χ² per degree of freedom, None without redundancy.
    """

    hub: Part | None
    rotor: Part | None
    misfit: float | None


def separate(evidence: Sequence[VectorEvidence]) -> Separation:
    """Solve for hub and rotor by generalised least squares: x = (XᵀV⁻¹X)⁻¹XᵀV⁻¹y (Aitken 1935).

    A direction the evidence does not reach leaves its part None; nothing is ever divided by a guess.
    """
    reach_hub, reach_rotor = _reached(evidence)
    if not (reach_hub or reach_rotor):
        return Separation(hub=None, rotor=None, misfit=None)
    columns = [*([0, 1] if reach_hub else []), *([2, 3] if reach_rotor else [])]
    used = [e for e in evidence if (reach_hub or not e.hub) and (reach_rotor or not e.rotor)]
    design = np.concatenate([_rows(e) for e in used])[:, columns]
    target = np.array([part for e in used for part in (e.vector.real, e.vector.imag)])
    variance = np.zeros((len(target), len(target)))
    for k, e in enumerate(used):
        block = slice(2 * k, 2 * k + 2)
        # TIR = 2A, split over two components; a bare hub face is not mounted, so it does not seat.
        seating = (SEATING_TIR_MM / 2) ** 2 / 2 if e.rotor else 0.0
        variance[block, block] = e.covariance + np.eye(2) * max(seating, 1e-12)
    inverse = np.linalg.inv(variance)
    covariance = np.linalg.inv(design.T @ inverse @ design)
    solution = covariance @ design.T @ inverse @ target
    off = target - design @ solution
    spare = len(target) - len(columns)
    misfit = float(off @ inverse @ off) / spare if spare else None
    hub = complex(solution[0], solution[1]) if reach_hub else None
    rotor = complex(solution[-2], solution[-1]) if reach_rotor else None
    return Separation(
        hub=None if hub is None else _part(hub, covariance[:2, :2], _share(hub, rotor)),
        rotor=None if rotor is None else _part(rotor, covariance[-2:, -2:], _share(rotor, hub)),
        misfit=misfit,
    )


def _rows(evidence: VectorEvidence) -> FloatArray:
    """Return the two real equations of one vector over (Re H, Im H, Re R, Im R), shape (2, 4)."""
    rows = np.zeros((2, 4))
    if evidence.hub:
        rows[:, :2] = np.eye(2)
    if evidence.rotor:
        cos, sin = math.cos(math.radians(evidence.index_deg)), math.sin(math.radians(evidence.index_deg))
        rows[:, 2:] = [[cos, -sin], [sin, cos]]
    return rows


def _reached(evidence: Sequence[VectorEvidence]) -> tuple[bool, bool]:
    """Tell whether hub and rotor can be found: alone, or together by two different indices."""
    hub_alone = any(e.hub and not e.rotor for e in evidence)
    rotor_alone = any(e.rotor and not e.hub for e in evidence)
    indices = {round(wrap_deg(e.index_deg), 3) for e in evidence if e.hub and e.rotor}
    both = len(indices) > 1 or (bool(indices) and (hub_alone or rotor_alone))
    return hub_alone or both, rotor_alone or both


def _share(part: complex, other: complex | None) -> float | None:
    """Return the part of the installed runout along its own direction that ``part`` carries; signed."""
    if other is None or abs(part + other) < 1e-9:
        return None
    installed = part + other
    return (part * installed.conjugate()).real / abs(installed) ** 2


def _part(vector: complex, covariance: FloatArray, share: float | None) -> Part:
    """Give a vector its U: 95 % of the draws of its TIR lie within it."""
    root = np.linalg.cholesky(covariance + np.eye(2) * 1e-18)
    draws = normal_draws(2, stream=50) @ root.T + np.array([vector.real, vector.imag])
    tir, high = tir_and_high(vector)
    u_mm = float(np.quantile(np.abs(2 * np.hypot(draws[:, 0], draws[:, 1]) - tir), COVERAGE))
    return Part(vector=vector, tir_mm=tir, u_mm=u_mm, high_deg=high, share=share)
