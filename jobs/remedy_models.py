"""What was decided for an axle, which plates were fitted, and how a disc was cut: rows beside the job."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from workshop.models import POSITION_NAMES, Lathe, PlateKind, User, Vehicle


class Decision(models.Model):
    """What one axle gets, who decided it and why. Rows are only added: a later one takes an earlier one's place.

    ``remedies`` and ``advised`` are codes by position (None: nothing yet), ``settings`` the index and plate by
    position, ``predicted`` what the core foretold, as in a verdict.
    """

    job = models.ForeignKey("jobs.Job", on_delete=models.CASCADE, related_name="decisions")
    axle = models.CharField(max_length=2)
    policy = models.CharField(max_length=16)
    remedies = models.JSONField()
    advised = models.JSONField()
    settings = models.JSONField(default=dict, blank=True)
    predicted = models.JSONField(default=dict, blank=True)
    price = models.FloatField()
    minutes = models.FloatField()
    against = models.BooleanField(default=False)  # another remedy than advised
    reason = models.TextField(_("why"), max_length=500, blank=True)
    decided_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(against=False) | ~Q(reason=""), name="decision_against_has_reason"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"decision {self.pk}"

    def remedy_of(self, position: str) -> str | None:
        """Return what a corner gets."""
        code: str | None = self.remedies.get(position)
        return code


class FittedPlate(models.Model):
    """A correction plate under a disc: on the vehicle's record until it is taken out, and never used again."""

    vehicle = models.ForeignKey(Vehicle, on_delete=models.CASCADE, related_name="fitted_plates")
    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="fitted_plates")
    position = models.CharField(_("position"), max_length=3, choices=list(POSITION_NAMES.items()))
    plate = models.ForeignKey(PlateKind, on_delete=models.PROTECT, related_name="fitted")
    thin_deg = models.FloatField()
    odometer_km = models.PositiveIntegerField(null=True, blank=True)
    taken_out = models.BooleanField(default=False)
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["vehicle", "position"], condition=Q(taken_out=False), name="plate_one_a_side"
            ),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"plate {self.plate} {self.position}"


class Cut(models.Model):
    """One disc under one lathe: what the scratch showed, the compensation check, and the passes made."""

    corner = models.ForeignKey("jobs.Corner", on_delete=models.CASCADE, related_name="cuts")
    lathe = models.ForeignKey(Lathe, on_delete=models.PROTECT, related_name="+")
    scratch = models.CharField(max_length=16, blank=True)
    check_read_mm = models.FloatField(null=True, blank=True)
    check_arm_mm = models.FloatField(null=True, blank=True)
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["corner", "lathe"], name="cut_once_a_lathe")]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"cut {self.pk}"


class CutPass(models.Model):
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
            models.UniqueConstraint(fields=["cut", "number"], condition=Q(withdrawn=False), name="cut_pass_once"),
            models.CheckConstraint(condition=Q(out_mm__gte=0, in_mm__gte=0), name="cut_pass_not_negative"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"pass {self.number}"
