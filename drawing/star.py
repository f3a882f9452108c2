"""The star order: the wheel's studs and the way the torque wrench takes from one to the next."""

from itertools import pairwise
from typing import Final

from compass.do.star_order import star_order
from compass.ground.angles import stud_deg
from drawing.svg import Element, element, on_circle, path, picture, text

SIZE: Final = 300.0
_CENTRE: Final = SIZE / 2
_RING: Final = 104.0


def draw_star(studs: int, *, title: str) -> str:
    """Return the SVG: studs at their places, numbered, beside each the turn at which it is torqued."""
    order = star_order(studs)
    places = [on_circle(stud_deg(stud, studs), _RING, centre=_CENTRE) for stud in order]
    size = 19.0 if studs <= 8 else 16.0
    drawn: list[Element] = [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=_RING, class_="ring-face"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=40, class_="ring-bore"),
    ]
    for (x0, y0), (x1, y1) in pairwise(places):
        drawn.append(path([(x0, y0), (x1, y1)], class_="star-way"))
        # a chevron a third of the way tells the direction where lines cross
        dx, dy = x1 - x0, y1 - y0
        length = (dx**2 + dy**2) ** 0.5
        ux, uy = dx / length, dy / length
        x, y = x0 + dx * 0.36, y0 + dy * 0.36
        points = [(x - 7 * ux + 5 * uy, y - 7 * uy - 5 * ux), (x, y), (x - 7 * ux - 5 * uy, y - 7 * uy + 5 * ux)]
        drawn.append(path(points, class_="star-way"))
    for turn, (stud, (x, y)) in enumerate(zip(order, places, strict=True), start=1):
        first = " chalked" if turn == 1 else ""
        drawn.append(element("circle", cx=x, cy=y, r=size, class_=f"stud{first}"))
        drawn.append(text(str(stud), x, y, class_=f"stud-label{first}"))
        outer = on_circle(stud_deg(stud, studs), _RING + 33, centre=_CENTRE)
        drawn.append(text(f"{turn}.", *outer, class_="star-turn"))
    return picture(SIZE, SIZE, drawn, title=title, class_="rose star")
