"""Forms about a vehicle."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from compass.ground.units import Unit
from jobs.floor.naming import NamesVehicle
from jobs.models import Job, RotorFitting
from jobs.odometer import HoldsOdometer, read_before
from jobs.vehicle.moving import HELD, held, is_slip
from jobs.vehicle.putting_right import stays
from workshop.fields import InOwnUnit, LengthField, distance_field
from workshop.models import POSITION_NAMES, SHAPES, User, Vehicle
from workshop.versions import SeenForm


class FittingForm(InOwnUnit, HoldsOdometer, forms.Form):
    """That a rotor was fitted."""

    position = forms.ChoiceField(label=_("Corner"))
    odometer_km = distance_field(label=_("Odometer when fitted"))
    thickness_mm = LengthField(label=_("Thickness then"), most_mm=100, large=True)
    source = forms.ChoiceField(label=_("Thickness is"), choices=RotorFitting.Source.choices)

    def __init__(self, *args: Any, unit: Unit, vehicle: Vehicle, **kwargs: Any) -> None:
        super().__init__(*args, unit=unit, **kwargs)
        self.unit, self.vehicle = unit, vehicle
        self.fields["position"].choices = [(p, POSITION_NAMES[p]) for p in vehicle.positions]

    def clean(self) -> dict[str, Any]:
        """Ask back about an odometer that the vehicle cannot have reached; it may well have been fitted long ago."""
        data = super().clean() or {}
        km, last = data.get("odometer_km"), read_before(self.vehicle)
        if km is not None and last is not None and km > last.km:
            self.hold_odometer(km, self.unit, before=last)
        return data


class NameForm(SeenForm):
    """What a vehicle is called, and what it is, put right."""

    kind = forms.ChoiceField(label=_("Kind"), choices=SHAPES)

    class Meta:
        """Its kind is not among them: kind and layout are one choice."""

        model = Vehicle
        fields = ("label", "registration", "model")

    def __init__(self, *args: Any, user: User, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.user = user
        self.fields["kind"].initial = "/".join(filter(None, (self.instance.kind, self.instance.layout)))

    def clean(self) -> dict[str, Any]:
        """Refuse what names another vehicle of the fleet, and wheels that it cannot have."""
        data = super().clean()
        if "kind" in data:
            data["kind"], _slash, data["layout"] = data["kind"].partition("/")
            if stays(self.user, self.instance, kind=data["kind"], layout=data["layout"]):
                self.add_error("kind", HELD["bound"])
        for name in ("label", "registration"):
            typed = data.get(name)
            other = Vehicle.of(self.user).exclude(pk=self.instance.pk).named(typed) if typed else None
            if other is not None:
                self.add_error(name, _("%(vehicle)s is called that.") % {"vehicle": f"{other} ({other.described})"})
        return data


class MoveForm(NamesVehicle, HoldsOdometer, InOwnUnit, forms.Form):
    """Which vehicle a job is of: one of the fleet, by name or registration."""

    label = forms.CharField(
        label=_("The vehicle it is of"),
        max_length=60,
        widget=forms.TextInput({"list": "fleet", "autocomplete": "off", "autofocus": True}),
    )
    odometer_km = distance_field(label=_("Odometer"), required=False)
    take_out = forms.BooleanField(required=False)

    def __init__(self, *args: Any, user: User, job: Job, **kwargs: Any) -> None:
        super().__init__(*args, unit=user.unit, initial={"odometer_km": job.odometer_km}, **kwargs)
        self.user, self.job = user, job
        slip = _("“%(name)s” was a slip: take it out of the fleet")
        self.fields["take_out"].label = slip % {"name": job.vehicle}
        self.fields["take_out"].initial = not job.vehicle.limits.exists()  # nobody has typed anything for it
        if not is_slip(job):
            del self.fields["take_out"]

    def clean(self) -> dict[str, Any]:
        """Find the vehicle, and hold the job's odometer against its own."""
        data = super().clean() or {}
        label = (data.get("label") or "").strip()
        named = self.named_vehicle(label, may_be_new=False, but=self.job.vehicle) if label else None
        vehicle = data["vehicle"] = named
        if vehicle is None:
            return data
        if why := held(self.user, self.job, vehicle):
            self.add_error("label", HELD[why])
        else:
            before = read_before(vehicle, self.job)
            self.hold_odometer(data.get("odometer_km"), self.user.unit, before=before)
        return data
