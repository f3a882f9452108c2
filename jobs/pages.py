"""Contexts of pages: rows and drawings gathered for one template each. Reads only."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Final

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.wording import STATES
from drawing.mini import Glance, draw_mini
from drawing.rose import Rose, draw_rose
from jobs.actions import Judged, judge
from jobs.models import Corner, Job, Sweep, Tape, ThicknessRound
from jobs.nextact import NextAct, next_act
from jobs.workbench import build
from workshop.adapters import spec_of, unit_of
from workshop.models import User

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
    """One leg of the ribbon; ``url`` is empty for a leg this version does not have."""

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


@dataclass(frozen=True)
class Strip:
    """A job on the floor."""

    job: Job
    corners: list[CornerLink]
    act: NextAct | None
    stop: bool


def strips(jobs: Iterable[Job]) -> list[Strip]:
    """Return the strips of the floor; ``jobs`` come from ``for_floor``."""
    return [
        Strip(
            job=job,
            corners=corner_links(job),
            act=next_act(job),
            stop=any(corner.verdict.get("do_not_drive") for corner in job.corners.all()),
        )
        for job in jobs
    ]


def corner_links(job: Job, *, here: Corner | None = None, leg: str = "measure") -> list[CornerLink]:
    """Return the corners of a job in plan."""
    return [
        CornerLink(
            position=corner.position,
            name=str(corner),
            mini=draw_mini(_glance(corner), title=f"{corner}: {_state_word(corner)}"),
            url=reverse(f"jobs:{leg}", args=[job.pk, corner.position]),
            here=here is not None and here.pk == corner.pk,
            word=_state_word(corner),
            side={"L": "left", "R": "right"}.get(corner.position[-1], "left") if len(corner.position) > 1 else "middle",
        )
        for corner in job.corners.all()
    ]


def job_context(job: Job, *, leg: str, corner: Corner | None = None, tape: Tape | None = None) -> dict[str, Any]:
    """Return what head, ribbon and corner switch of every page of a job need."""
    corners = list(job.corners.all())
    first = corner or next((c for c in corners if not c.verdict), corners[0])
    return {
        "job": job,
        "corner": corner,
        "legs": _legs(job, leg, first, corners),
        "corner_links": corner_links(job, here=corner, leg="prepare" if leg == "prepare" else "measure"),
        "act": next_act(job, corner=corner, tape=tape),
        "stop": [c for c in corners if c.verdict.get("do_not_drive")],
        "empty_rose": _empty_rose(corner) if corner is not None and leg == "prepare" else "",
    }


def corner_context(user: User, job: Job, corner: Corner, *, tape_name: str) -> dict[str, Any]:
    """Return the whole workbench page of a corner."""
    judged = judge(corner)
    sweeps, rounds = judged.sweeps, judged.rounds
    tape = _choose_tape(tape_name, sweeps, rounds)
    first_free = next((slot for slot, text in enumerate(tape.typed) if not text), 0)
    bench = build(corner, tape, judged=judged, unit=unit_of(user), current=first_free)
    return {
        **job_context(job, leg="measure", corner=corner, tape=tape),
        "bench": bench,
        "tape": tape,
        "tabs": _tabs(job, corner, sweeps, rounds, tape),
        "first_free": first_free,
        "columns": min(len(bench.cells) - isinstance(tape, Sweep), 12),
    }


def live_context(user: User, job: Job, tape: Tape, *, current: int, judged: Judged) -> dict[str, Any]:
    """Return only what is redrawn after an edit of ``tape``, whose corner has just been ``judged``."""
    corner = tape.corner
    bench = build(corner, tape, judged=judged, unit=unit_of(user), current=current)
    return {
        "job": job,
        "corner": corner,
        "bench": bench,
        "tape": tape,
        "act": next_act(job, corner=corner, tape=tape),
        "corner_links": corner_links(job, here=corner),
    }


def limits_initial(corner: Corner) -> dict[str, Any]:
    """Return the limits in force, as the form's starting values."""
    return corner.limits.figures() if corner.limits is not None else {}


def set_up_initial(corner: Corner, *, turned: bool = False) -> dict[str, Any]:
    """Return what was set up last on this corner or its neighbour, without the confirmations."""
    studs = corner.limits.studs if corner.limits is not None else 5
    radius = corner.limits.measuring_radius_mm if corner.limits is not None else None
    return {
        "dial": "mm10",
        "stations": max(2 * studs, 8),
        "radius_mm": radius,
        "turned": studs // 2 if turned else 0,
        "read_to": "0.5",
    }


def _glance(corner: Corner) -> Glance:
    verdict = corner.verdict
    if not verdict:
        return Glance()
    return Glance(
        runout=verdict["runout"]["state"],
        thickness=verdict["thickness"]["state_variation"],
        high_deg=verdict["runout"]["high_deg"],
        stop=verdict["do_not_drive"],
    )


def _state_word(corner: Corner) -> str:
    verdict = corner.verdict
    if not verdict:
        return _("not measured")
    if verdict["do_not_drive"]:
        return _("do not drive")
    runout, thickness = verdict["runout"]["state"], verdict["thickness"]["state_variation"]
    for state in ("over", "too_close", "unknown"):
        if state in (runout, thickness):
            return _("half measured") if state == "unknown" else _(STATES[state])
    return _(STATES["within"])


def _legs(job: Job, leg: str, corner: Corner, corners: list[Corner]) -> list[Leg]:
    addresses = {
        "complaint": reverse("jobs:complaint", args=[job.pk]),
        "prepare": reverse("jobs:prepare", args=[job.pk, corner.position]),
        "measure": reverse("jobs:measure", args=[job.pk, corner.position]),
    }
    done = {
        "complaint": bool(job.complaint),
        "prepare": any(c.verdict for c in corners),
        "measure": all(c.verdict for c in corners),
    }
    return [
        Leg(number, str(name), addresses.get(code, ""), code == leg, done.get(code, False))
        for number, (code, name) in enumerate(LEGS, start=1)
    ]


def _empty_rose(corner: Corner) -> str:
    if corner.limits is None:
        return ""
    spec = spec_of(corner.limits)
    count = max(2 * spec.studs, 8)
    stations = tuple(360.0 * k / count for k in range(count))
    rose = Rose(spec=spec, stations_deg=stations, runout=None, thickness=None, at_deg=0.0, current=0)
    return draw_rose(rose, title=_("The disc with its stations, nothing measured yet"))[0]


def _choose_tape(name: str, sweeps: list[Sweep], rounds: list[ThicknessRound]) -> Tape:
    for tape in (*sweeps, *rounds):
        if name == f"{tape.kind[0]}{tape.pk}":
            return tape
    if name == "thickness" and rounds:
        return rounds[-1]
    return sweeps[-1] if sweeps else rounds[-1]


def _tabs(
    job: Job, corner: Corner, sweeps: list[Sweep], rounds: list[ThicknessRound], tape: Tape
) -> list[dict[str, Any]]:
    address = reverse("jobs:measure", args=[job.pk, corner.position])
    tabs: list[dict[str, Any]] = []
    studs = corner.limits.studs if corner.limits is not None else 1
    seen: dict[tuple[Any, ...], int] = {}
    for sweep in sweeps:
        seen[sweep.set_up] = seen.get(sweep.set_up, 0) + 1
        turned = round(sweep.index_deg * studs / 360)
        name = _("Runout") if not turned else _("Runout, turned %(n)s") % {"n": turned}
        if not (sweep.cleaned and sweep.nuts_torqued):
            name = _("%(name)s, before") % {"name": name}
        if seen[sweep.set_up] > 1:
            name = _("%(name)s, turn %(n)s") % {"name": name, "n": seen[sweep.set_up]}
        tabs.append({"name": name, "url": f"{address}?tape=s{sweep.pk}", "here": sweep is tape})
    for measured in rounds:
        tabs.append({"name": _("Thickness"), "url": f"{address}?tape=t{measured.pk}", "here": measured is tape})
    return tabs
