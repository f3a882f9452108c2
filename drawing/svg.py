"""SVG elements as escaped text: numbers are rounded to a tenth of a unit, nobody else puts angle brackets together."""

import math
from collections.abc import Callable, Iterable, Sequence
from functools import cache, lru_cache
from html import escape
from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray

Point = tuple[float, float]


_POINT: Final[Callable[[Point], str]] = "%.1f %.1f".__mod__


class Element(str):
    """A serialised element; any other text is escaped when it becomes a child."""

    __slots__ = ()


def element(name: str, *children: str, **attributes: str | float | None) -> Element:
    """Make an element; ``class_`` becomes class, underscores become hyphens, None leaves an attribute out."""
    written = "".join(
        f' {_attribute(key)}="{_written(value)}"' for key, value in attributes.items() if value is not None
    )
    inside = "".join(child if isinstance(child, Element) else escape(child, quote=False) for child in children)
    return Element(f"<{name}{written}>{inside}</{name}>" if inside else f"<{name}{written} />")


@cache
def _attribute(key: str) -> str:
    return key.rstrip("_").replace("_", "-")


def _written(value: str | float) -> str:
    if isinstance(value, Element):
        return value  # numbers that were put together here
    return _escaped(value) if isinstance(value, str) else number(value)


_escaped: Final = lru_cache(maxsize=4096)(escape)  # classes and names come again and again


def group(children: Iterable[Element], **attributes: str | float | None) -> Element:
    """Make a group of ``children``."""
    return element("g", *children, **attributes)


def number(value: float) -> str:
    """Write a coordinate: a tenth of a unit is finer than the eye."""
    text = f"{value:.1f}"
    return text[:-2] if text.endswith(".0") else text


def text(content: str, x: float, y: float, **attributes: str | float | None) -> Element:
    """Make a text element, its middle at x."""
    return element("text", content, x=x, y=y, **attributes)


def upright(content: str, at: Point, turned_deg: float, **attributes: str) -> Element:
    """Write a label that stays upright while the wheel turns; the script turns it by the same data."""
    x, y = (number(part) for part in at)
    return text(content, at[0], at[1], transform=f"rotate({turned_deg:.2f} {x} {y})", data_x=x, data_y=y, **attributes)


def path(points: Sequence[Point], *, closed: bool = False, **attributes: str | float | None) -> Element:
    """Make a path through ``points``."""
    # As ``number`` writes them, all at once: a curve has hundreds of points.
    drawn = ("M" + "L".join(map(_POINT, points)) + "L").replace(".0 ", " ").replace(".0L", "L")[:-1]
    return element("path", d=Element(drawn + ("Z" if closed else "")), **attributes)


def picture(
    width: float,
    height: float,
    children: Iterable[Element],
    *,
    title: str,
    **attributes: str | float | None,
) -> str:
    """Return a whole SVG as text, with ``title`` for those who hear it instead of seeing it."""
    drawn = element(
        "svg",
        element("title", title),
        *children,
        viewBox=f"0 0 {number(width)} {number(height)}",
        **{"role": "img", **attributes},
    )
    return str(drawn)


def hatching(identifier: str) -> Element:
    """Return the definitions of the two patterns: oxide hatching for over, stipple for too close to call."""
    hatch = element(
        "pattern",
        element("path", d="M0 0L0 6", class_="hatch-line"),
        id=f"{identifier}-hatch",
        width=5,
        height=6,
        patternUnits="userSpaceOnUse",
        patternTransform="rotate(35)",
    )
    stipple = element(
        "pattern",
        element("circle", cx=2, cy=2, r="0.9", class_="stipple-dot"),
        element("circle", cx=5, cy=5, r="0.9", class_="stipple-dot"),
        id=f"{identifier}-stipple",
        width=6,
        height=6,
        patternUnits="userSpaceOnUse",
    )
    return element("defs", hatch, stipple)


def on_circle(angle_deg: float, radius: float, *, centre: float) -> Point:
    """Return the point at a hub angle: clockwise from the top, as seen from outside the vehicle."""
    angle = math.radians(angle_deg)
    return centre + radius * math.sin(angle), centre - radius * math.cos(angle)


def around(angles_deg: FloatArray, radii: FloatArray, *, centre: float) -> list[Point]:
    """Return the points at hub angles (n,) and drawn radii (n,), as ``on_circle`` has one."""
    angles = np.radians(angles_deg)
    return list(
        zip((centre + radii * np.sin(angles)).tolist(), (centre - radii * np.cos(angles)).tolist(), strict=True)
    )


def runs_beyond(curve: FloatArray, half_band: float) -> list[tuple[int, int, float]]:
    """Return the stretches (first, last, edge) in which ``curve`` leaves ±``half_band``."""
    runs: list[tuple[int, int, float]] = []
    for sign in (1.0, -1.0):
        start: int | None = None
        for i, value in enumerate([*(sign * curve > half_band).tolist(), False]):
            if value and start is None:
                start = i
            elif not value and start is not None:
                runs.append((start, i - 1, sign * half_band))
                start = None
    return runs
