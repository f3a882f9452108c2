"""What hardly any disc has: a decimal sign, a unit or a diameter that slipped in among its limits. It is asked back."""

from collections.abc import Mapping
from typing import Any, Final

from django.utils.translation import gettext as _

# Between which figures nearly all parts lie, mm: our estimates, and wide; ten times the usual is outside of each.
_USUAL: Final[Mapping[str, tuple[float, float]]] = {
    "max_runout_mm": (0.01, 0.35),
    "max_thickness_variation_mm": (0.003, 0.08),
    "measuring_radius_mm": (45.0, 225.0),
    "max_hub_runout_mm": (0.005, 0.2),
    "hub_runout_radius_mm": (15.0, 180.0),
    "max_bearing_play_mm": (0.01, 0.3),
    "min_pad_mm": (0.5, 9.0),
    "max_drum_diameter_mm": (120.0, 480.0),
    "min_lining_mm": (0.3, 6.0),
    "new_rotor_runout_mm": (0.003, 0.2),
    "new_hub_runout_mm": (0.002, 0.15),
}
_THICKNESSES: Final = ("discard_thickness_mm", "machine_to_thickness_mm", "nominal_thickness_mm")
_THICK: Final[Mapping[str, tuple[float, float]]] = {"vented": (12.0, 55.0), "solid": (2.5, 24.0)}
_LEAST_LEFT: Final = 0.65  # of a new disc, at discard; our estimate
_RADII: Final = ("measuring_radius_mm", "hub_runout_radius_mm")


def unusual(figures: Mapping[str, Any]) -> dict[str, str]:
    """Return what to ask about the limits of a disc (mm), by field: nothing where all are as discs usually are."""
    thick = _THICK.get(figures.get("rotor") or "")
    ranges = {**_USUAL, **(dict.fromkeys(_THICKNESSES, thick) if thick else {})}
    asked = {}
    for name, (least, most) in ranges.items():
        figure = figures.get(name)
        if figure is not None and not least <= figure <= most:
            asked[name] = _asked_about(name)
    discard, new = figures.get("discard_thickness_mm"), figures.get("nominal_thickness_mm")
    if discard and new and discard < _LEAST_LEFT * new and not asked.keys() & set(_THICKNESSES):
        asked["discard_thickness_mm"] = _(
            "Hardly any disc may lose so much of its thickness. Check it, and the new one."
        )
    return asked


def _asked_about(name: str) -> str:
    if name in _RADII:
        return _("Hardly any disc has such a radius. Check the decimal sign, and that it is no diameter.")
    return _("Hardly any disc has such a limit. Check the decimal sign and the unit.")
