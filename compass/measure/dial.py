"""The dial's face: what a technician reads off it, and what the plunger moved.

A continuous dial of n divisions wraps (97 then 2 is +5); a balanced one reads both ways from zero. A wrapped turn is
unwrapped by the smallest step, and it is said that it was done; turns counted on the small hand, and units typed
behind the figure, always win.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from compass.ground.arrays import require_positive
from compass.ground.errors import EvidenceError, UnreadableNumberError
from compass.ground.units import Typed, Unit, parse_length

_TURNS: Final = re.compile(r"^\s*([+-]?)\s*(\d{1,2})\s*t\s*([0-9.,½¼¾]*)\s*$", re.IGNORECASE)
_FAR_STEPS: Final = 0.5  # of a turn: a smaller step than half a turn of the hand is the likelier one
_FAR_OUT: Final = 8.0  # times the largest of its fellows: a slip of the unit is a factor of ten or more
_USUAL_LIMITS: Final = 5.0  # times the limit: the largest reading to expect before there are fellows


class Face(StrEnum):
    """How the dial is numbered."""

    CONTINUOUS = "continuous"
    BALANCED = "balanced"


@dataclass(frozen=True, slots=True)
class Dial:
    """A dial: mm a division, how it is numbered, divisions a turn of the large hand, error limit in mm."""

    graduation_mm: float
    face: Face = Face.BALANCED
    divisions: int = 100
    error_mm: float = 0.0

    def __post_init__(self) -> None:
        require_positive(self.graduation_mm, field="graduation_mm")
        if self.divisions < 2:
            raise EvidenceError("divisions", "at least 2 a turn")

    @property
    def turn_mm(self) -> float:
        """What one turn of the large hand measures."""
        return self.graduation_mm * self.divisions


@dataclass(frozen=True, slots=True)
class DialReading:
    """One reading: mm as it stands on the dial, None where not read; ``certain`` where the turn was told."""

    mm: float | None
    certain: bool = False


@dataclass(frozen=True, slots=True)
class Unwrapped:
    """What the plunger moved, mm a slot (None where not read), and the slots that were brought round."""

    readings_mm: tuple[float | None, ...]
    unwrapped: tuple[int, ...]


def unwrap(readings: Sequence[DialReading], *, dial: Dial) -> Unwrapped:
    """Unwrap a turn's readings by the smallest step from the reading before; a balanced dial needs none."""
    if dial.face is Face.BALANCED:
        return Unwrapped(tuple(r.mm for r in readings), ())
    moved: list[float | None] = []
    brought: list[int] = []
    last: float | None = None
    for slot, reading in enumerate(readings):
        mm = reading.mm
        if mm is not None and not reading.certain and last is not None:
            turns = math.floor((last - mm) / dial.turn_mm + _FAR_STEPS)
            if turns:
                mm += turns * dial.turn_mm
                brought.append(slot)
        moved.append(mm)
        last = mm if mm is not None else last
    return Unwrapped(tuple(moved), tuple(brought))


def read_dial(text: str, *, dial: Dial, unit: Unit, most_mm: float, signed: bool = True) -> tuple[Typed, bool]:
    """Read a typed reading and tell whether its turn is certain.

    ``1t 5`` is one turn of the small hand and 5 divisions; a unit typed behind the figure always wins. Both need no
    unwrapping. Raises ``UnreadableNumberError``.
    """
    match = _TURNS.match(text)
    if match is None:
        typed = parse_length(text, unit=unit, division_mm=dial.graduation_mm, most_mm=most_mm, signed=signed)
        return typed, typed.unit_was_typed
    if unit is not Unit.DIVISION:
        raise UnreadableNumberError("no_divisions", text.strip())
    sign, turns, rest = match.groups()
    part = parse_length(rest or "0", unit=unit, division_mm=dial.graduation_mm, most_mm=dial.turn_mm, signed=False)
    mm = (-1.0 if sign == "-" else 1.0) * (int(turns) * dial.turn_mm + part.mm)
    if abs(mm) > most_mm:
        raise UnreadableNumberError("too_large", text.strip(), most_mm=most_mm, mm=mm)
    return Typed(text=text.strip(), number=mm / dial.graduation_mm, unit=unit, mm=mm + 0.0, unit_was_typed=True), True


class Doubt(StrEnum):
    """Why a reading looks like the wrong unit or the wrong dial."""

    FINER_THAN_READ = "finer_than_read"  # 0.05 of a division: nobody reads that; mm, perhaps
    BEYOND_FACE = "beyond_face"  # more divisions than the face has
    LARGE = "large"  # an order of magnitude over its fellows


def doubt_of(
    mm: float, others_mm: Sequence[float], *, dial: Dial, read_to: float, in_divisions: bool, limit_mm: float
) -> Doubt | None:
    """Say what makes a reading just typed look like a wrong unit or dial, or None.

    ``others_mm`` are the other readings of the turn, ``limit_mm`` the runout limit: what is far under or over any
    runout a disc has stands out even as the first reading.
    """
    if 0 < abs(mm) < read_to * dial.graduation_mm * 0.99:
        return Doubt.FINER_THAN_READ
    if in_divisions and abs(mm) > dial.turn_mm:
        return Doubt.BEYOND_FACE
    sizes = [abs(z) for z in others_mm if z]
    usual_mm = max(sizes) if len(sizes) >= 3 else _USUAL_LIMITS * limit_mm
    return Doubt.LARGE if abs(mm) > max(_FAR_OUT * usual_mm, limit_mm) else None
