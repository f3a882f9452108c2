"""Checks of instruments and torque wrenches against a standard, torque wrenches, and repeatability studies."""

from datetime import date
from typing import ClassVar

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from workshop.models.door import InWorkshop
from workshop.models.instruments import Instrument
from workshop.models.people import User
from workshop.models.tooling import Lathe


class InstrumentCheck(InWorkshop):
    """One check of an instrument: what it showed of a standard."""

    instrument = models.ForeignKey(Instrument, on_delete=models.CASCADE, related_name="checks")
    on = models.DateField(_("checked on"))
    standard_mm = models.FloatField(_("standard"))
    shown_mm = models.FloatField(_("showed"))
    note = models.CharField(_("note"), max_length=200, blank=True)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    # Who struck it out: a slip stays on the record and counts for nothing.
    withdrawn_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")

    class Meta:
        ordering: ClassVar = ["on", "pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(standard_mm__gte=0, shown_mm__gte=0), name="check_is_a_length"),
        ]

    def __str__(self) -> str:
        """Name it for the trail."""
        return f"{self.instrument} {self.on}"

    @property
    def deviation_mm(self) -> float:
        """What it showed too much."""
        return self.shown_mm - self.standard_mm


class TorqueWrench(InWorkshop):
    """A torque wrench, with its last check."""

    name = models.CharField(_("name"), max_length=40)
    least_nm = models.FloatField(_("from"))
    most_nm = models.FloatField(_("up to"))
    checked_on = models.DateField(_("last checked"), null=True, blank=True)
    off_percent = models.FloatField(_("off by, at most (%)"), null=True, blank=True)
    check_every_days = models.PositiveSmallIntegerField(_("check every (days)"), default=365)
    retired = models.BooleanField(_("out of use"), default=False)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["name"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "name"], name="wrench_name_once"),
            models.CheckConstraint(condition=Q(least_nm__gt=0, most_nm__gt=models.F("least_nm")), name="wrench_span"),
        ]

    def __str__(self) -> str:
        """Show its name."""
        return self.name

    def is_due(self, today: date) -> bool:
        """Whether it is to be checked before it is believed further."""
        return self.checked_on is None or (today - self.checked_on).days > self.check_every_days


class RepeatabilityStudy(InWorkshop):
    """Readings of several parts by several persons, several turns each: who and what makes the spread.

    ``readings_mm`` stand person by person, part by part, turn by turn; None where one is not read yet.
    """

    instrument = models.ForeignKey(Instrument, on_delete=models.PROTECT, related_name="studies")
    persons = ArrayField(models.CharField(max_length=60))
    parts = models.PositiveSmallIntegerField()
    turns = models.PositiveSmallIntegerField()
    limit_mm = models.FloatField()
    typed = ArrayField(models.CharField(max_length=40, blank=True))
    readings_mm = ArrayField(models.FloatField(null=True, blank=True))
    version = models.PositiveIntegerField(default=1)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords(excluded_fields=["version"])

    class Meta:
        ordering: ClassVar = ["-pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(parts__gte=2, turns__gte=2, limit_mm__gt=0), name="study_is_crossed"),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.instrument} {self.pk}"


class TipTurned(InWorkshop):
    """That a lathe's tips were turned to another corner, or put in new."""

    lathe = models.ForeignKey(Lathe, on_delete=models.CASCADE, related_name="tips")
    corner = models.PositiveSmallIntegerField()
    new = models.BooleanField(default=False)
    discs = models.PositiveIntegerField(default=0)  # cut with the corner before
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["pk"]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.lathe} {self.corner}"
