"""Everything between a started database and a served page, in one process: each start of Django costs seconds."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand


class Command(BaseCommand):
    """``manage.py make_ready``: run by bin/start."""

    help = "Migrate, collect static files, load the demo into an empty database, judge anew what another core judged."

    def handle(self, *args: Any, **options: Any) -> None:
        """Run the four in their order."""
        call_command("migrate", verbosity=0)
        call_command("collectstatic", interactive=False, verbosity=0)
        call_command("load_demo", once=True, stdout=self.stdout)
        call_command("judge_stale", stdout=self.stdout)
