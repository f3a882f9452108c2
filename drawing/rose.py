"""The rose: the disc face-on, as seen from outside the vehicle, with what was measured drawn on it."""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.evidence.records import Spec
from compass.ground.angles import nearest_stud, stud_deg
from drawing.curves import Curve
from drawing.setting import Setting, draw_setting
from drawing.svg import Element, Point, element, group, hatching, number, on_circle, path, picture, runs_beyond, text

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
    layers: list[Element] = [hatching("rose"), _iron(spec, scale, zero)]
    wheel = [*_studs(rose), *_station_ticks(rose)]
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


def _iron(spec: Spec, scale: float, zero: float) -> Element:
    inner = (spec.swept_inner_radius_mm or spec.measuring_radius_mm * 0.66) * scale
    rings = [
        (_RIM + 14, "ring-out"),
        (_RIM, "ring-face"),
        (max(inner, 128.0), "ring-hat"),
        (44.0, "ring-bore"),
    ]
    circles = [element("circle", cx=_CENTRE, cy=_CENTRE, r=r, class_=name) for r, name in rings]
    circles.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=zero, class_="zero-line"))
    return group(circles, class_="iron")


def _upright(content: str, at: Point, rose: Rose, **attributes: str) -> Element:
    """Write a label that stays upright while the wheel turns; the script turns it by the same data."""
    x, y = at
    return text(
        content,
        x,
        y,
        transform=f"rotate({rose.at_deg:.2f} {number(x)} {number(y)})",
        data_x=number(x),
        data_y=number(y),
        **attributes,
    )


def _studs(rose: Rose) -> list[Element]:
    drawn = []
    marked = None
    if rose.runout is not None and rose.runout.mark_deg is not None:
        marked = nearest_stud(rose.runout.mark_deg, rose.spec.studs).stud
    for stud in range(1, rose.spec.studs + 1):
        place = on_circle(stud_deg(stud, rose.spec.studs), _STUD_RING, centre=_CENTRE)
        chalked = " chalked" if stud == marked else ""
        drawn.append(element("circle", cx=place[0], cy=place[1], r=15, class_=f"stud{chalked}"))
        drawn.append(_upright(str(stud), place, rose, class_=f"upright stud-label{chalked}"))
    return drawn


def _station_ticks(rose: Rose) -> list[Element]:
    drawn = []
    for k, angle in enumerate(rose.stations_deg):
        here = " current" if k == rose.current else ""
        drawn.append(
            path(
                [on_circle(angle, _RIM + 16, centre=_CENTRE), on_circle(angle, _RIM + 23, centre=_CENTRE)],
                class_=f"tick{here}",
            )
        )
        label = on_circle(angle, _RIM + 38, centre=_CENTRE)
        drawn.append(_upright(str(k + 1), label, rose, class_=f"upright station-label{here}"))
    return drawn


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
        for first, last, edge in runs_beyond(values, half) if hatched else ():
            out = [at(float(angles[i]), float(values[i])) for i in range(first, last + 1)]
            back = [at(float(angles[i]), edge) for i in range(last, first - 1, -1)]
            drawn.append(path([*out, *back], closed=True, class_="beyond", fill="url(#rose-hatch)"))
        drawn.append(
            path(
                [at(float(a), float(v)) for a, v in zip(angles, values, strict=True)],
                closed=True,
                class_="runout",
            )
        )
    for dot in curve.dots:
        x, y = at(dot.angle_deg, dot.value_mm)
        kind = "dot jump" if dot.jump else "dot faint" if dot.faint else "dot"
        drawn.append(element("circle", cx=x, cy=y, r=4.5 if not dot.faint else 3, class_=kind))
    if curve.mark_deg is not None and curve.values_mm.size:
        drawn += _needle(curve.mark_deg, zero + float(curve.values_mm.max()) * per_mm)
    return drawn


def _outline(curve: Curve, zero: float, per_mm: float, *, class_: str) -> Element:
    pairs = zip(curve.angles_deg, curve.values_mm, strict=True)
    points = [on_circle(float(a), zero + float(v) * per_mm, centre=_CENTRE) for a, v in pairs]
    return path(points, closed=True, class_=class_)


def _rubbing(curve: Curve, zero: float, per_mm: float) -> list[Element]:
    """Fill where a released pad is reached: outside the zero circle the outboard one, inside it the inboard one."""
    drawn = []
    for first, last, _edge in runs_beyond(curve.values_mm, 0.0):
        out = [
            on_circle(float(curve.angles_deg[i]), zero + float(curve.values_mm[i]) * per_mm, centre=_CENTRE)
            for i in range(first, last + 1)
        ]
        back = [on_circle(float(curve.angles_deg[i]), zero, centre=_CENTRE) for i in range(last, first - 1, -1)]
        side = "out" if curve.values_mm[first] > 0 else "in"
        drawn.append(path([*out, *back], closed=True, class_=f"rub rub-{side}", fill="url(#rose-stipple)"))
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
    reach = curve.reach_mm
    segments = []
    starts = np.arange(0, 360, _SEGMENT_DEG)
    values = np.interp(starts + _SEGMENT_DEG / 2, curve.angles_deg, curve.values_mm)
    for start, value in zip(starts.tolist(), values.tolist(), strict=True):
        share = (value / reach + 1) / 2  # 0 thinnest .. 1 thickest that is drawn
        outer = _THICKNESS_IN + 6 + (_THICKNESS_DEEP - 6) * share
        thin = value < -curve.limit_mm / 2
        corners = [
            on_circle(start + 0.6, _THICKNESS_IN, centre=_CENTRE),
            on_circle(start + 0.6, outer, centre=_CENTRE),
            on_circle(start + _SEGMENT_DEG - 0.6, outer, centre=_CENTRE),
            on_circle(start + _SEGMENT_DEG - 0.6, _THICKNESS_IN, centre=_CENTRE),
        ]
        segments.append(path(corners, closed=True, class_=f"metal{' thin' if thin else ''} shade-{round(share * 4)}"))
    return group(segments, class_="thickness")
