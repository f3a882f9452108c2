"""Forms of the Choose leg."""

from typing import Any

from django import forms

from workshop.models import POSITION_NAMES


class SettingForm(forms.Form):
    """Where a rotor stands on its studs, and a plate under it, as somebody tries it."""

    position = forms.ChoiceField(choices=list(POSITION_NAMES.items()), required=False)
    index_deg = forms.FloatField(required=False, min_value=0, max_value=360)
    plate_mm = forms.FloatField(required=False, min_value=0, max_value=2)
    plate_deg = forms.FloatField(required=False, min_value=0, max_value=360)

    def setting(self) -> dict[str, Any] | None:
        """Return what was tried, or None where nothing was."""
        data = self.cleaned_data
        if not data.get("position"):
            return None
        tried = {name: data[name] for name in ("index_deg", "plate_mm", "plate_deg") if data.get(name) is not None}
        if tried and "index_deg" not in tried:
            tried["index_deg"] = 0.0
        return {"position": data["position"], **tried}
