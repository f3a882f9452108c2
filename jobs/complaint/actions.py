"""Writes of the Complaint leg."""

from typing import Any

from django.db import transaction

from jobs.judging import refresh
from jobs.models import Job
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require
from workshop.versions import save_version


@transaction.atomic
def edit_job(user: User, job: Job, *, version: int, **fields: Any) -> Job:
    """Change words, odometer, state or who has it; refused if somebody else was faster."""
    require(user, Deed.EDIT_JOB)
    current = open_job_row(user, job.pk)
    save_version(user, current, version=version, **fields)
    return current


@transaction.atomic
def keep_story(user: User, job: Job, story: dict[str, Any]) -> Job:
    """Keep what the driver tells; what a recording showed stays with it."""
    require(user, Deed.EDIT_JOB)
    current = open_job_row(user, job.pk)
    recorded = {"road_test": current.story["road_test"]} if "road_test" in current.story else {}
    if current.story == story | recorded:
        return current
    current.story = story | recorded
    save(user, current)
    refresh(user, current)
    return current
