"""The day's bays and lathe, drawn."""

from datetime import date, datetime, time, timedelta

from django.utils import timezone
from django.utils.translation import gettext as _

from drawing.day import Block, draw_day
from jobs.models import Booking
from workshop.addresses import address
from workshop.models import User


def day_drawing(user: User, day: date) -> str:
    """Draw a day: a row a place, a block a booking; empty where nothing is booked."""
    zone = timezone.get_current_timezone()
    begins = datetime.combine(day, time.min, tzinfo=zone)
    ends = begins + timedelta(days=1)
    rows = Booking.of(user).filter(ends_at__gt=begins, starts_at__lt=ends)
    blocks = [_block(booking, begins, ends) for booking in rows.select_related("job__vehicle", "job__assigned_to")]
    if not blocks:
        return ""
    places = [(code, str(name)) for code, name in Booking.Place.choices]
    now = timezone.localtime()
    return draw_day(blocks, places, now_hour=_hour(now) if now.date() == day else None, title=_("Bays and lathe today"))


def _block(booking: Booking, begins: datetime, ends: datetime) -> Block:
    """Return a booking's block within the day; what runs over midnight says so on both days."""
    first, last = max(booking.starts_at, begins), min(booking.ends_at, ends)
    label = ("… " if booking.starts_at < begins else "") + booking.job.vehicle.label
    return Block(
        row=booking.place,
        first_hour=(first - begins).total_seconds() / 3600,
        last_hour=(last - begins).total_seconds() / 3600,
        label=label + (" …" if booking.ends_at > ends else ""),
        who=str(booking.job.assigned_to or ""),
        href=address("jobs:complaint", booking.job_id),
    )


def _hour(moment: datetime) -> float:
    return moment.hour + moment.minute / 60
