"""Build the demo from its stories: hidden corners are read by the simulator, with a fixed seed."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import timedelta
from functools import partial
from typing import Any, Final

import numpy as np
from django.db import connection, transaction
from django.utils import timezone

from compass.evidence.records import HighSpot, Surface
from compass.ground.angles import vector
from compass.ground.units import Unit
from compass.simulate.corner import Patch, SimulatedCorner, Wave, worn_by_runout
from demo.fleet import FIGURES, FITTINGS, INSTRUMENTS, LATHES, LIMITS, PASSWORD, PEOPLE, PLATES, VEHICLES
from demo.stories import STORIES, Hidden, Story
from jobs.bays.actions import book
from jobs.choose.actions import decide
from jobs.complaint.actions import keep_story
from jobs.floor.actions import open_job
from jobs.judging import refresh
from jobs.measure.actions import add_quick, entry_text
from jobs.measure.looking import write_look
from jobs.models import Closing, Corner, Job, Sweep, Tape, ThicknessRound
from jobs.prepare.actions import start_sweep
from jobs.prove.closing import keep_closing
from jobs.vehicle.actions import fit_rotor
from ledger.refitting import refit_anew
from workshop.models import AxleLimits, Instrument, Lathe, PlateKind, User, Vehicle
from workshop.store.actions import keep_figures, keep_instrument, keep_tooling
from workshop.store.limits import put_into_library

SEED: Final = 4712
FIRST_NUMBER: Final = 138


@dataclass(frozen=True)
class Past:
    """What builds the years before the stories, and how many jobs they hold."""

    jobs: int
    build: Callable[[dict[str, User], list[Vehicle], "Tools"], int]


@dataclass(frozen=True)
class Tools:
    """What the demo is measured with."""

    dial: Instrument
    micrometer: Instrument


@transaction.atomic
def build_demo(*, past: Past | None = None) -> None:
    """Make people, fleet, limits and jobs; ``past`` closes jobs of the years before them, the first of their number."""
    generator = np.random.default_rng(SEED)
    people = {username: _person(username, *names) for username, *names in PEOPLE}
    vehicles = {row[0]: make_vehicle(people["holm"], *row) for row in VEHICLES}
    with connection.cursor() as cursor:
        cursor.execute(
            "select setval(pg_get_serial_sequence('jobs_job', 'id'), greatest(%s, (select coalesce(max(id), 0) + 1 from jobs_job)), false)",
            [FIRST_NUMBER - (past.jobs if past is not None else 0)],
        )
    instruments = [_instrument(people["holm"], *row) for row in INSTRUMENTS]
    for name, position, odometer_km, thickness_mm in FITTINGS:
        fit_rotor(people["holm"], vehicles[name], position=position, odometer_km=odometer_km, thickness_mm=thickness_mm)
    _stock(people["holm"])
    tools = Tools(dial=instruments[0], micrometer=instruments[4])
    if past is not None:
        past.build(people, list(vehicles.values()), tools)
    for story in STORIES:
        _job(generator, people, vehicles[story.vehicle], story, tools)
    refit_anew(people["holm"])


def _stock(lead: User) -> None:
    """Fill the store: lathes, plates, the workshop's own figures."""
    for name, kind, line, left, least, finish, vented, solid, rough, fine, corners, now in LATHES:
        lathe = Lathe(
            name=name,
            kind=kind,
            mm_per_line=line,
            runout_left_mm=left,
            min_depth_mm=least,
            finish_depth_mm=finish,
            max_vented_mm=vented,
            max_solid_mm=solid,
            feed_rough=rough,
            feed_finish=fine,
            tip_corners=corners,
            tip_corner_now=now,
        )
        keep_tooling(lead, lathe)
    for correction, radius, studs, positions, stock in PLATES:
        keep_tooling(
            lead,
            PlateKind(
                correction_mm=correction, reference_radius_mm=radius, studs=studs, positions=positions, stock=stock
            ),
        )
    keep_figures(lead, version=1, **FIGURES)


def _person(username: str, first: str, last: str, role: str) -> User:
    person = User(username=username, first_name=first, last_name=last, role=role)
    person.set_password(PASSWORD)
    person.save()
    return person


def make_vehicle(
    lead: User, label: str, registration: str, kind: str, model: str, odometer_km: int, circumference_mm: int
) -> Vehicle:
    """Make a vehicle with the limits of its make."""
    vehicle = Vehicle.objects.create(
        label=label,
        registration=registration,
        kind=kind,
        model=model,
        odometer_km=odometer_km,
        rolling_circumference_mm=circumference_mm,
    )
    for axle, figures in LIMITS[model.split()[0]].items():
        limits = _figures(figures)
        put_into_library(lead, [{"model": model, "axle": axle, **limits}])
        AxleLimits.objects.create(vehicle=vehicle, axle=axle, entered_by=lead, **limits)
    return vehicle


def _figures(row: dict[str, Any]) -> dict[str, Any]:
    hub, radius = row.get("hub", (None, None))
    return {
        "studs": row["studs"],
        "rotor": row["rotor"],
        "features": row.get("features", []),
        "discard_thickness_mm": row["discard"],
        "machine_to_thickness_mm": row["machine"],
        "nominal_thickness_mm": row["new"],
        "max_runout_mm": row["runout"],
        "max_thickness_variation_mm": 0.015 if row["new"] > 20 else 0.012,
        "measuring_radius_mm": row["radius"],
        "max_hub_runout_mm": hub,
        "hub_runout_radius_mm": radius,
        "max_bearing_play_mm": row.get("play"),
        "min_pad_mm": row.get("pad"),
        "max_drum_diameter_mm": row.get("drum"),
        "min_lining_mm": row.get("lining"),
        "wheel_torque_nm": row.get("torque"),
        **{f"{name}_torque_nm": newton_metres for name, newton_metres in row.get("torques", {}).items()},
        "source": AxleLimits.Source.MAKER,
    }


def _instrument(
    lead: User, name: str, kind: str, native: str, graduation: float, face: str, divisions: int, error: float, days: int
) -> Instrument:
    return keep_instrument(
        lead,
        Instrument(
            name=name,
            kind=kind,
            native=native,
            graduation_mm=graduation,
            face=face,
            divisions=divisions,
            error_limit_mm=error,
            checked_on=timezone.localdate() - timedelta(days=days),
        ),
    )


def _job(generator: np.random.Generator, people: dict[str, User], vehicle: Vehicle, story: Story, tools: Tools) -> None:
    author = people[story.who] if story.who in ("brandt", "okoro") else people["holm"]
    driven = (vehicle.odometer_km or 0) - story.days_ago * 55
    assigned = people[story.who] if story.who else None
    job = open_job(author, vehicle, complaint=story.words, odometer_km=driven, assigned_to=assigned)
    if story.told:
        keep_story(author, job, story.told)
        job.refresh_from_db()
    for corner in job.corners.select_related("limits"):
        if corner.position in story.corners:
            _measure(generator, author, corner, story.corners[corner.position], tools)
    for axle, code, reason in story.decided:
        decide(author, job, axle, code=code, reason=reason)
    midnight = timezone.localtime().replace(hour=0, minute=0, second=0, microsecond=0)
    for place, hour, minutes in story.booked:
        book(author, job, place=place, starts_at=midnight + timedelta(hours=hour), minutes=minutes)
    opened = timezone.now() - timedelta(days=story.days_ago)
    fields: dict[str, Any] = {"created_at": opened, "state": story.state}
    if story.state == Job.State.CLOSED:
        fields |= {"closed_by": people["holm"], "closing_reason": story.closing, "found_cause": story.cause}
    Job.objects.filter(pk=job.pk).update(**fields)
    if story.state == Job.State.CLOSED:
        _closed(people["holm"], job)


def _closed(lead: User, job: Job) -> None:
    """Keep what a story's job was closed as: measured, nothing decided."""
    job.refresh_from_db()
    proven = all(corner.kept is not None and corner.kept.settled for corner in job.corners.all())
    row = keep_closing(lead, job, None, proven=proven, supplier="")
    Closing.of(lead).filter(pk=row.pk).update(at=job.created_at + timedelta(hours=5))


def _measure(generator: np.random.Generator, user: User, corner: Corner, hidden: Hidden, tools: Tools) -> None:
    limits = corner.limits
    if limits is None:  # every demo vehicle has limits
        return
    truth = _truth(limits, hidden)
    stations = max(2 * limits.studs, 8)
    take = partial(sweep_tape, generator, user, corner, truth, stations, tools.dial)
    pitch = 360.0 / limits.studs
    if hidden.joint is not None:
        take(cleaned=False)
    if hidden.read == "quick":
        start_sweep(user, corner, stations=stations, **_laid_out(limits, tools.dial))
        for turned in (0, limits.studs // 2):
            spot = truth.high_spot(generator, index_deg=turned * pitch)
            _quick(user, corner, spot, tools.dial)
    else:
        for _turn in range(2 if hidden.read == "turns" else 1):
            take(only=stations // 2 if hidden.read == "half" else None)
    for turned in {"turned": (limits.studs // 2,), "three": (2, 4)}.get(hidden.read, ()):
        take(index_deg=turned * pitch)
    if hidden.read == "face":
        take(surface=Surface.HUB_FACE, radius_mm=limits.hub_runout_radius_mm)
    radii = (truth.radius_mm, truth.radius_mm - 16, truth.radius_mm - 32) if hidden.read == "three" else ()
    read = hidden.read not in ("runout", "half", "quick")
    tapered = replace(truth, taper=0.0006)
    round_tape(generator, user, corner, tapered, stations, tools.micrometer, radii_mm=radii, read=read)
    if hidden.seen or hidden.typed:
        figures = {name: ("", text) for name, text in dict(hidden.typed).items()}
        write_look(user, corner, figures=figures, seen=dict.fromkeys(hidden.seen, True))
    refresh(user, corner.job)


def round_tape(
    generator: np.random.Generator,
    user: User,
    corner: Corner,
    truth: SimulatedCorner,
    stations: int,
    micrometer: Instrument,
    *,
    radii_mm: tuple[float, ...] = (),
    read: bool = True,
) -> None:
    """Mike a corner round and write the tape; not ``read``: laid out only."""
    measured = replace(truth, noise_mm=0.0007).micrometer_round(generator, stations=stations, radii_mm=radii_mm)
    tape = ThicknessRound(
        corner=corner,
        episode=corner.episode,
        instrument=micrometer,
        graduation_mm=micrometer.graduation_mm,
        instrument_error_mm=micrometer.error_limit_mm,
        entry_unit=Unit.MM.value,
        radii_mm=measured.radii_mm.tolist(),
        created_by=user,
    )
    values = [float(t) for t in measured.readings_mm.ravel()] if read else [None] * measured.readings_mm.size
    fill_tape(user, tape, [float(a) for a in measured.stations_deg], values)


def _laid_out(limits: AxleLimits, dial: Instrument) -> dict[str, Any]:
    return {
        "instrument": dial,
        "graduation_mm": dial.graduation_mm,
        "read_to": 0.5,
        "entry_unit": Unit.DIVISION.value,
        "radius_mm": limits.measuring_radius_mm,
        "cleaned": True,
        "nuts_torqued": True,
    }


def _quick(user: User, corner: Corner, spot: HighSpot, dial: Instrument) -> None:
    add_quick(
        user,
        corner,
        typed=f"{spot.tir_mm / spot.graduation_mm:g}",
        unit=Unit.DIVISION,
        instrument=dial,
        graduation_mm=dial.graduation_mm,
        surface=spot.surface.value,
        radius_mm=spot.radius_mm,
        index_deg=spot.index_deg,
        cleaned=spot.cleaned,
        nuts_torqued=spot.nuts_torqued,
        high_deg=spot.high_deg,
        within_deg=spot.within_deg,
    )


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


def sweep_tape(
    generator: np.random.Generator,
    user: User,
    corner: Corner,
    truth: SimulatedCorner,
    stations: int,
    dial: Instrument,
    *,
    cleaned: bool = True,
    only: int | None = None,
    index_deg: float = 0.0,
    recorded_deg: float | None = None,
    surface: Surface = Surface.ROTOR_OUTBOARD,
    radius_mm: float | None = None,
) -> None:
    """Sweep a corner and write the tape; ``recorded_deg`` is its index where the truth was turned along already."""
    swept = truth.sweep(
        generator,
        stations=stations,
        instrument=truth.dial(dial.graduation_mm, 0.5),
        surface=surface,
        radius_mm=radius_mm,
        cleaned=cleaned,
        index_deg=index_deg,
        tilt=truth.seat(generator),
    )
    tape = Sweep(
        corner=corner,
        episode=corner.episode,
        instrument=dial,
        confirmed=["lifted", "tip", *(["cleaned"] if cleaned else []), "nuts_torqued"],
        surface=surface.value,
        graduation_mm=swept.graduation_mm,
        read_to=swept.read_to,
        entry_unit=Unit.DIVISION.value,
        radius_mm=swept.radius_mm,
        index_deg=index_deg if recorded_deg is None else recorded_deg,
        cleaned=cleaned,
        nuts_torqued=True,
        created_by=user,
    )
    low = float(swept.readings_mm.min())
    values: list[float | None] = [float(z) - low for z in (*swept.readings_mm, swept.closing_mm or 0.0)]
    if only is not None:
        values[only:] = [None] * (len(values) - only)
    fill_tape(user, tape, [float(a) for a in swept.stations_deg], values)


def fill_tape(user: User, tape: Tape, stations_deg: list[float], values: list[float | None]) -> None:
    """Write readings onto a tape as they would have been typed."""
    tape.stations_deg = stations_deg
    tape.readings_mm = [None if v is None else round(v, 6) for v in values]
    tape.typed = ["" if v is None else entry_text(tape, v) for v in values]
    tape._history_user = user
    tape._change_reason = "read"
    tape.save()
