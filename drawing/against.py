"""A measured size against its limit as a small bar: how far it reaches, how sure that is, where the limit stands."""

from typing import Final

from drawing.svg import Element, element, path, picture

WIDTH: Final = 120.0
HEIGHT: Final = 22.0
_MOST: Final = 2.5  # times the limit: what lies beyond is cut off with a mark
_TOP, _TALL = 6.0, 10.0


def draw_against(value: float, expanded: float, limit: float, *, state: str, title: str) -> str:
    """Return the SVG of ``value`` ± ``expanded`` against an upper ``limit`` (all in one unit)."""
    most = limit * _MOST

    def x(size: float) -> float:
        return min(max(size, 0.0), most) / most * (WIDTH - 6)

    drawn: list[Element] = [
        element("rect", x=0, y=_TOP, width=x(limit), height=_TALL, class_="against-room"),
        element("rect", x=0, y=_TOP + 2, width=max(x(value), 1.0), height=_TALL - 4, class_=f"against-value {state}"),
        path([(x(value - expanded), HEIGHT / 2), (x(value + expanded), HEIGHT / 2)], class_="against-doubt"),
        path([(x(limit), 1), (x(limit), HEIGHT - 1)], class_="against-limit"),
    ]
    if value > most:
        drawn.append(path([(WIDTH - 6, 4), (WIDTH - 1, HEIGHT / 2), (WIDTH - 6, HEIGHT - 4)], class_="against-doubt"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="against")
