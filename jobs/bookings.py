"""Bays and lathe in time: who takes which place when. Writes in one transaction; the day as it is drawn."""

from datetime import date, datetime, time, timedelta

from django.db import IntegrityError, transaction
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _

from drawing.day import Block, draw_day
from jobs.actions import open_job_row
from jobs.models import Booking, Job
from workshop.models import User
from workshop.policy import Deed, require


class PlaceTakenError(Exception):
    """Another job stands there at that time."""


@transaction.atomic
def book(user: User, job: Job, *, place: str, starts_at: datetime, minutes: int) -> Booking:
    """Take a place for a job; refused where another has it then."""
    require(user, Deed.EDIT_JOB)
    open_job_row(job.pk)
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
    open_job_row(booking.job_id)
    booking._history_user = user
    booking.delete()


def day_drawing(day: date) -> str:
    """Draw a day: a row a place, a block a booking; empty where nothing is booked."""
    zone = timezone.get_current_timezone()
    begins = datetime.combine(day, time.min, tzinfo=zone)
    rows = Booking.objects.filter(starts_at__gte=begins, starts_at__lt=begins + timedelta(days=1))
    blocks = [_block(booking) for booking in rows.select_related("job__vehicle", "job__assigned_to")]
    if not blocks:
        return ""
    places = [(code, str(name)) for code, name in Booking.Place.choices]
    now = timezone.localtime()
    return draw_day(blocks, places, now_hour=_hour(now) if now.date() == day else None, title=_("Bays and lathe today"))


def _block(booking: Booking) -> Block:
    first = _hour(timezone.localtime(booking.starts_at))
    return Block(
        row=booking.place,
        first_hour=first,
        last_hour=first + (booking.ends_at - booking.starts_at).total_seconds() / 3600,
        label=booking.job.vehicle.label,
        who=str(booking.job.assigned_to or ""),
        href=reverse("jobs:complaint", args=[booking.job_id]),
    )


def _hour(moment: datetime) -> float:
    return moment.hour + moment.minute / 60
