"""What is typed and pressed at the bench."""

from typing import Any, Final

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _lazy
from django.utils.translation import ngettext

from compass.evidence.records import Spec
from compass.evidence.shop import Shop
from compass.ground.errors import UnreadableNumberError
from compass.ground.translation import written
from compass.ground.units import Unit, parse_length
from compass.measure.dial import read_dial
from compass.simulate.marking import REMEDIES, Answer
from compass.words.codes import CAUSES, remedy_name
from practice.corner.acts import ACTS, Touch
from practice.corner.standing import DIAL
from workshop.models import POSITION_NAMES
from workshop.words import unreadable

_CAUSES: Final = (
    "none_found",
    "joint_contamination",
    "lug_torque",
    "hub_face_runout",
    "rotor_runout",
    "hub_and_rotor_together",
    "wheel_bearing",
    "bent_hub_or_axle",
    "runout_made_thickness_variation",
    "corrosion_or_pad_imprint",
    "pad_deposit_or_hot_spots",
)
_STATES: Final = (("within", _lazy("within")), ("over", _lazy("over")), ("too_close", _lazy("too close to call")))
_NOT_SAID: Final = ("", _lazy("not said"))


class TouchForm(forms.Form):
    """One act, and where the hand is."""

    act = forms.ChoiceField(choices=[(name, name) for name in ACTS])
    angle = forms.FloatField(min_value=-1e6, max_value=1e6, required=False)
    way = forms.IntegerField(min_value=-1, max_value=1, required=False)
    turn = forms.IntegerField(min_value=0, max_value=10_000, required=False)
    value = forms.CharField(max_length=200, required=False)

    def touch(self) -> Touch:
        """Return where the hand is."""
        told = self.cleaned_data
        way = -1 if told["way"] == -1 else 1
        return Touch((told["angle"] or 0.0) % 360.0, way, told["turn"] or 0, told["value"])


class AnswerForm(forms.Form):
    """What somebody says it is: the fields that the exercise asks for, no others."""

    def __init__(self, *args: Any, asks: tuple[str, ...], spec: Spec, corners: list[str], shop: Shop, **kwargs: Any):
        super().__init__(*args, **kwargs)
        self.spec = spec
        for ask in asks:
            getattr(self, f"_ask_{ask}")(spec, corners, shop)
        for field in self.fields.values():
            field.widget.attrs |= {"autocomplete": "off"}

    def _ask_high(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["stud"] = forms.IntegerField(
            label=_("High at stud"),
            min_value=1,
            max_value=spec.studs,
            required=False,
            widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        )
        self.fields["past"] = forms.FloatField(
            label=_("degrees past it"),
            min_value=-90,
            max_value=90,
            required=False,
            widget=forms.TextInput(attrs={"inputmode": "decimal"}),
        )

    def _ask_amount(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["amount"] = forms.CharField(
            label=_("amount (lines)"),
            max_length=20,
            required=False,
            widget=forms.TextInput(attrs={"inputmode": "decimal"}),
        )

    def _ask_state(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["state"] = _choice(_("Runout"), _STATES)

    def _ask_variation(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["variation"] = _choice(_("Thickness variation"), _STATES)

    def _ask_thinnest(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["thinnest"] = forms.CharField(
            label=_("thinnest (mm)"),
            max_length=20,
            required=False,
            widget=forms.TextInput(attrs={"inputmode": "decimal"}),
        )

    def _ask_corner(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["corner"] = _choice(_("Which wheel"), [(code, POSITION_NAMES[code]) for code in corners])

    def _ask_cause(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        self.fields["cause"] = _choice(_("What it is"), [(code, _(CAUSES[code])) for code in _CAUSES])

    def _ask_choice(self, spec: Spec, corners: list[str], shop: Shop) -> None:
        fits = [plate for plate in shop.plates if plate.studs == spec.studs]
        offered = [code for code in REMEDIES if code != "plate" or fits]
        remedies = [(code, _(remedy_name(code, corners[0]))) for code in offered]
        self.fields["remedy"] = _choice(_("What you do"), remedies)
        studs = [(str(k), ngettext("%(n)s stud on", "%(n)s studs on", k) % {"n": k}) for k in range(1, spec.studs)]
        self.fields["studs_on"] = _choice(_("if turned"), studs)
        plates = [(str(k), written(f"{plate.correction_mm} mm")) for k, plate in enumerate(fits)]
        self.fields["plate"] = _choice(_("if a plate"), plates)
        places = fits[0].angles_deg if fits else ()
        self.fields["thin_side"] = _choice(
            _("its thin side"), [(f"{angle:g}", _place(angle, spec.studs)) for angle in places]
        )

    def _length(self, name: str, unit: Unit) -> Any:
        text = self.cleaned_data.get(name)
        if not text:
            return None
        try:
            if unit is Unit.DIVISION:
                return read_dial(text, dial=DIAL, unit=unit, most_mm=10.0)[0].mm
            return parse_length(text, unit=unit, most_mm=100.0, signed=False).mm
        except UnreadableNumberError as error:
            raise ValidationError(unreadable(error), code=error.code) from error

    def clean_amount(self) -> float | None:
        """Return the amount in mm."""
        mm: float | None = self._length("amount", Unit.DIVISION)
        return mm

    def clean_thinnest(self) -> float | None:
        """Return the thinnest place in mm."""
        mm: float | None = self._length("thinnest", Unit.MM)
        return mm

    def clean(self) -> dict[str, Any]:
        """Want the setting of a remedy that has one."""
        told = super().clean() or {}
        if told.get("remedy") == "index" and not told.get("studs_on"):
            self.add_error("studs_on", _("How many studs on? Take one."))
        if told.get("remedy") == "plate":
            for name in ("plate", "thin_side"):
                if not told.get(name):
                    self.add_error(name, _("Which? Take one."))
        return told

    def answer(self, shop: Shop) -> Answer:
        """Return what was said, as the core marks it."""
        told = self.cleaned_data
        high = None
        if told.get("stud") is not None:
            high = 360.0 * (told["stud"] - 1) / self.spec.studs + (told.get("past") or 0.0)
        settings: dict[str, float] = {}
        if told.get("remedy") == "index":
            settings["index_deg"] = 360.0 / self.spec.studs * int(told["studs_on"])
        if told.get("remedy") == "plate":
            fits = [plate for plate in shop.plates if plate.studs == self.spec.studs]
            settings = {
                "plate_mm": fits[int(told["plate"])].correction_mm,
                "plate_deg": float(told["thin_side"]),
            }
        return Answer(
            high_deg=None if high is None else high % 360.0,
            tir_mm=told.get("amount"),
            state=told.get("state", ""),
            variation=told.get("variation", ""),
            thinnest_mm=told.get("thinnest"),
            corner=told.get("corner", ""),
            cause=told.get("cause", ""),
            remedy=told.get("remedy", ""),
            settings=settings,
        )


def _choice(label: str, choices: Any) -> forms.ChoiceField:
    return forms.ChoiceField(label=label, choices=[_NOT_SAID, *choices], required=False)


def _place(angle_deg: float, studs: int) -> str:
    half = round(angle_deg / 360 * studs * 2)
    stud, between = half // 2 % studs + 1, half % 2
    if between:
        return _("between studs %(a)s and %(b)s") % {"a": stud, "b": stud % studs + 1}
    return _("at stud %(n)s") % {"n": stud}
