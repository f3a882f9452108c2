"""When to look again, as an iCalendar entry."""

from django.http import HttpRequest
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from icalendar import Calendar, Event

from jobs.models import Closing
from workshop.models import User
from workshop.words import distance_text


def look_again_ics(request: HttpRequest, user: User, closing: Closing) -> bytes:
    """Return one all-day entry; opened twice it is the same entry, since its UID is the closing's."""
    entry = Event()
    vehicle = closing.vehicle
    entry.add("uid", f"closing-{closing.pk}@iron-compass")
    entry.add("dtstamp", timezone.now())
    entry.add("dtstart", closing.due_on)
    entry.add("summary", _("Look again: %(vehicle)s") % {"vehicle": vehicle})
    words = _("Job %(number)s, closed %(day)s.") % {"number": closing.job_id, "day": f"{closing.at:%Y-%m-%d}"}
    if closing.due_km is not None:
        words += " " + _("Or at %(at)s, whichever comes first.") % {"at": distance_text(closing.due_km, user.unit)}
    entry.add("description", words)
    entry.add("url", request.build_absolute_uri(reverse("jobs:complaint", args=[closing.job_id])))
    calendar = Calendar()
    calendar.add("prodid", "-//Iron Compass//look again//EN")
    calendar.add("version", "2.0")
    calendar.add_component(entry)
    return calendar.to_ical()
