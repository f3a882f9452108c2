"""A tape that listens to an instrument, and everything the instrument has sent: taken or not, and why."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _

from jobs.models.readings import Sweep, ThicknessRound
from workshop.models import DeviceKey, User
from workshop.models.door import InWorkshop


class Listening(InWorkshop):
    """One tape listening to one device, for a person, from then to then. A device is heard by one tape at a time."""

    key = models.ForeignKey(DeviceKey, on_delete=models.PROTECT, related_name="listenings")
    sweep = models.ForeignKey(Sweep, on_delete=models.CASCADE, null=True, blank=True, related_name="listenings")
    round = models.ForeignKey(
        ThicknessRound, on_delete=models.CASCADE, null=True, blank=True, related_name="listenings"
    )
    person = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    since = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["workshop", "key"], condition=Q(ended_at=None), name="listening_one_tape_a_device"
            ),
            models.CheckConstraint(
                condition=Q(sweep=None, round__isnull=False) | Q(sweep__isnull=False, round=None),
                name="listening_of_one_tape",
            ),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.key} → {self.sweep_id or self.round_id}"


class DeviceReading(InWorkshop):
    """One reading as a device sent it. ``given_id`` is the device's own name for it: sent twice it counts once."""

    class Outcome(models.TextChoices):
        """What became of it."""

        TAKEN = "taken", _("taken")
        DOUBTED = "doubted", _("not taken: doubted")

    key = models.ForeignKey(DeviceKey, on_delete=models.PROTECT, related_name="readings")
    listening = models.ForeignKey(Listening, on_delete=models.CASCADE, related_name="readings")
    given_id = models.CharField(max_length=64)
    at = models.DateTimeField(auto_now_add=True)
    value_mm = models.FloatField()
    text = models.CharField(max_length=40)
    slot = models.PositiveSmallIntegerField(null=True, blank=True)
    outcome = models.CharField(max_length=8, choices=Outcome.choices)
    why = models.CharField(max_length=20, blank=True)  # of a doubt, a code

    class Meta:
        ordering: ClassVar = ["pk"]
        indexes: ClassVar = [models.Index(fields=["key", "-at"], name="device_reading_rate")]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "key", "given_id"], name="device_reading_once"),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.text} ({self.outcome})"
