"""The complaint interview: choices into the words of the case file. Feel orders the measuring, no more."""

import json
from collections.abc import Callable, Collection
from functools import cache, partial
from typing import Any, Final

from django import forms
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from compass.ground.units import KM_PER_MILE, Unit
from jobs.complaint.two_hands import interview_of
from jobs.models import Job
from jobs.odometer import HoldsOdometer, read_after, read_before
from workshop.fields import InOwnUnit, NumberField, distance_field, speak_all, speed_field
from workshop.models import User, Vehicle
from workshop.words import distance_text, plain_number, speed_in

FELT: Final = (("pedal", _("pedal")), ("steering_wheel", _("steering wheel")), ("seat", _("seat")))
FELT_ON_A_MOTORCYCLE: Final = (("pedal", _("lever or pedal")), ("steering_wheel", _("handlebar")), ("seat", _("seat")))
WHEN: Final = (("braking", _("when braking")), ("always", _("without braking too")))
BRAKING: Final = (("light", _("light")), ("moderate", _("moderate")), ("hard", _("hard")))
HEAT: Final = (
    ("", _("not said")),
    ("worse_hot", _("worse hot")),
    ("worse_cold", _("worse cold")),
    ("same", _("the same")),
)
HISTORY: Final = (
    ("wheels_off", _("wheels off")),
    ("pads_renewed", _("pads renewed")),
    ("rotors_renewed", _("rotors renewed")),
    ("kerb_strike", _("kerb struck")),
    ("stood_unused", _("stood unused")),
    ("towing", _("towing, heavy loads")),
    ("hub_or_bearing_work", _("hub or bearing work")),
    ("tyres_renewed", _("tyres renewed")),
)
_BOXES: Final = forms.CheckboxSelectMultiple


class StoryForm(InOwnUnit, forms.Form):
    """What the driver tells, by choice; every field may stay empty."""

    felt_in = forms.MultipleChoiceField(label=_("Felt in"), choices=FELT, required=False, widget=_BOXES)
    when = forms.MultipleChoiceField(label=_("When"), choices=WHEN, required=False, widget=_BOXES)
    braking = forms.MultipleChoiceField(label=_("Braking"), choices=BRAKING, required=False, widget=_BOXES)
    heat = forms.ChoiceField(label=_("Heat"), choices=HEAT, required=False, widget=forms.RadioSelect)
    speed_from = speed_field(label=_("from"), required=False)
    speed_to = speed_field(label=_("to"), required=False)
    frequency_hz = NumberField(label=_("Shakes a second"), least=0.1, most=200, unit="Hz", required=False)
    history = forms.MultipleChoiceField(label=_("Lately"), choices=HISTORY, required=False, widget=_BOXES)
    km_since_work = distance_field(label=_("Driven since that work"), most=1_000_000, required=False)
    was = forms.CharField(required=False, widget=forms.HiddenInput)  # the story that this page was drawn from

    def __init__(self, *args: Any, kind: str = "", **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if kind == Vehicle.Kind.MOTORCYCLE:
            self.fields["felt_in"].choices = FELT_ON_A_MOTORCYCLE
        for name in ("felt_in", "speed_from", "speed_to"):  # they stand on the drawn vehicle, outside the form
            self.fields[name].widget.attrs["form"] = "story"

    def clean(self) -> dict[str, Any]:
        """Ask for both ends of the speeds, the lower first."""
        data = super().clean() or {}
        low, high = data.get("speed_from"), data.get("speed_to")
        if (low is None) != (high is None) and not self.errors:
            self.add_error("speed_to" if high is None else "speed_from", _("Type both ends of the speeds."))
        if low is not None and high is not None and low > high:
            self.add_error("speed_from", _("The lower speed first."))
        return data

    def clean_was(self) -> dict[str, Any] | None:
        """Read the story; what is none is as if nothing was sent."""
        try:
            was = json.loads(self.cleaned_data["was"])
        except (ValueError, RecursionError):
            return None
        return was if isinstance(was, dict) else None

    def answer(self, name: str, story: dict[str, Any], unit: Unit) -> tuple[str, str]:
        """Return the question of one answer that both hands may have given, and what ``story`` says to it, in words."""
        value = story.get(name)
        if name == "speed_kmh":
            speeds = [speed_in(speed, unit) for speed in value or ()]
            return str(self["speed_from"].label), " – ".join(f"{v:.0f} {u}" for v, u in speeds) or str(_("not said"))
        label = str(self[name].label)
        if value is None:
            return label, str(_("not said"))
        if name == "km_since_work":
            return label, distance_text(value, unit)
        return label, str(dict(HEAT)[value]) if name == "heat" else f"{plain_number(value)} Hz"

    def story(self) -> dict[str, Any]:
        """Return the answers in the words of a case file's complaint; what was not said is left out."""
        data = self.cleaned_data
        answers: dict[str, Any] = {
            name: data[name]
            for name in ("felt_in", "when", "braking", "heat", "frequency_hz", "history", "km_since_work")
        }
        if data.get("speed_from") is not None:
            answers["speed_kmh"] = [data["speed_from"], data["speed_to"]]
        return {name: value for name, value in answers.items() if value not in (None, "", [])}


def story_initial(story: dict[str, Any]) -> dict[str, Any]:
    """Return a story as the form's starting values."""
    speeds = story.get("speed_kmh")
    return (
        story
        | {"was": json.dumps(interview_of(story))}
        | ({"speed_from": speeds[0], "speed_to": speeds[1]} if speeds else {})
    )


def _to_choose_from(drawn: Callable[[], list[User]], nobody: str, roles: Collection[str]) -> list[tuple[Any, str]]:
    return [("", nobody), *((person.pk, str(person)) for person in drawn() if person.role in roles)]


class JobWordsForm(HoldsOdometer, forms.ModelForm):
    """The complaint, odometer, who has it, and where it stands."""

    version = forms.IntegerField(widget=forms.HiddenInput)
    odometer_km = distance_field(label=_("Odometer"), required=False)

    class Meta:
        model = Job
        fields = ("complaint", "odometer_km", "assigned_to", "with_trainee", "state")
        widgets = {"complaint": forms.Textarea({"rows": 2})}

    def __init__(self, *args: Any, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["state"].choices = [c for c in Job.State.choices if c[0] != Job.State.CLOSED]
        people = User.of(user).filter(is_active=True).order_by("last_name")
        trainees = people.filter(role=User.Role.TRAINEE)
        # What is drawn of both comes of one query; what is sent is held against each one's own.
        drawn = cache(lambda: list(people))
        for name, held, nobody, roles in (
            ("assigned_to", people, _("nobody yet"), User.Role.values),
            ("with_trainee", trainees, _("none"), [User.Role.TRAINEE]),
        ):
            self.fields[name].queryset = held
            self.fields[name].widget.choices = partial(_to_choose_from, drawn, nobody, roles)
        self.unit = user.unit
        speak_all(self, user.unit)

    def clean_odometer_km(self) -> int | None:
        """Leave stored kilometres alone where only their rounding to miles was sent back."""
        km: int | None = self.cleaned_data["odometer_km"]
        stored = self.initial.get("odometer_km")
        return stored if km is not None and stored is not None and abs(km - stored) < KM_PER_MILE / 2 else km

    def clean(self) -> dict[str, Any]:
        """Ask back about an odometer that was changed to one that cannot be."""
        data: dict[str, Any] = super().clean() or {}
        km, job = data.get("odometer_km"), self.instance
        if km != self.initial.get("odometer_km"):
            day = timezone.localdate(job.created_at)
            self.hold_odometer(km, self.unit, before=read_before(job.vehicle, job), after=read_after(job), on=day)
        return data
