"""Where a reading should fall: the expected range on a line, the stop or limit, what it was before."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 360.0
HEIGHT: Final = 76.0
_LEFT, _RIGHT, _AXIS = 34.0, 326.0, 40.0


@dataclass(frozen=True, slots=True)
class Expected:
    """A range and the places beside it, mm, with their labels; each may be None."""

    low: float | None
    high: float | None
    stop: float | None
    before: float | None
    read: float | None


def draw_expected(expected: Expected, *, labels: dict[str, str], title: str) -> str:
    """Return the SVG; ``labels`` name range, stop and before."""
    known = [expected.low, expected.high, expected.stop, expected.before, expected.read]
    places = [mm for mm in known if mm is not None]
    low, high = min(places), max(places)
    spread = max(high - low, 1e-6)

    def x(mm: float) -> float:
        return _LEFT + (mm - low) / spread * (_RIGHT - _LEFT)

    drawn: list[Element] = [path([(_LEFT - 20, _AXIS), (_RIGHT + 20, _AXIS)], class_="expected-axis")]
    if expected.low is not None and expected.high is not None:
        left, right = x(expected.low), max(x(expected.high), x(expected.low) + 5)
        drawn += [
            element("rect", x=left, y=_AXIS - 9, width=right - left, height=18, class_="expected-range"),
            _label(labels["range"], (left + right) / 2, 15.0, "expected-name"),
        ]
    if expected.stop is not None:
        drawn.append(path([(x(expected.stop), _AXIS - 10), (x(expected.stop), _AXIS + 10)], class_="expected-stop"))
        drawn.append(_label(labels["stop"], x(expected.stop), 64.0, "expected-stop-name"))
    if expected.before is not None:
        drawn.append(path([(x(expected.before), _AXIS - 6), (x(expected.before), _AXIS + 6)], class_="expected-axis"))
        drawn.append(_label(labels["before"], x(expected.before), 64.0, "expected-before"))
    if expected.read is not None:
        drawn.append(path([(x(expected.read), _AXIS - 14), (x(expected.read), _AXIS + 14)], class_="expected-read"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="expected")


def _label(words: str, x: float, y: float, name: str) -> Element:
    """Write a label that stays inside the picture."""
    half = len(words) * 3.6
    return text(words, min(max(x, half + 2), WIDTH - half - 2), y, class_=name)
