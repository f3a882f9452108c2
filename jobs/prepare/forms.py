"""Forms of the Prepare leg."""

import re
from collections.abc import Sequence
from typing import Any, ClassVar, Final

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from compass.evidence.records import radii_within_mm
from compass.ground.errors import UnreadableNumberError
from compass.ground.units import MM_PER_INCH, Unit, parse_length
from compass.words.codes import SURFACES
from compass.words.figures import plain_figure
from jobs.models import Tape, ThicknessRound
from workshop.fields import LengthField, NumberField, keep_untouched
from workshop.models import Instrument
from workshop.words import unreadable

SURFACE_CHOICES: Final = (*((code, _(name)) for code, name in SURFACES.items()), ("quick", _("Quick reading")))


CONFIRMATIONS: Final = ("lifted", "cleaned", "nuts_torqued", "tip")


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


# A motorcycle's disc is bolted to its wheel, and the wheel stands on an axle: what is confirmed there is said so.
ON_A_MOTORCYCLE: Final = {
    "lifted": _("On its stand, strapped upright; caliper on its hook"),
    "nuts_torqued": _("All bolts of the disc in, torqued across and across"),
    "turned": _("Disc turned on by (bolts)"),
}


READ_TO: Final = (("1", _("whole lines")), ("0.5", _("half lines")), ("0.2", _("fifths of a line")))


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
    stations = NumberField(label=_("Stations"), least=4, most=36, whole=True)
    radius_mm = LengthField(label=_("Tip radius"), most_mm=400, large=True, required=False)
    turned = NumberField(label=_("Rotor turned on by (studs)"), most=23, whole=True, required=False)
    micrometer = forms.ChoiceField(label=_("Thickness by"))
    micrometer_unit = forms.ChoiceField(
        label=_("I type"), choices=[(Unit.MM.value, _("mm")), (Unit.INCH.value, _("inches"))], required=False
    )
    radii = forms.CharField(
        label=_("Thickness at radii"),
        required=False,
        max_length=40,
        widget=forms.TextInput({"inputmode": "decimal", "placeholder": _("up to three")}),
    )

    def __init__(
        self,
        *args: Any,
        unit: Unit,
        instruments: Sequence[Instrument],
        motorcycle: bool = False,
        **kwargs: Any,
    ) -> None:
        super().__init__(*args, **kwargs)
        for name, label in ON_A_MOTORCYCLE.items() if motorcycle else ():
            self.fields[name].label = label
        self.instruments = {f"i{i.pk}": i for i in instruments}
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

    def fits_disc(self, measuring_radius_mm: float) -> bool:
        """Take the axle's measuring radius where no other was typed; refuse where no tip can have stood on the disc."""
        data = self.cleaned_data
        if "radius_mm" in self.fields:
            data["radius_mm"] = data["radius_mm"] or measuring_radius_mm
        low, high = radii_within_mm(measuring_radius_mm)
        for name, radii in (("radius_mm", [data.get("radius_mm")]), ("radii", data.get("radii") or [])):
            if any(radius is not None and not low < radius < high for radius in radii):
                words = _("Between %(low)s and %(high)s %(unit)s: this disc is measured at %(radius)s. Check both.")
                shown = {"low": low, "high": high, "radius": measuring_radius_mm}
                texts = {key: plain_figure(mm, self.unit) for key, mm in shown.items()}
                self.add_error(name, words % {**texts, "unit": self.unit.value})
        return not self.errors

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

    def changes_micrometer(self, measured: ThicknessRound) -> bool:
        """Whether another micrometer was chosen than the one a round was taken with."""
        chosen = self._instrument("micrometer", MICROMETERS)
        return (chosen["instrument"] or None) != measured.instrument or (
            chosen["instrument"] is None and abs(chosen["graduation_mm"] - measured.graduation_mm) > 1e-9
        )

    def _micrometer_reads_in(self) -> str:
        code = self.cleaned_data["micrometer"]
        own = self.instruments.get(code)
        inches = own.native == Instrument.Native.INCH if own is not None else code.startswith("in")
        return (Unit.INCH if inches else Unit.MM).value

    def _index_deg(self, studs: int) -> float:
        data = self.cleaned_data
        on_hub = data.get("surface", "rotor_outboard") in ("rotor_outboard", "rotor_inboard", "quick")
        return 360.0 * ((data["turned"] or 0) % studs) / studs if on_hub else 0.0

    def _instrument(self, field: str, others: dict[str, tuple[Any, float]]) -> dict[str, Any]:
        code = self.cleaned_data[field]
        own = self.instruments.get(code)
        if own is None:
            return {"instrument": None, "graduation_mm": others[code][1], "instrument_error_mm": 0.0}
        return {
            "instrument": own,
            "graduation_mm": own.graduation_mm,
            "instrument_error_mm": own.error_limit_mm,
        }


class SweepSetUpForm(SetUpForm):
    """The set-up of a sweep that was read already, put right: all but how many stations it has."""

    KEPT: ClassVar = ("surface", "cleaned", "nuts_torqued", "dial", "read_to", "entry_unit", "radius_mm", "turned")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name in [name for name in self.fields if name not in self.KEPT]:
            del self.fields[name]
        if "surface" in self.fields:
            self.fields["surface"].choices = [choice for choice in SURFACE_CHOICES if choice[0] != "quick"]

    def clean(self) -> dict[str, Any]:
        """Leave alone what was only shown rounded."""
        data = super().clean() or {}
        if "radius_mm" in self.fields and not data.get("radius_mm") and "radius_mm" not in self.errors:
            self.add_error("radius_mm", _("Where the tip stood: type its radius."))
        keep_untouched(self, data)
        return data

    def set_up(self, studs: int) -> dict[str, Any]:
        """Return what is to be put right, as fields of a row."""
        data = self.cleaned_data
        return {
            **{name: data[name] for name in ("surface", "cleaned", "nuts_torqued", "entry_unit", "radius_mm")},
            "read_to": float(data["read_to"]),
            "index_deg": self._index_deg(studs),
            **self._instrument("dial", DIALS),
        }


class RoundSetUpForm(SweepSetUpForm):
    """The set-up of a thickness round that was read already, put right: all but how many places it has."""

    KEPT: ClassVar = ("micrometer", "micrometer_unit", "radii", "turned")

    def __init__(self, *args: Any, radii: int, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.count = radii

    def clean_radii(self) -> list[float]:
        """Ask for as many radii as were miked."""
        radii = super().clean_radii()
        if len(radii) != self.count:
            raise forms.ValidationError(_("%(n)s radii were miked: type as many.") % {"n": self.count})
        return radii

    def set_up(self, studs: int) -> dict[str, Any]:
        """Return what is to be put right, as fields of a row."""
        return {**self.micrometer(), "radii_mm": self.cleaned_data["radii"], "index_deg": self._index_deg(studs)}

    def micrometer(self) -> dict[str, Any]:
        """Return the instrument chosen, as fields of a row."""
        unit = self.cleaned_data.get("micrometer_unit") or self._micrometer_reads_in()
        return {"entry_unit": unit, **self._instrument("micrometer", MICROMETERS)}


class AnotherRoundForm(RoundSetUpForm):
    """Another round at the same places: only the micrometer is asked."""

    KEPT: ClassVar = ("micrometer",)
