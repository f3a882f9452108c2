"""Shares with their ranges as rows: how often it came, and between what the true share lies."""

from dataclasses import dataclass
from typing import Final

from compass.words.figures import twentieths_text
from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 560.0
_LEFT, _RIGHT, _ROW, _TOP = 214.0, 506.0, 30.0, 30.0


@dataclass(frozen=True, slots=True)
class ShareRow:
    """One row: its name, the share with its range (0 to 1, None: nothing), what is written beside, the share said."""

    name: str
    share: float | None
    low: float
    high: float
    beside: str
    said: float | None = None


def draw_shares(rows: list[ShareRow], *, title: str) -> str:
    """Return the SVG; the brass mark of a row is the share that was said."""
    height = _TOP + _ROW * max(len(rows), 1) + 12

    def x(share: float) -> float:
        return _LEFT + share * (_RIGHT - _LEFT)

    drawn: list[Element] = []
    for tenth in (0, 5, 10):
        drawn.append(path([(x(tenth / 10), _TOP - 6), (x(tenth / 10), height - 8)], class_="plot-grid"))
        drawn.append(text(twentieths_text(tenth * 2) if tenth else "0", x(tenth / 10), 12, class_="plot-scale"))
    for k, row in enumerate(rows):
        y = _TOP + _ROW * (k + 0.5)
        drawn.append(text(row.name, _LEFT - 12, y, class_="plot-name"))
        drawn.append(text(row.beside, _RIGHT + 12, y, class_="plot-beside"))
        if row.share is None:
            continue
        left, right = x(row.low), max(x(row.high), x(row.low) + 1.5)
        drawn.append(element("rect", x=left, y=y - 7, width=right - left, height=14, class_="plot-range"))
        drawn.append(path([(x(row.share), y - 10), (x(row.share), y + 10)], class_="plot-value"))
        if row.said is not None:
            at = x(row.said)
            drawn.append(path([(at, y + 3), (at - 5, y + 12), (at + 5, y + 12)], closed=True, class_="plot-said"))
    return picture(WIDTH, height, drawn, title=title, class_="plot")
