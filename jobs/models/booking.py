"""Bay and lathe taken by a job for a while."""

from typing import ClassVar

from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import DateTimeRangeField, RangeBoundary, RangeOperators
from django.db import models
from django.db.models import F, Q
from django.utils import timezone
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from jobs.models.job import Job
from workshop.models import User
from workshop.models.door import InWorkshop


class TsTzRange(models.Func):
    """A range of time out of two columns, for the constraint below."""

    function = "TSTZRANGE"
    output_field = DateTimeRangeField()


class Booking(InWorkshop):
    """A place of the workshop (bay or lathe) taken by a job for a while. No place is taken twice at once."""

    class Place(models.TextChoices):
        """Where a job can stand, or what it needs."""

        BAY_1 = "bay_1", _("bay 1")
        BAY_2 = "bay_2", _("bay 2")
        LATHE = "lathe", _("lathe")

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="bookings")
    place = models.CharField(_("place"), max_length=6, choices=Place.choices)
    starts_at = models.DateTimeField(_("from"))
    ends_at = models.DateTimeField(_("until"))
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["starts_at", "pk"]
        indexes: ClassVar = [models.Index(fields=["workshop", "starts_at"], name="booking_day")]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(ends_at__gt=F("starts_at")), name="booking_takes_time"),
            ExclusionConstraint(
                name="booking_once_a_place",
                expressions=[
                    (TsTzRange("starts_at", "ends_at", RangeBoundary()), RangeOperators.OVERLAPS),
                    ("place", RangeOperators.EQUAL),
                    ("workshop", RangeOperators.EQUAL),
                ],
            ),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"{self.place} {self.starts_at:%H:%M}"

    @property
    def runs_over(self) -> bool:
        """Whether it ends on another day than it begins."""
        return timezone.localtime(self.starts_at).date() != timezone.localtime(self.ends_at).date()
