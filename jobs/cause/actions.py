"""Writes of the Cause leg."""

from django.db import transaction

from jobs.cause.road_test import Showed
from jobs.judging import refresh
from jobs.models import Job
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require


class WorkDecidedError(Exception):
    """Work was decided: what is felt after it is said at its own road test."""


@transaction.atomic
def say_felt(user: User, job: Job, felt: str) -> Job:
    """Say what is felt on the road where nothing was worked on. Raises ``JobClosedError``, ``WorkDecidedError``."""
    require(user, Deed.MEASURE)
    if open_job_row(user, job.pk).decided:
        raise WorkDecidedError
    return keep_felt(user, job, felt)


@transaction.atomic
def keep_felt(user: User, job: Job, felt: str) -> Job:
    """Keep with the story what is felt on the road (a code of ``FELT``, or empty: taken back), and judge anew.

    A shake that is left has the rest looked at. Raises ``JobClosedError``.
    """
    current = open_job_row(user, job.pk)
    story = {name: value for name, value in current.story.items() if name != "after_work"}
    current.story = story | ({"after_work": felt} if felt else {})
    save(user, current)
    refresh(user, current)
    return current


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
