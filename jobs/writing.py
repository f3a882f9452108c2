"""What every write of a job shares: the locked open job, the row saved with who and why, the errors."""

from jobs.models import Job, Tape
from workshop.models import User


class JobClosedError(Exception):
    """The job is closed; nothing is written to it."""


def open_job_row(pk: int) -> Job:
    """Return the job, locked; raises ``JobClosedError``."""
    job = Job.objects.select_for_update(of=("self",)).get(pk=pk)
    if job.is_closed:
        raise JobClosedError
    return job


def _save(user: User, tape: Tape, *, reason: str) -> None:
    tape._history_user = user
    tape._change_reason = reason
    tape.save()
