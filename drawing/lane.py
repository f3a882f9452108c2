"""One remedy in a lane: the trace before and after on one axis, and the metal as a gauge."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, TypeAlias
from xml.etree import ElementTree as Tree

import numpy as np

from compass.ground.arrays import FloatArray
from drawing.svg import Point, element, path, picture, text

TRACE_WIDTH: Final = 230.0
TRACE_HEIGHT: Final = 84.0
GAUGE_WIDTH: Final = 200.0
GAUGE_HEIGHT: Final = 66.0
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
    drawn: list[Tree.Element] = [band]
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


@dataclass(frozen=True, slots=True)
class Gauge:
    """A disc's metal, mm: new, now, after (5, 50, 95 %), machine-to (if told) and discard."""

    nominal: float
    now: float | None
    after: tuple[float, float, float] | None
    machine_to: float | None
    discard: float


def draw_gauge(gauge: Gauge, *, labels: dict[str, str], title: str) -> str:
    """Return the SVG: discard hatched, down to machine-to pale, then what stays; a mark where it is now."""
    low = gauge.discard - 0.35 * (gauge.nominal - gauge.discard)
    high = max(gauge.nominal, gauge.now or 0.0) + 0.04 * (gauge.nominal - low)

    def x(mm: float) -> float:
        return max((mm - low) / (high - low), 0.0) * GAUGE_WIDTH

    top, tall = 24.0, 17.0
    drawn: list[Tree.Element] = [
        element("rect", x=0, y=top, width=x(gauge.discard), height=tall, class_="gone"),
    ]
    pale = gauge.machine_to if gauge.machine_to is not None else gauge.discard
    drawn.append(
        element("rect", x=x(gauge.discard), y=top, width=x(pale) - x(gauge.discard), height=tall, class_="reserve")
    )
    stays = gauge.after[1] if gauge.after is not None else gauge.now
    if stays is not None and stays > pale:
        drawn.append(element("rect", x=x(pale), y=top, width=x(stays) - x(pale), height=tall, class_="metal-left"))
    if gauge.after is not None and gauge.now is not None and gauge.now > gauge.after[1]:
        drawn.append(
            element(
                "rect", x=x(gauge.after[1]), y=top, width=x(gauge.now) - x(gauge.after[1]), height=tall, class_="taken"
            )
        )
    if gauge.after is not None:
        drawn.append(
            path([(x(gauge.after[0]), top + tall + 3), (x(gauge.after[2]), top + tall + 3)], class_="spread-line")
        )
    if gauge.now is not None:
        drawn.append(path([(x(gauge.now), top - 5), (x(gauge.now), top + tall + 5)], class_="now"))
    drawn.append(path([(x(gauge.nominal), top - 2), (x(gauge.nominal), top + tall + 2)], class_="new"))
    if stays is not None:
        drawn.append(text(labels["after"], min(max(x(stays), 26), GAUGE_WIDTH - 26), 11, class_="gauge-after"))
    drawn.append(text(labels["least"], min(max(x(pale), 48), GAUGE_WIDTH - 100), 58, class_="gauge-label"))
    drawn.append(text(labels["new"], GAUGE_WIDTH, 58, class_="gauge-label end"))
    return picture(GAUGE_WIDTH, GAUGE_HEIGHT, drawn, title=title, class_="gauge")
