"""A vehicle in plan, front at the top: the outline its wheels and its cabin stand on."""

from collections.abc import Collection, Sequence
from typing import Final

from drawing.svg import Element, element, path, picture

WIDTH: Final = 200.0
HEIGHT: Final = 460.0
_TWIN: Final = 29.0  # from the middle of one wheel to that of the other beside it
_BODY: Final = "vehicle-body"
_LINE: Final = "vehicle-line"


def draw_vehicle(kind: str, *, title: str) -> str:
    """Return the SVG of a kind of vehicle; one that is not known is drawn as a car."""
    return picture(WIDTH, HEIGHT, _drawn(kind), title=title, class_="vehicle")


def draw_wheels(
    kind: str, positions: Sequence[str], *, at: Collection[str], title: str, twins: Collection[str] = ()
) -> str:
    """Return the SVG of a vehicle with its wheels, two side by side at ``twins``; those it is ``at`` stand out."""
    margin = 24.0
    drawn = [element("g", *_drawn(kind), transform=f"translate({margin} 0)")]
    for position in positions:
        x, y = _wheel(kind, position)
        here = " here" if position in at else ""
        inward = _TWIN if x < WIDTH / 2 else -_TWIN
        for beside in (0.0, inward) if position in twins else (0.0,):
            left = margin + x - 13 + beside
            drawn.append(element("rect", x=left, y=y - 34, width=26, height=68, rx=5, class_=f"vehicle-wheel{here}"))
    return picture(WIDTH + 2 * margin, HEIGHT, drawn, title=title, class_="vehicle")


def _drawn(kind: str) -> list[Element]:
    draw = {"van": _van, "light_truck": _truck, "trailer": _trailer, "motorcycle": _motorcycle}.get(kind, _car)
    return draw()


def _wheel(kind: str, position: str) -> tuple[float, float]:
    """Return the middle of a wheel on the drawing."""
    axle, side = (position[:-1], position[-1]) if position[-1] in "LR" and len(position) > 1 else (position, "")
    rows = {"A1": 290.0, "A2": 362.0, "A3": 424.0} if kind == "trailer" else {"F": 84.0, "R": 372.0}
    y = rows.get(axle, 372.0)
    if kind == "motorcycle":
        return 100.0, 60.0 if axle == "F" else 394.0
    return {"L": 16.0, "R": 184.0}.get(side, 100.0), y


def _outline(d: str) -> Element:
    return element("path", d=d, class_=_BODY)


def _line(*points: tuple[float, float]) -> Element:
    return path(list(points), class_=_LINE)


def _car() -> list[Element]:
    left = "M100 6C60 6 40 16 36 46L32 120L30 330L34 420C38 446 60 454 100 454"
    body = left + "C140 454 162 446 166 420L170 330L168 120L164 46C160 16 140 6 100 6Z"
    return [
        _outline(body),
        _line((40, 150), (62, 118), (138, 118), (160, 150)),
        _line((40, 150), (52, 176), (148, 176), (160, 150)),
        _line((48, 330), (60, 372), (140, 372), (152, 330)),
        _line((48, 330), (152, 330)),
    ]


def _van() -> list[Element]:
    body = "M100 6C58 6 38 18 32 52L28 110L28 446L36 454L164 454L172 446L172 110L168 52C162 18 142 6 100 6Z"
    return [
        _outline(body),
        _line((36, 92), (58, 58), (142, 58), (164, 92)),
        _line((36, 92), (164, 92)),
        _line((28, 214), (172, 214)),
        _line((100, 214), (100, 454)),
    ]


def _truck() -> list[Element]:
    return [
        _outline("M100 8C62 8 44 18 38 46L34 152L166 152L162 46C156 18 138 8 100 8Z"),
        _line((42, 82), (60, 52), (140, 52), (158, 82)),
        _line((42, 82), (158, 82)),
        _line((74, 152), (74, 170)),
        _line((126, 152), (126, 170)),
        _outline("M24 170L176 170L176 454L24 454Z"),
        _line((24, 264), (176, 264)),
        _line((24, 358), (176, 358)),
    ]


def _trailer() -> list[Element]:
    return [
        _outline("M46 6L46 120C46 130 52 136 62 136L138 136C148 136 154 130 154 120L154 6"),  # what it hangs on
        _line((58, 112), (142, 112)),
        _line((100, 136), (100, 152)),
        element("circle", cx=100, cy=156, r=6, class_=_LINE),
        _line((100, 162), (56, 214)),
        _line((100, 162), (144, 214)),
        _outline("M30 214L170 214L170 454L30 454Z"),
        _line((30, 334), (170, 334)),
    ]


def _motorcycle() -> list[Element]:
    return [
        _outline("M92 10C88 40 88 96 92 112L108 112C112 96 112 40 108 10C104 4 96 4 92 10Z"),
        _line((40, 128), (76, 118), (124, 118), (160, 128)),
        _outline("M80 140C70 170 74 206 84 224L116 224C126 206 130 170 120 140C112 130 88 130 80 140Z"),
        _outline("M84 230C76 262 80 306 90 322L110 322C120 306 124 262 116 230Z"),
        _outline("M92 340C88 370 88 430 92 448C96 456 104 456 108 448C112 430 112 370 108 340Z"),
    ]
