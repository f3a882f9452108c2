"""What every write of a job shares: the locked open job, the row saved with who and why, the errors."""

from typing import Any

from django.core.exceptions import PermissionDenied
from django.db.models import Subquery

from jobs.models import Corner, Job, Tape
from workshop.models import User
from workshop.permissions import NOT_PUT_ON, may_write


class JobClosedError(Exception):
    """The job is closed; nothing is written to it."""


def open_job_row(user: User, pk: int) -> Job:
    """Return the job, locked; raises ``JobClosedError``, and refuses a trainee that is not put on it."""
    return still_open(user, Job.of(user).select_for_update(of=("self",)).select_related("vehicle").get(pk=pk))


def open_job_of(user: User, tape: Tape) -> Job:
    """Return the job a tape belongs to, locked; ``tape`` needs no more than its pk. Raises ``JobClosedError``.

    A job is locked before anything on it: writes to one vehicle follow each other, each judged with all before it.
    Row by row and not by a join: while the newest tapes are not in the statistics yet, that was planned as a walk over
    every corner there is (0.2 s among 400,000).
    """
    corner = type(tape).of(user).filter(pk=tape.pk).values("corner_id")
    job = Corner.of(user).filter(pk=Subquery(corner)).values("job_id")
    return still_open(
        user, Job.of(user).select_for_update(of=("self",)).select_related("vehicle").get(pk=Subquery(job))
    )


def still_open(user: User, job: Job) -> Job:
    """Return a job that may be written to. Raises ``JobClosedError``, and refuses a trainee that is not put on it."""
    if job.is_closed:
        raise JobClosedError
    if not may_write(user, job):
        raise PermissionDenied(NOT_PUT_ON)
    return job


def save(user: User, row: Any, *, reason: str = "", checked: bool = False) -> None:
    """Save a row with who and why in its history; ``checked`` runs its own validation first."""
    row._history_user = user
    row._change_reason = reason or None
    if checked:
        row.full_clean()
    row.save()
