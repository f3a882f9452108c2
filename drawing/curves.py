"""What a picture of a corner is made from: one record for rose and trace, built from core results."""

from dataclasses import dataclass

import numpy as np

from compass.evidence.records import Spec
from compass.ground.arrays import FloatArray
from compass.measure.sweep import SweepResult
from compass.measure.thickness import ThicknessResult


@dataclass(frozen=True, slots=True)
class Dot:
    """A reading to be drawn: hub angle, mm about the drawn zero, and whether it is flagged as a jump."""

    angle_deg: float
    value_mm: float
    jump: bool = False
    faint: bool = False  # of an earlier turn


@dataclass(frozen=True, slots=True, eq=False)
class Curve:
    """A closed curve about its own mid-height: angles (n,), values (n,) in mm, with its readings."""

    angles_deg: FloatArray
    values_mm: FloatArray
    dots: tuple[Dot, ...]
    limit_mm: float
    state: str
    mark_deg: float | None  # high spot of runout, thin place of thickness

    @property
    def reach_mm(self) -> float:
        """The furthest anything stands from zero, never less than the allowed band with some air."""
        values = [abs(d.value_mm) for d in self.dots]
        drawn = float(np.abs(self.values_mm).max()) if self.values_mm.size else 0.0
        return max(drawn, self.limit_mm * 0.8, *values)


def runout_curve(
    result: SweepResult | None, turns: list[list[tuple[float, float]]], *, spec: Spec, state: str
) -> Curve:
    """Centre a sweep for drawing: ``turns`` hold (hub angle, reading mm) a turn, the newest last."""
    dots: list[Dot] = []
    if result is not None and result.curve_mm.size:
        middle = (float(result.curve_mm.max()) + float(result.curve_mm.min())) / 2
        level = result.level_mm + middle
        angles, values = result.curve_deg, result.curve_mm - middle
        jumps, mark = result.jumps_deg, result.high_deg
    else:
        every = [z for turn in turns for _, z in turn]
        level = (max(every) + min(every)) / 2 if every else 0.0
        angles = values = np.zeros(0)
        jumps, mark = (), None
    for number, turn in enumerate(turns, start=1):
        # Each turn has a zero of its own: bring it to the level of the first over the stations they share.
        first = dict(turns[0])
        shared = [z - first[a] for a, z in turn if a in first]
        shift = sum(shared) / len(shared) if shared else 0.0
        for angle, z in turn:
            dots.append(Dot(angle, z - shift - level, angle % 360 in jumps, faint=number < len(turns)))
    return Curve(angles, values, tuple(dots), spec.max_runout_mm, state, mark)


def thickness_curve(
    result: ThicknessResult | None, readings: list[tuple[float, float]], *, spec: Spec, state: str
) -> Curve:
    """Centre a thickness round for drawing (the row with the largest range)."""
    if result is not None and result.curve_mm.size:
        row = result.curve_mm[int(np.argmax(np.ptp(result.curve_mm, axis=1)))]
        middle = (float(row.max()) + float(row.min())) / 2
        angles, values, mark = result.curve_deg, row - middle, result.minimum_deg
    else:
        middle = sum(t for _, t in readings) / len(readings) if readings else 0.0
        angles = values = np.zeros(0)
        mark = None
    dots = tuple(Dot(angle, t - middle) for angle, t in readings)
    return Curve(angles, values, dots, spec.max_thickness_variation_mm, state, mark)
