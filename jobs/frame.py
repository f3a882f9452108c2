"""Contexts of pages: rows and drawings gathered for one template each. Reads only."""

from dataclasses import dataclass
from typing import Any, Final

from django.shortcuts import get_object_or_404
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.words.codes import STATES
from drawing.glance import Glance, draw_mini
from jobs.models import Corner, Job, Tape
from jobs.next_act import is_worked, next_act
from workshop.addresses import address

LEGS: Final = (
    ("complaint", gettext_lazy("Complaint")),
    ("prepare", gettext_lazy("Prepare")),
    ("measure", gettext_lazy("Measure")),
    ("cause", gettext_lazy("Cause")),
    ("choose", gettext_lazy("Choose")),
    ("do", gettext_lazy("Do")),
    ("prove", gettext_lazy("Prove")),
)


@dataclass(frozen=True)
class Leg:
    """One leg of the ribbon: where it leads, whether one stands on it, whether it is behind the job."""

    number: int
    name: str
    url: str
    here: bool
    done: bool


@dataclass(frozen=True)
class CornerLink:
    """A corner in plan: drawing, name, place on the plan, where it leads, a word on its state."""

    position: str
    name: str
    mini: str
    url: str
    here: bool
    word: str
    side: str


def corner_links(job: Job, *, here: Corner | None = None, leg: str = "measure") -> list[CornerLink]:
    """Return the corners of a job in plan."""
    return [
        CornerLink(
            position=corner.position,
            name=str(corner),
            mini=draw_mini(_glance(corner), title=f"{corner}: {_state_word(corner)}"),
            url=address(f"jobs:{leg}", job.pk, corner.position),
            here=here is not None and here.pk == corner.pk,
            word=_state_word(corner),
            side={"L": "left", "R": "right"}.get(corner.position[-1], "left") if len(corner.position) > 1 else "middle",
        )
        for corner in job.corners.all()
    ]


def job_context(job: Job, *, leg: str, corner: Corner | None = None, tape: Tape | None = None) -> dict[str, Any]:
    """Return what head, ribbon and corner switch of every page of a job need."""
    corners = list(job.corners.all())
    first = corner or next((c for c in corners if c.kept is None), corners[0])
    return {
        "job": job,
        "corner": corner,
        "legs": _legs(job, leg, first, corners),
        "corner_links": corner_links(job, here=corner, leg="prepare" if leg == "prepare" else "measure"),
        "act": next_act(job, corner=corner, tape=tape),
        "stop": stopped_corners(job),
    }


def stopped_corners(job: Job) -> list[Corner]:
    """Return the corners for which the vehicle must not be driven."""
    still = job.kept.still_stopped
    return [c for c in job.corners.all() if (c.stands is not None and c.stands.do_not_drive) or c.position in still]


def _glance(corner: Corner) -> Glance:
    kept = corner.stands
    if kept is None:
        return Glance()
    return Glance(runout=kept.runout, thickness=kept.variation, high_deg=kept.high_deg, stop=kept.do_not_drive)


def _state_word(corner: Corner) -> str:
    kept = corner.stands
    if kept is None:
        return _("measure again") if corner.episode else _("not measured")
    if kept.do_not_drive:
        return _("do not drive")
    for state in ("over", "too_close", "unknown"):
        if state in (kept.runout, kept.variation):
            return _("half measured") if state == "unknown" else _(STATES[state])
    return _(STATES["within"])


def _done(job: Job, corners: list[Corner]) -> dict[str, bool]:
    """Return which legs are behind this job: measuring is where no check is worth its minutes, or somebody chose."""
    kept, measured = job.kept, any(c.kept for c in corners)
    chosen = bool(job.decided) or job.is_closed
    return {
        "complaint": bool(job.complaint),
        "prepare": measured,
        "measure": measured and (chosen or kept.step.check is None or kept.step.position is None),
        "cause": measured and (chosen or kept.step.check is None),
        "choose": bool(job.decided),
        "do": is_worked(job),
        "prove": job.is_closed,
    }


def _legs(job: Job, leg: str, corner: Corner, corners: list[Corner]) -> list[Leg]:
    addresses = {
        "complaint": address("jobs:complaint", job.pk),
        "prepare": address("jobs:prepare", job.pk, corner.position),
        "measure": address("jobs:measure", job.pk, corner.position),
        "cause": address("jobs:cause", job.pk),
        "choose": address("jobs:choose-worst", job.pk),
        "do": address("jobs:do", job.pk),
        "prove": address("jobs:prove-first", job.pk),
    }
    done = _done(job, corners)
    return [
        Leg(number, str(name), addresses[code], code == leg, done[code])
        for number, (code, name) in enumerate(LEGS, start=1)
    ]


def corner_of(job: Job, position: str) -> Corner:
    """Return a corner of a job fetched for its page; 404 where the vehicle has none there."""
    corner = next((c for c in job.corners.all() if c.position == position), None)
    return corner or get_object_or_404(Corner, pk=None)
