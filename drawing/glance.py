"""The small rose: one corner's state at a glance, told by shape and pattern before colour."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from drawing.svg import Element, element, on_circle, path, picture

SIZE: Final = 48.0
_CENTRE: Final = SIZE / 2


@dataclass(frozen=True, slots=True)
class Glance:
    """What a small rose shows: runout and thickness state, high spot if known."""

    runout: str = "unknown"
    thickness: str = "unknown"
    high_deg: float | None = None
    stop: bool = False


@lru_cache(maxsize=4096)
def draw_mini(glance: Glance, *, title: str) -> str:
    """Return the SVG: outer ring runout, inner ring thickness, needle to the high spot when runout matters."""
    drawn: list[Element] = [
        element("circle", cx=_CENTRE, cy=_CENTRE, r=20, class_=f"mini-ring {glance.runout}"),
        element("circle", cx=_CENTRE, cy=_CENTRE, r=11, class_=f"mini-core {glance.thickness}"),
    ]
    if glance.high_deg is not None and glance.runout in ("over", "too_close"):
        tip = on_circle(glance.high_deg, 22, centre=_CENTRE)
        drawn.append(path([(_CENTRE, _CENTRE), tip], class_="mini-needle"))
    if glance.stop:
        drawn.append(element("path", d="M10 10L38 38M38 10L10 38", class_="mini-stop"))
    return picture(SIZE, SIZE, drawn, title=title, class_="mini")
