"""Figures as text: how many decimals a length deserves, in the unit asked for. No words but the unit's."""

from dataclasses import dataclass

from compass.units import Unit, from_mm


@dataclass(frozen=True, slots=True)
class LengthText:
    """A length as shown: figure, ± figure or None, unit."""

    figure: str
    plus_minus: str | None
    unit: str


def decimals_for(unit: Unit, *, u_mm: float | None = None, fine: bool = True) -> int:
    """Return the decimals to show: no more than U supports, no fewer than the trade reads."""
    if unit is Unit.MM:
        return 3 if fine and (u_mm is None or u_mm < 0.0095) else 2
    return 1 if u_mm is None or u_mm >= 0.0025 else 2


def length_text(length_mm: float, *, unit: Unit = Unit.MM, u_mm: float | None = None, fine: bool = True) -> LengthText:
    """Say a length with its ±; ``fine`` allows a third decimal in millimetres."""
    shown = Unit.MM if unit is Unit.MM else Unit.THOU
    places = decimals_for(shown, u_mm=u_mm, fine=fine)
    plus_minus = None if u_mm is None else f"{from_mm(u_mm, shown):.{places}f}"
    figure = f"{from_mm(length_mm, shown):.{places}f}"
    if float(figure) == 0:
        figure = figure.lstrip("-")
    return LengthText(figure=figure, plus_minus=plus_minus, unit=shown.value)


def plain_text(length_mm: float, *, unit: Unit = Unit.MM) -> str:
    """Say a limit or a radius: two decimals in mm (more if needed), one in thou (two below 1); whole radii bare."""
    shown = Unit.MM if unit is Unit.MM else Unit.THOU
    thou_decimals = 1 if from_mm(abs(length_mm), shown) >= 1 else 2
    least, most = (2, 4) if shown is Unit.MM else (1, thou_decimals)
    if shown is Unit.MM and length_mm >= 40 and abs(length_mm - round(length_mm)) < 1e-9:
        return f"{length_mm:.0f}"  # a radius, not a thickness
    whole, _, decimals = f"{from_mm(length_mm, shown):.{most}f}".partition(".")
    decimals = decimals[:least] + decimals[least:].rstrip("0")
    return f"{whole}.{decimals}"
