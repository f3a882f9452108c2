"""Forms of this app. What was typed stays in the field, whatever is wrong with it."""

from typing import Any, Final

from django import forms
from django.utils.translation import gettext_lazy as _

from compass.units import MM_PER_INCH, Unit
from jobs.models import Job, Tape
from workshop.fields import LengthField
from workshop.models import AxleLimits, User, Vehicle

DIALS: Final = {
    "mm10": (_("0.01 mm a line"), 0.01),
    "mm2": (_("0.002 mm a line"), 0.002),
    "mm1": (_("0.001 mm a line"), 0.001),
    "th10": (_("0.001 in a line"), MM_PER_INCH * 0.001),
    "th5": (_("0.0005 in a line"), MM_PER_INCH * 0.0005),
}
MICROMETERS: Final = {
    "mm1": (_("reads 0.001 mm"), 0.001),
    "mm10": (_("reads 0.01 mm"), 0.01),
    "in1": (_("reads 0.0001 in"), MM_PER_INCH * 0.0001),
    "in10": (_("reads 0.001 in"), MM_PER_INCH * 0.001),
}
READ_TO: Final = (("1", _("whole lines")), ("0.5", _("half lines")), ("0.2", _("fifths of a line")))


class JobForm(forms.Form):
    """Open a job: a vehicle of the fleet, or a new one by name and kind; then the driver's words."""

    vehicle = forms.ModelChoiceField(
        Vehicle.objects.all(), label=_("Vehicle"), required=False, empty_label=_("– a new one –")
    )
    label = forms.CharField(label=_("New vehicle's name"), max_length=60, required=False)
    kind = forms.ChoiceField(label=_("Kind"), choices=Vehicle.Kind.choices, initial=Vehicle.Kind.VAN)
    registration = forms.CharField(label=_("Registration"), max_length=16, required=False)
    complaint = forms.CharField(
        label=_("Complaint, in the driver's words"), max_length=2000, required=False, widget=forms.Textarea({"rows": 4})
    )
    odometer_km = forms.IntegerField(label=_("Odometer (km)"), min_value=0, max_value=9_999_999, required=False)

    def clean(self) -> dict[str, Any]:
        """Ask for one vehicle: chosen or named."""
        data = super().clean() or {}
        label = (data.get("label") or "").strip()
        if not data.get("vehicle") and not label:
            self.add_error("vehicle", _("Choose a vehicle, or give a new one a name below."))
        if not data.get("vehicle") and label and Vehicle.objects.filter(label__iexact=label).exists():
            self.add_error("label", _("There is a vehicle of this name already. Choose it above."))
        return data


class JobWordsForm(forms.ModelForm):
    """The complaint, odometer, who has it, and where it stands."""

    version = forms.IntegerField(widget=forms.HiddenInput)

    class Meta:
        model = Job
        fields = ("complaint", "odometer_km", "assigned_to", "state")
        widgets = {"complaint": forms.Textarea({"rows": 5})}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["state"].choices = [c for c in Job.State.choices if c[0] != Job.State.CLOSED]
        self.fields["assigned_to"].queryset = User.objects.filter(is_active=True).order_by("last_name")
        self.fields["assigned_to"].empty_label = _("nobody yet")


class LimitsForm(forms.Form):
    """Limits of an axle, in the person's own units, with their source."""

    studs = forms.IntegerField(label=_("Studs"), min_value=1, max_value=24, initial=5)
    rotor = forms.ChoiceField(label=_("Rotor"), choices=AxleLimits.Rotor.choices)
    measuring_radius_mm = LengthField(label=_("Measuring radius"), most_mm=400, large=True)
    max_runout_mm = LengthField(label=_("Lateral runout, at most"), most_mm=2)
    max_thickness_variation_mm = LengthField(label=_("Thickness variation, at most"), most_mm=1)
    discard_thickness_mm = LengthField(label=_("Discard thickness"), most_mm=100, large=True)
    machine_to_thickness_mm = LengthField(label=_("Machine-to (if given)"), most_mm=100, large=True, required=False)
    nominal_thickness_mm = LengthField(label=_("New (if known)"), most_mm=100, large=True, required=False)
    source = forms.ChoiceField(label=_("Source"), choices=AxleLimits.Source.choices)

    def __init__(self, *args: Any, unit: Unit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for field in self.fields.values():
            if isinstance(field, LengthField):
                field.speak(unit)

    def clean(self) -> dict[str, Any]:
        """Hold the thicknesses against each other. A figure shown rounded and left alone stays as stored."""
        data = super().clean() or {}
        for name, field in self.fields.items():
            stored = self.initial.get(name)
            if isinstance(field, LengthField) and stored is not None and name in data:
                untouched = self.data.get(self.add_prefix(name)) == field.prepare_value(stored)
                data[name] = stored if untouched else data[name]
        discard, new = data.get("discard_thickness_mm"), data.get("nominal_thickness_mm")
        machine_to = data.get("machine_to_thickness_mm")
        if discard and new and new <= discard:
            self.add_error("nominal_thickness_mm", _("A new disc is thicker than discard. Check both."))
        if discard and machine_to and machine_to < discard:
            self.add_error("machine_to_thickness_mm", _("Machine-to is never under discard. Check both."))
        return data


class SetUpForm(forms.Form):
    """The set-up, confirmed by the hand that made it, and the instruments in use."""

    cleaned = forms.BooleanField(label=_("Joint cleaned until machining marks show"), required=False)
    nuts_torqued = forms.BooleanField(
        label=_("All nuts on, torqued in star order to the maker's figure"), required=False
    )
    dial = forms.ChoiceField(label=_("Dial"), choices=[(k, v[0]) for k, v in DIALS.items()])
    read_to = forms.ChoiceField(label=_("Read to"), choices=READ_TO, initial="0.5")
    entry_unit = forms.ChoiceField(
        label=_("I type"),
        choices=[c for c in Tape.EntryUnit.choices if c[0] != Unit.INCH],
        initial=Unit.DIVISION.value,
    )
    stations = forms.IntegerField(label=_("Stations"), min_value=4, max_value=36)
    radius_mm = LengthField(label=_("Tip radius"), most_mm=400, large=True)
    micrometer = forms.ChoiceField(label=_("Micrometer"), choices=[(k, v[0]) for k, v in MICROMETERS.items()])
    micrometer_unit = forms.ChoiceField(
        label=_("I type"), choices=[(Unit.MM.value, _("mm")), (Unit.INCH.value, _("inches"))]
    )
    turned = forms.IntegerField(label=_("Rotor turned on by (studs)"), min_value=0, max_value=23, required=False)

    def __init__(self, *args: Any, unit: Unit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["radius_mm"].speak(unit)

    def sweep_set_up(self, studs: int) -> dict[str, Any]:
        """Return the sweep's set-up as fields of a row."""
        data = self.cleaned_data
        return {
            "cleaned": data["cleaned"],
            "nuts_torqued": data["nuts_torqued"],
            "graduation_mm": DIALS[data["dial"]][1],
            "read_to": float(data["read_to"]),
            "entry_unit": data["entry_unit"],
            "radius_mm": data["radius_mm"],
            "stations": data["stations"],
            "index_deg": 360.0 * ((data["turned"] or 0) % studs) / studs,
        }

    def round_set_up(self) -> dict[str, Any]:
        """Return the thickness round's set-up as fields of a row."""
        data = self.cleaned_data
        return {
            "graduation_mm": MICROMETERS[data["micrometer"]][1],
            "entry_unit": data["micrometer_unit"],
            "radius_mm": data["radius_mm"],
            "stations": data["stations"],
        }


class EntryForm(forms.Form):
    """One edit of one slot, as the browser sends it."""

    slot = forms.IntegerField(min_value=0)
    text = forms.CharField(max_length=40, required=False, strip=True)
    was = forms.CharField(max_length=40, required=False, strip=True)
    client = forms.CharField(max_length=40)
    number = forms.IntegerField(min_value=0)
    final = forms.BooleanField(required=False)
    at = forms.IntegerField(min_value=0, required=False)
