"""Money over distance: what today's choice and its follow-ups cost, as steps, one line a choice."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, path, picture, text

WIDTH: Final = 560.0
HEIGHT: Final = 150.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 10.0, 330.0, 12.0, 122.0


@dataclass(frozen=True, slots=True)
class OutlayLine:
    """One choice: its name, and steps (km, money so far)."""

    name: str
    steps: tuple[tuple[float, float], ...]


def draw_outlay(lines: tuple[OutlayLine, ...], *, over_km: float, ends: tuple[str, str], title: str) -> str:
    """Return the SVG; ``ends`` name the two ends of the distance."""
    most = max(steps[-1][1] for line in lines if (steps := line.steps)) or 1.0

    def at(km: float, money: float) -> tuple[float, float]:
        return _LEFT + km / over_km * (_RIGHT - _LEFT), _BOTTOM - money / most * (_BOTTOM - _TOP)

    drawn: list[Element] = [path([(_LEFT, _BOTTOM), (_RIGHT, _BOTTOM)], class_="outlay-axis")]
    labels = []
    for number, line in enumerate(lines):
        points = [at(0.0, 0.0)]
        for (km, money), (until, _later) in zip(line.steps, (*line.steps[1:], (over_km, 0.0)), strict=True):
            points += [at(km, money), at(until, money)]
        drawn.append(path(points, class_=f"outlay-line outlay-{number}"))
        labels.append((points[-1][1], line.name, number))
    last = -20.0
    for y, name, number in sorted(labels):
        last = max(y, last + 17)
        drawn.append(text(name, _RIGHT + 8, last, class_=f"outlay-label outlay-{number}"))
    drawn.append(text(ends[0], _LEFT, HEIGHT - 12, class_="outlay-km"))
    drawn.append(text(ends[1], _RIGHT, HEIGHT - 12, class_="outlay-km end"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="outlay")
