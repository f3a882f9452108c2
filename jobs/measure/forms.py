"""Forms of the Measure leg."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from compass.ground.angles import stud_deg
from jobs.measure.actions import Entry
from workshop.fields import NumberField


class QuickForm(forms.Form):
    """A quick reading in one line: where the high spot stands, and the amount."""

    stud = NumberField(label=_("High at stud"), least=1, most=24, whole=True)
    offset = NumberField(label=_("degrees past it"), least=-90, most=90, required=False)
    amount = forms.CharField(label=_("Amount"), max_length=40, widget=forms.TextInput({"inputmode": "decimal"}))
    within = NumberField(label=_("± degrees"), least=1, most=90, initial=15)

    def __init__(self, *args: Any, studs: int, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.studs = studs
        self.fields["amount"].widget.attrs["autocomplete"] = "off"

    def clean_stud(self) -> int:
        """Take a stud this wheel has."""
        stud: int = self.cleaned_data["stud"]
        if stud > self.studs:
            raise forms.ValidationError(_("This wheel has %(n)s studs.") % {"n": self.studs})
        return stud

    @property
    def high_deg(self) -> float:
        """The hub angle of the high spot."""
        offset = self.cleaned_data["offset"] or 0.0
        return (stud_deg(self.cleaned_data["stud"], self.studs) + offset) % 360.0


class EntryForm(forms.Form):
    """One edit of one slot, as the browser sends it."""

    id = forms.CharField(max_length=60)
    slot = forms.IntegerField(min_value=0)
    text = forms.CharField(max_length=40, required=False, strip=True)
    was = forms.CharField(max_length=40, required=False, strip=True)
    client = forms.CharField(max_length=40)
    number = forms.IntegerField(min_value=0)
    heirs = forms.CharField(max_length=400, required=False)
    final = forms.BooleanField(required=False)

    def entry(self) -> Entry:
        """Return the edit."""
        data = self.cleaned_data
        heirs = tuple(heir for heir in data.pop("heirs").split(",") if heir)
        return Entry(**data, heirs=heirs)
