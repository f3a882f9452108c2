"""The two feed knobs of a lathe for one pass: where each starts from its zero, and how many lines it is turned on."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, on_circle, path, picture, text

WIDTH: Final = 560.0
HEIGHT: Final = 300.0
_LINES: Final = 40  # drawn round a knob; a real one may have more
_RADIUS: Final = 104.0


@dataclass(frozen=True, slots=True)
class Feed:
    """One knob: its face's name, the count or length to show large with its unit, lines to turn (None: no lines)."""

    face: str
    amount: str
    unit: str
    lines: float | None
    below: str


def draw_feed(feeds: tuple[Feed, Feed], *, title: str) -> str:
    """Return the SVG: a knob a face, its way drawn from zero at the top; more than a whole turn is drawn as one."""
    drawn: list[Element] = []
    for middle, feed in zip((WIDTH * 0.25, WIDTH * 0.75), feeds, strict=True):
        drawn += _knob(middle, feed)
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="feed")


def _knob(x: float, feed: Feed) -> list[Element]:
    y = 128.0

    def at(angle: float, radius: float) -> tuple[float, float]:
        px, py = on_circle(angle, radius, centre=0.0)
        return x + px, y + py

    step = 360.0 / _LINES
    drawn = [
        element("circle", cx=x, cy=y, r=_RADIUS, class_="ring-face"),
        path(
            [(x, y - _RADIUS - 4), (x - 9, y - _RADIUS - 20), (x + 9, y - _RADIUS - 20)],
            closed=True,
            class_="feed-mark",
        ),
    ]
    turned = min(feed.lines or 0.0, float(_LINES))
    for k in range(_LINES):
        inner = _RADIUS - (18 if k % 5 == 0 else 11)
        on = feed.lines is not None and k <= turned
        drawn.append(
            path([at(step * k, inner), at(step * k, _RADIUS - 4)], class_="feed-line on" if on else "feed-line")
        )
    if feed.lines:
        way = [at(step * turned * k / 40, _RADIUS - 32) for k in range(41)]
        drawn.append(path(way, class_="feed-way"))
    drawn += [
        text(feed.amount, x, y - 8, class_="feed-amount"),
        text(feed.unit, x, y + 30, class_="feed-unit"),
        text(feed.face, x, y + _RADIUS + 26, class_="feed-face"),
        text(feed.below, x, y + _RADIUS + 50, class_="feed-below"),
    ]
    return drawn
