"""What was fitted to a vehicle: rotors and correction plates."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from workshop.models import POSITION_NAMES, PlateKind, User, Vehicle
from workshop.models.door import InWorkshop


class RotorFitting(InWorkshop):
    """That a rotor was fitted at a distance driven, with its thickness then: the beginning of its wear."""

    class Source(models.TextChoices):
        """Where the thickness comes from."""

        MEASURED = "measured", _("measured when fitted")
        NOMINAL = "nominal", _("as new, by the maker's figure")

    vehicle = models.ForeignKey(Vehicle, on_delete=models.CASCADE, related_name="rotor_fittings")
    position = models.CharField(_("position"), max_length=3, choices=list(POSITION_NAMES.items()))
    odometer_km = models.PositiveIntegerField(_("odometer when fitted (km)"))
    thickness_mm = models.FloatField(_("thickness when fitted"))
    source = models.CharField(_("source"), max_length=8, choices=Source.choices, default=Source.MEASURED)
    supplier = models.CharField(_("supplier"), max_length=60, blank=True)
    withdrawn = models.BooleanField(default=False)  # a wrong one is struck out, not wiped out
    created_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering: ClassVar = ["odometer_km", "pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(thickness_mm__gt=0), name="rotor_fitting_has_metal"),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"{self.vehicle} {self.position} {self.odometer_km}"


class FittedPlate(InWorkshop):
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
                fields=["workshop", "vehicle", "position"], condition=Q(taken_out=False), name="plate_one_a_side"
            ),
        ]

    def __str__(self) -> str:
        """Name it for the audit trail."""
        return f"plate {self.plate} {self.position}"
