"""Limits of an axle as versions, and the limits library."""

from typing import Any, ClassVar, Final

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import F, Q
from django.utils.translation import gettext_lazy as _

from workshop.models.door import InWorkshop
from workshop.models.people import User
from workshop.models.vehicles import Vehicle


class LimitFigures(InWorkshop):
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
    caliper_torque_nm = models.FloatField(_("caliper bolts, torque (N·m)"), null=True, blank=True)
    bracket_torque_nm = models.FloatField(_("bracket bolts, torque (N·m)"), null=True, blank=True)
    hose_fitting_torque_nm = models.FloatField(_("hose fitting, torque (N·m)"), null=True, blank=True)
    pad_pin_torque_nm = models.FloatField(_("pad pin, torque (N·m)"), null=True, blank=True)
    axle_torque_nm = models.FloatField(_("wheel axle, torque (N·m)"), null=True, blank=True)
    hub_nut_torque_nm = models.FloatField(_("hub nut, torque (N·m)"), null=True, blank=True)
    disc_bolt_torque_nm = models.FloatField(_("disc bolts, torque (N·m)"), null=True, blank=True)
    source = models.CharField(_("source"), max_length=8, choices=Source.choices, default=Source.MAKER)
    entered_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True

    def figures(self) -> dict[str, Any]:
        """Return the figures alone, to compare one row with another."""
        return {name: getattr(self, name) for name in LIMIT_FIGURES}

    def torques_nm(self) -> dict[str, float]:
        """Return the torques that are on record, N·m, by the names the procedures have for them."""
        known = {name: getattr(self, column) for name, column in TORQUES.items()}
        return {name: newton_metres for name, newton_metres in known.items() if newton_metres}


MOST_STUDS: Final = 24  # no hub has more

# The torques of an axle by the names the procedures have for them, and their columns.
TORQUES: Final = {
    "wheel": "wheel_torque_nm",
    "caliper": "caliper_torque_nm",
    "bracket": "bracket_torque_nm",
    "hose_fitting": "hose_fitting_torque_nm",
    "pad_pin": "pad_pin_torque_nm",
    "axle": "axle_torque_nm",
    "hub_nut": "hub_nut_torque_nm",
    "disc_bolts": "disc_bolt_torque_nm",
}
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
    *TORQUES.values(),
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


def limit_label(name: str) -> str:
    """Name a figure of the limits."""
    return str(LimitFigures._meta.get_field(name).verbose_name)


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
        indexes: ClassVar = [models.Index(fields=["workshop", "model", "axle", "-created_at"], name="library_in_force")]
        constraints: ClassVar = _figure_constraints("library")

    def __str__(self) -> str:
        """Name model and axle."""
        return f"{self.model} {self.axle}"
