"""Figures as text: how many decimals a length deserves, in the system asked for. No words but the unit's."""

from dataclasses import dataclass
from typing import Final

from compass.ground.translation import _N, tongue, written
from compass.ground.units import Unit, from_mm

ODDS: Final = _N("{n} in {of}")
INCHES_FROM_MM: Final = 2.54  # 100 thou: radii and thicknesses are told in inches, runouts in thou


@dataclass(frozen=True, slots=True)
class LengthText:
    """A length as shown: figure, ± figure or None, unit."""

    figure: str
    plus_minus: str | None
    unit: str


def shown_unit(length_mm: float, unit: Unit) -> Unit:
    """Return the unit a length is told in: mm, or thou and inches by size where ``unit`` is thou."""
    if unit is Unit.MM:
        return Unit.MM
    return Unit.INCH if abs(length_mm) >= INCHES_FROM_MM else Unit.THOU


def length_text(length_mm: float, *, unit: Unit = Unit.MM, expanded_mm: float | None = None) -> LengthText:
    """Say a measured length with its ±, to no more decimals than U supports."""
    shown = shown_unit(length_mm, unit)
    places = _measured_decimals(shown, expanded_mm)
    figure = f"{from_mm(length_mm, shown):.{places}f}"
    if float(figure) == 0:
        figure = figure.lstrip("-")
    plus_minus = None if expanded_mm is None else f"{from_mm(expanded_mm, shown):.{places}f}"
    return LengthText(
        figure=written(figure), plus_minus=None if plus_minus is None else written(plus_minus), unit=shown.value
    )


def plain_text(length_mm: float, *, unit: Unit = Unit.MM) -> LengthText:
    """Say a limit, a graduation or a radius: a few decimals, more only where they are not zeros."""
    shown = shown_unit(length_mm, unit)
    return LengthText(figure=plain_figure(length_mm, shown), plus_minus=None, unit=shown.value)


def plain_figure(length_mm: float, shown: Unit) -> str:
    """Write a length in exactly the unit ``shown``; whole millimetres of a radius stay whole."""
    number = from_mm(length_mm, shown)
    if shown is Unit.MM and length_mm >= 40 and abs(length_mm - round(length_mm)) < 1e-9:
        return f"{length_mm:.0f}"
    least, most = {Unit.MM: (2, 4), Unit.INCH: (3, 4)}.get(shown, (1, 1 if abs(number) >= 1 else 2))
    whole, _, decimals = f"{number:.{most}f}".partition(".")
    decimals = decimals[:least] + decimals[least:].rstrip("0")
    return written(f"{whole}.{decimals}")


def _measured_decimals(shown: Unit, expanded_mm: float | None) -> int:
    if shown is Unit.MM:
        return 3 if expanded_mm is None or expanded_mm < 0.0095 else 2
    if shown is Unit.INCH:
        return 4 if expanded_mm is None or expanded_mm < 0.025 else 3
    return 1 if expanded_mm is None or expanded_mm >= 0.0025 else 2


def odds_text(probability: float) -> str:
    """Say a probability as odds out of twenty, or out of a hundred near certainty: never a false precision."""
    if 0.05 <= probability <= 0.95:
        came, of = round(probability * 20), 20
    else:
        came, of = min(max(round(probability * 100), 1), 99), 100
    return tongue().translate(ODDS).format(n=came, of=of)


def twentieths_text(count: int) -> str:
    """Say so many in twenty: a place on a scale, not odds."""
    return tongue().translate(ODDS).format(n=count, of=20)
