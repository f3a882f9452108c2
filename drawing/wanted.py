"""A disc that nobody has described yet, and where on it each limit stands that is asked for."""

from collections.abc import Mapping
from typing import Final

from compass.ground.angles import stud_deg
from drawing.svg import Element, element, on_circle, path, picture, text

WIDTH: Final = 480.0
HEIGHT: Final = 300.0
_CENTRE: Final = (130.0, 134.0)
_RIM, _BAND, _TIP, _STUDS, _BORE = 122.0, 66.0, 98.0, 42.0, 20.0
_ANY_STUDS: Final = 5
_TIP_DEG: Final = 58.0
_LABELLED_STUD, _LABELLED_DEG = 4, 156.0  # where the lines to the words begin
_SECTION_X: Final = 318.0  # the middle of the disc that is seen on edge
_SLABS: Final = (("nominal", 27.0), ("machine_to", 17.0), ("discard", 10.0))  # half widths, not to scale


def draw_wanted(labels: Mapping[str, str], *, title: str) -> str:
    """Return the SVG; ``labels`` name studs, radius, nominal, machine_to and discard. Dashed: not known."""
    cx, cy = _CENTRE
    drawn: list[Element] = [
        element("circle", cx=cx, cy=cy, r=_RIM, class_="ring-face"),
        element("circle", cx=cx, cy=cy, r=_BAND, class_="ring-hat"),
        element("circle", cx=cx, cy=cy, r=_TIP, class_="wanted-line"),
        element("circle", cx=cx, cy=cy, r=_BORE, class_="ring-bore"),
    ]
    for stud in range(1, _ANY_STUDS + 1):
        x, y = _about(stud_deg(stud, _ANY_STUDS), _STUDS)
        drawn.append(element("circle", cx=x, cy=y, r=9, class_="wanted-line"))
    tip, foot_y = _about(_TIP_DEG, _TIP), cy + _RIM
    drawn += [
        path([_CENTRE, tip], class_="wanted-radius"),
        element("circle", cx=tip[0], cy=tip[1], r=4, class_="needle-tip"),
    ]
    for label, end, beside in (
        (labels["studs"], _about(stud_deg(_LABELLED_STUD, _ANY_STUDS), _STUDS + 9), -72.0),
        (labels["radius"], _about(_LABELLED_DEG, _TIP), 56.0),
    ):
        drawn += [
            path([end, (cx + beside, foot_y + 8)], class_="wanted-line"),
            text(label, cx + beside, foot_y + 22, class_="wanted-label"),
        ]
    top = cy - _RIM
    for k, (name, half) in enumerate(_SLABS):
        slab = {"x": _SECTION_X - half, "y": top, "width": 2 * half, "height": 2 * _RIM}
        drawn.append(element("rect", class_=f"wanted-slab {name}", **slab))
        y = top + 34 + 64 * k
        drawn += [
            path([(_SECTION_X + half, y), (_SECTION_X + 40, y)], class_="wanted-line"),
            text(labels[name], _SECTION_X + 46, y, class_="wanted-label beside"),
        ]
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="rose wanted")


def _about(angle_deg: float, radius: float) -> tuple[float, float]:
    x, y = on_circle(angle_deg, radius, centre=0.0)
    return x + _CENTRE[0], y + _CENTRE[1]
