"""The order of work in time: a row a corner, a lathe, a person; what is done, what is under way, what is to come."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 1240.0
_ROW: Final = 30.0
_LEFT: Final = 96.0
_TOP: Final = 22.0
_LETTER: Final = 7.6  # of a label, in the type it is drawn with


@dataclass(frozen=True, slots=True)
class Bar:
    """A block of a row, minutes from the beginning of the strip; ``state`` is done, now or ahead."""

    row: str
    start: float
    end: float
    label: str
    state: str


def draw_strip(
    bars: list[Bar], rows: list[str], *, hours: list[tuple[float, str]], now: float, late: str, title: str
) -> str:
    """Return the SVG: ``hours`` are the marks along the top, ``late`` the words at the now-line."""
    last = max((*(bar.end for bar in bars), now + 1.0, *(at for at, _label in hours)))
    height = _TOP + _ROW * len(rows) + 24

    def at(minute: float) -> float:
        return _LEFT + minute / last * (WIDTH - _LEFT - 6)

    drawn: list[Element] = []
    for minute, label in hours:
        drawn.append(path([(at(minute), _TOP - 3), (at(minute), _TOP + _ROW * len(rows))], class_="day-hour"))
        drawn.append(text(label, at(minute), 9, class_="order-hour"))
    tops = {name: _TOP + _ROW * k for k, name in enumerate(rows)}
    for name, top in tops.items():
        drawn.append(text(name, 0, top + _ROW / 2, class_="order-row"))
        drawn.append(path([(_LEFT, top + _ROW), (WIDTH, top + _ROW)], class_="day-row"))
    for bar in bars:
        x, y, wide = at(bar.start), tops[bar.row] + 3, max(at(bar.end) - at(bar.start) - 1.5, 3.0)
        inside = [
            element("title", bar.label),
            element("rect", x=x, y=y, width=wide, height=_ROW - 6, class_=f"order-bar {bar.state}"),
        ]
        if len(bar.label) * _LETTER + 8 <= wide:
            inside.append(text(bar.label, x + 5, y + _ROW / 2 - 3, class_=f"order-name {bar.state}"))
        drawn.append(element("g", *inside))
    drawn.append(path([(at(now), _TOP - 8), (at(now), height - 22)], class_="order-now"))
    beyond = at(now) > WIDTH - 160
    drawn.append(
        text(late, at(now) + (-6 if beyond else 6), height - 11, class_="order-late end" if beyond else "order-late")
    )
    return picture(WIDTH, height, drawn, title=title, class_="order")
