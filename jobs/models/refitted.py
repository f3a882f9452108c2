"""What a workshop's jobs say of its figures, as a worker last worked it out."""

from typing import ClassVar

from django.db import models

from workshop.models.door import InWorkshop


class Refitted(InWorkshop):
    """The refits of one workshop, kept: they are not worked out again for every look.

    Triggers on closings, works and lathes count ``version`` on, whoever changes them and by whichever way; ``made_of``
    is the version that ``refits`` were made of. Written and read by ``ledger.learning`` alone.
    """

    version = models.BigIntegerField(default=0)
    made_of = models.BigIntegerField(null=True)
    made_at = models.DateTimeField(null=True)
    refits = models.JSONField(default=list)

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop"], name="refitted_once")]

    def __str__(self) -> str:
        """Name it."""
        return f"refits of {self.workshop_id}"

    @property
    def is_current(self) -> bool:
        """Whether nothing has changed since they were made."""
        return self.made_of == self.version
