"""People: who signs in, in which role, and how they like to read figures."""

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.translation import gettext_lazy as _
from simple_history.models import HistoricalRecords

from compass.ground.units import Unit
from workshop.models.door import InWorkshop
from workshop.walls import here


class User(InWorkshop, AbstractUser):
    """A person of the workshop, with the role that decides what they may do (workshop.permissions)."""

    class Role(models.TextChoices):
        """What a person is here."""

        TECHNICIAN = "technician", _("technician")
        LEAD = "lead", _("workshop lead")
        TRAINEE = "trainee", _("trainee")

    class Units(models.TextChoices):
        """The system all figures are shown in."""

        MM = "mm", _("mm")
        THOU = "thou", _("thou")

    class Theme(models.TextChoices):
        """Paper for day, iron for dim bays."""

        DAY = "day", _("day")
        NIGHT = "night", _("night")

    workshop = models.ForeignKey(
        "workshop.Workshop",
        on_delete=models.PROTECT,
        default=here,
        editable=False,
        db_index=False,
        related_name="people",
    )
    role = models.CharField(_("role"), max_length=12, choices=Role.choices, default=Role.TRAINEE)
    units = models.CharField(_("units"), max_length=4, choices=Units.choices, default=Units.MM)
    has_first_password = models.BooleanField(
        default=False
    )  # a password somebody else knows: changed before anything else
    pin = models.CharField(max_length=128, blank=True, default="")  # hashed; workshop.people.quick_switch
    language = models.CharField(_("language"), max_length=8, blank=True, default="")  # "": the browser's
    theme = models.CharField(_("theme"), max_length=5, choices=Theme.choices, default=Theme.DAY)

    history = HistoricalRecords(
        excluded_fields=["password", "last_login", "units", "language", "theme", "has_first_password", "pin"]
    )

    by_pin = False  # whether this request's session was opened without a password

    class Meta(AbstractUser.Meta):
        pass

    def __str__(self) -> str:
        """Show a person as the job card does: initial and family name."""
        if self.last_name:
            return f"{self.first_name[:1]}. {self.last_name}".strip(". ")
        return self.first_name or self.username

    @property
    def here_id(self) -> int:
        """The workshop this person is in: their own, or another of the chain that the session has entered."""
        return getattr(self, "_here_id", None) or self.workshop_id

    def be_in(self, number: int | None) -> None:
        """Be in another workshop than their own, for this request."""
        self._here_id = number

    @property
    def unit(self) -> Unit:
        """The unit this person reads lengths in."""
        return Unit.THOU if self.units == User.Units.THOU else Unit.MM
