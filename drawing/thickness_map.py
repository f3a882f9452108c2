"""The thickness map: the disc face-on, each place shaded by its thickness over angle and measured radius."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.evidence.records import Spec
from compass.ground.angles import stud_deg
from compass.ground.arrays import FloatArray
from drawing.svg import Element, element, group, hatching, on_circle, path, picture, text

SIZE: Final = 520.0
_CENTRE: Final = SIZE / 2
_RIM: Final = 200.0
_HUB: Final = 92.0
_STEP_DEG: Final = 5
_SHADES: Final = 5
_BESIDE_DEG: Final = 15.0  # radii are named beside the first station, not on it


@dataclass(frozen=True, slots=True, eq=False)
class ThicknessMap:
    """Thickness (radii, angles) in mm at ``angles_deg`` as the rotor was miked; ``thin_deg`` is the thinnest place."""

    spec: Spec
    angles_deg: FloatArray
    radii_mm: FloatArray
    thickness_mm: FloatArray
    thin_deg: float
    readings: tuple[tuple[float, int], ...]  # (hub angle, row of radii_mm) of every reading that counts


def draw_thickness_map(drawn_map: ThicknessMap, *, title: str, labels: tuple[str, str]) -> str:
    """Return the SVG; ``labels`` name the thickest and the thinnest shade with their figures."""
    low, high = float(drawn_map.thickness_mm.min()), float(drawn_map.thickness_mm.max())
    span = max(high - low, 1e-6)
    rows = np.argsort(drawn_map.radii_mm)
    edges = np.linspace(_HUB + 8, _RIM - 4, rows.size + 1)
    drawn: list[Element] = [
        hatching("map"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=_RIM + 14, class_="ring-out"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=_RIM, class_="ring-face"),
    ]
    for k, row in enumerate(rows.tolist()):
        drawn += _ring(
            drawn_map.angles_deg, drawn_map.thickness_mm[row], low, span, float(edges[k]), float(edges[k + 1])
        )
    for angle, row in drawn_map.readings:
        k = int(np.flatnonzero(rows == row)[0])
        x, y = on_circle(angle, float(edges[k] + edges[k + 1]) / 2, centre=_CENTRE)
        drawn.append(element("circle", cx=x, cy=y, r=3, class_="dot"))
    tip = [
        on_circle(drawn_map.thin_deg + off, r, centre=_CENTRE)
        for off, r in ((0, _RIM + 2), (-3, _RIM + 18), (3, _RIM + 18))
    ]
    drawn.append(path(tip, closed=True, class_="needle-tip"))
    drawn.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=_HUB, class_="ring-hat"))
    for stud in range(1, drawn_map.spec.studs + 1):
        x, y = on_circle(stud_deg(stud, drawn_map.spec.studs), 62, centre=_CENTRE)
        drawn += [element("circle", cx=x, cy=y, r=15, class_="stud"), text(str(stud), x, y, class_="stud-label")]
    for k, radius in enumerate(drawn_map.radii_mm[rows].tolist()):
        x, y = on_circle(-_BESIDE_DEG, float(edges[k] + edges[k + 1]) / 2, centre=_CENTRE)
        drawn.append(text(f"r {radius:g}", x, y, class_="map-radius"))
    drawn.append(_scale(labels))
    return picture(SIZE, SIZE, drawn, title=title, class_="rose map")


def _ring(angles: FloatArray, values: FloatArray, low: float, span: float, inner: float, outer: float) -> list[Element]:
    segments = []
    starts = np.arange(0, 360, _STEP_DEG)
    middle = np.interp(starts + _STEP_DEG / 2, angles, values)
    for start, value in zip(starts.tolist(), middle.tolist(), strict=True):
        shade = min(int((value - low) / span * _SHADES), _SHADES - 1)
        corners = [
            on_circle(start + off, radius, centre=_CENTRE)
            for off, radius in ((0, inner), (0, outer), (_STEP_DEG, outer), (_STEP_DEG, inner))
        ]
        segments.append(path(corners, closed=True, class_=f"metal shade-{shade}{' thin' if shade == 0 else ''}"))
        if shade == 0:
            segments.append(path(corners, closed=True, fill="url(#map-hatch)"))
    return segments


def _scale(labels: tuple[str, str]) -> Element:
    steps = [
        element(
            "rect", x=8 + k * 20, y=SIZE - 20, width=20, height=12, class_=f"metal shade-{k}{' thin' if k == 0 else ''}"
        )
        for k in range(_SHADES)
    ]
    return group(
        [
            *steps,
            text(labels[0], 8, SIZE - 30, class_="map-label"),
            text(labels[1], 14 + 20 * _SHADES, SIZE - 13, class_="map-label"),
        ]
    )
