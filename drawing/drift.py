"""What was read over time against a limit: checks of an instrument, compensations of a lathe."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 520.0
HEIGHT: Final = 190.0
_LEFT, _RIGHT, _TOP, _FOOT = 20.0, 420.0, 16.0, 158.0


@dataclass(frozen=True, slots=True)
class DriftLine:
    """Points (day, value) in days and mm; ``limit`` above zero, and below it too where ``both``; a fitted line or None.

    ``line`` is (value at the first day, value at the last).
    """

    points: tuple[tuple[float, float], ...]
    limit: float
    both: bool
    line: tuple[float, float] | None = None


def draw_drift(drift: DriftLine, *, first: str, last: str, limit: str, title: str) -> str:
    """Return the SVG; ``first`` and ``last`` say the days, ``limit`` the limit."""
    values = [value for _day, value in drift.points] + [drift.limit, 0.0] + ([-drift.limit] if drift.both else [])
    low, high = min(values), max(values)
    spare = max(high - low, 1e-6) * 0.12
    low, high = low - spare, high + spare
    days = [day for day, _value in drift.points]
    start, span = min(days), max(max(days) - min(days), 1.0)

    def at(day: float, value: float) -> tuple[float, float]:
        return _LEFT + (day - start) / span * (_RIGHT - _LEFT), _TOP + (high - value) / (high - low) * (_FOOT - _TOP)

    drawn: list[Element] = [path([at(start, 0), at(start + span, 0)], class_="drift-zero")]
    for edge in (drift.limit, -drift.limit) if drift.both else (drift.limit,):
        x, y = at(start + span, edge)
        drawn += [path([(_LEFT, y + gap), (_RIGHT, y + gap)], class_="drift-limit") for gap in (-1.2, 1.2)]
        drawn.append(text(limit if edge > 0 else f"−{limit}", x + 8, y, class_="drift-label"))
    if drift.line is not None:
        drawn.append(path([at(start, drift.line[0]), at(start + span, drift.line[1])], class_="drift-line"))
    for day, value in drift.points:
        x, y = at(day, value)
        over = " over" if abs(value) > drift.limit else ""
        drawn.append(element("circle", cx=x, cy=y, r=5, class_=f"drift-dot{over}"))
    drawn.append(text(first, _LEFT, HEIGHT - 12, class_="drift-label"))
    drawn.append(text(last, _RIGHT, HEIGHT - 12, text_anchor="end", class_="drift-label"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="drift")
