"""Two years of closed jobs: the same hidden discs wear from visit to visit, so that the record has something to say.

Every vehicle's corners are simulated on: what a repair leaves wears on by the growth below until the next visit. The
rows are written by the very actions of the job where they judge or decide; the steps of the work are pressed at once.
"""

from collections.abc import Callable, Collection
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from itertools import accumulate
from typing import Any, Final

import numpy as np
from django.db import models, transaction
from django.db.models import F
from django.utils import timezone

from compass.choose.axle import Lane
from compass.do.ladder import steps_of
from compass.evidence.shop import QUIET_RUNOUT_MM
from compass.ground.angles import vector
from compass.ground.limits import State
from compass.simulate.corner import Patch, SimulatedCorner, Wave, worn_by_runout
from compass.simulate.repair import repaired
from demo.build import Tools, make_vehicle, round_tape, sweep_tape
from demo.fleet import QUIET_VEHICLES, VEHICLES
from jobs.choose.actions import decide
from jobs.choose.axle import AxleChoice, weigh_axle
from jobs.complaint.actions import keep_story
from jobs.do.actions import fit_plate
from jobs.do.doing import doing_of, plan_of
from jobs.do.running import next_episode
from jobs.floor.actions import open_job
from jobs.handover.actions import ring, say_comeback
from jobs.judging import refresh
from jobs.models import Closing, Corner, CornerWorked, Cut, Decision, Job, Run, RunStep, Sweep, ThicknessRound
from jobs.prove.actions import close_job
from workshop.adapters import shop_of_workshop, spec_of
from workshop.models import AxleLimits, PlateKind, TorqueWrench, User, Vehicle
from workshop.store.actions import begin_study, check_instrument, keep_wrench, read_study

SEED: Final = 907
VISITS: Final = 4
_OFTEN: Final = 8  # vehicles that were here each time
_GROWTH: Final = 0.055  # of this island's discs: salt and short trips
_A_DAY: Final = 55.0  # km
_SUPPLIERS: Final = ("Skerry Parts", "Norrvik Motor")
_BAD_SUPPLIER_MM: Final = 0.07  # what its rotors run out at the most

# What has befallen a vehicle, which axle, what the driver says, and how it is dealt with: by advice ("") or as named.
_EVENTS: Final = (
    ("dirt", "Pedal pulses since the tyres were changed.", ""),
    ("stack", "Steering shakes when braking from 90.", ""),
    ("rotor", "Pulsing pedal, more each month.", ""),
    ("patch", "Rumbles when braking, stood over the winter.", ""),
    ("hub", "Shakes after the kerb at the ferry.", ""),
    ("dirt", "Judder at the harbour hill.", ""),
    ("none", "Routine: brakes looked at with the service.", ""),
    ("stack", "Pulses lightly, always.", ""),
)


@dataclass
class World:
    """One vehicle's hidden corners as they are now, and the chance that befalls it, whoever else is there."""

    g: np.random.Generator
    vehicle: Vehicle
    corners: dict[str, SimulatedCorner]
    odometer_km: int


@transaction.atomic
def build_history(
    people: dict[str, User],
    vehicles: list[Vehicle],
    tools: Tools,
    *,
    places: Collection[int] | None = None,
    tell: Callable[[int, int], None] | None = None,
) -> int:
    """Close some jobs of every vehicle, the last months ago. Return how many; ``tell`` hears how many of how many.

    ``places`` are the vehicles that are wanted, by their place in the list; their jobs are the same without the others.
    """
    quiet = [make_vehicle(people["holm"], *row) for row in QUIET_VEHICLES]
    worlds = [_world(place, vehicle) for place, vehicle in enumerate([*vehicles, *quiet])]
    _keep_checks(np.random.default_rng(SEED + 1), people["holm"], tools)
    step = timedelta(days=730 / VISITS)
    count = 0
    for visit in range(VISITS):
        for place, world in enumerate(worlds):
            if visit >= _visits_of(place) or (places is not None and place not in places):
                continue
            g = world.g
            at = timezone.now() - timedelta(days=730 - 20) + step * visit + timedelta(days=float(g.uniform(0, 60)))
            kind, words, code = _EVENTS[(3 * place + 5 * visit + place // 4) % len(_EVENTS)]
            kind, words, code = _TOLD.get((place, visit), (kind, words, code))
            early = kind == "back"
            at -= timedelta(days=70) if early else timedelta()
            km = int(_A_DAY * step.days * g.uniform(0.8, 1.2) * (0.6 if early else 1.0)) if visit else 0
            _drive(world, km)
            _visit(people, world, tools, _Visit(kind, words, code, at, place, visit))
            count += 1
            if tell is not None:
                tell(count, JOBS)
    _ring_some(people["brandt"])
    return count


def _visits_of(place: int) -> int:
    """Return how often a vehicle was here: the quiet ones are due to be looked at again by now."""
    return VISITS if place < _OFTEN else VISITS - 1


JOBS: Final = VISITS * _OFTEN + (VISITS - 1) * (len(VEHICLES) + len(QUIET_VEHICLES) - _OFTEN)


def _ring_some(user: User) -> None:
    """Ring the owners of the two that are overdue longest."""
    overdue = Closing.of(user).due(timezone.localdate()).order_by("due_on")
    for closing, said in zip(overdue[:2], ("fine", "no_answer"), strict=False):
        ring(user, closing, said=said)


# Against the advice, and what came of it: three that came back, one repair that was not needed. (vehicle, visit)
_BACK: Final = ("back", "It is back, the same as before.", "")
_TOLD: Final = {
    (0, 1): ("tyre", "Shakes at 100, with or without brakes.", ""),
    (4, 1): ("hub", "Pedal pulses, worse each week.", "new_rotors"),
    (4, 2): _BACK,
    (7, 1): ("hub", "Wheel shakes on the causeway.", "new_rotors"),
    (7, 2): _BACK,
    (9, 1): ("hub", "Shakes since the kerb at the school.", "new_rotors"),
    (9, 2): _BACK,
}
_WILFUL: Final = "The driver wanted it so."
_KNOWN: Final = "Enough is known, and the bay is free today."


@dataclass(frozen=True)
class _Visit:
    kind: str
    words: str
    code: str
    at: datetime
    place: int
    number: int


def _keep_checks(g: np.random.Generator, lead: User, tools: Tools) -> None:
    """Check the instruments over two years, one of which drifts; wrenches; a study of three persons."""
    today = timezone.localdate()
    for instrument, standard_mm, a_year in ((tools.dial, 1.0, 0.0), (tools.micrometer, 25.0, 0.0011)):
        for days in (730, 560, 380, 200, 40):
            off = a_year * (730 - days) / 365 + float(g.normal(0, 0.0002))
            on = today - timedelta(days=days)
            check_instrument(lead, instrument, on=on, standard_mm=standard_mm, shown_mm=round(standard_mm + off, 4))
    for name, least, most, days, off in _WRENCHES:
        checked = today - timedelta(days=days)
        keep_wrench(lead, TorqueWrench(name=name, least_nm=least, most_nm=most, checked_on=checked, off_percent=off))
    study = begin_study(lead, tools.dial, persons=["Brandt", "Okoro", "Ness"], parts=5, turns=3, limit_mm=0.05)
    parts, persons = g.normal(0.045, 0.018, 5), (0.0, 0.001, 0.006)
    read = [
        max(part + who + float(g.normal(0, 0.0018)), 0.0) for who in persons for part in parts for _turn in range(3)
    ]
    read = [round(mm / 0.005) * 0.005 for mm in read]
    read_study(lead, study, version=1, typed=[f"{mm:.3f}" for mm in read], readings_mm=read)


_WRENCHES: Final = (
    ("Click wrench, small", 5.0, 60.0, 110, 3.0),
    ("Click wrench, wheels", 40.0, 220.0, 395, 4.0),
    ("Long wrench", 100.0, 500.0, 200, 4.0),
)


def _world(place: int, vehicle: Vehicle) -> World:
    corners, g = {}, np.random.default_rng((SEED, place))
    in_force = {limits.axle: limits for limits in vehicle.limits.all()}
    for position in vehicle.positions:
        limits = in_force[_axle(position)]
        spare = (limits.nominal_thickness_mm or 20.0) - limits.discard_thickness_mm
        corners[position] = SimulatedCorner(
            radius_mm=limits.measuring_radius_mm,
            nominal_mm=(limits.nominal_thickness_mm or 20.0) - spare * float(g.uniform(0.0, 0.06)),
            hub=_tilt(g, 0.010),
            rotor=_tilt(g, 0.012),
            face=(Wave(2, float(g.uniform(0, 0.003)), 35.0),),
            thickness=(Wave(2, 0.0008, 110.0),),
            seating_mm=0.003,
            noise_mm=0.0012,
        )
    start = (vehicle.odometer_km or 0) - int(_A_DAY * 730)
    return World(g, vehicle, corners, max(start, 3_000))


def _axle(position: str) -> str:
    return position[:-1] if len(position) > 1 else position


def _tilt(g: np.random.Generator, tir_mm: float) -> complex:
    return vector(float(abs(g.normal(tir_mm, tir_mm / 3))), float(g.uniform(0, 360)))


def _drive(world: World, km: int) -> None:
    """Wear every disc: it loses metal, and grows uneven where it runs out."""
    if not km:
        return
    world.odometer_km += km
    driven = float(world.g.lognormal(0, 0.15))
    for position, corner in world.corners.items():
        over = max(0.0, corner.true_tir_mm() - QUIET_RUNOUT_MM)
        grown = min(_GROWTH * over * km / 1000 * driven, 0.05)
        thinner = replace(corner, nominal_mm=corner.nominal_mm - 0.006 * km / 1000)
        world.corners[position] = worn_by_runout(thinner, depth_mm=grown * 0.8) if grown > 0.001 else thinner


def _befall(g: np.random.Generator, corner: SimulatedCorner, kind: str, limit_mm: float) -> SimulatedCorner:
    match kind:
        case "dirt":
            return replace(corner, joint=_tilt(g, limit_mm * 1.2))
        case "stack":
            return replace(corner, hub=vector(limit_mm * 0.75, 40.0), rotor=vector(limit_mm * 0.75, 60.0))
        case "rotor":
            return worn_by_runout(replace(corner, rotor=_tilt(g, limit_mm * 1.5)), depth_mm=0.022)
        case "hub":
            return replace(corner, hub=_tilt(g, limit_mm * 1.3))
        case "patch" | "tyre":
            return replace(corner, thickness_patches=(*corner.thickness_patches, Patch(-0.03, 190.0, 42.0)))
        case _:
            return corner


def _visit(people: dict[str, User], world: World, tools: Tools, visit: _Visit) -> None:
    """Open, measure, decide, do, measure again, close: then set the whole job back to its day."""
    g = world.g
    technician = people[("brandt", "okoro")[(visit.place + visit.number) % 2]]
    lead = people["holm"]
    vehicle = world.vehicle
    before = Closing.of(lead).filter(vehicle=vehicle, stands=True, seen_again=None).first()
    job = open_job(technician, vehicle, complaint=visit.words, odometer_km=world.odometer_km, assigned_to=technician)
    Job.of(lead).filter(pk=job.pk).update(created_at=visit.at)
    axle = _axle(vehicle.positions[0 if (visit.place + visit.number // 2) % 3 else -1])
    worst = next(position for position in vehicle.positions if _axle(position) == axle)
    limits = {corner.position: corner.limits for corner in job.corners.select_related("limits")}
    world.corners[worst] = _befall(g, world.corners[worst], visit.kind, limits[worst].max_runout_mm)
    if visit.kind != "none":
        keep_story(
            technician, job, {"felt_in": ["steering_wheel"] if axle in ("F", "A1") else ["seat"], "when": ["braking"]}
        )
    for corner in job.corners.select_related("limits"):
        _came_in(g, technician, corner, world.corners[corner.position], tools, full=_axle(corner.position) == axle)
    refresh(technician, job)
    fresh = Job.of(lead).for_choosing().get(pk=job.pk)
    choice = weigh_axle(technician, fresh, axle)
    lane = _lane(choice, visit.code)
    if lane is not None:
        decide(
            technician, fresh, axle, code=lane.code, reason=_WILFUL if (visit.place, visit.number) in _TOLD else _KNOWN
        )
        _carry_out(technician, job, world, tools)
    cause = "tyre_or_wheel" if visit.kind == "tyre" else _cause(lead, job)
    supplier = _SUPPLIERS[visit.place % 2]
    close_job(lead, job, reason="Rest looked at, road test without pulse.", found_cause=cause, supplier=supplier)
    backdate(job, visit.at)
    if before is not None:
        again = Closing.of(lead).get(pk=before.pk)
        if again.works.exists():
            say_comeback(lead, again, comeback=visit.kind == "back")
        Closing.history.filter(id=before.pk, history_date__gt=visit.at).update(history_date=visit.at)


def _cause(lead: User, job: Job) -> str:
    """Return the cause of the worst corner: what a lead would name."""
    causes = [corner.kept.root_cause for corner in job.corners.all() if corner.kept is not None]
    return next((cause for cause in causes if cause != "none_found"), "none_found")


def _lane(choice: AxleChoice | None, wilful: str) -> Lane | None:
    """Return what is decided: as somebody willed, else as advised, else the first open lane that does something."""
    if choice is None:
        return None
    named = choice.lane(wilful) if wilful else None
    if named is not None and named.feasible:
        return named
    advised = choice.advised
    if advised is not None:
        return advised if advised.code != "none" else None
    over = any(
        State.OVER in (corner.measured.runout.state, corner.measured.thickness.state_variation)
        for corner in choice.corners
    )
    return next((lane for lane in choice.lanes if lane.feasible and lane.code != "none"), None) if over else None


def _came_in(
    g: np.random.Generator, user: User, corner: Corner, truth: SimulatedCorner, tools: Tools, *, full: bool
) -> None:
    limits = corner.limits
    stations = max(2 * limits.studs, 8)
    pitch = 360.0 / limits.studs
    if truth.joint:
        sweep_tape(g, user, corner, truth, stations, tools.dial, cleaned=False)
    for turned in (0.0, pitch * (limits.studs // 2), pitch) if full else (0.0,):
        sweep_tape(g, user, corner, truth, stations, tools.dial, index_deg=turned)
    round_tape(g, user, corner, truth, stations, tools.micrometer)


def _carry_out(user: User, job: Job, world: World, tools: Tools) -> None:
    """Press every step, fit what is fitted, let the simulator repair, and measure what stands there then."""
    g, doing = world.g, doing_of(user, Job.of(user).for_doing().get(pk=job.pk))
    if doing is None:
        return
    run = Run.of(user).create(job=job, plan=plan_of(doing.sides), started_by=user)
    steps = list(steps_of(doing.parts))
    began = timezone.now()
    pace = float(g.lognormal(0.15, 0.3))
    minutes = {task.key.partition("|")[2]: task.minutes for task in doing.tasks()}
    taken = [
        pace * float(g.lognormal(0.0, 0.25)) * minutes[part.key] / len(part.steps)
        for part in doing.parts
        for _step in part.steps
    ]
    rows = [RunStep(run=run, position=s.position, key=s.key, finding=_finding(s.step), done_by=user) for s in steps]
    RunStep.of(user).bulk_create(rows)
    for row, gone in zip(rows, accumulate(taken), strict=True):
        row.done_at = began + timedelta(minutes=gone)
    RunStep.of(user).bulk_update(rows, ["done_at"])
    shop = shop_of_workshop(user)
    for position, side in doing.sides.items():
        corner = side.corner
        limits: AxleLimits = corner.limits
        settings = side.decision.settings.get(position, {})
        if "plate" in side.remedy.split("+") and settings.get("plate_mm"):
            kind = PlateKind.of(user).filter(correction_mm=settings["plate_mm"], studs=limits.studs)
            kind.update(stock=F("stock") + 1)
            fit_plate(user, job, position)
        spec = spec_of(limits)
        supplier_mm = _BAD_SUPPLIER_MM if world.vehicle.pk % 2 else 0.03
        made = repaired(
            world.corners[position],
            replace(spec, new_rotor_runout_mm=supplier_mm),
            side.remedy,
            settings,
            shop=shop,
            g=g,
        )
        world.corners[position] = made
        if side.lathe is not None and "cut" in side.remedy:
            read = abs(float(g.normal(0.008, 0.003)))
            Cut(corner=corner, lathe=side.lathe, check_read_mm=read, check_arm_mm=300.0, created_by=user).save()
        next_episode(user, corner, side.remedy)
        stations = max(2 * limits.studs, 8)
        sweep_tape(g, user, corner, made, stations, tools.dial, recorded_deg=settings.get("index_deg", 0.0))
        round_tape(g, user, corner, made, stations, tools.micrometer)
    refresh(user, job)


def _finding(step: Any) -> str:
    passing = [finding.code for finding in step.findings if not finding.back]
    return "gone" if "gone" in passing else passing[0] if passing else ""


# Every row of a job that carries a time, by the way to its job.
_TIMED: Final[tuple[tuple[type[models.Model], str, tuple[str, ...]], ...]] = (
    (Job, "pk", ("changed_at",)),
    (Sweep, "corner__job", ("created_at",)),
    (ThicknessRound, "corner__job", ("created_at",)),
    (Decision, "job", ("created_at",)),
    (Run, "job", ("started_at",)),
    (Cut, "corner__job", ("created_at",)),
    (RunStep, "run__job", ("done_at",)),
    (Closing, "job", ("at", "due_on")),
    (CornerWorked, "closing__job", ("on",)),
    (Closing.history.model, "job", ("history_date", "at")),
    (Job.history.model, "id", ("history_date",)),
    (Sweep.history.model, "corner__job", ("history_date", "created_at")),
    (ThicknessRound.history.model, "corner__job", ("history_date", "created_at")),
)


def backdate(job: Job, at: datetime) -> None:
    """Set a whole job back to the day it is told for: every time in it moves alike."""
    by = timezone.now() - at
    days = timedelta(days=by.days)
    for model, way, names in _TIMED:
        rows = model._default_manager.filter(**{way: job.pk})
        rows.update(**{name: F(name) - (days if name in ("due_on", "on") else by) for name in names})
    for worked in CornerWorked.of(None).filter(closing__job=job):
        CornerWorked.of(None).filter(pk=worked.pk).update(month=worked.on.replace(day=1))
