"""The rose for paper: black on white, before and after beside each other on one scale, readable from a copier."""

from dataclasses import dataclass
from typing import Final

from compass.ground.angles import nearest_stud, stud_deg
from drawing.curves import Curve
from drawing.svg import Element, element, on_circle, path, picture, text

SIZE: Final = 220.0
_CENTRE: Final = SIZE / 2
_RIM, _ZERO, _REACH, _STUDS = 104.0, 78.0, 20.0, 30.0


@dataclass(frozen=True, slots=True)
class PaperRose:
    """A disc with its runout (None: not measured), drawn ``reach_mm`` to its full height."""

    studs: int
    curve: Curve | None
    reach_mm: float
    mark: bool = False  # chalk the stud next to the high spot


def draw_paper_rose(rose: PaperRose, *, title: str) -> str:
    """Return the SVG; the allowed band is the grey ring."""
    drawn: list[Element] = [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=_RIM, class_="paper-disc"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=46, class_="paper-hat"),
    ]
    curve = rose.curve
    if curve is not None and curve.values_mm.size:
        per_mm = _REACH / max(rose.reach_mm, 1e-6)
        width = max(curve.limit_mm * per_mm, 1.0)
        drawn.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=_ZERO, class_="paper-band", stroke_width=width))
        points = [
            on_circle(float(angle), _ZERO + float(value) * per_mm, centre=_CENTRE)
            for angle, value in zip(curve.angles_deg, curve.values_mm, strict=True)
        ]
        drawn.append(path(points, closed=True, class_="paper-runout"))
    else:
        drawn.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=_ZERO, class_="paper-unread"))
    marked = None
    if rose.mark and curve is not None and curve.mark_deg is not None:
        marked = nearest_stud(curve.mark_deg, rose.studs).stud
    for stud in range(1, rose.studs + 1):
        x, y = on_circle(stud_deg(stud, rose.studs), _STUDS, centre=_CENTRE)
        drawn.append(element("circle", cx=x, cy=y, r=9, class_="paper-stud" + (" chalked" if stud == marked else "")))
        drawn.append(text(str(stud), x, y + 3.6, class_="paper-number" + (" chalked" if stud == marked else "")))
    return picture(SIZE, SIZE, drawn, title=title, class_="paper-rose")
