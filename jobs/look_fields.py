"""What is typed beside the disc (play, pads, drum, lips, edge): fields as a table, texts into millimetres."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from django.utils.translation import gettext_lazy as _

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit, parse_length

MOST_PLACES: Final = 8  # readings in one field


@dataclass(frozen=True)
class LookField:
    """One field: its name, label, what it may hold (mm), whether several readings, and whether it is large."""

    name: str
    label: str
    most_mm: float
    several: bool = False
    large: bool = False
    feature: str = ""  # shown only where the rotor has it


FIELDS: Final = (
    LookField("bearing_play", _("Bearing end play"), 5.0),
    LookField("pad_inner", _("Pad, inner"), 30.0, several=True, large=True),
    LookField("pad_outer", _("Pad, outer"), 30.0, several=True, large=True),
    LookField("edge", _("Unswept edge"), 100.0, large=True),
    LookField("lip_outboard", _("Lip outboard"), 10.0, large=True),
    LookField("lip_inboard", _("Lip inboard"), 10.0, large=True),
    LookField("pad_new", _("New pads, if put in"), 30.0, several=True, large=True),
    LookField("drum_diameter", _("Drum in the hat, diameter"), 500.0, several=True, large=True, feature="drum_in_hat"),
    LookField("linings", _("Shoe linings"), 20.0, several=True, large=True, feature="drum_in_hat"),
    LookField("lining_new", _("New shoe linings"), 20.0, several=True, large=True, feature="drum_in_hat"),
)
# Which of them say how thick a lining is, by the code of one that is worn; the last is what is put in new.
LININGS: Final = {"pads_worn": ("pad_inner", "pad_outer", "pad_new"), "linings_worn": ("linings", "lining_new")}
_BY_NAME: Final = {field.name: field for field in FIELDS}
_PARTS: Final = re.compile(r"[+-]?[\d.,]+\s*(?:[^\s\d/;.,+-]+)?")


@dataclass(frozen=True)
class Looked:
    """What a look says in millimetres, field by field, and which texts cannot be read."""

    mm: dict[str, tuple[float, ...]]
    errors: dict[str, UnreadableNumberError]

    def one(self, name: str) -> float | None:
        """Return the first reading of a field."""
        values = self.mm.get(name, ())
        return values[0] if values else None


def read_look(typed: Mapping[str, str], unit: Unit) -> Looked:
    """Read every field; a text that cannot be read is an error beside its field and takes no part."""
    mm: dict[str, tuple[float, ...]] = {}
    errors: dict[str, UnreadableNumberError] = {}
    for name, text in typed.items():
        field = _BY_NAME.get(name)
        if field is None or not text.strip():
            continue
        try:
            mm[name] = tuple(_read(part, field, unit) for part in _parts(text, field))
        except UnreadableNumberError as error:
            errors[name] = error
    return Looked(mm, errors)


def read_figure(name: str, text: str, unit: Unit) -> float:
    """Return one reading of a field in millimetres; ``UnreadableNumberError`` where it is none."""
    return _read(text, _BY_NAME[name], unit)


def with_unit(name: str, text: str, unit: Unit, *, stands_in: Unit) -> str:
    """Write the unit behind the bare numbers of a text that somebody typed who reads in another unit than the look.

    A text that cannot be read stays as it is.
    """
    field = _BY_NAME[name]
    own = unit_of_field(field, unit)
    if own is unit_of_field(field, stands_in):
        return text
    try:
        parts = _parts(text, field)
        typed = [parse_length(part, unit=own, most_mm=field.most_mm, signed=False) for part in parts]
    except UnreadableNumberError:
        return text
    return " ".join(t.text if t.unit_was_typed else f"{part} {own.value}" for t, part in zip(typed, parts, strict=True))


def unit_of_field(field: LookField, unit: Unit) -> Unit:
    """Return what a bare number in this field counts: large sizes are in inches where small ones are in thou."""
    return Unit.INCH if field.large and unit is not Unit.MM else unit


def _parts(text: str, field: LookField) -> list[str]:
    if not field.several:
        return [text]
    parts = _PARTS.findall(text)
    if "".join(parts).replace(" ", "") != re.sub(r"[\s/;]", "", text):
        raise UnreadableNumberError("letters", text.strip()[:40])
    return [part.strip() for part in parts][:MOST_PLACES]


def _read(text: str, field: LookField, unit: Unit) -> float:
    return parse_length(text, unit=unit_of_field(field, unit), most_mm=field.most_mm, signed=False).mm
