"""The decided work being carried out: one run of a job, and each step that was done, by whom and when."""

from typing import ClassVar

from django.db import models
from django.db.models import Q

from workshop.models import User
from workshop.models.door import InWorkshop


class Run(InWorkshop):
    """One job's work under way. ``plan`` is what it goes by: remedy, settings and limits of each corner.

    ``order`` are the keys of the parts in the order planned last; ``finish_at`` is when it was to be done by the first
    plan, so that one sees how far it is behind. ``seen`` counts every change, so that another device notices.
    """

    job = models.OneToOneField("jobs.Job", on_delete=models.CASCADE, related_name="run")
    plan = models.JSONField()
    order = models.JSONField(default=list, blank=True)
    people = models.PositiveSmallIntegerField(default=1)
    finish_at = models.DateTimeField(null=True, blank=True)
    seen = models.PositiveIntegerField(default=1)
    signed_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    signed_at = models.DateTimeField(null=True, blank=True)
    started_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    started_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["workshop", "job"], name="run_once_a_job"),
            models.CheckConstraint(condition=Q(people__gte=1, people__lte=6), name="run_has_people"),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"run {self.pk}"


class RunStep(InWorkshop):
    """That a step was done, or tried and not passed. Rows stay: one that is taken back says by whom and why.

    ``position`` is empty where a step is done once for the vehicle; ``key`` names it there. ``said`` are the figures it
    was told with; ``typed`` and ``reading_mm`` what was read, ``outcome`` how that stood to what was expected.
    """

    DECIDED_ANEW: ClassVar = "decided anew"  # why it is taken back where it was done, and other work begins

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="steps")
    position = models.CharField(max_length=3, blank=True)
    key = models.CharField(max_length=60)
    said = models.JSONField(default=dict, blank=True)
    typed = models.CharField(max_length=40, blank=True)
    reading_mm = models.FloatField(null=True, blank=True)
    outcome = models.CharField(max_length=16, blank=True)
    finding = models.CharField(max_length=20, blank=True)
    reason = models.CharField(max_length=300, blank=True)
    source = models.CharField(max_length=120, blank=True)  # of a torque that was looked up at this step
    passed = models.BooleanField(default=True)
    out_of_order = models.BooleanField(default=False)
    second = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    done_by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    done_at = models.DateTimeField(auto_now_add=True)
    taken_back = models.BooleanField(default=False)
    taken_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    taken_at = models.DateTimeField(null=True, blank=True)
    taken_why = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering: ClassVar = ["pk"]
        constraints: ClassVar = [
            models.UniqueConstraint(
                fields=["workshop", "run", "position", "key"],
                condition=Q(taken_back=False, passed=True),
                name="run_step_once",
            ),
            models.CheckConstraint(
                condition=Q(taken_back=False) | Q(taken_by__isnull=False), name="run_step_taken_back_by_somebody"
            ),
        ]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.position} {self.key}"

    @property
    def was_done(self) -> bool:
        """Whether it passed and holds, or held until other work was decided: a part that was renewed stays so."""
        return self.passed and (not self.taken_back or self.taken_why == self.DECIDED_ANEW)
