"""What a lathe shows and sounds like: bands its tips have touched, a needle that calms down, the sound of a pass."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray
from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 520.0
HEIGHT: Final = 300.0
_LEFT, _RIGHT = 92.0, 512.0
_BAND: Final = 26.0
_FULL_MM: Final = 0.08  # drawn half height of the needle's trace


@dataclass(frozen=True, slots=True, eq=False)
class LatheTraces:
    """Bands (n,) of 0 and 1 a face, the needle (n,) mm over its turns, the sound (n,) −1 to 1; None: not yet."""

    bands: Sequence[tuple[str, FloatArray]]
    needle_mm: FloatArray | None
    sound: FloatArray | None


def draw_traces(traces: LatheTraces, *, labels: dict[str, str], title: str) -> str:
    """Return the SVG: two bands, the needle, the sound, each with its name; what is not there yet is a dashed line."""
    drawn: list[Element] = []
    for k, (name, band) in enumerate(traces.bands):
        y = 12.0 + k * (_BAND + 8)
        drawn.append(text(name, 4, y + _BAND / 2, class_="lathe-name"))
        drawn.append(element("rect", x=_LEFT, y=y, width=_RIGHT - _LEFT, height=_BAND, class_="lathe-face"))
        wide = (_RIGHT - _LEFT) / band.size
        for first, last in _runs(band):
            width = (last - first + 1) * wide
            drawn.append(
                element("rect", x=_LEFT + first * wide, y=y, width=width, height=_BAND, class_="lathe-touched")
            )
    drawn += _trace(labels["needle"], traces.needle_mm, 126.0, 40.0 / _FULL_MM, "lathe-needle")
    drawn += _trace(labels["sound"], traces.sound, 238.0, 44.0, "lathe-sound")
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="rose lathe-traces")


def _trace(name: str, values: FloatArray | None, y: float, per_unit: float, class_: str) -> list[Element]:
    named = text(name, 4, y, class_="lathe-name")
    if values is None:
        return [named, path([(_LEFT, y), (_RIGHT, y)], class_="lathe-silent")]
    x = np.linspace(_LEFT, _RIGHT, values.size)
    points = [(float(a), y - float(v) * per_unit) for a, v in zip(x, values, strict=True)]
    return [named, path([(_LEFT, y), (_RIGHT, y)], class_="lathe-silent"), path(points, class_=class_)]


def _runs(band: FloatArray) -> list[tuple[int, int]]:
    """Return the stretches (first, last) in which a tip has touched."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0.0], band, [0.0]])))
    return [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
