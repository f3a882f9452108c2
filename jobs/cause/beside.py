"""What sits beside the discs, as the Cause leg shows it: what is to be put right, what was, what else can be."""

from typing import Any, Final

from django.utils.translation import gettext_lazy

from compass.cause.causes import BESIDE, OF_THE_VEHICLE, REAR_ONLY, Cause
from compass.cause.stakes import ELSEWHERE_MINUTES
from compass.ground.positions import end_of
from compass.words.figures import odds_text
from jobs.judging import JudgedJob
from jobs.models import Job
from jobs.words import money_text, place_words
from workshop.models import POSITION_NAMES, User
from workshop.permissions import Deed, may, may_write

# What is done, and what can hurt there. The maker's information decides.
_WORK: Final = {
    Cause.CALIPER: gettext_lazy(
        "Free or renew slides or piston, on both sides of the axle alike; pads that wore unevenly are renewed. "
        "The caliper hangs from a hook, never by its hose; no grease on pad or disc; "
        "pump the brake high and hard before it moves."
    ),
    Cause.DRUM: gettext_lazy(
        "The drum in the hat goes with its rotor: renew it, or have the shoes bedded in, then set the parking brake. "
        "Old linings may hold asbestos: no compressed air."
    ),
    Cause.SUSPENSION: gettext_lazy(
        "Renew what has play, by somebody licensed to, and have the wheels aligned after it. "
        "Not to be driven with a joint that may come apart."
    ),
    Cause.TYRE: gettext_lazy(
        "Balance the wheel, or renew a damaged tyre; look at its rim. Not to be driven with cords or a bulge showing."
    ),
    Cause.ABS: gettext_lazy(
        "Near lock-up a fast kick is the system at work: show the driver on a clear road. "
        "Where it works early, look at the wheel sensors, their rings and gaps, and read its memory."
    ),
}


def beside_context(job: Job, judged: JudgedJob, *, user: User) -> dict[str, Any]:
    """Return what is to be put right beside the discs, what was put right, and what else could have been."""
    mended, shop = judged.beside.complaint.mended_beside, judged.beside.shop
    done = {(m.cause, m.position) for m in mended}
    open_ = [
        _row(beside.cause, beside.position)
        | {
            "odds": odds_text(beside.odds),
            "found_at": ", ".join(str(POSITION_NAMES[p]) for p in beside.found_at),
            "work": _WORK[beside.cause],
            "minutes": ELSEWHERE_MINUTES,
            "labour": money_text(ELSEWHERE_MINUTES * shop.minute_of_checking, shop.currency),
        }
        for beside in judged.judged.beside_discs
    ]
    listed = done | {(beside.cause.value, beside.position) for beside in judged.judged.beside_discs}
    return {
        "beside": open_,
        "mended": [_row(Cause(m.cause), m.position) | {"driven": m.driven} for m in mended],
        "beside_else": [_row(*place) for place in _places(job) if (place[0].value, place[1]) not in listed],
        "mends": not job.is_closed and may(user, Deed.DO) and may_write(user, job),
    }


def _places(job: Job) -> list[tuple[Cause, str | None]]:
    """Return every cause beside the discs with each place it can sit at."""
    positions = job.vehicle.positions
    return [
        (cause, position)
        for cause in Cause
        if cause in BESIDE
        for position in ((None,) if cause in OF_THE_VEHICLE else positions)
        if cause not in REAR_ONLY or (position is not None and end_of(position) == "rear")
    ]


def _row(cause: Cause, position: str | None) -> dict[str, Any]:
    return {"code": place_code(cause, position), "name": place_words(cause.value, position)}


def place_code(cause: str, position: str | None) -> str:
    """Return a cause and its place as one value of a form."""
    return f"{cause}@{position or ''}"


def read_place(code: str, job: Job) -> tuple[Cause, str | None] | None:
    """Return the cause and place of a form's value; None where there is no such place on this vehicle."""
    return next((place for place in _places(job) if place_code(*place) == code), None)
