"""Vehicles and the wheels they have."""

import re
from typing import ClassVar, Final

from django.db import models
from django.db.models import Q, Value
from django.db.models.functions import Lower, Replace
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from compass.ground.positions import BY_KIND, LAYOUTS
from workshop.models.door import InWorkshop

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
    "A3L": _("Axle 3 left"),
    "A3R": _("Axle 3 right"),
}


_SPACING: Final = re.compile(r"[\s-]")


def without_spacing(name: str) -> str:
    """Return a name without what separates: "IS 11-207" is "IS11207"."""
    return _SPACING.sub("", name)


def _bare(column: str) -> models.Func:
    """Return a column as ``without_spacing`` does."""
    return Replace(Replace(column, Value(" ")), Value("-"))


class VehicleQuerySet(models.QuerySet["Vehicle"]):
    """Named reads of vehicles."""

    def matching(self, words: str) -> "VehicleQuerySet":
        """Keep vehicles whose label or registration, however spaced, holds every word."""
        rows = self.annotate(bare_registration=_bare("registration"))
        for word in words.split()[:6]:
            holds = Q(label__icontains=word) | Q(registration__icontains=word)
            if bare := without_spacing(word):
                holds |= Q(bare_registration__icontains=bare)
            rows = rows.filter(holds)
        return rows

    def named(self, words: str) -> "Vehicle | None":
        """Return the vehicle of just this label, else this registration, however spaced; None where there is none."""
        rows = self.annotate(bare_label=_bare("label"), bare_registration=_bare("registration"))
        bare = without_spacing(words)
        alike = (Q(label__iexact=words), Q(registration__iexact=words))
        alike += (Q(bare_label__iexact=bare), Q(bare_registration__iexact=bare)) if bare else ()
        found = (rows.filter(same).order_by("pk").first() for same in alike if words)
        return next((vehicle for vehicle in found if vehicle is not None), None)


class Vehicle(InWorkshop):
    """A vehicle of the fleet."""

    class Kind(models.TextChoices):
        """Decides the positions of its corners."""

        CAR = "car", _("car")
        VAN = "van", _("van")
        LIGHT_TRUCK = "light_truck", _("light truck")
        TRAILER = "trailer", _("trailer")
        MOTORCYCLE = "motorcycle", _("motorcycle")

    class Layout(models.TextChoices):
        """Wheels and discs other than its kind usually has."""

        USUAL = "", _("as usual")
        ONE_AXLE = "one_axle", _("one axle")
        THREE_AXLES = "three_axles", _("three axles")
        TWO_FRONT_DISCS = "two_front_discs", _("two front discs")
        TWIN_REAR = "twin_rear", _("twin rear wheels")

    label = models.CharField(_("name"), max_length=60)
    registration = models.CharField(_("registration"), max_length=16, blank=True)
    kind = models.CharField(_("kind"), max_length=12, choices=Kind.choices, default=Kind.VAN)
    layout = models.CharField(_("wheels"), max_length=16, choices=Layout.choices, blank=True, default="")
    model = models.CharField(_("make and model"), max_length=60, blank=True)
    odometer_km = models.PositiveIntegerField(_("odometer (km)"), null=True, blank=True)
    rolling_circumference_mm = models.PositiveIntegerField(_("rolling circumference (mm)"), null=True, blank=True)
    history = HistoricalRecords()

    objects = VehicleQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["label"]
        constraints: ClassVar = [
            models.UniqueConstraint("workshop", Lower("label"), name="vehicle_label_once"),
            models.CheckConstraint(condition=~Q(label=""), name="vehicle_has_a_label"),
        ]

    def __str__(self) -> str:
        """Show the fleet name."""
        return self.label

    @property
    def positions(self) -> tuple[str, ...]:
        """The corners this vehicle has."""
        return LAYOUTS.get(self.layout, BY_KIND[self.kind])

    @property
    def shape(self) -> str:
        """Its kind and layout in words."""
        return str(self.get_kind_display()) + (f", {self.get_layout_display()}" if self.layout else "")

    @property
    def described(self) -> str:
        """Its model, shape and registration, as far as they are told."""
        return " · ".join(filter(None, (self.model, self.shape, self.registration)))

    @property
    def is_motorcycle(self) -> bool:
        """Whether its discs are bolted to its wheels, and the wheels stand on axles."""
        return self.kind == self.Kind.MOTORCYCLE

    def has_twin_wheels(self, axle: str) -> bool:
        """Whether two wheels stand on each hub of an axle."""
        return axle == "R" and self.layout == self.Layout.TWIN_REAR


# What a vehicle can be, as one choice: kind, then layout where it is not the usual one.
SHAPES: Final = (
    ("car", _("car")),
    ("van", _("van")),
    ("light_truck", _("light truck")),
    ("light_truck/twin_rear", _("light truck, twin rear wheels")),
    ("trailer/one_axle", _("trailer, one axle")),
    ("trailer", _("trailer, two axles")),
    ("trailer/three_axles", _("trailer, three axles")),
    ("motorcycle", _("motorcycle, one front disc")),
    ("motorcycle/two_front_discs", _("motorcycle, two front discs")),
)
