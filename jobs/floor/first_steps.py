"""An empty workshop: what leads from nothing to a first verdict, and what of it is done. Reads only."""

from typing import Any

from django.urls import reverse
from django.utils.translation import gettext as _

from jobs.models import Job
from workshop.models import Instrument, LibraryLimits, User
from workshop.permissions import Deed, may


def first_steps(user: User) -> list[dict[str, Any]]:
    """Return the steps of a workshop that has no job yet, each with whether it is done; nothing once there is one."""
    if Job.of(user).exists():
        return []
    steps = [
        {
            "name": _("Your dial"),
            "why": _("Its graduation decides what it can judge."),
            "url": reverse("workshop:instruments"),
            "done": Instrument.of(user).exists(),
            "may": may(user, Deed.SET_LIMITS),
        },
        {
            "name": _("Limits of a make"),
            "why": _("From the maker’s information: typed once, or read from a file. They may wait for a vehicle."),
            "url": reverse("workshop:library"),
            "done": LibraryLimits.of(user).exists(),
            "may": may(user, Deed.SET_LIMITS),
        },
        {
            "name": _("The first vehicle"),
            "why": _("A name and what the driver says; four readings at one corner give a first verdict."),
            "url": reverse("jobs:new"),
            "done": False,
            "may": may(user, Deed.OPEN_JOB),
        },
    ]
    following = next((step for step in steps if not step["done"] and step["may"]), None)
    if following is not None:
        following["next"] = True
    return steps
