"""Load the demo workshop into an empty database."""

from functools import partial
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from demo.build import Past, build_demo
from demo.history import JOBS, build_history
from workshop.models import User, Workshop
from workshop.walls import inside


class Command(BaseCommand):
    """``manage.py load_demo [--once]``: refuse, or with --once do nothing, where people exist already."""

    help = "Load the demo workshop (people, vehicles, jobs) into an empty database."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add --once."""
        parser.add_argument("--once", action="store_true", help="do nothing if there are people already")

    def handle(self, *args: Any, **options: Any) -> None:
        """Build the demo."""
        if User.objects.exists():
            if options["once"]:
                return
            raise CommandError("There are people in this database already; the demo goes into an empty one.")
        self.stdout.write("Loading the demo workshop, with two years of closed jobs (under a minute) …")
        Workshop.objects.filter(pk=Workshop.FIRST).update(is_demo=True, name="Holm Island transport")
        with inside(Workshop.FIRST):
            build_demo(past=Past(jobs=JOBS, build=partial(build_history, tell=self._tell)))

    def _tell(self, done: int, of: int) -> None:
        """Say how far the years are, every ten jobs."""
        if done % 10 == 0 or done == of:
            self.stdout.write(f"  {done} of {of} jobs")
