"""What the Complaint leg shows. Reads only."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.utils.translation import gettext as _

from compass.cause.differential import corner_odds
from compass.cause.signs import expected_hz
from compass.files.read_case import complaint_from_data
from compass.ground.units import Unit
from compass.words.codes import CAUSES
from compass.words.figures import odds_text
from drawing.speeds import draw_speeds
from drawing.vehicle import draw_vehicle
from jobs.bays.forms import BookingForm
from jobs.cause.page import holes_in_words
from jobs.complaint.earlier import earlier_work, judged_by
from jobs.complaint.forms import JobWordsForm, StoryForm, story_initial
from jobs.frame import job_context
from jobs.models import Closing, Job
from jobs.next_act import hand_over
from workshop.models import POSITION_NAMES, User
from workshop.words import speed_in


def complaint_page(
    request: HttpRequest,
    job: Job,
    *,
    form: JobWordsForm | None = None,
    story_form: StoryForm | None = None,
    booking_form: BookingForm | None = None,
    refused: dict[str, str] | None = None,
    status: int = 200,
) -> HttpResponse:
    """Draw the job's home: words, interview, corners in plan, what to measure first, closing.

    ``refused`` is a closing that was: its ``error``, and what was ``found`` and which ``supplier`` was named.
    """
    kept, closing = job.kept, Closing.of(request.user).standing(job)
    context = {
        **job_context(job, leg="complaint"),
        "form": form or JobWordsForm(user=request.user, instance=job, initial={"version": job.version}),
        "story_form": story_form
        or StoryForm(unit=request.user.unit, kind=job.vehicle.kind, initial=story_initial(job.story)),
        "booking_form": booking_form or BookingForm(initial={"day": timezone.localdate()}),
        "bookings": job.bookings.all(),
        "vehicle_svg": draw_vehicle(job.vehicle.kind, title=_("The vehicle in plan, front at the top")),
        "order": measuring_order(job),
        "earlier": earlier_work(request.user, job),
        "judged_by": judged_by(request.user, closing),
        "looks_again": closing is not None and closing.due_on is not None,
        "expected": expected_frequencies(job),
        "speeds_svg": speed_scale(request.user, job),
        "holes": holes_in_words(kept.holes),
        "cause_choices": [(code, _(name)) for code, name in CAUSES.items()],
        "likely": {"code": kept.likeliest, "name": _(CAUSES[kept.likeliest])} if kept.likeliest in CAUSES else None,
        "closed_as": _(CAUSES[job.found_cause]) if job.found_cause in CAUSES else "",
        "asks_supplier": _new_rotors_decided(job),
        "refused": refused,
        "current": job,
        **({"act": hand_over(job)} if job.is_closed else {}),
    }
    return render(request, "jobs/complaint/complaint.html", context, status=status)


def _new_rotors_decided(job: Job) -> bool:
    if not job.decided or job.is_closed:
        return False
    return any("new_rotors" in (code or "") for row in job.decisions.all() for code in row.remedies.values())


def measuring_order(job: Job) -> list[dict[str, Any]]:
    """Return the corners in the order in which the story says to measure them, with odds; nothing is excluded."""
    odds = corner_odds(job.vehicle.positions, complaint_from_data(job.story))
    ordered = sorted(odds.items(), key=lambda item: -item[1])
    return [{"position": p, "name": POSITION_NAMES[p], "odds": odds_text(chance)} for p, chance in ordered]


def expected_frequencies(job: Job) -> dict[str, Any] | None:
    """Return what order 1 and 2 would be at the complaint's speeds, in hertz, or None."""
    speeds, circumference = job.story.get("speed_kmh"), job.vehicle.rolling_circumference_mm
    if not speeds or not circumference:
        return None
    low, high = (expected_hz(speed, circumference) for speed in speeds)
    return {"once": f"{low:.0f}–{high:.0f}", "twice": f"{2 * low:.0f}–{2 * high:.0f}"}


def speed_scale(user: User, job: Job) -> str:
    """Draw the complaint's speeds as a band on a scale; empty where no speed was told."""
    speeds = job.story.get("speed_kmh")
    if not speeds:
        return ""
    (low, unit), (high, _unit) = (speed_in(speed, user.unit) for speed in speeds)
    title = _("Felt from %(a)s to %(b)s %(unit)s") % {"a": f"{low:.0f}", "b": f"{high:.0f}", "unit": unit}
    return draw_speeds(low, high, per_step=20.0, steps=8 if user.unit is Unit.MM else 5, unit=unit, title=title)
