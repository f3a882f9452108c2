"""Figures refitted from the workshop's own jobs that a lead has accepted: dated, and revertible."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _

from workshop.models.door import InWorkshop
from workshop.models.people import User


class LearnedQuerySet(models.QuerySet["Learned"]):
    """Named reads of learned figures."""

    def in_force(self) -> "LearnedQuerySet":
        """Keep the newest row of every figure that was not taken back."""
        return self.filter(taken_back_by=None).order_by("figure", "whose", "-pk").distinct("figure", "whose")


class Learned(InWorkshop):
    """One figure as accepted: ours, what ``pairs`` of the workshop said alone, and what both say, with its range.

    ``whose`` tells it where there are many: a lathe's key, a remedy, a part of a work, a supplier. ``was`` is what
    stood before.
    """

    class Figure(models.TextChoices):
        """What is refitted."""

        GROWTH = "growth_mm", _("growth of thickness variation, a 1,000 km and mm of runout over the quiet one")
        QUIET = "quiet_runout_mm", _("runout that stays quiet")
        SEATING = "seating_tir_mm", _("how far a mounting moves a rotor (TIR)")
        NEW_ROTOR = "new_rotor_mm", _("runout of new rotors, at most")
        LATHE = "lathe_left_mm", _("runout a lathe leaves")
        MINUTES = "minutes", _("minutes a work takes at a corner")
        PART = "part_minutes", _("minutes a step of the work takes")

    figure = models.CharField(max_length=16, choices=Figure.choices)
    whose = models.CharField(max_length=60, blank=True)
    prior = models.FloatField()
    data = models.FloatField(null=True, blank=True)
    value = models.FloatField()
    low = models.FloatField()
    high = models.FloatField()
    pairs = models.PositiveIntegerField()
    was = models.FloatField(null=True, blank=True)
    accepted_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    accepted_at = models.DateTimeField(auto_now_add=True)
    taken_back_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    taken_back_at = models.DateTimeField(null=True, blank=True)

    objects = LearnedQuerySet.as_manager()

    class Meta:
        ordering: ClassVar = ["-pk"]
        constraints: ClassVar = [
            models.CheckConstraint(condition=Q(value__gt=0, low__gt=0), name="learned_above_zero"),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.figure} {self.whose}".strip()
