"""Judge open jobs anew whose kept judgement is another core's: run at every start, quick where nothing is stale."""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction
from django.db.models import Q

from compass import __version__
from jobs.judging import refresh
from jobs.models import Job
from workshop.walls import inside


class Command(BaseCommand):
    """``manage.py judge_stale``."""

    help = "Judge open jobs anew whose judgement was made by another version of the core."

    def handle(self, *args: Any, **options: Any) -> None:
        """Judge one job a transaction, under its lock."""
        # A job never judged has no such key, and nothing compares with what is not there.
        other = ~Q(judgement__core=__version__) | Q(judgement__core__isnull=True)
        stale = Job.objects.exclude(state=Job.State.CLOSED).filter(other)
        count = 0
        for pk, workshop in stale.values_list("pk", "workshop_id"):
            with inside(workshop), transaction.atomic():
                # Nobody in particular asks, so it goes through no door: the whole machine was updated.
                rows = Job.objects.select_for_update(of=("self",)).select_related("vehicle", "created_by")
                job = rows.get(pk=pk)
                job.created_by.be_in(workshop)
                refresh(job.created_by, job)
            count += 1
        if count:
            self.stdout.write(f"Judged {count} open jobs anew.")
