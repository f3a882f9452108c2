"""Forms of limits: an axle's own, the library's, and files of them."""

import math
from typing import Any, ClassVar, Final

from django import forms
from django.utils.translation import gettext_lazy as _

from workshop.fields import (
    InOwnUnit,
    LengthField,
    NumberField,
    SeatsField,
    SmallFileField,
    keep_untouched,
    torque_field,
)
from workshop.models import TORQUES, AxleLimits
from workshop.models.limits import MOST_STUDS
from workshop.store.usual import unusual

FEATURES: Final = (
    ("slotted", _("slotted")),
    ("drilled", _("drilled")),
    ("drum_in_hat", _("with a drum in its hat")),
    ("floating", _("floating")),
    ("captive", _("captive: comes off only with its hub")),
    ("metal_matrix", _("metal matrix")),
    ("carbon", _("carbon")),
)


def hold_together(form: forms.BaseForm, data: dict[str, Any]) -> None:
    """Hold thicknesses against each other, and radii, each fault beside its field."""
    discard, new = data.get("discard_thickness_mm"), data.get("nominal_thickness_mm")
    machine_to = data.get("machine_to_thickness_mm")
    if discard and new and new <= discard:
        form.add_error("nominal_thickness_mm", _("A new disc is thicker than discard. Check both."))
    if discard and machine_to and machine_to < discard:
        form.add_error("machine_to_thickness_mm", _("Machine-to is never under discard. Check both."))
    if machine_to and new and machine_to > new:
        form.add_error("machine_to_thickness_mm", _("A new disc is as thick as machine-to, or thicker. Check both."))
    inner, outer = data.get("swept_inner_radius_mm"), data.get("swept_outer_radius_mm")
    radius = data.get("measuring_radius_mm")
    if inner and outer and outer <= inner:
        form.add_error("swept_outer_radius_mm", _("The outer radius is larger than the inner. Check both."))
    elif radius and not (inner or 0.0) <= radius <= (outer or math.inf):
        form.add_error("measuring_radius_mm", _("It lies within the swept band. Check all three radii."))


def ask_about_sizes(form: forms.BaseForm, data: dict[str, Any]) -> None:
    """Ask back about a figure that hardly any disc has, beside its field; unless it was said that it is meant."""
    asked = {name: why for name, why in unusual(data).items() if data[name] != form.initial.get(name)}
    if not asked or form.data.get(form.add_prefix("sizes_meant")):
        return
    for name, why in asked.items():
        form.add_error(name, why)
    form.fields["sizes_meant"] = forms.BooleanField(label=_("That limit is meant: the maker says so"), required=False)


class LimitsForm(InOwnUnit, forms.Form):
    """Limits of an axle, in the person's own units, with their source. ``MORE`` are those few parts have."""

    studs = NumberField(label=_("Studs"), least=1, most=MOST_STUDS, initial=5, whole=True)
    rotor = forms.ChoiceField(label=_("Rotor"), choices=AxleLimits.Rotor.choices)
    measuring_radius_mm = LengthField(label=_("Measuring radius"), most_mm=400, large=True)
    max_runout_mm = LengthField(label=_("Lateral runout, at most"), most_mm=2)
    max_thickness_variation_mm = LengthField(label=_("Thickness variation, at most"), most_mm=1)
    discard_thickness_mm = LengthField(label=_("Discard thickness"), most_mm=100, large=True)
    machine_to_thickness_mm = LengthField(label=_("Machine-to (if given)"), most_mm=100, large=True, required=False)
    nominal_thickness_mm = LengthField(label=_("New (if known)"), most_mm=100, large=True, required=False)
    wheel_torque_nm = torque_field(label=_("Wheel torque"), required=False)
    source = forms.ChoiceField(label=_("Source"), choices=AxleLimits.Source.choices)
    max_hub_runout_mm = LengthField(label=_("Hub runout, at most"), most_mm=2, required=False)
    hub_runout_radius_mm = LengthField(label=_("at hub radius"), most_mm=400, large=True, required=False)
    max_bearing_play_mm = LengthField(label=_("Bearing play, at most"), most_mm=2, required=False)
    min_pad_mm = LengthField(label=_("Pad, at least"), most_mm=30, large=True, required=False)
    max_drum_diameter_mm = LengthField(label=_("Drum in the hat, at most"), most_mm=500, large=True, required=False)
    min_lining_mm = LengthField(label=_("Shoe lining, at least"), most_mm=20, large=True, required=False)
    swept_inner_radius_mm = LengthField(label=_("Swept band, inner radius"), most_mm=400, large=True, required=False)
    swept_outer_radius_mm = LengthField(label=_("Swept band, outer radius"), most_mm=400, large=True, required=False)
    new_rotor_runout_mm = LengthField(label=_("A new rotor’s runout, at most"), most_mm=1, required=False)
    new_hub_runout_mm = LengthField(label=_("A new hub’s runout, at most"), most_mm=1, required=False)
    caliper_torque_nm = torque_field(label=_("Caliper bolts"), required=False)
    bracket_torque_nm = torque_field(label=_("Bracket bolts"), required=False)
    hose_fitting_torque_nm = torque_field(label=_("Hose fitting"), required=False)
    pad_pin_torque_nm = torque_field(label=_("Pad pin"), required=False)
    axle_torque_nm = torque_field(label=_("Wheel axle"), required=False)
    hub_nut_torque_nm = torque_field(label=_("Hub nut"), required=False)
    disc_bolt_torque_nm = torque_field(label=_("Disc bolts"), required=False)
    index_positions = SeatsField(label=_("The rotor goes on"))
    features = forms.MultipleChoiceField(
        label=_("The rotor is"), choices=FEATURES, required=False, widget=forms.CheckboxSelectMultiple
    )

    MORE: ClassVar = (
        "max_hub_runout_mm",
        "hub_runout_radius_mm",
        "max_bearing_play_mm",
        "min_pad_mm",
        "max_drum_diameter_mm",
        "min_lining_mm",
        "swept_inner_radius_mm",
        "swept_outer_radius_mm",
        "new_rotor_runout_mm",
        "new_hub_runout_mm",
        "index_positions",
        "features",
    )

    def __init__(self, *args: Any, motorcycle: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        clamping = ("disc_bolts", "axle") if motorcycle else ("wheel",)
        # Torques of the work, beside those that clamp the disc.
        self.at_work = [column for name, column in TORQUES.items() if name not in clamping]
        if motorcycle:
            self.fields["studs"].label = _("Bolts of the disc")

    @property
    def main_fields(self) -> list[forms.BoundField]:
        """The fields every axle has."""
        return [field for field in self if field.name not in (*self.MORE, *self.at_work)]

    @property
    def more_fields(self) -> list[forms.BoundField]:
        """The fields only some have, without the features."""
        return [field for field in self if field.name in self.MORE and field.name != "features"]

    @property
    def torque_fields(self) -> list[forms.BoundField]:
        """The torques of the work."""
        return [field for field in self if field.name in self.at_work]

    def clean(self) -> dict[str, Any]:
        """Hold the figures against each other. One shown rounded and left alone stays as stored."""
        data = super().clean() or {}
        keep_untouched(self, data)
        hold_together(self, data)
        ask_about_sizes(self, data)
        if data.get("max_hub_runout_mm") and not data.get("hub_runout_radius_mm") and not self.errors:
            self.add_error("hub_runout_radius_mm", _("A hub limit counts at a radius. Type it."))
        return data


class LibraryForm(LimitsForm):
    """Limits of a vehicle model's axle for the library."""

    model = forms.CharField(label=_("Make and model"), max_length=60)
    axle = forms.ChoiceField(label=_("Axle"), choices=[(axle, axle) for axle in ("F", "R", "A1", "A2", "A3")])
    field_order = ("model", "axle")


class LibraryFileForm(forms.Form):
    """A file for the limits library."""

    file = SmallFileField(label=_("CSV or JSON file"), most_bytes=2_000_000)
