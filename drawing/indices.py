"""Index positions overlaid: as swept on the hub, and turned back on each other as they stand on the rotor.

What lies together on the left stayed with the hub; what lies together on the right turned with the rotor.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.ground.angles import stud_deg
from compass.ground.arrays import FloatArray
from drawing.svg import Element, element, on_circle, path, picture, text

SIZE: Final = 520.0
_R: Final = 84.0
_REACH: Final = 34.0
_LEFT: Final = (130.0, 190.0)
_RIGHT: Final = (390.0, 190.0)


@dataclass(frozen=True, slots=True, eq=False)
class Swept:
    """One index: what it is called, how far the rotor was turned, its curve (angles, mm about its mid-height)."""

    name: str
    index_deg: float
    angles_deg: FloatArray
    values_mm: FloatArray


def draw_overlay(swept: list[Swept], *, studs: int, captions: tuple[str, str], title: str) -> str:
    """Return the SVG of both circles with a legend; every index has its own dash, so colour is not needed."""
    reach = max(float(np.abs(s.values_mm).max()) for s in swept)
    per_mm = _REACH / max(reach, 1e-6)
    drawn: list[Element] = []
    for (cx, cy), caption, turned_back in ((_LEFT, captions[0], False), (_RIGHT, captions[1], True)):
        drawn.append(element("circle", cx=cx, cy=cy, r=_R + _REACH + 6, class_="ring-face"))
        drawn.append(element("circle", cx=cx, cy=cy, r=_R, class_="zero-line"))
        drawn += _studs(cx, cy, studs) if not turned_back else [text("0", cx, cy - 40, class_="station-label")]
        for k, s in enumerate(swept):
            angles = s.angles_deg - (s.index_deg if turned_back else 0.0)
            points = [_at(cx, cy, float(a), _R + float(v) * per_mm) for a, v in zip(angles, s.values_mm, strict=True)]
            drawn.append(path(points, closed=True, class_=f"overlay overlay-{k % 4}"))
        drawn.append(text(caption, cx, cy + _R + _REACH + 34, class_="overlay-caption"))
    for k, s in enumerate(swept[:6]):
        y = 398 + 26 * (k % 4)
        x = 60 + 240 * (k // 4)
        drawn.append(path([(x, y), (x + 50, y)], class_=f"overlay overlay-{k % 4}"))
        drawn.append(text(s.name, x + 62, y, class_="overlay-name"))
    return picture(SIZE, SIZE, drawn, title=title, class_="rose overlays")


def _at(cx: float, cy: float, angle: float, radius: float) -> tuple[float, float]:
    x, y = on_circle(angle, radius, centre=0.0)
    return cx + x, cy + y


def _studs(cx: float, cy: float, studs: int) -> list[Element]:
    drawn = []
    for stud in range(1, studs + 1):
        x, y = _at(cx, cy, stud_deg(stud, studs), 34.0)
        drawn.append(element("circle", cx=x, cy=y, r=10, class_="stud"))
        drawn.append(text(str(stud), x, y, class_="stud-label small"))
    return drawn
