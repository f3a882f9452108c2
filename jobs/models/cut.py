"""A cut of one corner's disc under one lathe, pass by pass."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from simple_history.models import HistoricalRecords

from workshop.models import Lathe, User
from workshop.models.door import InWorkshop


class Cut(InWorkshop):
    """One disc under one lathe for one work: what the scratch showed, the compensation check, and the passes made."""

    corner = models.ForeignKey("jobs.Corner", on_delete=models.CASCADE, related_name="cuts")
    lathe = models.ForeignKey(Lathe, on_delete=models.PROTECT, related_name="+")
    episode = models.PositiveSmallIntegerField(default=0)  # of the corner, whose readings it was planned from
    scratch = models.CharField(max_length=16, blank=True)
    check_read_mm = models.FloatField(null=True, blank=True)
    check_arm_mm = models.FloatField(null=True, blank=True)
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "corner", "lathe", "episode"], name="cut_once_a_work")
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"cut {self.pk}"


class CutPass(InWorkshop):
    """A pass that was made: feed of each face, and the micrometer's smallest reading after it, as typed and in mm."""

    cut = models.ForeignKey(Cut, on_delete=models.CASCADE, related_name="passes")
    number = models.PositiveSmallIntegerField()
    out_mm = models.FloatField()
    in_mm = models.FloatField()
    typed = models.CharField(max_length=40, blank=True)
    reading_mm = models.FloatField(null=True, blank=True)
    graduation_mm = models.FloatField(default=0.001)  # what the last digit typed is worth
    withdrawn = models.BooleanField(default=False)  # a wrong one is struck out, not wiped out
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["workshop", "cut", "number"], condition=Q(withdrawn=False), name="cut_pass_once"
            ),
            models.CheckConstraint(condition=Q(out_mm__gte=0, in_mm__gte=0), name="cut_pass_not_negative"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"pass {self.number}"
