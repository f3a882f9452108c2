"""Figures, money and settings in words, for every leg."""

from typing import Final

from django.utils.formats import number_format
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext

from compass.do.steps import RENEWED
from compass.do.work import Figure
from compass.ground.translation import written
from compass.ground.units import Unit
from compass.words.codes import CAUSES
from compass.words.figures import LengthText, length_text, plain_text
from compass.words.places import between_studs
from workshop.models import POSITION_NAMES, Vehicle
from workshop.words import torque_text

AXLE_NAMES: Final = {
    "F": gettext_lazy("Front axle"),
    "R": gettext_lazy("Rear axle"),
    "A1": gettext_lazy("Axle 1"),
    "A2": gettext_lazy("Axle 2"),
    "A3": gettext_lazy("Axle 3"),
}
_FEEDS: Final = {"rough": gettext_lazy("rough"), "finish": gettext_lazy("finish")}


def about(mm: float, unit: Unit, *, expanded_mm: float = 0.02) -> LengthText:
    """Say an estimated length no finer than it means: to 0.01 mm unless told otherwise."""
    return length_text(mm, unit=unit, expanded_mm=expanded_mm)


def axle_name(vehicle: Vehicle, axle: str) -> str:
    """Name an axle; a motorcycle's is a wheel."""
    if vehicle.is_motorcycle:
        return _("Front wheel") if axle == "F" else _("Rear wheel")
    return str(AXLE_NAMES[axle])


def money_text(amount: float, currency: str) -> str:
    """Say an amount in whole units with the workshop's currency."""
    return f"{number_format(round(amount), force_grouping=True)} {currency}".strip()


def place_words(cause: str, position: str | None) -> str:
    """Say what sits beside the discs, and where; without a position it is the vehicle's."""
    name = _(CAUSES[cause])
    return f"{name} · {POSITION_NAMES[position]}" if position else name


def setting_words(settings: dict[str, float], studs: int, unit: Unit) -> str:
    """Say how a rotor and a plate are set."""
    words = []
    turned = round(settings.get("index_deg", 0.0) * studs / 360, 2)
    if settings.get("plate_mm"):
        plate = plain_text(settings["plate_mm"], unit=unit)
        place = between_studs(settings.get("plate_deg", 0.0), studs, translate=_)
        words.append(
            _("plate %(plate)s %(unit)s, thin side %(place)s")
            % {"plate": plate.figure, "unit": plate.unit, "place": place}
        )
    if turned:
        words.append(
            ngettext("rotor on %(n)s stud", "rotor on %(n)s studs", round(turned)) % {"n": written(f"{turned:g}")}
        )
    return " · ".join(words)


def figure_words(name: str, figure: Figure, studs: int, unit: Unit) -> str:
    """Say one figure of a step."""
    if isinstance(figure, str):
        return str(_FEEDS.get(figure, figure))
    if name in ("outboard", "inboard"):
        return _fed(figure if isinstance(figure, tuple) else (figure,), unit)
    if name in RENEWED and isinstance(figure, float):
        least = about(figure, unit if unit is Unit.MM else Unit.INCH, expanded_mm=0.05)
        return _("at least %(mm)s") % {"mm": f"{least.figure} {least.unit}"}
    if isinstance(figure, tuple):
        low, high = (about(mm, unit, expanded_mm=0.005) for mm in figure)
        return f"{low.figure}–{high.figure} {high.unit}"
    if name.startswith("torque "):
        return torque_text(figure, unit)
    if name == "plate_place":
        return between_studs(figure, studs, translate=_)
    if name in ("studs_on", "pass"):
        return written(f"{figure:g}")
    shown = about(figure, unit, expanded_mm=0.005)
    return f"{shown.figure} {shown.unit}"


def _fed(feed: tuple[float, ...], unit: Unit) -> str:
    if len(feed) > 1:
        return ngettext("%(n)s line", "%(n)s lines", round(feed[1])) % {"n": written(f"{feed[1]:g}")}
    shown = about(feed[0], unit, expanded_mm=0.005)
    return f"{shown.figure} {shown.unit}"
