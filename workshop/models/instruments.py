"""Dials, micrometers and calipers, with their checks."""

from datetime import date
from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from workshop.models.door import InWorkshop


class Instrument(InWorkshop):
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

    name = models.CharField(_("name"), max_length=40)
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
            models.UniqueConstraint(fields=["workshop", "name"], name="instrument_name_once"),
            models.CheckConstraint(condition=Q(graduation_mm__gt=0, divisions__gte=2), name="instrument_can_read"),
        ]

    def __str__(self) -> str:
        """Show its name."""
        return self.name

    def is_due(self, today: date) -> bool:
        """Whether it is to be checked against its standard before it is believed further."""
        return self.checked_on is None or (today - self.checked_on).days > self.check_every_days
