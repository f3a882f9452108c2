"""A setting on the rose: where the rotor's mark stands on the studs, and the plate with its thin side."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from drawing.svg import Element, element, on_circle, path, text

_PLATE_IN: Final = 84.0
_PLATE_DEEP: Final = 15.0  # drawn width at the thick side; the thin side keeps a line
_MARK_IN, _MARK_OUT = 106.0, 126.0


@dataclass(frozen=True, slots=True)
class Setting:
    """Index of the rotor (degrees), thin side of the plate (hub angle, None without one), the plate's tilt, mm."""

    index_deg: float
    thin_deg: float | None
    plate: complex = 0j
    thin_label: str = "thin"


def draw_setting(setting: Setting, *, centre: float) -> list[Element]:
    """Draw the rotor's own mark, which stood at stud 1, and the plate as a ring of its own taper."""
    drawn: list[Element] = []
    if setting.thin_deg is not None:
        angles = np.arange(0, 361, 5)
        depth = _PLATE_DEEP * (1 - np.cos(np.radians(angles - setting.thin_deg))) / 2 + 1.5
        outer = [on_circle(float(a), _PLATE_IN + float(d), centre=centre) for a, d in zip(angles, depth, strict=True)]
        inner = [on_circle(float(a), _PLATE_IN, centre=centre) for a in angles[::-1]]
        drawn.append(path([*outer, *inner], closed=True, class_="plate-ring"))
        tip = on_circle(setting.thin_deg, _PLATE_IN + 3, centre=centre)
        sides = [on_circle(setting.thin_deg + off, _PLATE_IN + 17, centre=centre) for off in (-5.0, 5.0)]
        drawn.append(path([tip, *sides], closed=True, class_="plate-thin"))
        x, y = on_circle(setting.thin_deg, _PLATE_IN + 27, centre=centre)
        drawn.append(text(setting.thin_label, x, y, class_="plate-label"))
    mark = [
        on_circle(setting.index_deg, _MARK_OUT + 6, centre=centre),
        on_circle(setting.index_deg - 4, _MARK_IN + 8, centre=centre),
        on_circle(setting.index_deg + 4, _MARK_IN + 8, centre=centre),
    ]
    drawn.append(path(mark, closed=True, class_="rotor-mark"))
    if setting.index_deg:
        start, end = 0.0, setting.index_deg if setting.index_deg <= 180 else setting.index_deg - 360
        arc = [on_circle(start + (end - start) * k / 40, _MARK_OUT + 9, centre=centre) for k in range(41)]
        drawn.append(path(arc, class_="rotor-way"))
        x, y = on_circle(0.0, _MARK_OUT + 9, centre=centre)
        drawn.append(element("circle", cx=x, cy=y, r=3.5, class_="rotor-was"))
    return drawn
