"""The bench: a corner face-on with its nuts, the tip on it, and the dial that shows what the tip follows."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from compass.evidence.records import Spec
from compass.ground.angles import stud_deg
from drawing.svg import Element, Point, element, group, number, on_circle, path, picture, text, upright

WIDTH: Final = 800.0
HEIGHT: Final = 640.0
_CENTRE: Final = 270.0
_DOWN: Final = 88.0  # of the wheel's own square, within the picture
_RIM: Final = 232.0
_HUB_RING: Final = 84.0
_STUD_RING: Final = 74.0
_DIAL: Final = 150.0  # radius of the face
_DIAL_AT: Final = (640.0, 178.0)
_DIVISIONS: Final = 100
_ACROSS: Final = (-20.0, -10.0, 0.0, 10.0, 20.0)  # a patch as wide as a pad, degrees


@dataclass(frozen=True, slots=True)
class BenchCorner:
    """What one sees of a corner. ``clamp`` is each nut's share of the torque, None where a nut is as somebody left it.

    ``chalk_deg`` and ``slots_deg`` are rotor angles, ``index_deg`` how far the rotor is turned on its studs.
    """

    spec: Spec
    on: str
    radius_mm: float
    index_deg: float
    clamp: Sequence[float | None]
    at_deg: float
    chalk_deg: float | None = None
    slots_deg: Sequence[float] = ()
    cleaned: bool = False
    patch_deg: float | None = None
    patch: str = ""  # what shows there: a class of the picture


def draw_bench(corner: BenchCorner, *, title: str, unit: str) -> str:
    """Return the SVG. A script turns the group ``wheel`` and the hands; the server draws all the rest."""
    edge_mm = max(corner.spec.swept_outer_radius_mm or 0.0, corner.spec.measuring_radius_mm * 1.06) + 3.0
    scale = _RIM / edge_mm
    wheel: list[Element] = []
    if corner.on != "bare":
        wheel += _rotor(corner, scale)
    if corner.on != "arbor":
        wheel += _hub(corner)
    turned = f"rotate({-corner.at_deg:.2f} {number(_CENTRE)} {number(_CENTRE)})"
    drawn = [
        group(
            [group(wheel, class_="wheel", transform=turned), *_tip(corner, scale)],
            transform=f"translate(0 {number(_DOWN)})",
        ),
        *_dial(unit),
    ]
    return picture(
        WIDTH,
        HEIGHT,
        drawn,
        title=title,
        class_="rose bench",
        data_centre=_CENTRE,
        data_dial_x=_DIAL_AT[0],
        data_dial_y=_DIAL_AT[1],
    )


def _rotor(corner: BenchCorner, scale: float) -> list[Element]:
    spec = corner.spec
    outer = (spec.swept_outer_radius_mm or spec.measuring_radius_mm * 1.06) * scale
    inner = (spec.swept_inner_radius_mm or spec.measuring_radius_mm * 0.66) * scale
    circles: list[tuple[float, str]] = [(_RIM, "ring-out"), (outer, "ring-face"), (inner, "ring-hat")]
    drawn = [element("circle", cx=_CENTRE, cy=_CENTRE, r=r, class_=name) for r, name in circles]
    drawn += [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=inner + (outer - inner) * k / 12, class_="turned")
        for k in range(1, 12)
    ]
    for angle in corner.slots_deg:
        ends = [
            on_circle(angle + corner.index_deg + off, r, centre=_CENTRE) for off, r in ((-5, inner + 8), (5, outer - 6))
        ]
        drawn.append(path(ends, class_="slot"))
    if corner.patch_deg is not None:
        at = corner.patch_deg + corner.index_deg
        sides = [(at + off, r) for r, offs in ((inner + 10, _ACROSS), (outer - 8, _ACROSS[::-1])) for off in offs]
        drawn.append(
            path([on_circle(a, r, centre=_CENTRE) for a, r in sides], closed=True, class_=f"seen {corner.patch}")
        )
    mark = [on_circle(corner.index_deg, r, centre=_CENTRE) for r in (inner - 16, inner - 3)]
    drawn.append(path(mark, class_="match-mark"))
    if corner.chalk_deg is not None:
        at = corner.chalk_deg + corner.index_deg
        drawn.append(path([on_circle(at, r, centre=_CENTRE) for r in (outer - 30, outer + 2)], class_="chalk-mark"))
    return drawn


def _hub(corner: BenchCorner) -> list[Element]:
    bare = corner.on == "bare"
    face = "hub-clean" if corner.cleaned else "hub-rusty"
    drawn = [element("circle", cx=_CENTRE, cy=_CENTRE, r=_HUB_RING + 18, class_=f"ring-hub {face}")] if bare else []
    drawn.append(element("circle", cx=_CENTRE, cy=_CENTRE, r=38, class_="ring-bore"))
    for stud in range(1, corner.spec.studs + 1):
        place = on_circle(stud_deg(stud, corner.spec.studs), _STUD_RING, centre=_CENTRE)
        share = corner.clamp[stud - 1] if not bare else 0.0
        stage = "as-found" if share is None else "off" if share <= 0 else "full" if share >= 0.9 else "part"
        drawn.append(_nut(place, stage, stud) if stage != "off" else _stud(place, stud))
        drawn.append(upright(str(stud), place, corner.at_deg, class_=f"upright stud-label nut-{stage}"))
    return drawn


def _nut(place: Point, stage: str, stud: int) -> Element:
    x, y = place
    corners = [on_circle(60.0 * k + 30, 18, centre=0.0) for k in range(6)]
    return path([(x + dx, y + dy) for dx, dy in corners], closed=True, class_=f"nut {stage}", data_stud=str(stud))


def _stud(place: Point, stud: int) -> Element:
    return element("circle", cx=place[0], cy=place[1], r=12, class_="stud", data_stud=str(stud))


def _tip(corner: BenchCorner, scale: float) -> list[Element]:
    """Draw the indicator's arm from above; its tip stands at its radius, at the top."""
    radius = 62.0 if corner.on == "bare" else corner.radius_mm * scale
    y = _CENTRE - radius
    return [
        path([(_CENTRE, -_DOWN), (_CENTRE, y)], class_="arm"),
        element("circle", cx=_CENTRE, cy=y, r=7, class_="tip"),
        path([(_CENTRE + 9, y - 4), (_DIAL_AT[0] - _DIAL + 8, _DIAL_AT[1] - _DOWN - 60)], class_="cable"),
    ]


def _dial(unit: str) -> list[Element]:
    x, y = _DIAL_AT
    drawn = [
        element("circle", cx=x, cy=y, r=_DIAL + 14, class_="dial-case"),
        element("circle", cx=x, cy=y, r=_DIAL, class_="dial-face"),
    ]
    for k in range(_DIVISIONS):
        angle = 360.0 * k / _DIVISIONS
        long = 20 if k % 10 == 0 else 13 if k % 5 == 0 else 8
        ends = [_about(angle, r) for r in (_DIAL - 6, _DIAL - 6 - long)]
        drawn.append(path(ends, class_="dial-tick long" if k % 10 == 0 else "dial-tick"))
    for k in range(0, _DIVISIONS, 10):
        drawn.append(text(str(min(k, _DIVISIONS - k)), *_about(3.6 * k, _DIAL - 42), class_="dial-number"))
    drawn.append(text(unit, x, y - 44, class_="dial-unit"))
    small = (x, y + 58)
    drawn += [
        element("circle", cx=small[0], cy=small[1], r=27, class_="dial-small"),
        group(
            [path([small, (small[0], small[1] - 22)], class_="dial-small-hand")],
            class_="small-hand",
            data_x=number(small[0]),
            data_y=number(small[1]),
        ),
        group([path([(x, y + 26), (x, y - _DIAL + 22)], class_="dial-needle")], class_="hand"),
        element("circle", cx=x, cy=y, r=9, class_="dial-pivot"),
    ]
    return drawn


def _about(angle_deg: float, radius: float) -> Point:
    x, y = on_circle(angle_deg, radius, centre=0.0)
    return _DIAL_AT[0] + x, _DIAL_AT[1] + y
