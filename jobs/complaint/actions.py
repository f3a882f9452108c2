"""Writes of the Complaint leg."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from jobs.complaint.two_hands import OF_THE_ROAD, interview_of, merge_stories
from jobs.judging import refresh
from jobs.models import Job
from jobs.odometer import put_right
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require
from workshop.versions import save_version


@dataclass(frozen=True, slots=True)
class Told:
    """What stood before a story was kept, whether another hand told some of it, and what both changed, and unlike."""

    theirs: dict[str, Any]
    unlike: tuple[str, ...]
    by_another: bool


@transaction.atomic
def edit_job(user: User, job: Job, *, version: int, **fields: Any) -> Job:
    """Change words, odometer, state or who has it; refused if somebody else was faster."""
    require(user, Deed.EDIT_JOB)
    current = open_job_row(user, job.pk)
    odometer_km = current.odometer_km
    save_version(user, current, version=version, **fields)
    if current.odometer_km != odometer_km:
        put_right(user, current)
    return current


@transaction.atomic
def keep_story(user: User, job: Job, story: dict[str, Any], *, was: dict[str, Any] | None = None) -> Told:
    """Keep what the driver tells, as it changed since ``was``; what was driven stays with it."""
    require(user, Deed.EDIT_JOB)
    current = open_job_row(user, job.pk)
    driven = {name: value for name, value in current.story.items() if name in OF_THE_ROAD}
    theirs = interview_of(current.story)
    merged, unlike = merge_stories(theirs if was is None else was, story, theirs)
    told = Told(theirs, tuple(unlike), by_another=merged != story and was is not None and theirs != was)
    if theirs != merged:
        current.story = merged | driven
        save(user, current)
        refresh(user, current)
    return told
