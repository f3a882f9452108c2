"""Forms of the store."""

from datetime import date
from typing import Any, ClassVar, Final

from django import forms
from django.utils.translation import gettext_lazy as _

from compass.evidence.shop import MINUTES, PRICES, WARRANTY_KM, WEAR_ALLOWANCE_MM
from compass.ground.units import Unit
from compass.prove.check_back import CHANCE
from workshop.fields import (
    ChanceField,
    InOwnUnit,
    LengthField,
    NumberField,
    distance_field,
    number_formfield,
    speak_all,
    torque_field,
)
from workshop.models import (
    MINUTE_FIELDS,
    PRICE_FIELDS,
    Instrument,
    Lathe,
    PlateKind,
    ShopFigures,
    TorqueWrench,
)
from workshop.versions import SeenForm


class InstrumentForm(InOwnUnit, SeenForm):
    """An instrument and its last check."""

    graduation_mm = LengthField(label=_("Graduation"), most_mm=1)
    error_limit_mm = LengthField(label=_("Error limit"), most_mm=1, least_mm=-1.0)

    class Meta:
        model = Instrument
        formfield_callback = number_formfield
        fields = (
            "name",
            "kind",
            "native",
            "graduation_mm",
            "face",
            "divisions",
            "error_limit_mm",
            "checked_on",
            "check_every_days",
            "retired",
        )
        widgets: ClassVar = {"checked_on": forms.DateInput({"type": "date"}, format="%Y-%m-%d")}


class CheckForm(InOwnUnit, forms.Form):
    """One check of an instrument against a standard."""

    on = forms.DateField(label=_("Checked on"), widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"))
    standard_mm = LengthField(label=_("Standard"), most_mm=300, least_mm=-1.0, large=True)
    shown_mm = LengthField(label=_("It showed"), most_mm=300, least_mm=-1.0, large=True)
    note = forms.CharField(label=_("Note"), max_length=200, required=False)

    def __init__(self, *args: Any, today: date, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.today = today

    def clean_on(self) -> date:
        """Refuse a day that has not come yet."""
        on: date = self.cleaned_data["on"]
        if on > self.today:
            raise forms.ValidationError(_("That day has not come yet."))
        return on


class StudyForm(InOwnUnit, forms.Form):
    """Who takes part in a repeatability study, how many parts, how many turns each."""

    persons = forms.CharField(label=_("Who measures, with commas between"), max_length=200)
    parts = NumberField(label=_("Parts (stations marked on a disc)"), least=2, most=12, whole=True)
    turns = NumberField(label=_("Turns each"), least=2, most=5, whole=True)
    limit_mm = LengthField(label=_("Limit it is to judge"), most_mm=1)

    def clean_persons(self) -> list[str]:
        """Split the names; two to six, each once."""
        names = [name.strip()[:60] for name in self.cleaned_data["persons"].split(",") if name.strip()]
        if not 2 <= len(names) <= 6 or len(set(names)) != len(names):
            raise forms.ValidationError(_("Two to six different names, with commas between."))
        return names


class WrenchForm(InOwnUnit, SeenForm):
    """A torque wrench and its last check."""

    least_nm = torque_field(label=_("From"), required=True)
    most_nm = torque_field(label=_("Up to"), required=True)

    class Meta:
        model = TorqueWrench
        formfield_callback = number_formfield
        fields = ("name", "least_nm", "most_nm", "checked_on", "off_percent", "check_every_days", "retired")
        widgets: ClassVar = {"checked_on": forms.DateInput({"type": "date"}, format="%Y-%m-%d")}

    def clean(self) -> dict[str, Any]:
        """Hold the ends of its span against each other."""
        data = super().clean() or {}
        least, most = data.get("least_nm"), data.get("most_nm")
        if least and most and most <= least:
            self.add_error("most_nm", _("Must be more than where it begins."))
        return data


_NEXT_TO_NOTHING_MM: Final = 1e-4  # no knob is set so finely, and no case file holds less


class LatheForm(InOwnUnit, SeenForm):
    """A lathe's profile, lengths in the person's own unit."""

    mm_per_line = LengthField(
        label=_("One line of the knob feeds"), least_mm=_NEXT_TO_NOTHING_MM, most_mm=1, required=False
    )
    min_depth_mm = LengthField(label=_("Least depth, a face and pass"), most_mm=1)
    max_vented_mm = LengthField(label=_("Most, vented disc"), least_mm=_NEXT_TO_NOTHING_MM, most_mm=2, required=False)
    max_solid_mm = LengthField(label=_("Most, solid disc"), least_mm=_NEXT_TO_NOTHING_MM, most_mm=2, required=False)
    finish_depth_mm = LengthField(
        label=_("A finish pass takes"), least_mm=_NEXT_TO_NOTHING_MM, most_mm=1, required=False
    )
    runout_left_mm = LengthField(label=_("Runout it leaves"), most_mm=0.2)

    class Meta:
        model = Lathe
        formfield_callback = number_formfield
        fields = (
            "name",
            "kind",
            "mm_per_line",
            "runout_left_mm",
            "min_depth_mm",
            "finish_depth_mm",
            "max_vented_mm",
            "max_solid_mm",
            "feed_rough",
            "feed_finish",
            "tip_corners",
            "tip_corner_now",
            "retired",
        )

    def clean(self) -> dict[str, Any]:
        """Hold depths and tip corners against each other."""
        data = super().clean() or {}
        least = data.get("min_depth_mm")
        for name in ("max_vented_mm", "max_solid_mm", "finish_depth_mm"):
            if least and data.get(name) and data[name] < least:
                self.add_error(name, _("Less than the least depth: the tip would rub and burn. Check both."))
        corners, now = data.get("tip_corners"), data.get("tip_corner_now")
        if corners and now and not 1 <= now <= corners:
            self.add_error("tip_corner_now", _("This tip has %(n)s corners.") % {"n": corners})
        return data


class PlateForm(InOwnUnit, SeenForm):
    """A kind of correction plate and its stock."""

    correction_mm = LengthField(label=_("Correction (TIR)"), most_mm=1)
    reference_radius_mm = LengthField(label=_("At radius"), most_mm=400, large=True)

    class Meta:
        model = PlateKind
        formfield_callback = number_formfield
        fields = ("correction_mm", "reference_radius_mm", "studs", "positions", "stock")


class FiguresForm(forms.ModelForm):
    """The workshop's own prices, minutes and policy; what is left empty is an estimate, shown in the field."""

    wear_allowance_mm = LengthField(label=_("Wear allowance over discard"), most_mm=5, required=False)
    look_again_chance = ChanceField(label=_("Look again before the odds of a comeback reach (%)"), required=False)
    version = forms.IntegerField(widget=forms.HiddenInput)

    class Meta:
        model = ShopFigures
        fields = (
            "policy",
            "currency",
            *PRICE_FIELDS.values(),
            *MINUTE_FIELDS.values(),
            "warranty_km",
            "wear_allowance_mm",
            "look_again_chance",
            "called",
            "ring_us",
            "trainees_work",
            "leaves_lathe",
            "second_signs",
        )

    def __init__(self, *args: Any, unit: Unit, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.initial["version"] = self.instance.version
        estimates = {PRICE_FIELDS[k]: v for k, v in PRICES.items()}
        estimates |= {MINUTE_FIELDS[k]: v for k, v in MINUTES.items() if k in MINUTE_FIELDS}
        estimates |= {"warranty_km": WARRANTY_KM}
        for name in estimates:
            kind = distance_field if name == "warranty_km" else NumberField
            label = str(self.fields[name].label).removesuffix(" (km)")  # the field names its reader's unit itself
            self.fields[name] = kind(label=label, required=False)
        estimates |= {"wear_allowance_mm": WEAR_ALLOWANCE_MM, "look_again_chance": CHANCE}
        speak_all(self, unit)
        for name, estimate in estimates.items():
            shown = self.fields[name].prepare_value(estimate)
            self.fields[name].widget.attrs["placeholder"] = f"≈ {shown}"

    def figures(self) -> dict[str, Any]:
        """Return the cleaned figures without the version."""
        return {name: value for name, value in self.cleaned_data.items() if name != "version"}

    @property
    def money(self) -> list[forms.BoundField]:
        """Currency and prices."""
        return [self[name] for name in ("currency", *PRICE_FIELDS.values())]

    @property
    def time(self) -> list[forms.BoundField]:
        """Minutes a corner."""
        return [self[name] for name in MINUTE_FIELDS.values()]

    @property
    def distance(self) -> list[forms.BoundField]:
        """Warranty and wear."""
        return [self["warranty_km"], self["wear_allowance_mm"], self["look_again_chance"]]

    @property
    def letterhead(self) -> list[forms.BoundField]:
        """What stands on sheets for owners."""
        return [self["called"], self["ring_us"]]
