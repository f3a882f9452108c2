"""What was counted over the works of a closed month, kept until one of them changes."""

from typing import ClassVar

from django.db import models

from workshop.models.door import InWorkshop


class ClosedMonth(InWorkshop):
    """The sums of one month's works, for the ledger: a hundred thousand jobs are not counted again for every look.

    A trigger on the works counts ``version`` on and empties ``sums``, whoever changes them and by whichever way; sums
    are kept only for the version they were made from. ``sums`` is read and written by ``ledger.months`` alone.
    """

    month = models.DateField()  # its first day
    version = models.PositiveIntegerField(default=0)
    sums = models.JSONField(null=True)

    class Meta:
        ordering: ClassVar = ["month"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop", "month"], name="closed_month_once")]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.month:%Y-%m}"
