"""Forms of the floor."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from workshop.fields import distance_field, speak_all
from workshop.models import SHAPES, User, Vehicle


class JobForm(forms.Form):
    """Open a job: a vehicle of the fleet, or a new one by name and kind; then the driver's words."""

    vehicle = forms.ModelChoiceField(
        Vehicle.objects.none(), label=_("Vehicle"), required=False, empty_label=_("– a new one –")
    )
    label = forms.CharField(label=_("New vehicle's name"), max_length=60, required=False)
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
        self.fields["vehicle"].queryset = Vehicle.of(user)

    def clean(self) -> dict[str, Any]:
        """Ask for one vehicle: chosen or named."""
        data = super().clean() or {}
        label = (data.get("label") or "").strip()
        if not data.get("vehicle") and not label:
            self.add_error("vehicle", _("Choose a vehicle, or give a new one a name below."))
        if not data.get("vehicle") and label and Vehicle.of(self.user).filter(label__iexact=label).exists():
            self.add_error("label", _("There is a vehicle of this name already. Choose it above."))
        return data

    def new_vehicle(self) -> dict[str, str]:
        """Return the new vehicle as fields of a row."""
        data = self.cleaned_data
        kind, _slash, layout = data["kind"].partition("/")
        named = {"label": data["label"].strip(), "model": data["model"].strip(), "registration": data["registration"]}
        return named | {"kind": kind, "layout": layout}
