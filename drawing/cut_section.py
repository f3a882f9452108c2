"""The rotor unrolled under the lathe: both faces exaggerated, and the planes to be cut.

Limits are no places in the metal but how much of it must stay: they stand on a gauge of their own, never across a disc.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.ground.angles import stud_deg
from compass.ground.arrays import FloatArray
from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 520.0
HEIGHT: Final = 420.0
_LEFT, _RIGHT = 8.0, 440.0
_EDGE: Final = 34.0
_GAP: Final = 26.0  # drawn half of the metal that nobody touches


@dataclass(frozen=True, slots=True, eq=False)
class CutSection:
    """Faces (angles,) and planes in mm, hub normal counted out; ``done`` planes are cut already."""

    outboard_mm: FloatArray
    inboard_mm: FloatArray
    out_mm: tuple[float, ...]
    in_mm: tuple[float, ...]
    done: int
    studs: int
    radius_mm: float


def draw_section(section: CutSection, *, labels: dict[str, str], title: str) -> tuple[str, int]:
    """Return the SVG and the factor by which depth is exaggerated against the way round the disc's edge."""
    out_plane = min((float(section.outboard_mm.min()), *section.out_mm))
    in_plane = max((float(section.inboard_mm.max()), *section.in_mm))
    inner_zero = float(section.inboard_mm.min())
    highest = float(section.outboard_mm.max())
    per_mm = (HEIGHT - 2 * _EDGE - 2 * _GAP) / max(highest - out_plane + in_plane - inner_zero, 1e-6)

    def x(k: float) -> float:
        return _LEFT + k / 360.0 * (_RIGHT - _LEFT)

    def out(mm: float) -> float:
        return _EDGE + (highest - mm) * per_mm

    def inn(mm: float) -> float:
        return HEIGHT - _EDGE - (mm - inner_zero) * per_mm

    middle = out(out_plane) + _GAP
    angles = np.arange(0, 360.01, 5.0)
    top = [(x(float(a)), out(float(v))) for a, v in zip(angles, _round(section.outboard_mm, angles), strict=True)]
    low = [(x(float(a)), inn(float(v))) for a, v in zip(angles, _round(section.inboard_mm, angles), strict=True)]
    drawn: list[Element] = [_hatching(), path([*top, *reversed(low)], closed=True, class_="stock")]
    final_out, final_in = out(out_plane), inn(in_plane)
    if section.out_mm:
        drawn.append(
            path([*top, (x(360), final_out), (x(0), final_out)], closed=True, class_="taken", fill="url(#cut-hatch)")
        )
        drawn.append(
            path([*low, (x(360), final_in), (x(0), final_in)], closed=True, class_="taken", fill="url(#cut-hatch)")
        )
    drawn += [path(top, class_="face"), path(low, class_="face")]
    for k, (plane_out, plane_in) in enumerate(zip(section.out_mm, section.in_mm, strict=True)):
        kind = "plane done" if k < section.done else "plane"
        for y in (out(plane_out), inn(plane_in)):
            drawn.append(path([(_LEFT, y), (_RIGHT, y)], class_=kind))
        if k == len(section.out_mm) - 1 or out(section.out_mm[-1]) - out(plane_out) > 16:
            drawn.append(text(labels["pass"].format(number=k + 1), _RIGHT + 8, out(plane_out), class_="section-label"))
    for stud in range(1, section.studs + 1):
        centre = x(stud_deg(stud, section.studs))
        drawn.append(element("circle", cx=max(centre, _LEFT + 10), cy=middle, r=11, class_="stud"))
        drawn.append(text(str(stud), max(centre, _LEFT + 10), middle, class_="stud-label"))
    drawn.append(text(labels["outboard"], _LEFT, 14, class_="section-face"))
    drawn.append(text(labels["inboard"], _LEFT, HEIGHT - 12, class_="section-face"))
    around = 2 * np.pi * section.radius_mm / (_RIGHT - _LEFT)  # mm of the edge a unit of width, about
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="section"), int(round(per_mm * around, -1))


def _round(values: FloatArray, angles: FloatArray) -> FloatArray:
    curve: FloatArray = np.interp(
        np.mod(angles, 360.0), np.arange(values.size) * 360.0 / values.size, values, period=360.0
    )
    return curve


def _hatching() -> Element:
    line = element("path", d="M0 0L0 6", class_="cut-line")
    pattern = element(
        "pattern", line, id="cut-hatch", width=5, height=6, patternUnits="userSpaceOnUse", patternTransform="rotate(35)"
    )
    return element("defs", pattern)
