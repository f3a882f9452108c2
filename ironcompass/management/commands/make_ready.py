"""Everything between a started database and a served page, in one process: each start of Django costs seconds."""

import os
import sys
from datetime import timedelta
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.utils import timezone

from workshop.database_role import admit
from workshop.models import Sent, User, Workshop
from workshop.people.opening import lead_of_first_workshop

KEPT = timedelta(days=7)  # no browser sends a form again after that


class Command(BaseCommand):
    """``manage.py make_ready [--demo]``: run by bin/start."""

    help = "Migrate, collect static files, fill an empty database, judge anew what another core judged."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add what an empty database is filled with."""
        parser.add_argument("--demo", action="store_true", help="the demo; else with a first lead alone")

    def handle(self, *args: Any, **options: Any) -> None:
        """Run them in their order, as the owner of the database, and forget which forms were sent long ago."""
        call_command("migrate", verbosity=0)
        role = os.environ.get("IC_APP_ROLE", "")
        if role:
            admit(connection, role, password=os.environ["IC_APP_PASSWORD"])
        call_command("collectstatic", interactive=False, verbosity=0)
        if options["demo"]:
            call_command("load_demo", once=True, stdout=self.stdout)
        elif not User.of(None).exists():
            self._first_lead()
        call_command("judge_stale", stdout=self.stdout)
        Sent.of(None).filter(at__lt=timezone.now() - KEPT).delete()

    def _first_lead(self) -> None:
        """Ask whoever starts it what the workshop and its lead are called; plain names where nobody can be asked."""
        name = self._asked("IC_WORKSHOP_NAME", "Name of the workshop", "The workshop")
        lead = self._asked("IC_FIRST_LEAD", "Its lead signs in as", "lead")
        word = lead_of_first_workshop(name=name, username=lead)
        self.stdout.write("")
        self.stdout.write(f"  {Workshop.first()} is open. {lead} signs in with {word}")
        self.stdout.write("  and then takes a password of their own. It is shown this once.")

    def _asked(self, setting: str, question: str, plain: str) -> str:
        said = os.environ.get(setting, "")
        if not said and sys.stdin.isatty():
            said = input(f"{question} [{plain}]: ").strip()
        return said or plain
