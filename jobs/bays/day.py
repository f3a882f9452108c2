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
    rows = Booking.of(user).filter(starts_at__gte=begins, starts_at__lt=begins + timedelta(days=1))
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
        href=address("jobs:complaint", booking.job_id),
    )


def _hour(moment: datetime) -> float:
    return moment.hour + moment.minute / 60
