"""The rose: the disc face-on, as seen from outside the vehicle, with what was measured drawn on it."""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from compass.evidence.records import Spec
from compass.ground.angles import nearest_stud, stud_deg
from drawing.curves import Curve
from drawing.setting import Setting, draw_setting
from drawing.svg import (
    Element,
    Point,
    around,
    element,
    group,
    hatching,
    number,
    on_circle,
    path,
    picture,
    runs_beyond,
    text,
    upright,
)

SIZE: Final = 520.0
_CENTRE: Final = SIZE / 2
_RIM: Final = 200.0  # drawn radius of the disc's edge
_REACH: Final = 34.0  # drawn height of the furthest runout
_THICKNESS_IN: Final = 98.0
_THICKNESS_DEEP: Final = 24.0
_STUD_RING: Final = 66.0
_VECTORS: Final = 47.0  # drawn length of the longest vector
_SEGMENT_DEG: Final = 6


@dataclass(frozen=True, slots=True, eq=False)
class Rose:
    """What stands on one rose. ``at_deg`` is the station that is turned to the indicator at the top."""

    spec: Spec
    stations_deg: tuple[float, ...]
    runout: Curve | None
    thickness: Curve | None
    at_deg: float
    current: int | None
    hub: complex | None = None  # first-order vectors, mm, as they stand at the drawn index
    rotor: complex | None = None
    before: Curve | None = None  # as the disc ran before cleaning and torquing
    joint: tuple[complex, complex] | None = None  # what dirt and nuts added, and what is left
    rubbing: bool = False  # fill where a released pad is reached
    setting: Setting | None = None  # rotor and plate as somebody would set them
    foretold_mm: float | None = None  # TIR that was expected at the most after the work


def draw_rose(rose: Rose, *, title: str) -> tuple[str, int]:
    """Return the SVG and the factor by which runout is exaggerated against the disc's radius."""
    spec = rose.spec
    edge_mm = max(spec.swept_outer_radius_mm or 0.0, spec.measuring_radius_mm * 1.06)
    scale = _RIM / edge_mm
    zero = spec.measuring_radius_mm * scale
    factor = _factor([curve for curve in (rose.runout, rose.before) if curve is not None], scale)
    inner = (spec.swept_inner_radius_mm or spec.measuring_radius_mm * 0.66) * scale
    layers: list[Element] = [hatching("rose"), _iron(max(inner, 128.0), zero)]
    wheel = [
        *_studs(spec.studs, rose.at_deg, _chalked(rose)),
        *_station_ticks(rose.stations_deg, rose.at_deg, rose.current),
    ]
    if rose.setting is None:
        wheel.insert(0, _thickness_ring(rose.thickness))
    wheel += _triangle(rose) if rose.joint is None else _joint(*rose.joint)
    if rose.setting is not None:
        wheel += draw_setting(rose.setting, centre=_CENTRE)
    if rose.foretold_mm is not None:
        width = max(rose.foretold_mm * factor * scale, 2.0)
        wheel.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=zero, class_="foretold", stroke_width=width))
    if rose.before is not None:
        wheel.append(_outline(rose.before, zero, factor * scale, class_="runout before"))
    if rose.runout is not None:
        if rose.rubbing:
            wheel += _rubbing(rose.runout, zero, factor * scale)
        wheel += _runout(rose.runout, zero, factor * scale, hatched=not rose.rubbing)
    layers.append(
        group(wheel, class_="wheel", transform=f"rotate({-rose.at_deg:.2f} {number(_CENTRE)} {number(_CENTRE)})")
    )
    layers += _indicator(rose)
    svg = picture(SIZE, SIZE, layers, title=title, class_="rose", data_at=f"{rose.at_deg:.2f}", data_centre=_CENTRE)
    return svg, factor


def _factor(curves: list[Curve], scale: float) -> int:
    """Round the exaggeration down to a figure that can be said."""
    if not curves:
        return 0
    raw = _REACH / (max(curve.reach_mm for curve in curves) * scale)
    power = 10 ** math.floor(math.log10(raw))
    return int(max(step * power for step in (1, 1.5, 2, 3, 4, 5, 6, 8) if step * power <= raw * 1.0001))


@lru_cache(maxsize=256)
def _iron(inner: float, zero: float) -> Element:
    rings = [
        (_RIM + 14, "ring-out"),
        (_RIM, "ring-face"),
        (inner, "ring-hat"),
        (44.0, "ring-bore"),
    ]
    circles = [element("circle", cx=_CENTRE, cy=_CENTRE, r=r, class_=name) for r, name in rings]
    circles.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=zero, class_="zero-line"))
    return group(circles, class_="iron")


def _chalked(rose: Rose) -> int | None:
    """Return the stud nearest to the high spot."""
    if rose.runout is None or rose.runout.mark_deg is None:
        return None
    return nearest_stud(rose.runout.mark_deg, rose.spec.studs).stud


@lru_cache(maxsize=256)
def _studs(studs: int, turned_deg: float, chalked: int | None) -> tuple[Element, ...]:
    drawn = []
    for stud in range(1, studs + 1):
        place = on_circle(stud_deg(stud, studs), _STUD_RING, centre=_CENTRE)
        marked = " chalked" if stud == chalked else ""
        drawn.append(element("circle", cx=place[0], cy=place[1], r=15, class_=f"stud{marked}"))
        drawn.append(upright(str(stud), place, turned_deg, class_=f"upright stud-label{marked}"))
    return tuple(drawn)


@lru_cache(maxsize=256)
def _station_ticks(stations_deg: tuple[float, ...], turned_deg: float, current: int | None) -> tuple[Element, ...]:
    drawn = []
    for k, angle in enumerate(stations_deg):
        here = " current" if k == current else ""
        ends = [on_circle(angle, _RIM + out, centre=_CENTRE) for out in (16, 23)]
        drawn.append(path(ends, class_=f"tick{here}"))
        label = on_circle(angle, _RIM + 38, centre=_CENTRE)
        drawn.append(upright(str(k + 1), label, turned_deg, class_=f"upright station-label{here}"))
    return tuple(drawn)


def _indicator(rose: Rose) -> list[Element]:
    """Draw where the instrument stands: always at the top, with the number of the station it reads."""
    arrow = element("path", d=f"M{number(_CENTRE)} 36l-11 -15h7v-17h8v17h7Z", class_="indicator")
    if rose.current is None:
        return [arrow]
    return [arrow, text(str(rose.current + 1), _CENTRE + 30, 18, class_="at-label")]


def _runout(curve: Curve, zero: float, per_mm: float, *, hatched: bool) -> list[Element]:
    half = curve.limit_mm / 2

    def at(angle: float, value: float) -> Point:
        return on_circle(angle, zero + value * per_mm, centre=_CENTRE)

    drawn: list[Element] = []
    if curve.state == "too_close":
        drawn.append(
            element(
                "circle",
                cx=_CENTRE,
                cy=_CENTRE,
                r=zero,
                class_="band stippled",
                stroke_width=2 * half * per_mm,
            )
        )
    else:
        drawn.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=zero, class_="band", stroke_width=2 * half * per_mm))
    for edge in (half, -half):
        for gap in (-1.0, 1.0):
            drawn.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=zero + edge * per_mm + gap, class_="limit-line"))
    if curve.values_mm.size:
        angles, values = curve.angles_deg, curve.values_mm
        line = around(angles, zero + values * per_mm, centre=_CENTRE)
        for first, last, edge in runs_beyond(values, half) if hatched else ():
            back = [at(float(angles[i]), edge) for i in range(last, first - 1, -1)]
            drawn.append(path([*line[first : last + 1], *back], closed=True, class_="beyond", fill="url(#rose-hatch)"))
        drawn.append(path(line, closed=True, class_="runout"))
    for dot in curve.dots:
        x, y = at(dot.angle_deg, dot.value_mm)
        kind = "dot jump" if dot.jump else "dot faint" if dot.faint else "dot"
        drawn.append(element("circle", cx=x, cy=y, r=4.5 if not dot.faint else 3, class_=kind))
    if curve.mark_deg is not None and curve.values_mm.size:
        drawn += _needle(curve.mark_deg, zero + float(curve.values_mm.max()) * per_mm)
    return drawn


def _outline(curve: Curve, zero: float, per_mm: float, *, class_: str) -> Element:
    points = around(curve.angles_deg, zero + curve.values_mm * per_mm, centre=_CENTRE)
    return path(points, closed=True, class_=class_)


def _rubbing(curve: Curve, zero: float, per_mm: float) -> list[Element]:
    """Fill where a released pad is reached: outside the zero circle the outboard one, inside it the inboard one."""
    drawn = []
    line = around(curve.angles_deg, zero + curve.values_mm * per_mm, centre=_CENTRE)
    rest = around(curve.angles_deg, np.full_like(curve.values_mm, zero), centre=_CENTRE)
    for first, last, _edge in runs_beyond(curve.values_mm, 0.0):
        whole = [*line[first : last + 1], *reversed(rest[first : last + 1])]
        side = "out" if curve.values_mm[first] > 0 else "in"
        drawn.append(path(whole, closed=True, class_=f"rub rub-{side}", fill="url(#rose-stipple)"))
    return drawn


def _joint(joint: complex, left: complex) -> list[Element]:
    """Draw what is left, what the joint added, and what both made before, head to tail from the centre."""
    per_mm = _VECTORS / max(abs(left), abs(left + joint), 1e-6)

    def at(vector: complex) -> Point:
        return _CENTRE + vector.imag * per_mm, _CENTRE - vector.real * per_mm

    return [
        path([at(0j), at(left + joint)], class_="vector-both"),
        path([at(0j), at(left)], class_="vector-left"),
        path([at(left), at(left + joint)], class_="vector-joint"),
    ]


def _triangle(rose: Rose) -> list[Element]:
    """Draw hub, rotor and their sum from the centre, head to tail: which of the two throws the disc."""
    if rose.hub is None or rose.rotor is None:
        return []
    plate = rose.setting.plate if rose.setting is not None else 0j
    stands = rose.hub + plate  # what the rotor is bolted to
    total = stands + rose.rotor
    per_mm = _VECTORS / max(abs(rose.hub), abs(stands), abs(total), 1e-6)

    def at(vector: complex) -> Point:
        # A·e^{iα} has its real part toward stud 1 (up) and its imaginary part clockwise (right).
        return _CENTRE + vector.imag * per_mm, _CENTRE - vector.real * per_mm

    return [
        path([at(0j), at(total)], class_="vector-both"),
        path([at(0j), at(rose.hub)], class_="vector-hub"),
        *([path([at(rose.hub), at(stands)], class_="vector-plate")] if plate else []),
        path([at(stands), at(total)], class_="vector-rotor"),
    ]


def _needle(angle_deg: float, length: float) -> list[Element]:
    tip = on_circle(angle_deg, length - 7, centre=_CENTRE)
    left = on_circle(angle_deg - 3.2, length - 26, centre=_CENTRE)
    right = on_circle(angle_deg + 3.2, length - 26, centre=_CENTRE)
    shaft = [on_circle(angle_deg, radius, centre=_CENTRE) for radius in (92, length - 24)]
    return [
        path(shaft, class_="needle"),
        path([tip, left, right], closed=True, class_="needle-tip"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=3, class_="needle-pivot"),
    ]


def _thickness_ring(curve: Curve | None) -> Element:
    """Draw thickness as a ring whose width and shade follow the micrometer; unmeasured stays a dashed circle."""
    middle = _THICKNESS_IN + _THICKNESS_DEEP / 2
    if curve is None or not curve.values_mm.size:
        return element("circle", cx=_CENTRE, cy=_CENTRE, r=middle, class_="thickness-empty")
    starts = np.arange(0, 360, _SEGMENT_DEG)
    values = np.interp(starts + _SEGMENT_DEG / 2, curve.angles_deg, curve.values_mm)
    shares = ((values / curve.reach_mm + 1) / 2).round(3)  # 0 thinnest .. 1 thickest that is drawn
    return _metal(tuple(zip(starts.tolist(), shares.tolist(), (values < -curve.limit_mm / 2).tolist(), strict=True)))


@lru_cache(maxsize=256)
def _metal(segments: tuple[tuple[int, float, bool], ...]) -> Element:
    """Draw (start in degrees, share, thin). Remembered: whoever sweeps has the same metal at every reading."""
    drawn = []
    for start, share, thin in segments:
        outer = _THICKNESS_IN + 6 + (_THICKNESS_DEEP - 6) * share
        corners = [
            on_circle(start + 0.6, _THICKNESS_IN, centre=_CENTRE),
            on_circle(start + 0.6, outer, centre=_CENTRE),
            on_circle(start + _SEGMENT_DEG - 0.6, outer, centre=_CENTRE),
            on_circle(start + _SEGMENT_DEG - 0.6, _THICKNESS_IN, centre=_CENTRE),
        ]
        drawn.append(path(corners, closed=True, class_=f"metal{' thin' if thin else ''} shade-{round(share * 4)}"))
    return group(drawn, class_="thickness")
