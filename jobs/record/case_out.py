"""A job as a case and its verdict. Reads only."""

from dataclasses import replace
from typing import Any

from django.utils import translation

from compass.evidence.records import Case as CaseRecord
from compass.files.write_case import case_to_data
from compass.files.write_verdict import verdict_to_data
from jobs.judging import case_of, verdict_of
from jobs.models import Job
from jobs.vehicle.past import past_of
from workshop.models import User


def job_case(user: User, job: Job) -> CaseRecord:
    """Return a job's evidence as a case: the corners that have limits. Nothing is judged for it."""
    case, past = case_of(user, job), past_of(job)
    return replace(case, corners=tuple(past.added_to(record) for record in case.corners))


def job_case_data(user: User, job: Job) -> dict[str, Any]:
    """Return a job as data of a case file."""
    return case_to_data(job_case(user, job))


def job_verdict_data(user: User, job: Job) -> dict[str, Any]:
    """Return the core's verdict on a job as data: what the command line prints for its case file."""
    with translation.override("en-gb"):  # a file reads the same whoever fetched it
        return verdict_to_data(verdict_of(user, job, past_of(job)))
