"""Forms of this app. What was typed stays in the field, whatever is wrong with it."""

import re
from datetime import datetime
from typing import Any, Final

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from compass.ground.angles import stud_deg
from compass.ground.errors import UnreadableNumberError
from compass.ground.units import MM_PER_INCH, Unit, parse_length
from compass.words.codes import SURFACES
from jobs.models import Booking, Job, RotorFitting, Tape
from workshop.fields import LengthField, SmallFileField
from workshop.models import POSITION_NAMES, Instrument, User, Vehicle
from workshop.wording import unreadable

SURFACE_CHOICES: Final = (*((code, _(name)) for code, name in SURFACES.items()), ("quick", _("Quick reading")))
CONFIRMATIONS: Final = ("lifted", "cleaned", "nuts_torqued", "tip")
MAX_BYTES: Final = 20_000_000  # of a file somebody sends
MOST_RADII: Final = 3

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
        widgets = {"complaint": forms.Textarea({"rows": 2})}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["state"].choices = [c for c in Job.State.choices if c[0] != Job.State.CLOSED]
        self.fields["assigned_to"].queryset = User.objects.filter(is_active=True).order_by("last_name")
        self.fields["assigned_to"].empty_label = _("nobody yet")


class SetUpForm(forms.Form):
    """What to take now, the set-up confirmed by the hand that made it, and the instruments in use."""

    surface = forms.ChoiceField(
        label=_("Take now"),
        choices=SURFACE_CHOICES,
        initial="rotor_outboard",
        required=False,
        widget=forms.RadioSelect,
    )
    lifted = forms.BooleanField(label=_("Lifted, on stands, chocked; caliper on its hook"), required=False)
    cleaned = forms.BooleanField(label=_("Joint cleaned until machining marks show"), required=False)
    nuts_torqued = forms.BooleanField(
        label=_("All nuts on, cone washers where the wheel clamps, torqued in the drawn order"), required=False
    )
    tip = forms.BooleanField(label=_("Tip square on bright metal; lifted a few times, it returns"), required=False)
    dial = forms.ChoiceField(label=_("Dial"))
    read_to = forms.ChoiceField(label=_("Read to"), choices=READ_TO, initial="0.5")
    entry_unit = forms.ChoiceField(
        label=_("I type"),
        choices=[c for c in Tape.EntryUnit.choices if c[0] != Unit.INCH],
        initial=Unit.DIVISION.value,
    )
    stations = forms.IntegerField(label=_("Stations"), min_value=4, max_value=36)
    radius_mm = LengthField(label=_("Tip radius"), most_mm=400, large=True)
    turned = forms.IntegerField(label=_("Rotor turned on by (studs)"), min_value=0, max_value=23, required=False)
    micrometer = forms.ChoiceField(label=_("Micrometer"))
    micrometer_unit = forms.ChoiceField(
        label=_("I type"), choices=[(Unit.MM.value, _("mm")), (Unit.INCH.value, _("inches"))], required=False
    )
    radii = forms.CharField(
        label=_("Thickness at radii"),
        required=False,
        max_length=40,
        widget=forms.TextInput({"inputmode": "decimal", "placeholder": _("up to three")}),
    )

    def __init__(self, *args: Any, unit: Unit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.instruments = {f"i{i.pk}": i for i in Instrument.objects.filter(retired=False)}
        self.unit = Unit.INCH if unit is not Unit.MM else unit
        self.fields["radius_mm"].speak(unit)
        self.fields["radii"].label = f"{self.fields['radii'].label} ({self.unit.value})"
        self.fields["dial"].choices = self._choices({Instrument.Kind.DIAL}, DIALS)
        self.fields["micrometer"].choices = self._choices(
            {Instrument.Kind.MICROMETER, Instrument.Kind.CALIPER}, MICROMETERS
        )

    def _choices(self, kinds: set[str], others: dict[str, tuple[Any, float]]) -> list[Any]:
        today = timezone.localdate()
        own = [
            (code, _("%(name)s – check due") % {"name": i} if i.is_due(today) else str(i))
            for code, i in self.instruments.items()
            if i.kind in kinds
        ]
        plain = [(code, name) for code, (name, _mm) in others.items()]
        return [(_("the workshop's"), own), (_("any other"), plain)] if own else plain

    def clean_surface(self) -> str:
        """Take the outboard face where nothing was chosen."""
        return self.cleaned_data["surface"] or "rotor_outboard"

    def clean_radii(self) -> list[float]:
        """Read one to three radii, in millimetres; none means the tip's own."""
        words = [word for word in re.split(r"[;/\s]+", self.cleaned_data["radii"]) if word]
        if len(words) > MOST_RADII:
            raise forms.ValidationError(_("At most three radii."))
        try:
            radii = [parse_length(word, unit=self.unit, most_mm=400.0, signed=False).mm for word in words]
        except UnreadableNumberError as error:
            raise forms.ValidationError(unreadable(error)) from error
        if any(radius <= 0 for radius in radii) or len(set(radii)) != len(radii):
            raise forms.ValidationError(_("Each radius once, more than 0."))
        return radii

    @property
    def quick(self) -> bool:
        """Whether only a quick reading is to be taken."""
        return self.cleaned_data["surface"] == "quick"

    def sweep_set_up(self, studs: int) -> dict[str, Any]:
        """Return the sweep's set-up as fields of a row."""
        data = self.cleaned_data
        return {
            "surface": "rotor_outboard" if self.quick else data["surface"],
            "cleaned": data["cleaned"],
            "nuts_torqued": data["nuts_torqued"],
            "confirmed": [name for name in CONFIRMATIONS if data[name]],
            "read_to": float(data["read_to"]),
            "entry_unit": data["entry_unit"],
            "radius_mm": data["radius_mm"],
            "stations": data["stations"],
            "index_deg": self._index_deg(studs),
            **self._instrument("dial", DIALS),
        }

    def round_set_up(self, studs: int) -> dict[str, Any]:
        """Return the thickness round's set-up as fields of a row."""
        data = self.cleaned_data
        return {
            "entry_unit": data["micrometer_unit"] or self._micrometer_reads_in(),
            "radii_mm": data["radii"] or [data["radius_mm"]],
            "stations": data["stations"],
            "index_deg": self._index_deg(studs),
            "confirmed": ["lifted"] if data["lifted"] else [],
            **self._instrument("micrometer", MICROMETERS),
        }

    def _micrometer_reads_in(self) -> str:
        code = self.cleaned_data["micrometer"]
        own = self.instruments.get(code)
        inches = own.native == Instrument.Native.INCH if own is not None else code.startswith("in")
        return (Unit.INCH if inches else Unit.MM).value

    def _index_deg(self, studs: int) -> float:
        data = self.cleaned_data
        on_hub = data["surface"] in ("rotor_outboard", "rotor_inboard", "quick")
        return 360.0 * ((data["turned"] or 0) % studs) / studs if on_hub else 0.0

    def _instrument(self, field: str, others: dict[str, tuple[Any, float]]) -> dict[str, Any]:
        code = self.cleaned_data[field]
        own = self.instruments.get(code)
        if own is None:
            return {"instrument": None, "graduation_mm": others[code][1]}
        return {
            "instrument": own,
            "graduation_mm": own.graduation_mm,
            "instrument_error_mm": own.error_limit_mm,
        }


class QuickForm(forms.Form):
    """A quick reading in one line: where the high spot stands, and the amount."""

    stud = forms.IntegerField(label=_("High at stud"), min_value=1, max_value=24)
    offset = forms.FloatField(label=_("degrees past it"), min_value=-90, max_value=90, required=False)
    amount = forms.CharField(label=_("Amount"), max_length=40, widget=forms.TextInput({"inputmode": "decimal"}))
    within = forms.FloatField(label=_("± degrees"), min_value=1, max_value=90, initial=15)

    def __init__(self, *args: Any, studs: int, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.studs = studs
        self.fields["stud"].max_value = studs
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


class BookingForm(forms.Form):
    """A place of the workshop for a while."""

    place = forms.ChoiceField(label=_("Place"), choices=Booking.Place.choices)
    day = forms.DateField(label=_("Day"), widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"))
    starts = forms.TimeField(label=_("From"), widget=forms.TimeInput({"type": "time"}, format="%H:%M"))
    minutes = forms.IntegerField(label=_("Minutes"), min_value=10, max_value=600, initial=60)

    def starts_at(self) -> datetime:
        """Return when it begins, in the workshop's own time."""
        data = self.cleaned_data
        return datetime.combine(data["day"], data["starts"], tzinfo=timezone.get_current_timezone())


class CaseFileForm(forms.Form):
    """A case file to open as a job."""

    case = SmallFileField(label=_("Case file (iron-compass-case/1)"), most_bytes=MAX_BYTES)


class RecordingForm(forms.Form):
    """A road test."""

    recording = SmallFileField(most_bytes=MAX_BYTES, error_messages={"required": _("Choose a file first.")})


class FittingForm(forms.Form):
    """That a rotor was fitted."""

    position = forms.ChoiceField(label=_("Corner"))
    odometer_km = forms.IntegerField(label=_("Odometer when fitted (km)"), min_value=0, max_value=9_999_999)
    thickness_mm = LengthField(label=_("Thickness then"), most_mm=100, large=True)
    source = forms.ChoiceField(label=_("Thickness is"), choices=RotorFitting.Source.choices)

    def __init__(self, *args: Any, unit: Unit, vehicle: Vehicle, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["thickness_mm"].speak(unit)
        self.fields["position"].choices = [(p, POSITION_NAMES[p]) for p in vehicle.positions]


class EntryForm(forms.Form):
    """One edit of one slot, as the browser sends it."""

    slot = forms.IntegerField(min_value=0)
    text = forms.CharField(max_length=40, required=False, strip=True)
    was = forms.CharField(max_length=40, required=False, strip=True)
    client = forms.CharField(max_length=40)
    number = forms.IntegerField(min_value=0)
    final = forms.BooleanField(required=False)
    view = forms.CharField(max_length=12, required=False)
    at = forms.IntegerField(min_value=0, required=False)


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
