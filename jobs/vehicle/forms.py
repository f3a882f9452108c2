"""Forms about a vehicle."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from jobs.models import RotorFitting
from workshop.fields import InOwnUnit, LengthField, distance_field
from workshop.models import POSITION_NAMES, Vehicle


class FittingForm(InOwnUnit, forms.Form):
    """That a rotor was fitted."""

    position = forms.ChoiceField(label=_("Corner"))
    odometer_km = distance_field(label=_("Odometer when fitted"))
    thickness_mm = LengthField(label=_("Thickness then"), most_mm=100, large=True)
    source = forms.ChoiceField(label=_("Thickness is"), choices=RotorFitting.Source.choices)

    def __init__(self, *args: Any, vehicle: Vehicle, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["position"].choices = [(p, POSITION_NAMES[p]) for p in vehicle.positions]
