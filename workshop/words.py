"""What a person reads when a typed number cannot be used: codes of the core into words, with what to do."""

import math
import re
from typing import Final

from django.utils.formats import number_format
from django.utils.translation import gettext as _

from compass.ground.errors import UnreadableNumberError
from compass.ground.translation import written
from compass.ground.units import KM_PER_MILE, NM_PER_LBFT, Unit, parse_length
from compass.words.figures import plain_text


def unreadable(error: UnreadableNumberError) -> str:
    """Say what is wrong with a typed text and what to do."""
    text = error.text
    match error.code:
        case "empty":
            return _("Nothing typed yet.")
        case "letters":
            return _("“%(text)s” is not a number. Type figures, such as 0.05 or 5.5.") % {"text": text}
        case "two_points":
            return _("“%(text)s” has two decimal signs. Keep one.") % {"text": text}
        case "mixed_points":
            return _("“%(text)s” has a comma and a point. Use one decimal sign, no thousands sign.") % {"text": text}
        case "no_digits":
            return _("“%(text)s” has no figures yet.") % {"text": text}
        case "unknown_unit":
            unit = error.details.get("unit", "")
            return _("“%(text)s”: “%(unit)s” is no unit. Type figures; mm, thou, in, µm or div may follow.") % {
                "text": text,
                "unit": unit,
            }
        case "unknown_rest":
            named = {"text": text, "rest": error.details.get("rest", ""), "read": plain_number(error.details["read"])}
            return (
                _("“%(text)s” was read as %(read)s, but “%(rest)s” means nothing here. Type the figure alone.") % named
            )
        case "thousands":
            both = {key: plain_number(error.details[key]) for key in ("whole", "part")}
            return _("“%(text)s” may be %(whole)s or %(part)s. Type it without a thousands sign.") % {
                "text": text,
                **both,
            }
        case "no_divisions":
            return _("Divisions mean nothing in this field. Type mm or thou.")
        case "negative":
            return _("“%(text)s” is below zero. This is a size, so leave out the sign.") % {"text": text}
        case "zero":
            return _("“%(text)s” is nothing. Type a length of more than 0.") % {"text": text}
        case "too_large":
            named = {"read": error.details["mm"], "most": error.details["most_mm"]}
            return _("“%(text)s” was read as %(read)s mm; at most %(most)s mm is possible here. Check the unit.") % {
                "text": text,
                **{key: plain_text(float(str(mm))).figure for key, mm in named.items()},
            }
        case _:
            return _("“%(text)s” cannot be read as a length.") % {"text": text}


def plain_number(number: object) -> str:
    """Write a number without idle decimals."""
    return written(f"{float(str(number)):.10g}")


def distance_text(km: float, unit: Unit) -> str:
    """Say a distance in km, or in miles where lengths are in thou."""
    if unit is Unit.THOU:
        return _("%(figure)s mi") % {"figure": number_format(round(km / KM_PER_MILE), force_grouping=True)}
    return _("%(figure)s km") % {"figure": number_format(round(km), force_grouping=True)}


def torque_text(torque_nm: float, unit: Unit) -> str:
    """Say a torque in N·m, or in lb·ft where lengths are in thou."""
    return f"{torque_nm / NM_PER_LBFT:.0f} lb·ft" if unit is Unit.THOU else f"{torque_nm:.0f} N·m"


def speed_in(kmh: float, unit: Unit) -> tuple[float, str]:
    """Return a speed and its unit as its reader counts: mph where lengths are in thou."""
    return (kmh / KM_PER_MILE, _("mph")) if unit is Unit.THOU else (kmh, _("km/h"))


def about_km(km: float, unit: Unit) -> float:
    """Return an estimated distance (km) with no more than two figures of it, as its reader counts."""
    if math.isinf(km) or km <= 0:
        return km
    per_unit = KM_PER_MILE if unit is Unit.THOU else 1.0
    step = 10.0 ** (math.floor(math.log10(km / per_unit)) - 1) * per_unit
    return round(km / step) * step


def feed_text(text: str, unit: Unit) -> str:
    """Say a lathe's feed, kept as it was typed, as its reader counts; what is no length stays as it is."""
    figure, name, rest = _FEED.fullmatch(text.strip()).groups() if _FEED.fullmatch(text.strip()) else ("", "", "")
    if not figure:
        return text
    mm = parse_length(f"{figure} {name or 'mm'}", unit=Unit.MM).mm
    shown = plain_text(mm, unit=unit)
    each = (rest or "").strip()
    return f"{shown.figure} {shown.unit} " + (_("a turn") if each in ("", "a turn") else each)


_FEED: Final = re.compile(r"(\d+(?:[.,]\d+)?)\s*(mm|thou|in)?(\s.*)?", re.IGNORECASE)
