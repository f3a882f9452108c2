"""Contexts of pages: rows and drawings gathered for one template each. Reads only."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Final

from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from compass.do.star_order import star_order
from compass.ground.angles import equal_stations_deg
from compass.ground.units import Unit
from compass.words.codes import SEEN, STATES, SURFACES
from compass.words.places import place_text
from drawing.mini import Glance, draw_mini
from drawing.star import draw_star
from jobs.actions import Judged, judge
from jobs.adapters import look_of
from jobs.forms import QuickForm
from jobs.looking import FIELDS, read_look, unit_of_field
from jobs.models import Corner, Job, Sweep, Tape
from jobs.nextact import NextAct, next_act
from jobs.workbench import build
from workshop.adapters import unit_of
from workshop.models import Instrument, User, Vehicle
from workshop.wording import unreadable

BESIDE: Final = {"quick": gettext_lazy("Quick"), "look": gettext_lazy("Look")}

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
    }


def corner_context(user: User, job: Job, corner: Corner, *, tape_name: str, view: str = "") -> dict[str, Any]:
    """Return the whole workbench page of a corner."""
    judged = judge(corner)
    beside = tape_name if tape_name in BESIDE else ""
    tape = _choose_tape(tape_name, judged)
    first_free = next((slot for slot, text in enumerate(tape.typed) if not text), 0)
    bench = build(corner, tape, judged=judged, unit=unit_of(user), current=first_free, view=view)
    if tape.typed and all(tape.typed):  # a station that stands alone is the one to read again
        first_free = next((cell.slot for cell in bench.cells if cell.flagged), first_free)
    context = {
        **job_context(job, leg="measure", corner=corner, tape=tape if tape.pk else None),
        "bench": bench,
        "tape": tape,
        "beside": beside,
        "surface": _(SURFACES[tape.surface]) if isinstance(tape, Sweep) else "",
        "tape_query": _tape_query(tape, beside),
        "tabs": _tabs(job, corner, judged, tape, beside),
        "first_free": first_free,
        "columns": min(len(tape.stations_deg), 12),
    }
    if beside == "quick":
        context |= quick_context(corner, judged)
    if beside == "look":
        context |= look_context(user, corner)
    return context


def quick_context(corner: Corner, judged: Judged, *, form: QuickForm | None = None) -> dict[str, Any]:
    """Return what the quick reading's line and list need."""
    studs = corner.limits.studs
    readings = [
        {"row": quick, "place": place_text(quick.high_deg, studs, translate=_), "turned": quick.index_deg * studs / 360}
        for quick in judged.quick
    ]
    return {"quick_form": form or QuickForm(studs=studs), "quick_readings": readings}


def look_context(user: User, corner: Corner) -> dict[str, Any]:
    """Return the fields of what is measured and seen beside the disc, each with its error."""
    look = look_of(corner)
    unit = Unit(look.unit) if look is not None else unit_of(user)
    typed = look.typed if look is not None else {}
    errors = read_look(typed, unit).errors
    features = corner.limits.features if corner.limits is not None else []
    return {
        "look_fields": [
            {
                "name": field.name,
                "label": f"{field.label} ({unit_of_field(field, unit).value})",
                "text": typed.get(field.name, ""),
                "several": field.several,
                "error": unreadable(errors[field.name]) if field.name in errors else "",
            }
            for field in FIELDS
            if not field.feature or field.feature in features
        ],
        "findings": [
            {"code": code, "name": _(name), "seen": look is not None and code in look.findings}
            for code, name in SEEN.items()
        ],
    }


def live_context(user: User, job: Job, tape: Tape, *, current: int, judged: Judged, view: str = "") -> dict[str, Any]:
    """Return only what is redrawn after an edit of ``tape``, whose corner has just been ``judged``."""
    corner = tape.corner
    bench = build(corner, tape, judged=judged, unit=unit_of(user), current=current, view=view)
    return {
        "job": job,
        "corner": corner,
        "bench": bench,
        "tape": tape,
        "tape_query": _tape_query(tape, ""),
        "act": next_act(job, corner=corner, tape=tape if tape.pk else None),
        "corner_links": corner_links(job, here=corner),
    }


def limits_initial(corner: Corner) -> dict[str, Any]:
    """Return the limits in force, as the form's starting values."""
    return corner.limits.figures() if corner.limits is not None else {}


def set_up_initial(corner: Corner, asked: Mapping[str, str]) -> dict[str, Any]:
    """Return what was set up last on this corner, without the confirmations, and what the next act asked for."""
    limits = corner.limits
    studs = limits.studs if limits is not None else 5
    surface = asked.get("surface", "rotor_outboard")
    radius = limits.measuring_radius_mm if limits is not None else None
    if surface == "hub_face" and limits is not None:
        radius = limits.hub_runout_radius_mm
    initial: dict[str, Any] = {
        "dial": "mm10",
        "surface": surface,
        "stations": max(2 * studs, 8),
        "radius_mm": radius,
        "turned": int(asked["turned"]) if asked.get("turned", "").isdecimal() else 0,
        "read_to": "0.5",
    }
    instruments = {i.kind: f"i{i.pk}" for i in reversed(Instrument.objects.filter(retired=False))}
    initial |= {"dial": instruments.get("dial", "mm10"), "micrometer": instruments.get("micrometer", "mm1")}
    last = corner.sweeps.last()
    if last is not None:
        initial |= {"read_to": f"{last.read_to:g}", "entry_unit": last.entry_unit}
        if last.instrument_id:
            initial["dial"] = f"i{last.instrument_id}"
    return initial


def star_context(corner: Corner) -> dict[str, Any]:
    """Return the drawn star order of the corner's studs, and its torque; nothing without limits."""
    limits = corner.limits
    if limits is None:
        return {"star": "", "torque_nm": None, "order": ""}
    order = " · ".join(str(stud) for stud in star_order(limits.studs))
    title = _("Torque the nuts in this order: %(order)s") % {"order": order}
    return {
        "star": draw_star(limits.studs, title=title),
        "torque_nm": limits.wheel_torque_nm,
        "order": order,
        "motorcycle": corner.job.vehicle.kind == Vehicle.Kind.MOTORCYCLE,
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
        "cause": reverse("jobs:cause", args=[job.pk]),
        "choose": reverse("jobs:choose-worst", args=[job.pk]),
    }
    done = {
        "complaint": bool(job.complaint),
        "prepare": any(c.verdict for c in corners),
        "measure": all(c.verdict for c in corners),
        "cause": bool(job.found_cause),
        "choose": bool(job.decided),
    }
    return [
        Leg(number, str(name), addresses.get(code, ""), code == leg, done.get(code, False))
        for number, (code, name) in enumerate(LEGS, start=1)
    ]


def _choose_tape(name: str, judged: Judged) -> Tape:
    sweeps, rounds = judged.sweeps, judged.rounds
    for tape in (*sweeps, *rounds):
        if name == f"{tape.kind[0]}{tape.pk}":
            return tape
    if name == "thickness" and rounds:
        return rounds[-1]
    if sweeps or rounds:
        return sweeps[-1] if sweeps else rounds[-1]
    # Nothing but quick readings or a look: the rose still needs its stations.
    stations = [float(angle) for angle in equal_stations_deg(max(2 * judged.record.spec.studs, 8))]
    spec = judged.record.spec
    return Sweep(
        stations_deg=stations,
        typed=[],
        readings_mm=[],
        graduation_mm=0.01,
        radius_mm=spec.measuring_radius_mm,
        entry_unit=Unit.DIVISION.value,
    )


def _tape_query(tape: Tape, beside: str) -> str:
    """Return the query that opens what is open now, for links that change only the layer."""
    return f"?tape={beside or f'{tape.kind[0]}{tape.pk}'}"


def _tabs(job: Job, corner: Corner, judged: Judged, tape: Tape, beside: str) -> list[dict[str, Any]]:
    address = reverse("jobs:measure", args=[job.pk, corner.position])
    tabs: list[dict[str, Any]] = []
    studs = corner.limits.studs if corner.limits is not None else 1
    seen: dict[tuple[Any, ...], int] = {}
    names = {"rotor_outboard": _("Runout"), "rotor_inboard": _("Inboard"), "hub_face": _("Hub"), "arbor": _("Arbor")}
    for sweep in judged.sweeps:
        seen[sweep.set_up] = seen.get(sweep.set_up, 0) + 1
        turned = round(sweep.index_deg * studs / 360)
        name = names[sweep.surface]
        if turned:
            name = _("%(name)s +%(n)s") % {"name": name, "n": turned}
        if not (sweep.cleaned and (sweep.nuts_torqued or sweep.surface in ("hub_face", "arbor"))):
            name = _("%(name)s, before") % {"name": name}
        if seen[sweep.set_up] > 1:
            name = _("%(name)s, turn %(n)s") % {"name": name, "n": seen[sweep.set_up]}
        tabs.append({"name": name, "url": f"{address}?tape=s{sweep.pk}", "here": sweep is tape and not beside})
    for measured in judged.rounds:
        here = measured is tape and not beside
        tabs.append({"name": _("Thickness"), "url": f"{address}?tape=t{measured.pk}", "here": here})
    for code, name in BESIDE.items():
        tabs.append({"name": str(name), "url": f"{address}?tape={code}", "here": code == beside})
    return tabs
