"""What a picture of a corner is made from: one record for rose and trace, built from core results."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

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


_EDGE: Final = 1.25  # times what the rest reaches: as far out as a reading that jumps is drawn


def _in_sight(curve: Curve) -> Curve:
    """Bring what jumps far out to the picture's edge, or one slip would shrink all else to a line.

    What it read stands in its cell, marked.
    """
    rest = replace(curve, dots=tuple(dot for dot in curve.dots if not dot.jump))
    edge = _EDGE * rest.reach_mm
    dots = (replace(d, value_mm=min(max(d.value_mm, -edge), edge)) if d.jump else d for d in curve.dots)
    return replace(curve, dots=tuple(dots))


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
        shift = float(np.median(shared)) if shared else 0.0
        for angle, z in turn:
            dots.append(Dot(angle, z - shift - level, angle % 360 in jumps, faint=number < len(turns)))
    return _in_sight(Curve(angles, values, tuple(dots), spec.max_runout_mm, state, mark))


def thickness_curve(
    result: ThicknessResult | None, readings: Mapping[float, list[tuple[float, float]]], *, spec: Spec, state: str
) -> Curve:
    """Centre a thickness round for drawing: the radius with the largest range, with its own readings.

    ``readings`` are (hub angle, mm) by the radius (mm) they were read at; the first one's, where no curve is known yet.
    """
    if result is not None and result.curve_mm.size:
        widest = int(np.argmax(np.ptp(result.curve_mm, axis=1)))
        row, own = result.curve_mm[widest], readings.get(float(result.radii_mm[widest]), [])
        values = row - (float(row.max()) + float(row.min())) / 2
        angles, mark = result.curve_deg, result.minimum_deg
        # Lips under a plain caliper lift all its readings alike: they are drawn on the curve that was made from them.
        off = [t - float(np.interp(angle % 360, angles, values)) for angle, t in own]
        middle = float(np.median(off)) if off else 0.0
    else:
        own = next(filter(None, readings.values()), [])
        middle = sum(t for _, t in own) / len(own) if own else 0.0
        angles = values = np.zeros(0)
        mark = None
    # What it does not rest on can hardly be of this disc.
    rests_on = {angle for angle, _t in own} if result is None else set(result.readings.stations_deg.tolist())
    dots = tuple(Dot(angle, t - middle, jump=angle not in rests_on) for angle, t in own)
    return _in_sight(Curve(angles, values, dots, spec.max_thickness_variation_mm, state, mark))
