"""A job as a case and its verdict. Reads only."""

from typing import Any

from compass.diagnose import diagnose
from compass.evidence.records import Case as CaseRecord
from compass.files.write_case import case_to_data
from compass.files.write_verdict import verdict_to_data
from jobs.adapters import case_record
from jobs.judging import judge
from jobs.models import Job
from jobs.vehicle.past import past_of


def job_case(job: Job) -> CaseRecord:
    """Return a job's evidence as a case: the corners that have limits."""
    records = (judge(corner).record for corner in job.corners.select_related("limits", "look"))
    past = past_of(job)
    return case_record(job, [past.added_to(record) for record in records if record is not None])


def job_case_data(job: Job) -> dict[str, Any]:
    """Return a job as data of a case file."""
    return case_to_data(job_case(job))


def job_verdict_data(job: Job) -> dict[str, Any]:
    """Return the core's verdict on a job as data: what the command line prints for its case file."""
    return verdict_to_data(diagnose(job_case(job)))
