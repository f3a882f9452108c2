"""Lengths as people type them, and as the core wants them: millimetres.

Ground floor: imports nothing of the core but its errors.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from types import MappingProxyType
from typing import Final

from compass.ground.errors import UnreadableNumberError

MM_PER_INCH: Final = 25.4  # mm, exact by definition of the international inch
MM_PER_THOU: Final = MM_PER_INCH / 1000  # mm
NM_PER_LBFT: Final = 1.3558179483314004  # N·m, from the international foot and standard gravity
KM_PER_MILE: Final = 1.609344  # km, exact by definition of the international mile
MAX_TEXT: Final = 40  # characters; no reading is longer


class Unit(StrEnum):
    """What a typed number counts."""

    MM = "mm"
    THOU = "thou"
    DIVISION = "div"
    INCH = "in"
    MICROMETRE = "um"


_MM_PER_UNIT: Final = {
    Unit.MM: 1.0,
    Unit.THOU: MM_PER_THOU,
    Unit.INCH: MM_PER_INCH,
    Unit.MICROMETRE: 0.001,
}
_SPELLINGS: Final = {
    "mm": Unit.MM,
    "thou": Unit.THOU,
    "mil": Unit.THOU,
    "mils": Unit.THOU,
    "th": Unit.THOU,
    "in": Unit.INCH,
    "inch": Unit.INCH,
    '"': Unit.INCH,
    "um": Unit.MICROMETRE,
    "µm": Unit.MICROMETRE,
    "μm": Unit.MICROMETRE,
    "div": Unit.DIVISION,
    "divs": Unit.DIVISION,
    "d": Unit.DIVISION,
}
_ALIKE: Final = {"−": "-", "–": "-", "\u00a0": " ", "\u202f": " ", "\u2009": " "}
_VULGAR: Final = {"½": ".5", "¼": ".25", "¾": ".75"}
# Thousands: groups of three with one and the same sign between them, before a decimal sign that is another.
_GROUPED: Final = re.compile(r"^[+-]?\s*([1-9]\d{0,2}(?:([ .,'’])\d{3})(?:\2\d{3})*)(?:(?!\2)[.,]\d+)?(?![\d.,])")
_SPLIT: Final = re.compile(r"^([+-]?)\s*([0-9.,]*)\s*(.*)$")


@dataclass(frozen=True, slots=True)
class Typed:
    """A length as typed beside its millimetres. ``unit`` is the one typed, or the one the field stood in."""

    text: str
    number: float
    unit: Unit
    mm: float
    unit_was_typed: bool


def mm_per_unit(unit: Unit, *, division_mm: float | None = None) -> float:
    """Return how many millimetres one ``unit`` is; a division needs the dial's ``division_mm``."""
    if unit is Unit.DIVISION:
        if division_mm is None:
            raise UnreadableNumberError("no_divisions", "")
        return division_mm
    return _MM_PER_UNIT[unit]


def from_mm(length_mm: float, unit: Unit, *, division_mm: float | None = None) -> float:
    """Convert ``length_mm`` into ``unit``."""
    return length_mm / mm_per_unit(unit, division_mm=division_mm)


def parse_length(
    text: str,
    *,
    unit: Unit,
    division_mm: float | None = None,
    most_mm: float | None = None,
    signed: bool = True,
) -> Typed:
    """Read a length as a person types it.

    A comma or a point is the decimal sign (never a thousands sign), ``½ ¼ ¾`` end a number, and a unit
    behind the number wins over ``unit``. ``most_mm`` is the largest magnitude the instrument can show.
    Raises ``UnreadableNumberError``.
    """
    number, suffix, shown = _number_and_rest(text)
    typed_unit = _SPELLINGS.get(suffix.lower()) if suffix else None
    if suffix and typed_unit is None:
        raise UnreadableNumberError("unknown_unit", shown, unit=suffix)
    chosen = typed_unit or unit
    if chosen is Unit.DIVISION and division_mm is None:
        raise UnreadableNumberError("no_divisions", shown)
    mm = number * mm_per_unit(chosen, division_mm=division_mm)
    if number < 0 and not signed:
        raise UnreadableNumberError("negative", shown)
    if most_mm is not None and abs(mm) > most_mm:
        raise UnreadableNumberError("too_large", shown, most_mm=most_mm, mm=mm)
    return Typed(text=shown, number=number, unit=chosen, mm=mm + 0.0, unit_was_typed=typed_unit is not None)


def parse_number(
    text: str,
    *,
    scale: float = 1.0,
    scales: Mapping[str, float] = MappingProxyType({}),
    whole: bool = False,
    decimal_sign: str = ".",
) -> float:
    """Read a plain number as a person types it, times ``scale``.

    One of ``scales`` (a unit in small letters) may stand behind it: then its own counts. The same comma, point, sign
    and ``½`` as a length, and thousands in groups. One sign before three figures parts thousands where ``whole`` ones
    are counted, and decimals where it is the reader's ``decimal_sign``; else it may be either. Raises
    ``UnreadableNumberError``.
    """
    number, suffix, shown = _number_and_rest(_without_thousands(text, whole=whole, decimal_sign=decimal_sign))
    unit = suffix.lower().rstrip(".")
    if unit and unit not in scales:
        raise UnreadableNumberError("unknown_rest", shown, rest=suffix, read=number)
    return number * scales.get(unit, scale)


def _without_thousands(text: str, *, whole: bool, decimal_sign: str) -> str:
    """Return a number as typed without the signs between its thousands; refuse what may be a decimal sign as well."""
    plain = _plain(text.strip())
    grouped = _GROUPED.match(plain)
    if grouped is None:
        return text
    digits, sign = grouped.groups()
    ungrouped = digits.replace(sign, "")
    if sign in ".," and digits.count(sign) == 1 and grouped.end() == grouped.end(1) and not whole:
        if sign == decimal_sign:
            return text
        decimal = digits.replace(sign, ".").rstrip("0").rstrip(".")
        raise UnreadableNumberError("thousands", text.strip(), whole=float(ungrouped), part=float(decimal))
    return plain.replace(digits, ungrouped, 1)


def _plain(text: str) -> str:
    """Return a text with one minus, and one space, for all that look alike."""
    for alike, sign in _ALIKE.items():
        text = text.replace(alike, sign)
    return text


def _number_and_rest(text: str) -> tuple[float, str, str]:
    """Return the number a text begins with, what follows it, and the text as it is shown in a refusal."""
    shown = text.strip()
    if not shown:
        raise UnreadableNumberError("empty", text)
    if len(shown) > MAX_TEXT:
        raise UnreadableNumberError("letters", shown[:MAX_TEXT])
    sign, digits, suffix = _take_apart(shown)
    if suffix and not digits:
        raise UnreadableNumberError("letters", shown)  # "1.2x" is a slip of the finger, "x" is no number
    if digits.count(".") and digits.count(","):
        raise UnreadableNumberError("mixed_points", shown)
    if digits.count(".") + digits.count(",") > 1:
        raise UnreadableNumberError("two_points", shown)
    if not digits.strip(".,"):
        raise UnreadableNumberError("no_digits", shown)
    return float(digits.replace(",", ".")) * (-1.0 if sign == "-" else 1.0), suffix, shown


def _take_apart(shown: str) -> tuple[str, str, str]:
    """Split a text into sign, digits and what follows them."""
    plain = _plain(shown)
    for vulgar, decimal in _VULGAR.items():
        if vulgar in plain:
            head, _, tail = plain.partition(vulgar)
            plain = head.strip() + decimal + tail
    match = _SPLIT.match(plain)
    if match is None:  # a line break inside
        raise UnreadableNumberError("letters", shown)
    sign, digits, suffix = match.groups()
    return sign, digits, suffix.strip()
