"""SVG elements as escaped text: numbers are rounded to a tenth of a unit, nobody else puts angle brackets together."""

import math
from collections.abc import Callable, Iterable, Sequence
from functools import cache
from html import escape
from typing import Final

from compass.ground.arrays import FloatArray

Point = tuple[float, float]


_POINT: Final[Callable[[Point], str]] = "%.1f %.1f".__mod__


class Element(str):
    """A serialised element; any other text is escaped when it becomes a child."""

    __slots__ = ()


def element(name: str, *children: str, **attributes: str | float | None) -> Element:
    """Make an element; ``class_`` becomes class, underscores become hyphens, None leaves an attribute out."""
    written = "".join(
        f' {_attribute(key)}="{escape(value) if isinstance(value, str) else number(value)}"'
        for key, value in attributes.items()
        if value is not None
    )
    inside = "".join(child if isinstance(child, Element) else escape(child, quote=False) for child in children)
    return Element(f"<{name}{written}>{inside}</{name}>" if inside else f"<{name}{written} />")


@cache
def _attribute(key: str) -> str:
    return key.rstrip("_").replace("_", "-")


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


def path(points: Sequence[Point], *, closed: bool = False, **attributes: str | float | None) -> Element:
    """Make a path through ``points``."""
    # As ``number`` writes them, all at once: a curve has hundreds of points.
    drawn = ("M" + "L".join(map(_POINT, points)) + "L").replace(".0 ", " ").replace(".0L", "L")[:-1]
    return element("path", d=drawn + ("Z" if closed else ""), **attributes)


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


def runs_beyond(curve: FloatArray, half_band: float) -> list[tuple[int, int, float]]:
    """Return the stretches (first, last, edge) in which ``curve`` leaves ±``half_band``."""
    runs: list[tuple[int, int, float]] = []
    for sign in (1.0, -1.0):
        start: int | None = None
        for i, value in enumerate([*(sign * curve > half_band), False]):
            if value and start is None:
                start = i
            elif not value and start is not None:
                runs.append((start, i - 1, sign * half_band))
                start = None
    return runs
