"""Forms about a vehicle."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from compass.ground.units import Unit
from jobs.models import RotorFitting
from jobs.odometer import HoldsOdometer, read_before
from workshop.fields import InOwnUnit, LengthField, distance_field
from workshop.models import POSITION_NAMES, Vehicle


class FittingForm(InOwnUnit, HoldsOdometer, forms.Form):
    """That a rotor was fitted."""

    position = forms.ChoiceField(label=_("Corner"))
    odometer_km = distance_field(label=_("Odometer when fitted"))
    thickness_mm = LengthField(label=_("Thickness then"), most_mm=100, large=True)
    source = forms.ChoiceField(label=_("Thickness is"), choices=RotorFitting.Source.choices)

    def __init__(self, *args: Any, unit: Unit, vehicle: Vehicle, **kwargs: Any) -> None:
        super().__init__(*args, unit=unit, **kwargs)
        self.unit, self.vehicle = unit, vehicle
        self.fields["position"].choices = [(p, POSITION_NAMES[p]) for p in vehicle.positions]

    def clean(self) -> dict[str, Any]:
        """Ask back about an odometer that the vehicle cannot have reached; it may well have been fitted long ago."""
        data = super().clean() or {}
        km, last = data.get("odometer_km"), read_before(self.vehicle)
        if km is not None and last is not None and km > last.km:
            self.hold_odometer(km, self.unit, before=last)
        return data
