"""Workshops under this roof, and who beside their own people may enter them."""

from typing import Any, ClassVar

from django.db import models
from django.utils.translation import gettext_lazy as _

from workshop.walls import at_the_door


class Workshop(models.Model):
    """A workshop: people, vehicles, jobs, instruments, tooling, library, figures, bench and ledger belong to one."""

    FIRST = 1  # there from the beginning: whoever has one workshop never hears of others

    name = models.CharField(_("name"), max_length=80)
    opened_at = models.DateTimeField(auto_now_add=True)
    is_demo = models.BooleanField(default=False)  # its people are known to everybody; pages say so
    # Another number whenever its plates, lathes or figures change, by triggers on them; no number comes twice.
    shop_version = models.BigIntegerField(default=0, editable=False)

    class Meta:
        ordering: ClassVar = ["name"]

    def __str__(self) -> str:
        """Show its name."""
        return self.name

    @classmethod
    def shop_version_of(cls, person: Any) -> int:
        """Return the number under which the shop of a person's workshop stands now."""
        return int(cls.objects.values_list("shop_version", flat=True).get(pk=person.here_id))

    @classmethod
    def first(cls) -> "Workshop":
        """Return the one that is there from the beginning."""
        return cls.objects.get(pk=cls.FIRST)

    @classmethod
    def is_made_up(cls) -> bool:
        """Whether there is a demo under this roof; asked from the door, before anybody has signed in."""
        with at_the_door():
            return cls.objects.filter(is_demo=True).exists()


class Membership(models.Model):
    """Somebody of another workshop who may enter this one, as what they are at home: the lead of a chain.

    It is ended and never taken away: what they did here stays under their name.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")
    person = models.ForeignKey("workshop.User", on_delete=models.CASCADE, related_name="memberships")

    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints: ClassVar = [models.UniqueConstraint(fields=["workshop", "person"], name="member_once")]

    def __str__(self) -> str:
        """Name it."""
        return f"{self.person} · {self.workshop}"

    @classmethod
    def workshops_of(cls, person_id: int) -> list[Workshop]:
        """Return the workshops somebody may enter: their own, then the others by name."""
        with at_the_door():
            held = cls.objects.filter(person_id=person_id, ended_at=None).values("workshop_id")
            return list(Workshop.objects.filter(models.Q(people=person_id) | models.Q(pk__in=held)).distinct())
