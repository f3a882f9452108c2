"""What was sent to the server: a form that arrives twice counts once."""

from typing import ClassVar

from django.db import models

from workshop.models.door import InWorkshop
from workshop.models.people import User


class Sent(InWorkshop):
    """One form of one person that was taken: its key, and where it led."""

    person = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=64)
    led_to = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop", "person", "key"], name="sent_once")]

    def __str__(self) -> str:
        """Name it."""
        return self.key
