"""Writes of the Prove leg."""

from collections.abc import Sequence
from typing import Final

from django.db import transaction

from compass.words.codes import CAUSES
from jobs.judging import refresh
from jobs.models import Closing, Job
from jobs.prove.closing import keep_closing
from jobs.prove.proving import Condition, beside_conditions, is_settled, proving_of
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require

_REASON: Final = 80  # characters that fit into the record


class ReasonNeededError(Exception):
    """The job cannot be closed without a written reason (rule 9): ``open`` are the conditions that do not hold.

    ``settled`` is whether every corner is measured and within, where no work was decided that says so of its own.
    """

    def __init__(self, open_: Sequence[Condition] = (), *, settled: bool = True) -> None:
        super().__init__()
        self.open, self.settled = tuple(open_), settled


@transaction.atomic
def close_job(user: User, job: Job, *, reason: str, found_cause: str = "", supplier: str = "") -> Job:
    """Close a job: every corner measured and within, every work proven, or a named person's written reason (rule 9).

    ``found_cause`` is what it was; the workshop's base rates learn from it. ``supplier`` is that of new rotors.
    """
    require(user, Deed.CLOSE_JOB)
    current = open_job_row(user, job.pk)
    proving = proving_of(user, Job.of(user).for_doing().get(pk=current.pk))
    conditions = beside_conditions(current) if proving is None else proving.open
    open_ = [condition for condition in conditions if not condition.holds]
    settled = proving is not None or all(is_settled(current, corner) for corner in current.corners.all())
    proven = settled and not open_
    if not proven and not reason.strip():
        raise ReasonNeededError(open_, settled=settled)
    current.state = Job.State.CLOSED
    current.closing_reason, current.closed_by = reason.strip(), user
    current.found_cause = found_cause if found_cause in CAUSES else ""
    current.version += 1
    current._history_user = user
    current.save()
    keep_closing(user, current, proving, proven=proven, supplier=supplier)
    return current


@transaction.atomic
def reopen_job(user: User, job: Job, *, reason: str) -> Job:
    """Open a closed job again, with a reason; what it was closed as stays on record and feeds no odds meanwhile."""
    require(user, Deed.CLOSE_JOB)
    if not reason.strip():
        raise ReasonNeededError
    current = Job.of(user).select_for_update(of=("self",)).select_related("vehicle").get(pk=job.pk)
    if not current.is_closed:
        return current
    current.state, current.found_cause, current.closing_reason, current.closed_by = Job.State.OPEN, "", "", None
    current.version += 1
    for closing in Closing.of(user).filter(job=current, stands=True):
        closing.said(stands=False)
    save(user, current, reason=f"opened again: {reason.strip()[:_REASON]}")
    refresh(user, current)
    return current
