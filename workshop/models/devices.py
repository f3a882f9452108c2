"""Instruments that talk: a key by which one sends its readings, told once and kept as a digest."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _

from workshop.models.door import InWorkshop
from workshop.models.instruments import Instrument
from workshop.models.people import User


class DeviceKey(InWorkshop):
    """A key of one instrument: whoever has it may send readings of this instrument, and nothing else."""

    instrument = models.ForeignKey(Instrument, on_delete=models.PROTECT, related_name="keys")
    name = models.CharField(_("name"), max_length=40)
    digest = models.CharField(max_length=64, unique=True)  # SHA-256 of the key: it is random, so that is enough
    made_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    revoked_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    revoked_at = models.DateTimeField(null=True, blank=True)
    heard_at = models.DateTimeField(null=True, blank=True)
    battery = models.FloatField(null=True, blank=True)  # share that is left, as it says itself

    class Meta:
        ordering: ClassVar = ["instrument", "name"]
        constraints: ClassVar = [
            models.CheckConstraint(
                condition=Q(revoked_at=None, revoked_by=None) | Q(revoked_at__isnull=False, revoked_by__isnull=False),
                name="device_key_revoked_by_somebody",
            ),
            models.CheckConstraint(
                condition=Q(battery=None) | Q(battery__gte=0, battery__lte=1), name="device_battery_is_a_share"
            ),
        ]

    def __str__(self) -> str:
        """Show its name."""
        return self.name
