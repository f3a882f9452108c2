"""Angles and studs.

Hub angle: degrees from stud 1, clockwise as seen facing the wheel from outside the vehicle, on both sides.
Stud *s* of *S* stands at 360·(s−1)/S. A first-order runout is a complex number C = A·e^{iα}, with
z(θ) = A·cos(θ−α), TIR = 2A and the high spot at α.
"""

import cmath
import math
from dataclasses import dataclass

import numpy as np

from compass.ground.arrays import FloatArray
from compass.ground.errors import EvidenceError
from compass.ground.translation import _N


@dataclass(frozen=True, slots=True)
class StudPlace:
    """A hub angle told by studs: stud number (from 1) and signed offset in degrees from it."""

    stud: int
    offset_deg: float


def wrap_deg(angle_deg: float) -> float:
    """Bring an angle into 0 ≤ angle < 360."""
    wrapped = math.fmod(angle_deg, 360.0)
    if wrapped < 0:
        wrapped += 360.0
    return 0.0 if wrapped >= 360.0 else wrapped + 0.0


def difference_deg(a_deg: float, b_deg: float) -> float:
    """Return a − b the short way round, in −180 < d ≤ 180."""
    d = wrap_deg(a_deg - b_deg)
    return d - 360.0 if d > 180.0 else d


def stud_deg(stud: int, studs: int) -> float:
    """Return the hub angle of stud ``stud`` of ``studs``."""
    return 360.0 * (stud - 1) / studs


def nearest_stud(angle_deg: float, studs: int) -> StudPlace:
    """Name the stud nearest to a hub angle, and how far past it (clockwise positive) the angle lies."""
    pitch = 360.0 / studs
    count = round(wrap_deg(angle_deg) / pitch)
    return StudPlace(stud=count % studs + 1, offset_deg=difference_deg(angle_deg, count * pitch))


def equal_stations_deg(count: int) -> FloatArray:
    """Return ``count`` equally spaced stations from 0°, shape (count,)."""
    if count < 1:
        raise EvidenceError("stations", _N("at least one"))
    return np.arange(count) * (360.0 / count)


def vector(tir_mm: float, high_deg: float) -> complex:
    """Return A·e^{iα} for a first-order runout of ``tir_mm`` with its high spot at ``high_deg``."""
    return cmath.rect(tir_mm / 2, math.radians(high_deg))


def tir_and_high(c: complex) -> tuple[float, float]:
    """Return (TIR in mm, high spot in degrees) of a first-order vector."""
    return 2 * abs(c), wrap_deg(math.degrees(cmath.phase(c)))
