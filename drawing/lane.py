"""One remedy in a lane: the trace before and after on one axis, and the metal as a gauge."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, TypeAlias

import numpy as np

from compass.ground.arrays import FloatArray
from drawing.svg import Element, Point, element, path, picture

TRACE_WIDTH: Final = 230.0
TRACE_HEIGHT: Final = 84.0
_STEPS: Final = 73
Place: TypeAlias = Callable[[float, float], Point]


@dataclass(frozen=True, slots=True, eq=False)
class LaneTrace:
    """Traces in mm at equal angles round the disc, the first at 0°: before, after as expected (None: not told, as a
    fan of ``fan_mm``), and the 5 to 95 % points of the runout after."""

    before_mm: FloatArray
    after_mm: FloatArray | None
    fan_mm: tuple[float, float, float] | None
    limit_mm: float


def draw_lane_trace(trace: LaneTrace, *, reach_mm: float, title: str) -> str:
    """Return the SVG, all lanes of a page with one scale: ``reach_mm`` is what the half height shows."""
    middle = TRACE_HEIGHT / 2
    per_mm = (middle - 3) / reach_mm

    def at(k: float, mm: float) -> Point:
        return k / (_STEPS - 1) * TRACE_WIDTH, middle - mm * per_mm

    half = trace.limit_mm / 2
    band = element("rect", x=0, y=middle - half * per_mm, width=TRACE_WIDTH, height=2 * half * per_mm, class_="band")
    drawn: list[Element] = [band]
    for edge in (half, -half):
        drawn += [
            path([at(0, edge + gap / per_mm), at(_STEPS - 1, edge + gap / per_mm)], class_="limit-line")
            for gap in (-1.0, 1.0)
        ]
    drawn.append(path(_points(trace.before_mm, at), class_="before"))
    if trace.fan_mm is not None:
        low, _middle, high = trace.fan_mm
        y, tall = middle - high / 2 * per_mm, max(high * per_mm, 1.0)
        if trace.after_mm is None:  # nobody can say where it will be high: only how far it will go
            drawn.append(element("rect", x=0, y=y, width=TRACE_WIDTH, height=tall, class_="anywhere"))
            drawn += [path([at(0, s * low / 2), at(_STEPS - 1, s * low / 2)], class_="anywhere-line") for s in (1, -1)]
        else:
            drawn.append(element("rect", x=TRACE_WIDTH - 5, y=y, width=4, height=tall, class_="spread"))
    if trace.after_mm is not None:
        drawn.append(path(_points(trace.after_mm, at), class_="after"))
    return picture(TRACE_WIDTH, TRACE_HEIGHT, drawn, title=title, class_="lane-trace")


def _points(values: FloatArray, at: Place) -> list[Point]:
    if not values.size:
        return [at(0, 0.0), at(_STEPS - 1, 0.0)]
    angles = np.arange(0, 360.01, 5.0)
    curve = np.interp(np.mod(angles, 360.0), np.arange(values.size) * 360.0 / values.size, values, period=360.0)
    return [at(k, float(v)) for k, v in enumerate(curve)]
