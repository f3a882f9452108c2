"""Build the demo from its stories: hidden corners are read by the simulator, with a fixed seed."""

from dataclasses import replace
from datetime import timedelta
from typing import Any, Final

import numpy as np
from django.db import connection, transaction
from django.utils import timezone

from compass.angles import vector
from compass.simulate import Patch, SimulatedCorner, Wave, worn_by_runout
from compass.units import Unit
from jobs.actions import entry_text, open_job, refresh_verdict
from jobs.demo.fleet import LIMITS, PASSWORD, PEOPLE, VEHICLES
from jobs.demo.stories import STORIES, Hidden, Story
from jobs.models import Corner, Job, Sweep, Tape, ThicknessRound
from workshop.models import AxleLimits, User, Vehicle

SEED: Final = 4711
FIRST_NUMBER: Final = 138


@transaction.atomic
def build_demo() -> None:
    """Make people, fleet, limits and jobs."""
    generator = np.random.default_rng(SEED)
    people = {username: _person(username, *names) for username, *names in PEOPLE}
    vehicles = {row[0]: _vehicle(people["holm"], *row) for row in VEHICLES}
    with connection.cursor() as cursor:
        cursor.execute(
            "select setval(pg_get_serial_sequence('jobs_job', 'id'), greatest(%s, (select max(id) from jobs_job)), false)",
            [FIRST_NUMBER],
        )
    for story in STORIES:
        _job(generator, people, vehicles[story.vehicle], story)


def _person(username: str, first: str, last: str, role: str) -> User:
    person = User(username=username, first_name=first, last_name=last, role=role)
    person.set_password(PASSWORD)
    person.save()
    return person


def _vehicle(
    lead: User, label: str, registration: str, kind: str, model: str, odometer_km: int, circumference_mm: int
) -> Vehicle:
    vehicle = Vehicle.objects.create(
        label=label,
        registration=registration,
        kind=kind,
        model=model,
        odometer_km=odometer_km or None,
        rolling_circumference_mm=circumference_mm,
    )
    for axle, figures in LIMITS[model.split()[0]].items():
        AxleLimits.objects.create(
            vehicle=vehicle,
            axle=axle,
            studs=figures["studs"],
            rotor=figures["rotor"],
            features=figures.get("features", []),
            discard_thickness_mm=figures["discard"],
            machine_to_thickness_mm=figures["machine"],
            nominal_thickness_mm=figures["new"],
            max_runout_mm=figures["runout"],
            max_thickness_variation_mm=0.015 if figures["new"] > 20 else 0.012,
            measuring_radius_mm=figures["radius"],
            source=AxleLimits.Source.MAKER,
            entered_by=lead,
        )
    return vehicle


def _job(generator: np.random.Generator, people: dict[str, User], vehicle: Vehicle, story: Story) -> None:
    author = people[story.who] if story.who in ("brandt", "okoro") else people["holm"]
    driven = int((vehicle.odometer_km or 0) - story.days_ago * 55) if vehicle.odometer_km else None
    assigned = people[story.who] if story.who else None
    job = open_job(author, vehicle, complaint=story.words, odometer_km=driven, assigned_to=assigned)
    for corner in job.corners.select_related("limits"):
        if corner.position in story.corners:
            _measure(generator, author, corner, story.corners[corner.position])
    opened = timezone.now() - timedelta(days=story.days_ago)
    fields: dict[str, Any] = {"created_at": opened, "state": story.state}
    if story.state == Job.State.CLOSED:
        fields |= {"closed_by": people["holm"], "closing_reason": story.closing}
    Job.objects.filter(pk=job.pk).update(**fields)


def _measure(generator: np.random.Generator, user: User, corner: Corner, hidden: Hidden) -> None:
    limits = corner.limits
    if limits is None:  # every demo vehicle has limits
        return
    truth = _truth(limits, hidden)
    stations = max(2 * limits.studs, 8)
    if hidden.joint is not None:
        _sweep(generator, user, corner, truth, stations, cleaned=False)
    for _turn in range(2 if hidden.read == "turns" else 1):
        _sweep(
            generator,
            user,
            corner,
            truth,
            stations,
            cleaned=True,
            only=stations // 2 if hidden.read == "half" else None,
        )
    if hidden.read == "turned":
        index_deg = 360.0 * (limits.studs // 2) / limits.studs
        _sweep(generator, user, corner, truth, stations, cleaned=True, index_deg=index_deg)
    fine = replace(truth, noise_mm=0.0007)
    measured = fine.micrometer_round(generator, stations=stations)
    tape = ThicknessRound(
        corner=corner,
        graduation_mm=0.001,
        entry_unit=Unit.MM.value,
        radii_mm=[truth.radius_mm],
        created_by=user,
    )
    values = (
        [float(t) for t in measured.readings_mm[0]] if hidden.read in ("all", "turns", "turned") else [None] * stations
    )
    _fill(user, tape, [float(a) for a in measured.stations_deg], values)
    refresh_verdict(corner)


def _truth(limits: AxleLimits, hidden: Hidden) -> SimulatedCorner:
    corner = SimulatedCorner(
        radius_mm=limits.measuring_radius_mm,
        nominal_mm=(limits.nominal_thickness_mm or 20.0) - min(hidden.worn, _most_wear(limits, hidden)),
        hub=vector(*hidden.hub),
        rotor=vector(*hidden.rotor),
        joint=vector(*hidden.joint) if hidden.joint else 0j,
        face=(Wave(2, hidden.saddle / 2, 35.0), Wave(3, hidden.saddle / 8, 80.0)),
        thickness=(Wave(2, 0.0008, 110.0),),
        thickness_patches=(Patch(hidden.patch[0], hidden.patch[1], 40.0),) if hidden.patch else (),
        noise_mm=0.0015,
        drift_mm=0.001,
    )
    return worn_by_runout(corner, depth_mm=hidden.uneven * 0.8)


def _most_wear(limits: AxleLimits, hidden: Hidden) -> float:
    """Thin discs have little to lose: only a story that says so goes under discard."""
    spare = (limits.nominal_thickness_mm or 20.0) - limits.discard_thickness_mm
    return hidden.worn if hidden.worn > 2 else spare * 0.7


def _sweep(
    generator: np.random.Generator,
    user: User,
    corner: Corner,
    truth: SimulatedCorner,
    stations: int,
    *,
    cleaned: bool,
    only: int | None = None,
    index_deg: float = 0.0,
) -> None:
    swept = truth.sweep(
        generator, stations=stations, instrument=truth.dial(0.01, 0.5), cleaned=cleaned, index_deg=index_deg
    )
    tape = Sweep(
        corner=corner,
        graduation_mm=swept.graduation_mm,
        read_to=swept.read_to,
        entry_unit=Unit.DIVISION.value,
        radius_mm=truth.radius_mm,
        index_deg=index_deg,
        cleaned=cleaned,
        nuts_torqued=True,
        created_by=user,
    )
    low = float(swept.readings_mm.min())
    values: list[float | None] = [float(z) - low for z in (*swept.readings_mm, swept.closing_mm or 0.0)]
    if only is not None:
        values[only:] = [None] * (len(values) - only)
    _fill(user, tape, [float(a) for a in swept.stations_deg], values)


def _fill(user: User, tape: Tape, stations_deg: list[float], values: list[float | None]) -> None:
    tape.stations_deg = stations_deg
    tape.readings_mm = [None if v is None else round(v, 6) for v in values]
    tape.typed = ["" if v is None else entry_text(tape, v) for v in values]
    tape._history_user = user
    tape._change_reason = "read"
    tape.save()
