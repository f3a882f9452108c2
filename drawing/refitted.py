"""A figure refitted: ours with its range, what the data say alone, and where it stands now, on one line."""

import math
from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, path, picture

WIDTH: Final = 300.0
HEIGHT: Final = 34.0
_LEFT, _RIGHT, _MIDDLE = 6.0, 294.0, 17.0


@dataclass(frozen=True, slots=True)
class Refitted:
    """All in one unit, above zero; ``data`` None: nothing yet. ``in_force`` is what is judged by now."""

    prior: float
    prior_low: float
    prior_high: float
    data: float | None
    now: float
    low: float
    high: float
    in_force: float


def draw_refitted(figure: Refitted, *, title: str) -> str:
    """Return the SVG on a logarithmic line: ours above (thin), ours with the data below (thick)."""
    places = [figure.prior_low, figure.prior_high, figure.low, figure.high, figure.in_force]
    low, high = math.log(min(places)) - 0.05, math.log(max(places)) + 0.05

    def x(value: float) -> float:
        share = (math.log(value) - low) / (high - low)
        return _LEFT + min(max(share, 0.0), 1.0) * (_RIGHT - _LEFT)

    drawn: list[Element] = [
        path([(x(figure.prior_low), 8), (x(figure.prior_high), 8)], class_="refit-prior"),
        path([(x(figure.prior), 3), (x(figure.prior), 13)], class_="refit-prior"),
        element(
            "rect", x=x(figure.low), y=18, width=max(x(figure.high) - x(figure.low), 2), height=9, class_="refit-range"
        ),
        path([(x(figure.now), 15), (x(figure.now), 30)], class_="refit-now"),
        path([(x(figure.in_force), 1), (x(figure.in_force), 33)], class_="refit-force"),
    ]
    if figure.data is not None:
        drawn.append(element("circle", cx=x(figure.data), cy=_MIDDLE, r=3.2, class_="refit-data"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="refit")
