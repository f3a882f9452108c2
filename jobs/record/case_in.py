"""Case files: a job out as one, a case in as a job. The verdict is the same on either side, to the last digit."""

from typing import Any

import numpy as np
from django.db import transaction
from django.utils.translation import gettext as _

from compass.evidence.records import AfterWork, Spec
from compass.evidence.records import Case as CaseRecord
from compass.evidence.records import Corner as CornerRecord
from compass.evidence.records import Sweep as SweepRecord
from compass.evidence.shop import LEARNED
from compass.files.read_case import case_from_data, load_json
from compass.ground.errors import FaultyFileError
from compass.ground.positions import BY_KIND, LAYOUTS, axle_of
from compass.ground.translation import _N
from compass.ground.units import Unit
from jobs.floor.actions import make_job
from jobs.judging import refresh
from jobs.models import Corner, Job, Look, QuickReading, Sweep, ThicknessRound
from workshop.models import LIMIT_FIGURES, AxleLimits, Instrument, User, Vehicle
from workshop.permissions import Deed, require
from workshop.vehicles import add_vehicle


@transaction.atomic
def import_case(user: User, raw: bytes, *, vehicle: Vehicle | None = None) -> Job:
    """Make a job of a case file, on ``vehicle`` or on one of the file's name. Raises ``FaultyFileError``.

    All or nothing; the file's limits come into force on this job's corners only.
    """
    require(user, Deed.OPEN_JOB)
    require(user, Deed.SET_LIMITS)
    data = load_json(raw)
    case = case_from_data(data)
    vehicle = vehicle or _vehicle(user, case)
    job = make_job(user, vehicle, complaint="", odometer_km=_whole(case.vehicle.odometer_km), assigned_to=user)
    corners = {corner.position: corner for corner in job.corners.all()}
    strange = [corner.position for corner in case.corners if corner.position not in corners]
    if strange:
        expected = _N("positions of {vehicle} ({positions}), not {strange}")
        positions = ", ".join(corners)
        raise FaultyFileError.of("corners", expected, vehicle=vehicle, positions=positions, strange=strange[0])
    job.case_rest = {name: data[name] for name in ("id", "shop") if name in data}
    job.case_rest["wear"] = {c["position"]: c["wear"] for c in data["corners"] if "wear" in c}
    job.case_rest["plates"] = [c["position"] for c in data["corners"] if c.get("plate_fitted")]
    job.case_rest["works"] = {c.position: [read.work for read in c.after] for c in case.corners if c.after}
    job.story = data.get("complaint", {})
    brought = data.get("shop", {})
    job.figures = {name: brought[name] for name in LEARNED if name in brought}
    job.base_rates = {}  # a case from elsewhere is weighed by what it brings, not by what this workshop has closed
    job._history_user = user
    job.save()
    in_force: list[tuple[Spec, AxleLimits]] = []
    for record in case.corners:
        corner = corners[record.position]
        corner.limits = _limits(user, vehicle, corner, record.spec, in_force)
        corner.episode = len(record.after)
        corner.save(update_fields=["limits", "episode"])
        _fill(user, corner, record)
    refresh(user, job)
    return job


def _vehicle(user: User, case: CaseRecord) -> Vehicle:
    label = (case.vehicle.label or "").strip()[:60] or _("From a case file")
    vehicle = Vehicle.of(user).filter(label__iexact=label).first()
    if vehicle is not None:
        return vehicle
    kind = case.vehicle.kind or _kind_of({corner.position for corner in case.corners})
    layout = next((name for name, positions in LAYOUTS.items() if positions == case.positions != BY_KIND[kind]), "")
    return add_vehicle(
        user,
        label=label,
        kind=kind,
        layout=layout,
        odometer_km=_whole(case.vehicle.odometer_km),
        rolling_circumference_mm=_whole(case.vehicle.rolling_circumference_mm),
    )


def _kind_of(positions: set[str]) -> str:
    if positions & {"F", "R"}:
        return Vehicle.Kind.MOTORCYCLE
    return Vehicle.Kind.TRAILER if any(p.startswith("A") for p in positions) else Vehicle.Kind.CAR


def _whole(number: float | None) -> int | None:
    return None if number is None else round(number)


def _limits(
    user: User, vehicle: Vehicle, corner: Corner, spec: Spec, in_force: list[tuple[Spec, AxleLimits]]
) -> AxleLimits:
    """Make the file's limits a row, or take the row of the axle's other side where the figures are the same."""
    axle = axle_of(corner.position)
    for other, limits in in_force:
        if limits.axle == axle and other == spec:
            return limits
    figures = {name: getattr(spec, name) for name in LIMIT_FIGURES if hasattr(spec, name)}
    figures["features"] = sorted(spec.features)
    figures["index_positions"] = list(spec.index_positions) if spec.index_positions is not None else None
    source = AxleLimits.Source.WORKSHOP
    limits = AxleLimits(vehicle=vehicle, axle=axle, entered_by=user, source=source, **figures)
    limits.full_clean()
    limits.save()
    in_force.append((spec, limits))
    return limits


def _fill(user: User, corner: Corner, record: CornerRecord) -> None:
    _fill_readings(user, corner, record, episode=0)
    for episode, read in enumerate(record.after, start=1):
        _fill_readings(user, corner, read, episode=episode)
    typed = _look_texts(record)
    lips = record.thickness.over_lips if record.thickness is not None else None
    if lips is not None:
        typed |= {"lip_outboard": f"{_plain(lips.outboard_mm)} mm", "lip_inboard": f"{_plain(lips.inboard_mm)} mm"}
    if typed or record.seen:
        look = Look(corner=corner, typed=typed, findings=sorted(record.seen), unit=Unit.MM.value)
        _keep(user, look)
        corner.look = look


def _fill_readings(user: User, corner: Corner, record: CornerRecord | AfterWork, *, episode: int) -> None:
    for sweep in record.sweeps:
        _sweep(user, corner, sweep, episode=episode)
    for spot in record.high_spots:
        QuickReading.of(user).create(
            corner=corner,
            episode=episode,
            surface=spot.surface.value,
            radius_mm=spot.radius_mm,
            index_deg=spot.index_deg,
            cleaned=spot.cleaned,
            nuts_torqued=spot.nuts_torqued,
            typed=f"{spot.tir_mm!r} mm",
            tir_mm=spot.tir_mm,
            graduation_mm=spot.graduation_mm,
            high_deg=spot.high_deg,
            within_deg=spot.within_deg,
            created_by=user,
        )
    if record.thickness is not None:
        lips = record.thickness.over_lips
        values = record.thickness.readings_mm.ravel().tolist()
        measured = ThicknessRound(
            corner=corner,
            episode=episode,
            instrument=_caliper(user, record.thickness.graduation_mm) if lips is not None else None,
            graduation_mm=record.thickness.graduation_mm,
            instrument_error_mm=record.thickness.instrument_error_mm,
            index_deg=record.thickness.index_deg,
            entry_unit=Unit.MM.value,
            stations_deg=record.thickness.stations_deg.tolist(),
            radii_mm=record.thickness.radii_mm.tolist(),
            typed=[_plain(value) for value in values],
            readings_mm=values,
            lips_within_mm=lips.within_mm if lips is not None else 0.05,
            rounds=record.thickness.rounds,
            created_by=user,
        )
        _keep(user, measured)


def _plain(value: float) -> str:
    """Write a number in all its digits as a person would type it: never with an exponent."""
    return str(np.format_float_positional(value, trim="-"))


def _look_texts(record: CornerRecord) -> dict[str, str]:
    lists: dict[str, tuple[float, ...]] = {}
    if record.pads is not None:
        lists |= {"pad_inner": record.pads.inner, "pad_outer": record.pads.outer}
    if record.drum is not None:
        lists |= {"drum_diameter": record.drum.diameters_mm, "linings": record.drum.linings_mm}
    texts = {name: " ".join(map(_plain, values)) for name, values in lists.items() if values}
    if record.bearing_play_mm is not None:
        texts["bearing_play"] = _plain(record.bearing_play_mm)
    return texts


def _caliper(user: User, graduation_mm: float) -> Instrument:
    caliper, _made = Instrument.of(user).get_or_create(
        name=_("Caliper of a case file, %(n)s mm") % {"n": f"{graduation_mm:g}"},
        defaults={"kind": Instrument.Kind.CALIPER, "graduation_mm": graduation_mm},
    )
    return caliper


def _sweep(user: User, corner: Corner, record: SweepRecord, *, episode: int) -> None:
    values = [*record.readings_mm.tolist(), record.closing_mm]
    _keep(
        user,
        Sweep(
            corner=corner,
            episode=episode,
            surface=record.surface.value,
            radius_mm=record.radius_mm,
            read_to=record.read_to,
            cleaned=record.cleaned,
            nuts_torqued=record.nuts_torqued,
            graduation_mm=record.graduation_mm,
            instrument_error_mm=record.instrument_error_mm,
            index_deg=record.index_deg,
            entry_unit=Unit.MM.value,
            stations_deg=record.stations_deg.tolist(),
            typed=["" if value is None else _plain(value) for value in values],
            readings_mm=values,
            created_by=user,
        ),
    )


def _keep(user: User, row: Any) -> None:
    row._history_user = user
    row._change_reason = "case file"
    row.save()
