"""Forms about what comes after a job."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from jobs.models import Closing
from jobs.odometer import HoldsOdometer, read_before
from workshop.fields import distance_field, speak_all
from workshop.models import User, Vehicle


class RingForm(HoldsOdometer, forms.Form):
    """What the owner said on the telephone."""

    said = forms.ChoiceField(label=_("What was said"), choices=Closing.Rung.choices)
    odometer_km = distance_field(label=_("Odometer, if told"), required=False)
    note = forms.CharField(label=_("Note"), max_length=300, required=False)

    def __init__(self, *args: Any, user: User, vehicle: Vehicle, autofocus: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.user, self.vehicle = user, vehicle
        speak_all(self, user.unit)
        if autofocus:
            self.fields["said"].widget.attrs["autofocus"] = True

    def clean(self) -> dict[str, Any]:
        """Ask back about an odometer that cannot be."""
        data = super().clean() or {}
        self.hold_odometer(data.get("odometer_km"), self.user.unit, before=read_before(self.vehicle))
        return data
