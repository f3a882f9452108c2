"""What lies in the store, drawn: a plate's ring with its taper, a lathe's knob, the face of a dial, a thimble."""

import math
from typing import Final

from drawing.svg import Element, element, on_circle, path, picture, text

SIZE: Final = 120.0
_CENTRE: Final = SIZE / 2
_KNOB_LINES: Final = 40  # drawn round a knob; a real one may have more


def draw_plate(correction_mm: float, *, studs: int, positions: int, title: str) -> str:
    """Return a plate seen from outboard: thick at the top, thin below, its taper exaggerated; holes for the studs."""
    thin = min(6.0 + 60.0 * correction_mm, 16.0)  # how much narrower the ring is drawn where the plate is thin
    outer = [on_circle(angle, 54, centre=_CENTRE) for angle in range(0, 360, 5)]
    inner = [
        on_circle(angle, 26 + thin * (1 - math.cos(math.radians(angle))) / 2, centre=_CENTRE)
        for angle in range(0, 360, 5)
    ]
    ring = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in outer) + "Z"
    ring += "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in reversed(inner)) + "Z"
    drawn: list[Element] = [element("path", d=ring, class_="store-metal", fill_rule="evenodd")]
    for k in range(positions):
        x, y = on_circle(360.0 * k / positions, 46, centre=_CENTRE)
        drawn.append(
            element("circle", cx=x, cy=y, r=2.6 if k % max(positions // studs, 1) else 4.2, class_="store-hole")
        )
    drawn.append(
        path([(_CENTRE, SIZE - 4), (_CENTRE - 5, SIZE + 4), (_CENTRE + 5, SIZE + 4)], closed=True, class_="store-mark")
    )
    return picture(SIZE, SIZE + 6, drawn, title=title, class_="store-picture")


def draw_knob(mm_per_line: float | None, *, line: str, title: str) -> str:
    """Return a lathe's feed knob with its lines, one of them named ``line``; bare where it has none."""
    drawn: list[Element] = [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=52, class_="store-metal"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=30, class_="store-hole"),
    ]
    if mm_per_line is not None:
        for k in range(_KNOB_LINES):
            inner = 42 if k % 5 else 38
            ends = [on_circle(360.0 * k / _KNOB_LINES, radius, centre=_CENTRE) for radius in (inner, 50)]
            drawn.append(path(ends, class_="store-line"))
        gap = [on_circle(angle, 55, centre=_CENTRE) for angle in (0.0, 3.0, 6.0, 360.0 / _KNOB_LINES)]
        drawn.append(path(gap, class_="store-arc"))
        drawn.append(text(line, _CENTRE, _CENTRE, class_="store-word"))
    return picture(SIZE, SIZE, drawn, title=title, class_="store-picture")


def draw_face(*, balanced: bool, divisions: int, graduation: str, title: str) -> str:
    """Return a dial's face: numbered both ways from zero, or once round; a short line a tenth of a turn."""
    drawn: list[Element] = [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=55, class_="store-metal"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=49, class_="store-hole"),
    ]
    for k in range(50):
        inner = 39 if k % 5 == 0 else 44
        drawn.append(path([on_circle(7.2 * k, radius, centre=_CENTRE) for radius in (inner, 48)], class_="store-line"))
    for k in range(10):
        shown = divisions * k / 10
        number = min(shown, divisions - shown) if balanced else shown
        x, y = on_circle(36.0 * k, 32, centre=_CENTRE)
        drawn.append(text(f"{number:.0f}", x, y, class_="store-number"))
    drawn.append(path([on_circle(130, 12, centre=_CENTRE), on_circle(310, 40, centre=_CENTRE)], class_="store-needle"))
    drawn.append(text(graduation, _CENTRE, _CENTRE + 16, class_="store-word small"))
    return picture(SIZE, SIZE, drawn, title=title, class_="store-picture")


def draw_thimble(graduation: str, *, caliper: bool, title: str) -> str:
    """Return a micrometer's frame and thimble, or a plain caliper's jaws, with the graduation."""
    if caliper:
        body = "M14 22H106V34H52V74L44 84V34H34V84L26 74V34H14Z"
        drawn: list[Element] = [element("path", d=body, class_="store-metal")]
    else:
        frame = "M26 34H40C40 96 92 96 92 34H106V50H112V26H92V18H78V42C78 76 54 76 54 42V18H40V26H26Z"
        drawn = [element("path", d=frame, class_="store-metal")]
        drawn += [path([(96 + 4 * k, 26), (96 + 4 * k, 50)], class_="store-line") for k in range(4)]
    drawn.append(text(graduation, _CENTRE, 106, class_="store-word small"))
    return picture(SIZE, SIZE, drawn, title=title, class_="store-picture")
