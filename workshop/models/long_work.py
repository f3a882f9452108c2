"""Work too long for a request: asked for by a person, carried out by a worker beside the server."""

from typing import Final

from django.db import models
from django.utils.translation import gettext_lazy as _

from workshop.models.door import InWorkshop
from workshop.models.people import User


class LongWork(InWorkshop):
    """One such work: what is asked, what it was given, how far it is, what it made. Kept for a day."""

    class State(models.TextChoices):
        """How it stands."""

        WAITING = "waiting", _("waits its turn")
        RUNNING = "running", _("is being done")
        DONE = "done", _("is done")
        FAILED = "failed", _("has failed")
        STOPPED = "stopped", _("was stopped")

    kind = models.CharField(max_length=20)  # workshop.long_work.kinds
    asked_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    language = models.CharField(max_length=8)
    given = models.BinaryField()
    about = models.BigIntegerField(null=True)  # the number of what it is about or has made, by its kind: a job's, say
    given_name = models.CharField(max_length=120, blank=True)
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    tries = models.PositiveSmallIntegerField(default=0)
    steps_done = models.PositiveIntegerField(default=0)
    steps = models.PositiveIntegerField(default=0)  # 0: not known yet
    behind = models.JSONField(default=list)  # what need not be done again by the next try
    said = models.JSONField(default=list)  # sentences for who asked: what was refused, and why
    made = models.BinaryField(null=True)
    made_name = models.CharField(max_length=120, blank=True)
    made_type = models.CharField(max_length=80, blank=True)

    def __str__(self) -> str:
        """Name it."""
        return f"{self.kind} {self.pk}"

    @property
    def is_under_way(self) -> bool:
        """Whether a worker has it or will have it."""
        return self.state in UNDER_WAY


UNDER_WAY: Final = (LongWork.State.WAITING, LongWork.State.RUNNING)
