"""Wear over distance: thicknesses as measured, the line through them, and the limits it runs toward."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, TypeAlias

from drawing.svg import Element, Point, element, path, picture, text

WIDTH: Final = 320.0
HEIGHT: Final = 190.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 10.0, 238.0, 16.0, 160.0
Place: TypeAlias = Callable[[float, float], Point]
_AHEAD: Final = 1.6  # times the distance seen so far


@dataclass(frozen=True, slots=True)
class WearLine:
    """Points (km, mm), the wear rate (mm per 1,000 km), 5 and 95 % points of the distance left, limits in mm."""

    points: tuple[tuple[float, float], ...]
    rate_mm: float | None
    low_km: float | None
    high_km: float | None
    discard_mm: float
    machine_to_mm: float | None
    nominal_mm: float | None


def draw_life(line: WearLine, *, labels: dict[str, str], title: str) -> str:
    """Return the SVG; the line ahead is dashed, since it is an estimate."""
    first, last = min(km for km, _ in line.points), max(km for km, _ in line.points)
    span = max((last - first) * _AHEAD, 20_000.0)
    top = max([mm for _, mm in line.points] + [line.nominal_mm or 0.0]) + 0.15
    bottom = min([mm for _, mm in line.points] + [line.discard_mm]) - 0.25

    def at(km: float, mm: float) -> Point:
        x = _LEFT + (km - first) / span * (_RIGHT - _LEFT)
        return x, _TOP + (top - mm) / (top - bottom) * (_BOTTOM - _TOP)

    drawn: list[Element] = []
    for name, mm in (("nominal", line.nominal_mm), ("machine_to", line.machine_to_mm), ("discard", line.discard_mm)):
        if mm is None:
            continue
        _x, y = at(first, mm)
        gaps = (-1.2, 1.2) if name == "discard" else (0.0,)
        drawn += [path([(_LEFT, y + gap), (_RIGHT, y + gap)], class_=f"life-limit {name}") for gap in gaps]
        drawn.append(text(labels[name], _RIGHT + 8, y, class_="life-label"))
    if line.rate_mm is not None and line.rate_mm > 0:
        drawn += _ahead(line, last, first + span, bottom, at)
    drawn.append(path([at(km, mm) for km, mm in line.points], class_="life-line"))
    for km, mm in line.points:
        x, y = at(km, mm)
        drawn.append(element("circle", cx=x, cy=y, r=4.5, class_="life-point"))
    x, _y = at(last, top)
    drawn.append(text(labels["here"], min(x, _RIGHT - 40), HEIGHT - 10, class_="life-km"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="life")


def _ahead(line: WearLine, last: float, end: float, bottom: float, at: Place) -> list[Element]:
    here = line.points[-1][1]
    rate = (line.rate_mm or 0.0) / 1000
    reach = min(end, last + (here - bottom) / rate)
    drawn = [path([at(last, here), at(reach, here - rate * (reach - last))], class_="life-ahead")]
    if line.low_km is not None and line.high_km is not None and math.isfinite(line.low_km):
        low, _y = at(min(last + line.low_km, end), here)
        high, _y = at(min(last + line.high_km, end), here)
        _x, y = at(last, line.discard_mm)
        drawn.append(element("rect", x=low, y=y - 4, width=max(high - low, 3), height=8, class_="life-band"))
    return drawn
