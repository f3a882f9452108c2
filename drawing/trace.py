"""The unrolled trace: the same curve over 0–360°, its stations above the cells of the reading tape."""

from collections.abc import Callable
from typing import Final, TypeAlias

import numpy as np

from compass.ground.angles import stud_deg
from compass.ground.arrays import FloatArray
from drawing.curves import Curve
from drawing.svg import Element, Point, element, hatching, path, picture, runs_beyond, text

WIDTH: Final = 600.0
HEIGHT: Final = 184.0
_MIDDLE: Final = 101.0
_REACH: Final = 60.0
Place: TypeAlias = Callable[[float, float], Point]


def draw_trace(
    curve: Curve,
    *,
    studs: int,
    stations: int,
    title: str,
    mark_label: str,
    before: Curve | None = None,
    foretold_mm: float | None = None,
) -> str:
    """Return the SVG of one trace; it starts half a station early, so that stations stand above their cells.

    ``before`` is drawn dashed on the same axis, ``foretold_mm`` (TIR expected at the most) as a band.
    """
    start = -180.0 / max(stations, 1)
    per_mm = _REACH / max(curve.reach_mm, before.reach_mm if before is not None else 0.0)
    half = curve.limit_mm / 2 * per_mm

    def at(angle: float, value: float) -> Point:
        return (angle - start) / 360 * WIDTH, _MIDDLE - value * per_mm

    drawn: list[Element] = [
        hatching("trace"),
        element("rect", x=0, y=_MIDDLE - half, width=WIDTH, height=2 * half, class_=_band_class(curve)),
        path([(0, _MIDDLE), (WIDTH, _MIDDLE)], class_="zero-line"),
    ]
    for edge in (half, -half):
        for gap in (-1.2, 1.2):
            y = _MIDDLE + edge + gap
            drawn.append(path([(0, y), (WIDTH, y)], class_="limit-line"))
    if foretold_mm is not None:
        deep = max(foretold_mm * per_mm, 2.0)
        drawn.append(element("rect", x=0, y=_MIDDLE - deep / 2, width=WIDTH, height=deep, class_="foretold"))
    for stud in range(1, studs + 1):
        x, _ = at((stud_deg(stud, studs) - start) % 360 + start, 0)
        drawn.append(element("circle", cx=x, cy=13, r=10, class_="stud"))
        drawn.append(text(str(stud), x, 13, class_="stud-label"))
    if before is not None and before.values_mm.size:
        drawn.append(_line(before, start, at, class_="runout before"))
    if curve.values_mm.size:
        drawn += _curve(curve, start, half, per_mm, at)
    for dot in curve.dots:
        x, y = at((dot.angle_deg - start) % 360 + start, dot.value_mm)
        kind = "dot jump" if dot.jump else "dot faint" if dot.faint else "dot"
        drawn.append(element("circle", cx=x, cy=y, r=4.2 if not dot.faint else 2.8, class_=kind))
    if curve.mark_deg is not None and curve.values_mm.size:
        drawn += _mark(curve, start, mark_label, at)
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="trace")


def _band_class(curve: Curve) -> str:
    return "band stippled" if curve.state == "too_close" else "band"


def _curve(curve: Curve, start: float, half: float, per_mm: float, at: Place) -> list[Element]:
    angles, values = _over_one_turn(curve, start)
    line = [at(a, v) for a, v in zip(angles, values.tolist(), strict=True)]
    drawn = []
    for first, last, edge in runs_beyond(values, half / per_mm):
        back = [at(angles[i], edge) for i in (last, first)]
        drawn.append(path([*line[first : last + 1], *back], closed=True, class_="beyond", fill="url(#trace-hatch)"))
    drawn.append(path(line, class_="runout"))
    return drawn


def _line(curve: Curve, start: float, at: Place, *, class_: str) -> Element:
    angles, values = _over_one_turn(curve, start)
    return path([at(a, v) for a, v in zip(angles, values.tolist(), strict=True)], class_=class_)


def _over_one_turn(curve: Curve, start: float) -> tuple[list[float], FloatArray]:
    angles = np.arange(start, start + 360.01, 2.5)
    return angles.tolist(), np.interp(angles % 360, curve.angles_deg, curve.values_mm)


def _mark(curve: Curve, start: float, label: str, at: Place) -> list[Element]:
    mark_deg = (float(curve.mark_deg or 0.0) - start) % 360 + start
    value = float(np.interp(mark_deg % 360, curve.angles_deg, curve.values_mm))
    x, y = at(mark_deg, value)
    up = -1 if value >= 0 else 1
    side = "end" if x > WIDTH - 70 else "start"
    return [
        path([(x, y + up * 7), (x - 6, y + up * 17), (x + 6, y + up * 17)], closed=True, class_="needle-tip"),
        text(label, x + (10 if side == "start" else -10), y + up * 13, class_="mark-label", text_anchor=side),
    ]
