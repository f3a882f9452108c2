"""Writes of the Cause leg."""

from django.db import transaction

from jobs.cause.road_test import Showed
from jobs.judging import refresh
from jobs.models import Job
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require


@transaction.atomic
def keep_road_test(user: User, job: Job, showed: Showed) -> Job:
    """Keep what a recording showed with its job, as a sign among the others. Raises ``JobClosedError``."""
    require(user, Deed.MEASURE)
    current = open_job_row(user, job.pk)
    current.road_test = showed
    current.story = current.story | {"road_test": showed["shake"]}
    save(user, current)
    refresh(user, current)
    return current
