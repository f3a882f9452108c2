"""Where on the hub: studs and the places between them, in words."""

from collections.abc import Callable
from typing import Final

from compass.ground.angles import nearest_stud
from compass.ground.translation import _N, gettext_noop

STUD_PLACE: Final = _N("stud {stud}")


AT_STUD: Final = _N("at stud {stud}")


BETWEEN_STUDS: Final = _N("between studs {first} and {second}")


_AT_STUD: Final = 0.12  # of the way to the next stud: nearer than that it stands at one


STUD_PLACE_OFF: Final = _N("stud {stud} {offset:+.0f}°")


def between_studs(angle_deg: float, studs: int, *, translate: Callable[[str], str] = gettext_noop) -> str:
    """Name a plate's place: at a stud, or between which two."""
    step = 360.0 / studs
    place = (angle_deg % 360.0) / step
    near = round(place)
    if abs(place - near) < _AT_STUD:
        return translate(AT_STUD).format(stud=near % studs + 1)
    low = int(place)
    return translate(BETWEEN_STUDS).format(first=low % studs + 1, second=(low + 1) % studs + 1)


def place_text(angle_deg: float, studs: int, *, translate: Callable[[str], str] = gettext_noop) -> str:
    """Name a hub angle by its nearest stud and the degrees past it."""
    place = nearest_stud(angle_deg, studs)
    template = STUD_PLACE if abs(place.offset_deg) < 0.5 else STUD_PLACE_OFF
    return translate(template).format(stud=place.stud, offset=place.offset_deg).replace("-", "−")
