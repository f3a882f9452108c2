"""When a job's work is to be looked at again, in words."""

from datetime import timedelta

from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _

from compass.words.figures import odds_text
from jobs.models import Closing, Job
from jobs.prove.closing import due_of
from jobs.prove.proving import SideProof
from workshop.models import ShopFigures, User
from workshop.words import distance_text


def again_words(
    user: User, job: Job, closing: Closing | None, sides: list[SideProof], *, figures: ShopFigures | None = None
) -> dict[str, str] | None:
    """Say when the vehicle is to be looked at again, and why then; an estimate.

    ``figures`` are the workshop's, where they were read already.
    """
    if not sides or not any(side.after is not None for side in sides):
        return None
    unit = user.unit
    if closing is not None and closing.due_on is not None:
        on, at, why, chance = closing.due_on, closing.due_km, closing.due_why, closing.chance
    else:
        due = due_of(user, job, sides, figures=figures)
        on = timezone.localdate() + timedelta(days=due.days)
        at = round(job.odometer_km + due.km) if job.odometer_km is not None else None
        why, chance = due.why, due.chance
    chance = chance or 0.0
    whys = {
        "felt": _("until then the odds that it is felt again are below %(odds)s (an estimate)"),
        "metal": _("by then the disc may be near its least thickness"),
        "latest": _("as every vehicle whose brakes were worked on; the odds that it is felt before are %(odds)s"),
    }
    return {
        "on": date_format(on, "DAY_LONG"),
        "at": distance_text(at, unit) if at is not None else "",
        "why": whys.get(why, "") % {"odds": odds_text(chance)},
    }
