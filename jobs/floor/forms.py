"""Forms of the floor."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from jobs.floor.naming import NamesVehicle
from jobs.odometer import HoldsOdometer, read_before
from workshop.fields import distance_field, speak_all
from workshop.models import SHAPES, User


class JobForm(NamesVehicle, HoldsOdometer, forms.Form):
    """Open a job: a vehicle of the fleet by name or registration, or a new one; then the driver's words."""

    label = forms.CharField(
        label=_("Vehicle"),
        max_length=60,
        widget=forms.TextInput({"list": "fleet", "autocomplete": "off", "autofocus": True}),
        error_messages={"required": _("Name the vehicle: one of the fleet, or a new one.")},
    )
    kind = forms.ChoiceField(label=_("Kind"), choices=SHAPES, initial="van")
    model = forms.CharField(
        label=_("Make and model"),
        max_length=60,
        required=False,
        widget=forms.TextInput({"list": "models", "autocomplete": "off"}),
        help_text=_("Limits come from the library where it knows the model."),
    )
    registration = forms.CharField(label=_("Registration"), max_length=16, required=False)
    complaint = forms.CharField(
        label=_("Complaint, in the driver's words"), max_length=2000, required=False, widget=forms.Textarea({"rows": 4})
    )
    odometer_km = distance_field(label=_("Odometer"), required=False)

    def __init__(self, *args: Any, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.user = user
        speak_all(self, user.unit)

    def clean(self) -> dict[str, Any]:
        """Find the vehicle of that name or registration; none is a new one, where it is not asked which is meant."""
        data = super().clean() or {}
        label = (data.get("label") or "").strip()
        vehicle = self.named_vehicle(label, registration=data.get("registration") or "") if label else None
        data["vehicle"] = vehicle
        if vehicle is not None:
            self.hold_odometer(data.get("odometer_km"), self.user.unit, before=read_before(vehicle))
        return data

    def new_vehicle(self) -> dict[str, str]:
        """Return the new vehicle as fields of a row."""
        data = self.cleaned_data
        kind, _slash, layout = data["kind"].partition("/")
        named = {"label": data["label"].strip(), "model": data["model"].strip(), "registration": data["registration"]}
        return named | {"kind": kind, "layout": layout}
