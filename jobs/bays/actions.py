"""Bays and lathe in time: who takes which place when. Writes in one transaction; the day as it is drawn."""

from datetime import datetime, timedelta

from django.db import IntegrityError, transaction

from jobs.models import Booking, Job
from jobs.writing import open_job_row
from workshop.models import User
from workshop.permissions import Deed, require


class PlaceTakenError(Exception):
    """Another job stands there at that time."""


@transaction.atomic
def book(user: User, job: Job, *, place: str, starts_at: datetime, minutes: int) -> Booking:
    """Take a place for a job; refused where another has it then."""
    require(user, Deed.EDIT_JOB)
    open_job_row(user, job.pk)
    booking = Booking(
        job=job, place=place, starts_at=starts_at, ends_at=starts_at + timedelta(minutes=minutes), created_by=user
    )
    booking._history_user = user
    try:
        with transaction.atomic():
            booking.save()
    except IntegrityError as error:
        raise PlaceTakenError from error
    return booking


@transaction.atomic
def give_up(user: User, booking: Booking) -> None:
    """Give a place free again."""
    require(user, Deed.EDIT_JOB)
    open_job_row(user, booking.job_id)
    booking._history_user = user
    booking.delete()
