"""Workshops under this roof: list, open, admit and dismiss. Run by whoever owns the database, never by a page."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from jobs.models import Job
from workshop.models import Membership, User, Workshop
from workshop.people.opening import open_workshop


class Command(BaseCommand):
    """``manage.py workshop list|open|admit|dismiss``."""

    help = "List the workshops; open one with its first lead; let the lead of a chain into another, or out of it."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add what is to be done."""
        acts = parser.add_subparsers(dest="act", required=True)
        acts.add_parser("list", help="the workshops and how many people and jobs each has")
        opening = acts.add_parser("open", help="a new workshop with its first lead, who gets a first password")
        opening.add_argument("name")
        opening.add_argument("--lead", required=True, help="the lead's name of sign-in")
        for act in ("admit", "dismiss"):
            way = acts.add_parser(act, help=f"{act} somebody of another workshop")
            way.add_argument("username")
            way.add_argument("workshop", type=int, help="its number, as listed")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it."""
        getattr(self, f"_{options['act']}")(**options)

    def _list(self, **_options: Any) -> None:
        for row in Workshop.objects.all():
            people, jobs = row.people.count(), Job.of(None).filter(workshop_id=row.pk).count()
            self.stdout.write(f"{row.pk:6}  {row.name}  {people} people, {jobs} jobs")

    def _open(self, *, name: str, lead: str, **_options: Any) -> None:
        if User.of(None).filter(username=lead).exists():
            raise CommandError(f"There is somebody of the name “{lead}” already.")
        row, word = open_workshop(name=name, username=lead)
        self.stdout.write(f"{name} is workshop {row.pk}. {lead} signs in with {word}")

    def _admit(self, *, username: str, workshop: int, **_options: Any) -> None:
        user, row = self._both(username, workshop)
        if user.workshop_id == row.pk:
            raise CommandError(f"{username} belongs to {row} anyway.")
        Membership.objects.update_or_create(workshop=row, person=user, defaults={"ended_at": None})
        self.stdout.write(f"{username} may enter {row} now.")

    def _dismiss(self, *, username: str, workshop: int, **_options: Any) -> None:
        user, row = self._both(username, workshop)
        ended = Membership.objects.filter(workshop=row, person=user, ended_at=None).update(ended_at=timezone.now())
        if not ended:
            raise CommandError(f"{username} may not enter {row} as it is.")
        self.stdout.write(f"{username} may not enter {row} any more; what they did there stays under their name.")

    def _both(self, username: str, number: int) -> tuple[User, Workshop]:
        user = User.of(None).filter(username=username).first()
        row = Workshop.objects.filter(pk=number).first()
        if user is None or row is None:
            raise CommandError("No such person, or no workshop of that number (manage.py workshop list).")
        return user, row
