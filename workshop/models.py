"""People, vehicles, and the limits of an axle with their source."""

from typing import Any, ClassVar, Final

from django.contrib.auth.models import AbstractUser
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.db.models.functions import Lower
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords


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


class AxleLimits(models.Model):
    """Limits of one axle, as they stood from ``created_at`` on. A change is a new row, so a job keeps its limits."""

    class Rotor(models.TextChoices):
        """How the rotor is built."""

        VENTED = "vented", _("vented")
        SOLID = "solid", _("solid")

    class Source(models.TextChoices):
        """Where the figures come from."""

        CAST = "cast", _("cast on the part")
        MAKER = "maker", _("maker's service information")
        WORKSHOP = "workshop", _("workshop default")

    vehicle = models.ForeignKey(Vehicle, on_delete=models.CASCADE, related_name="limits")
    axle = models.CharField(_("axle"), max_length=2)
    studs = models.PositiveSmallIntegerField(_("studs"))
    rotor = models.CharField(_("rotor"), max_length=6, choices=Rotor.choices, default=Rotor.VENTED)
    features = ArrayField(models.CharField(max_length=16), verbose_name=_("features"), default=list, blank=True)
    discard_thickness_mm = models.FloatField(_("discard thickness"))
    max_runout_mm = models.FloatField(_("lateral runout, at most"))
    max_thickness_variation_mm = models.FloatField(_("thickness variation, at most"))
    measuring_radius_mm = models.FloatField(_("measuring radius"))
    nominal_thickness_mm = models.FloatField(_("thickness when new"), null=True, blank=True)
    machine_to_thickness_mm = models.FloatField(_("machine-to thickness"), null=True, blank=True)
    source = models.CharField(_("source"), max_length=8, choices=Source.choices, default=Source.MAKER)
    entered_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-created_at", "-pk"]
        indexes: ClassVar = [models.Index(fields=["vehicle", "axle", "-created_at"], name="limits_in_force")]
        constraints: ClassVar = [
            models.CheckConstraint(
                condition=Q(
                    discard_thickness_mm__gt=0,
                    max_runout_mm__gt=0,
                    max_thickness_variation_mm__gt=0,
                    measuring_radius_mm__gt=0,
                    studs__gte=1,
                ),
                name="limits_above_zero",
            ),
            models.CheckConstraint(
                condition=Q(nominal_thickness_mm__isnull=True) | Q(nominal_thickness_mm__gt=F("discard_thickness_mm")),
                name="limits_new_above_discard",
            ),
        ]

    def __str__(self) -> str:
        """Name vehicle and axle."""
        return f"{self.vehicle} {self.axle}"

    def figures(self) -> dict[str, Any]:
        """Return the figures alone, to compare one row with another."""
        names = (
            "studs",
            "rotor",
            "features",
            "discard_thickness_mm",
            "max_runout_mm",
            "max_thickness_variation_mm",
            "measuring_radius_mm",
            "nominal_thickness_mm",
            "machine_to_thickness_mm",
            "source",
        )
        return {name: getattr(self, name) for name in names}
