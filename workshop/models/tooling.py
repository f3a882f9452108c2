"""What the workshop works with and asks: lathes, correction plates in stock, its own prices, minutes and policy."""

from typing import Any, ClassVar, Final

from django.db import models
from django.db.models import F, Q
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from workshop.models.door import InWorkshop
from workshop.models.people import User


class Lathe(InWorkshop):
    """A brake lathe with its profile: knob, depths a face and pass, feeds, tips, and the runout it leaves."""

    class Kind(models.TextChoices):
        """Where the rotor is cut."""

        ON_VEHICLE = "on_vehicle", _("on the vehicle")
        BENCH = "bench", _("on the bench")

    name = models.CharField(_("name"), max_length=40)
    kind = models.CharField(_("cuts"), max_length=10, choices=Kind.choices, default=Kind.ON_VEHICLE)
    mm_per_line = models.FloatField(_("one line of the knob"), null=True, blank=True)
    min_depth_mm = models.FloatField(_("least depth, a face and pass"))
    max_vented_mm = models.FloatField(_("most depth, vented disc"), null=True, blank=True)
    max_solid_mm = models.FloatField(_("most depth, solid disc"), null=True, blank=True)
    finish_depth_mm = models.FloatField(_("depth of a finish pass"), null=True, blank=True)
    runout_left_mm = models.FloatField(_("runout it leaves at the disc's edge"))
    feed_rough = models.CharField(_("feed, rough"), max_length=30, blank=True)
    feed_finish = models.CharField(_("feed, finish"), max_length=30, blank=True)
    tip_corners = models.PositiveSmallIntegerField(_("corners of a tip"), default=3)
    tip_corner_now = models.PositiveSmallIntegerField(_("corner in use"), default=1)
    retired = models.BooleanField(_("out of use"), default=False)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["kind", "name"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "name"], name="lathe_name_once"),
            models.CheckConstraint(condition=Q(min_depth_mm__gte=0, runout_left_mm__gte=0), name="lathe_not_negative"),
            models.CheckConstraint(
                condition=Q(tip_corner_now__gte=1) & Q(tip_corner_now__lte=F("tip_corners")), name="lathe_tip_exists"
            ),
        ]

    def __str__(self) -> str:
        """Show its name."""
        return self.name


class PlateKind(InWorkshop):
    """A kind of correction plate, and how many of it are left. A plate that was fitted never comes back."""

    correction_mm = models.FloatField(_("correction (TIR)"))
    reference_radius_mm = models.FloatField(_("at radius"))
    studs = models.PositiveSmallIntegerField(_("studs"), default=5)
    positions = models.PositiveSmallIntegerField(_("positions round the hub"), default=10)
    stock = models.PositiveIntegerField(_("in stock"), default=0)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["studs", "correction_mm"]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["workshop", "correction_mm", "reference_radius_mm", "studs", "positions"],
                name="plate_kind_once",
            ),
            models.CheckConstraint(
                condition=Q(correction_mm__gt=0, reference_radius_mm__gt=0, positions__gte=1, studs__gte=1),
                name="plate_above_zero",
            ),
            models.CheckConstraint(condition=Q(stock__gte=0), name="plate_stock_not_negative"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"{self.correction_mm:g} mm / {self.studs}"


PRICE_FIELDS: Final = {
    "labour_per_hour": "labour_per_hour",
    "rotor": "price_rotor",
    "plate": "price_plate",
    "hub_unit": "price_hub_unit",
    "comeback": "price_comeback",
}
MINUTE_FIELDS: Final = {
    name: f"minutes_{name}"
    for name in ("clean_and_torque", "index", "plate", "bench_cut", "on_vehicle_cut", "new_rotors", "hub_unit")
}


class ShopFigures(InWorkshop):
    """The workshop's own figures, one row. What is left empty is our estimate (``compass.evidence.shop``)."""

    class School(models.TextChoices):
        """The policies of ``compass.choose.policies``."""

        LEAST_COST = "least_cost", _("least cost, comebacks counted")
        INDEX_FIRST = "index_first", _("try indexing first")
        MATCH_ON_VEHICLE = "match_on_vehicle", _("match on the vehicle")
        PLATE = "plate", _("plate before metal")
        REPLACE_PAIRS = "replace_pairs", _("replace in pairs")

    called = models.CharField(_("the workshop's name, for sheets"), max_length=80, blank=True)
    ring_us = models.CharField(_("how to reach it"), max_length=80, blank=True)
    policy = models.CharField(_("policy"), max_length=16, choices=School.choices, default=School.LEAST_COST)
    currency = models.CharField(_("currency"), max_length=4, default="kr")
    labour_per_hour = models.FloatField(_("labour, an hour"), null=True, blank=True)
    price_rotor = models.FloatField(_("a rotor"), null=True, blank=True)
    price_plate = models.FloatField(_("a plate"), null=True, blank=True)
    price_hub_unit = models.FloatField(_("a hub unit"), null=True, blank=True)
    price_comeback = models.FloatField(_("a comeback costs"), null=True, blank=True)
    minutes_clean_and_torque = models.FloatField(_("clean and torque"), null=True, blank=True)
    minutes_index = models.FloatField(_("turn on the studs"), null=True, blank=True)
    minutes_plate = models.FloatField(_("fit a plate"), null=True, blank=True)
    minutes_bench_cut = models.FloatField(_("machine on the bench"), null=True, blank=True)
    minutes_on_vehicle_cut = models.FloatField(_("match on the vehicle"), null=True, blank=True)
    minutes_new_rotors = models.FloatField(_("replace a rotor"), null=True, blank=True)
    minutes_hub_unit = models.FloatField(_("replace a hub unit"), null=True, blank=True)
    warranty_km = models.FloatField(_("warranty distance (km)"), null=True, blank=True)
    wear_allowance_mm = models.FloatField(_("wear allowance over discard"), null=True, blank=True)
    trainees_work = models.BooleanField(
        _("trainees carry out steps, a second person passes their hold points"), default=False
    )
    leaves_lathe = models.BooleanField(
        _("other work goes on beside a running lathe, within sight of its stop"), default=False
    )
    second_signs = models.BooleanField(_("work that cut metal is signed off by a second person"), default=False)
    look_again_chance = models.FloatField(_("chance of being felt again before it is looked at"), null=True, blank=True)
    version = models.PositiveIntegerField(default=1)
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop"], name="shop_figures_once")]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return "shop figures"

    @classmethod
    def in_force(cls, person: User) -> "ShopFigures":
        """Return the figures of a person's workshop, or empty ones that were never saved."""
        figures: ShopFigures | None = cls.of(person).first()
        return figures or cls(workshop_id=person.here_id)

    def told(self, fields: dict[str, str]) -> dict[str, Any]:
        """Return what the workshop says itself: name → figure, what is empty left out."""
        return {name: getattr(self, field) for name, field in fields.items() if getattr(self, field) is not None}
