"""What an axle gets, decided by whom and why."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _

from workshop.models import User
from workshop.models.door import InWorkshop


class Decision(InWorkshop):
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
