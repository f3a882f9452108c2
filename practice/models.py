"""Rows of the bench: tries of exercises, exercises made from jobs, cards of the drills. None is a record of work."""

from typing import ClassVar

from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy as _

from workshop.models import User
from workshop.models.door import InWorkshop


class MadeExercise(InWorkshop):
    """An exercise a lead made from a closed job: what stood there, without names. ``corners`` are simulated corners."""

    title = models.CharField(_("title"), max_length=80)
    tale = models.CharField(_("what came in"), max_length=400, blank=True)
    corners = models.JSONField()
    specs = models.JSONField()
    at = models.CharField(max_length=3)
    right = models.JSONField(default=list)
    asks = models.JSONField(default=list)
    made_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering: ClassVar = ["-pk"]

    def __str__(self) -> str:
        """Name it."""
        return self.title


class Attempt(InWorkshop):
    """Somebody at one exercise: how its corners stand, what was noted and said, the marks when it is over.

    What is hidden follows from ``exercise`` and ``seed`` and is never stored beside them.
    """

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="attempts")
    exercise = models.CharField(max_length=40)
    made = models.ForeignKey(MadeExercise, on_delete=models.CASCADE, null=True, blank=True, related_name="attempts")
    seed = models.PositiveBigIntegerField()
    here = models.CharField(max_length=3)
    stands = models.JSONField(default=dict)
    noted = models.JSONField(default=list)
    chalk = models.JSONField(default=dict)
    draft = models.JSONField(default=dict)  # answers as they were last typed
    answer = models.JSONField(default=dict)
    marks = models.JSONField(null=True, blank=True)
    total = models.PositiveSmallIntegerField(null=True, blank=True)
    minutes = models.FloatField(default=0.0)
    began_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
        indexes: ClassVar = [models.Index(fields=["person", "exercise", "-ended_at"], name="attempt_of_person")]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["workshop", "person", "exercise"], condition=Q(ended_at=None), name="attempt_one_open_each"
            ),
            models.CheckConstraint(
                condition=Q(ended_at=None, total=None) | Q(ended_at__isnull=False, total__lte=100),
                name="attempt_ended_is_marked",
            ),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.exercise} {self.person}"


class LatheTry(InWorkshop):
    """Somebody at a lathe with one disc: how the lathe stands, what the knobs and the feed were left at, the marks."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="lathe_tries")
    task = models.CharField(max_length=40)
    seed = models.PositiveBigIntegerField()
    stand = models.JSONField(default=dict)
    lines = models.JSONField(default=list)
    feed = models.CharField(max_length=8, default="finish")
    marks = models.JSONField(null=True, blank=True)
    total = models.PositiveSmallIntegerField(null=True, blank=True)
    minutes = models.FloatField(default=0.0)
    began_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["workshop", "person", "task"], condition=Q(ended_at=None), name="lathe_one_open_each"
            ),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.task} {self.person}"


class DrillCard(InWorkshop):
    """One statement for one person, as the repetition package keeps it (``card``), and when it is due again."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="drill_cards")
    code = models.CharField(max_length=40)
    card = models.JSONField()
    due = models.DateTimeField()
    seen = models.PositiveIntegerField(default=0)
    missed = models.PositiveIntegerField(default=0)
    last_right = models.BooleanField(default=False)

    class Meta:
        ordering: ClassVar = ["due", "pk"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop", "person", "code"], name="drill_card_once")]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.code} {self.person}"


class DrillAnswer(InWorkshop):
    """What somebody said to a statement."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="drill_answers")
    code = models.CharField(max_length=40)
    said = models.CharField(max_length=10)
    right = models.BooleanField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-pk"]
        indexes: ClassVar = [models.Index(fields=["person", "-at"], name="drill_answer_of_person")]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.code}: {self.said}"
