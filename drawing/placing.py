"""Where the rotor goes back on, and the plate under it: studs numbered, the match mark's way, the thin side."""

from typing import Final

from compass.ground.angles import stud_deg
from drawing.setting import Setting, draw_setting
from drawing.svg import Element, element, on_circle, picture, text

SIZE: Final = 340.0
_CENTRE: Final = SIZE / 2
_RING: Final = 62.0


def draw_placing(setting: Setting, *, studs: int, title: str) -> str:
    """Return the SVG: the hub's studs, the rotor's mark where it is to stand (it was at stud 1), the plate's taper."""
    drawn: list[Element] = [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=152, class_="ring-face"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=78, class_="ring-bore"),
        *draw_setting(setting, centre=_CENTRE),
    ]
    for stud in range(1, studs + 1):
        x, y = on_circle(stud_deg(stud, studs), _RING, centre=_CENTRE)
        drawn += [
            element("circle", cx=x, cy=y, r=14 if studs <= 8 else 11, class_="stud"),
            text(str(stud), x, y, class_="stud-label"),
        ]
    return picture(SIZE, SIZE, drawn, title=title, class_="rose placing")
