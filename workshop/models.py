"""People, vehicles, and the limits of an axle with their source."""

from datetime import date
from typing import Any, ClassVar, Final

from django.contrib.auth.models import AbstractUser
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.db.models.functions import Lower
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from workshop.shop_models import Lathe, PlateKind, ShopFigures


class User(AbstractUser):
    """A person of the workshop, with the role that decides what they may do (workshop.policy)."""

    class Role(models.TextChoices):
        """What a person is here."""

        TECHNICIAN = "technician", _("technician")
        LEAD = "lead", _("workshop lead")
        TRAINEE = "trainee", _("trainee")

    class Units(models.TextChoices):
        """The system all figures are shown in."""

        MM = "mm", _("mm")
        THOU = "thou", _("thou")

    class Theme(models.TextChoices):
        """Paper for day, iron for dim bays."""

        DAY = "day", _("day")
        NIGHT = "night", _("night")

    role = models.CharField(_("role"), max_length=12, choices=Role.choices, default=Role.TRAINEE)
    units = models.CharField(_("units"), max_length=4, choices=Units.choices, default=Units.MM)
    theme = models.CharField(_("theme"), max_length=5, choices=Theme.choices, default=Theme.DAY)
    history = HistoricalRecords(excluded_fields=["password", "last_login", "units", "theme"])

    def __str__(self) -> str:
        """Show a person as the job card does: initial and family name."""
        if self.last_name:
            return f"{self.first_name[:1]}. {self.last_name}".strip(". ")
        return self.first_name or self.username


POSITIONS_BY_KIND: Final[dict[str, tuple[str, ...]]] = {
    "car": ("FL", "FR", "RL", "RR"),
    "van": ("FL", "FR", "RL", "RR"),
    "light_truck": ("FL", "FR", "RL", "RR"),
    "trailer": ("A1L", "A1R", "A2L", "A2R"),
    "motorcycle": ("F", "R"),
}
POSITION_NAMES: Final = {
    "FL": _("Front left"),
    "FR": _("Front right"),
    "RL": _("Rear left"),
    "RR": _("Rear right"),
    "F": _("Front"),
    "R": _("Rear"),
    "A1L": _("Axle 1 left"),
    "A1R": _("Axle 1 right"),
    "A2L": _("Axle 2 left"),
    "A2R": _("Axle 2 right"),
}


def axle_of(position: str) -> str:
    """Return the axle a position belongs to: FL → F, A1R → A1, F → F."""
    return position if position in ("F", "R") else position[:-1]


class VehicleQuerySet(models.QuerySet["Vehicle"]):
    """Named reads of vehicles."""

    def matching(self, words: str) -> "VehicleQuerySet":
        """Keep vehicles whose label or registration holds every word."""
        found = self
        for word in words.split()[:6]:
            found = found.filter(Q(label__icontains=word) | Q(registration__icontains=word))
        return found


class Vehicle(models.Model):
    """A vehicle of the fleet."""

    class Kind(models.TextChoices):
        """Decides the positions of its corners."""

        CAR = "car", _("car")
        VAN = "van", _("van")
        LIGHT_TRUCK = "light_truck", _("light truck")
        TRAILER = "trailer", _("trailer")
        MOTORCYCLE = "motorcycle", _("motorcycle")

    label = models.CharField(_("name"), max_length=60)
    registration = models.CharField(_("registration"), max_length=16, blank=True)
    kind = models.CharField(_("kind"), max_length=12, choices=Kind.choices, default=Kind.VAN)
    model = models.CharField(_("make and model"), max_length=60, blank=True)
    odometer_km = models.PositiveIntegerField(_("odometer (km)"), null=True, blank=True)
    rolling_circumference_mm = models.PositiveIntegerField(_("rolling circumference (mm)"), null=True, blank=True)
    history = HistoricalRecords()

    objects = VehicleQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["label"]
        constraints: ClassVar = [
            models.UniqueConstraint(Lower("label"), name="vehicle_label_once"),
            models.CheckConstraint(condition=~Q(label=""), name="vehicle_has_a_label"),
        ]

    def __str__(self) -> str:
        """Show the fleet name."""
        return self.label

    @property
    def positions(self) -> tuple[str, ...]:
        """The corners this vehicle has."""
        return POSITIONS_BY_KIND[self.kind]


class LimitFigures(models.Model):
    """The figures that a corner is judged by, with their source; base of an axle's and of the library's limits."""

    class Rotor(models.TextChoices):
        """How the rotor is built."""

        VENTED = "vented", _("vented")
        SOLID = "solid", _("solid")

    class Source(models.TextChoices):
        """Where the figures come from."""

        CAST = "cast", _("cast on the part")
        MAKER = "maker", _("maker's service information")
        WORKSHOP = "workshop", _("workshop default")

    axle = models.CharField(_("axle"), max_length=2)
    studs = models.PositiveSmallIntegerField(_("studs"))
    rotor = models.CharField(_("rotor"), max_length=6, choices=Rotor.choices, default=Rotor.VENTED)
    features = ArrayField(models.CharField(max_length=16), verbose_name=_("features"), default=list, blank=True)
    max_runout_mm = models.FloatField(_("lateral runout, at most"))
    max_thickness_variation_mm = models.FloatField(_("thickness variation, at most"))
    measuring_radius_mm = models.FloatField(_("measuring radius"))
    discard_thickness_mm = models.FloatField(_("discard thickness"))
    machine_to_thickness_mm = models.FloatField(_("machine-to thickness"), null=True, blank=True)
    nominal_thickness_mm = models.FloatField(_("thickness when new"), null=True, blank=True)
    max_hub_runout_mm = models.FloatField(_("hub runout, at most"), null=True, blank=True)
    hub_runout_radius_mm = models.FloatField(_("at hub radius"), null=True, blank=True)
    max_bearing_play_mm = models.FloatField(_("bearing play, at most"), null=True, blank=True)
    min_pad_mm = models.FloatField(_("pad, at least"), null=True, blank=True)
    max_drum_diameter_mm = models.FloatField(_("drum in the hat, at most"), null=True, blank=True)
    min_lining_mm = models.FloatField(_("shoe lining, at least"), null=True, blank=True)
    swept_inner_radius_mm = models.FloatField(_("swept band, inner radius"), null=True, blank=True)
    swept_outer_radius_mm = models.FloatField(_("swept band, outer radius"), null=True, blank=True)
    new_rotor_runout_mm = models.FloatField(_("new rotor's runout, at most"), null=True, blank=True)
    new_hub_runout_mm = models.FloatField(_("new hub's runout, at most"), null=True, blank=True)
    index_positions = ArrayField(models.FloatField(), verbose_name=_("indices allowed"), null=True, blank=True)
    wheel_torque_nm = models.FloatField(_("wheel torque (N·m)"), null=True, blank=True)
    source = models.CharField(_("source"), max_length=8, choices=Source.choices, default=Source.MAKER)
    entered_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True

    def figures(self) -> dict[str, Any]:
        """Return the figures alone, to compare one row with another."""
        return {name: getattr(self, name) for name in LIMIT_FIGURES}


LIMIT_FIGURES: Final = (
    "studs",
    "rotor",
    "features",
    "max_runout_mm",
    "max_thickness_variation_mm",
    "measuring_radius_mm",
    "discard_thickness_mm",
    "machine_to_thickness_mm",
    "nominal_thickness_mm",
    "max_hub_runout_mm",
    "hub_runout_radius_mm",
    "max_bearing_play_mm",
    "min_pad_mm",
    "max_drum_diameter_mm",
    "min_lining_mm",
    "swept_inner_radius_mm",
    "swept_outer_radius_mm",
    "new_rotor_runout_mm",
    "new_hub_runout_mm",
    "index_positions",
    "wheel_torque_nm",
    "source",
)


def _figure_constraints(kind: str) -> list[models.BaseConstraint]:
    """Return what the database itself refuses, whoever writes."""
    return [
        models.CheckConstraint(
            condition=Q(
                discard_thickness_mm__gt=0,
                max_runout_mm__gt=0,
                max_thickness_variation_mm__gt=0,
                measuring_radius_mm__gt=0,
                studs__gte=1,
            ),
            name=f"{kind}_above_zero",
        ),
        models.CheckConstraint(
            condition=Q(nominal_thickness_mm__isnull=True) | Q(nominal_thickness_mm__gt=F("discard_thickness_mm")),
            name=f"{kind}_new_above_discard",
        ),
    ]


class AxleLimits(LimitFigures):
    """Limits of one axle, as they stood from ``created_at`` on. A change is a new row, so a job keeps its limits."""

    vehicle = models.ForeignKey(Vehicle, on_delete=models.CASCADE, related_name="limits")

    class Meta:
        ordering: ClassVar = ["-created_at", "-pk"]
        indexes: ClassVar = [models.Index(fields=["vehicle", "axle", "-created_at"], name="limits_in_force")]
        constraints: ClassVar = _figure_constraints("limits")

    def __str__(self) -> str:
        """Name vehicle and axle."""
        return f"{self.vehicle} {self.axle}"


class LibraryQuerySet(models.QuerySet["LibraryLimits"]):
    """Named reads of the limits library."""

    def in_force(self) -> "LibraryQuerySet":
        """Keep the newest row of every model and axle, in their order."""
        return (
            self.select_related("entered_by").order_by("model", "axle", "-created_at", "-pk").distinct("model", "axle")
        )

    def of_model(self, model: str) -> "LibraryQuerySet":
        """Keep what is in force for one vehicle model."""
        return self.filter(model__iexact=model.strip()).in_force()


class LibraryLimits(LimitFigures):
    """Limits of a vehicle model's axle in the workshop's library; a change is a new row, the old stays."""

    model = models.CharField(_("vehicle model"), max_length=60)

    objects = LibraryQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["model", "axle", "-created_at"]
        indexes: ClassVar = [models.Index(fields=["model", "axle", "-created_at"], name="library_in_force")]
        constraints: ClassVar = _figure_constraints("library")

    def __str__(self) -> str:
        """Name model and axle."""
        return f"{self.model} {self.axle}"


class Instrument(models.Model):
    """A dial, micrometer or caliper of the workshop, with its last check against a standard."""

    class Kind(models.TextChoices):
        """What it measures with."""

        DIAL = "dial", _("dial indicator")
        MICROMETER = "micrometer", _("micrometer")
        CALIPER = "caliper", _("plain caliper, over the lips")

    class Face(models.TextChoices):
        """How a dial is numbered."""

        BALANCED = "balanced", _("balanced, both ways from zero")
        CONTINUOUS = "continuous", _("continuous, wraps")

    class Native(models.TextChoices):
        """The unit it reads in."""

        MM = "mm", _("mm")
        INCH = "in", _("inches")

    name = models.CharField(_("name"), max_length=40, unique=True)
    kind = models.CharField(_("kind"), max_length=10, choices=Kind.choices, default=Kind.DIAL)
    native = models.CharField(_("reads in"), max_length=2, choices=Native.choices, default=Native.MM)
    graduation_mm = models.FloatField(_("graduation"))
    face = models.CharField(_("face"), max_length=10, choices=Face.choices, default=Face.BALANCED)
    divisions = models.PositiveSmallIntegerField(_("divisions a turn"), default=100)
    error_limit_mm = models.FloatField(_("error limit"), default=0.0)
    checked_on = models.DateField(_("last checked"), null=True, blank=True)
    check_every_days = models.PositiveSmallIntegerField(_("check every (days)"), default=365)
    retired = models.BooleanField(_("out of use"), default=False)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["kind", "name"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(graduation_mm__gt=0, divisions__gte=2), name="instrument_can_read"),
        ]

    def __str__(self) -> str:
        """Show its name."""
        return self.name

    def is_due(self, today: date) -> bool:
        """Whether it is to be checked against its standard before it is believed further."""
        return self.checked_on is None or (today - self.checked_on).days > self.check_every_days


__all__ = [
    "LIMIT_FIGURES",
    "POSITION_NAMES",
    "AxleLimits",
    "Instrument",
    "Lathe",
    "LibraryLimits",
    "LimitFigures",
    "PlateKind",
    "ShopFigures",
    "User",
    "Vehicle",
    "axle_of",
]
