"""Case files: a job out as one, a case in as a job. The verdict is the same on either side, to the last digit."""

from typing import Any

import numpy as np
from django.db import transaction
from django.utils.translation import gettext as _
from simple_history.utils import bulk_create_with_history

from compass.evidence.records import Case as CaseRecord
from compass.evidence.records import Corner as CornerRecord
from compass.evidence.records import HighSpot, Spec
from compass.evidence.records import Sweep as SweepRecord
from compass.evidence.records import ThicknessRound as ThicknessRecord
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
    rows: list[Any] = []
    for record in case.corners:
        corner = corners[record.position]
        corner.limits = _limits(user, vehicle, corner, record.spec, in_force)
        corner.episode = len(record.after)
        corner.save(update_fields=["limits", "episode"])
        rows += _readings(user, corner, record)
        look = _look(corner, record)
        rows += [look] if look is not None else []
    for kind in (Sweep, ThicknessRound, QuickReading, Look):
        _keep(user, [row for row in rows if isinstance(row, kind)])
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


def _readings(user: User, corner: Corner, record: CornerRecord) -> list[Any]:
    """Return the rows of what was read at a corner as it came in and after each work."""
    rows = []
    for episode, read in enumerate([record, *record.after]):
        at = {"corner": corner, "episode": episode, "created_by": user}
        rows += [_sweep(sweep, at) for sweep in read.sweeps]
        rows += [_quick(spot, at) for spot in read.high_spots]
        if read.thickness is not None:
            rows.append(_round(user, read.thickness, at))
    return rows


def _keep(user: User, rows: list[Any]) -> None:
    """Write rows of one kind and the first line of the history of each."""
    if rows:
        bulk_create_with_history(rows, type(rows[0]), default_user=user, default_change_reason="case file")


def _look(corner: Corner, record: CornerRecord) -> Look | None:
    typed = _look_texts(record)
    lips = record.thickness.over_lips if record.thickness is not None else None
    if lips is not None:
        typed |= {"lip_outboard": f"{_plain(lips.outboard_mm)} mm", "lip_inboard": f"{_plain(lips.inboard_mm)} mm"}
    if not typed and not record.seen:
        return None
    return Look(corner=corner, typed=typed, findings=sorted(record.seen), unit=Unit.MM.value)


def _quick(spot: HighSpot, at: dict[str, Any]) -> QuickReading:
    return QuickReading(
        **at,
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
    )


def _set_up(record: SweepRecord | ThicknessRecord) -> dict[str, Any]:
    """Return what sweeps and rounds are set up with alike."""
    return {
        "graduation_mm": record.graduation_mm,
        "instrument_error_mm": record.instrument_error_mm,
        "index_deg": record.index_deg,
        "entry_unit": Unit.MM.value,
        "stations_deg": record.stations_deg.tolist(),
    }


def _round(user: User, record: ThicknessRecord, at: dict[str, Any]) -> ThicknessRound:
    lips = record.over_lips
    values = record.readings_mm.ravel().tolist()
    return ThicknessRound(
        **at,
        **_set_up(record),
        instrument=_caliper(user, record.graduation_mm) if lips is not None else None,
        radii_mm=record.radii_mm.tolist(),
        typed=[_plain(value) for value in values],
        readings_mm=values,
        lips_within_mm=lips.within_mm if lips is not None else 0.05,
        rounds=record.rounds,
    )


def _plain(value: float) -> str:
    """Write a number in all its digits as a person would type it: never with an exponent."""
    return str(np.format_float_positional(value, trim="-"))


def _look_texts(record: CornerRecord) -> dict[str, str]:
    lists: dict[str, tuple[float, ...]] = {}
    if record.pads is not None:
        lists |= {"pad_inner": record.pads.inner, "pad_outer": record.pads.outer, "pad_new": record.pads.renewed}
    if record.drum is not None:
        lists |= {"drum_diameter": record.drum.diameters_mm, "linings": record.drum.linings_mm}
        lists |= {"lining_new": record.drum.renewed_mm}
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


def _sweep(record: SweepRecord, at: dict[str, Any]) -> Sweep:
    values = [*record.readings_mm.tolist(), record.closing_mm]
    return Sweep(
        **at,
        **_set_up(record),
        surface=record.surface.value,
        radius_mm=record.radius_mm,
        read_to=record.read_to,
        cleaned=record.cleaned,
        nuts_torqued=record.nuts_torqued,
        typed=["" if value is None else _plain(value) for value in values],
        readings_mm=values,
    )
