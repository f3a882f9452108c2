"""Everything between a started database and a served page, in one process: each start of Django costs seconds."""

import os
from datetime import timedelta
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django.utils import timezone

from workshop.database_role import admit
from workshop.models import Sent

KEPT = timedelta(days=7)  # no browser sends a form again after that


class Command(BaseCommand):
    """``manage.py make_ready``: run by bin/start."""

    help = "Migrate, collect static files, load the demo into an empty database, judge anew what another core judged."

    def handle(self, *args: Any, **options: Any) -> None:
        """Run them in their order, as the owner of the database, and forget which forms were sent long ago."""
        call_command("migrate", verbosity=0)
        role = os.environ.get("IC_APP_ROLE", "")
        if role:
            admit(connection, role, password=os.environ["IC_APP_PASSWORD"])
        call_command("collectstatic", interactive=False, verbosity=0)
        call_command("load_demo", once=True, stdout=self.stdout)
        call_command("judge_stale", stdout=self.stdout)
        Sent.of(None).filter(at__lt=timezone.now() - KEPT).delete()
