"""Rows of this app into records of the core: the only place that maps one to the other."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from compass.do.cut_plan import DonePass
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Case as CaseRecord
from compass.evidence.records import Corner as CornerRecord
from compass.evidence.records import Drum, HighSpot, OverLips, Pads, Spec, Surface, WearRate
from compass.evidence.records import Sweep as SweepRecord
from compass.evidence.records import ThicknessRound as ThicknessRecord
from compass.evidence.shop import LEARNED, SEATING_TIR_MM, Shop
from compass.files.read_case import complaint_from_data, shop_from_data
from compass.ground.errors import UnreadableNumberError
from compass.ground.positions import BY_KIND
from compass.ground.units import Unit
from compass.measure.dial import DialReading, Face, Unwrapped, read_dial, unwrap
from compass.measure.thickness import lone_readings
from jobs.look_fields import Looked, read_look
from jobs.models import Corner, Cut, Job, Look, QuickReading, Sweep, ThicknessRound
from workshop.adapters import dial_of, shop_of_workshop, spec_of
from workshop.models import AxleLimits, Instrument, User


def moved_mm(sweep: Sweep) -> Unwrapped:
    """Return what the plunger moved, slot by slot: a continuous dial's readings brought round."""
    dial = dial_of(sweep.instrument, graduation_mm=sweep.graduation_mm)
    if sweep.unit is not Unit.DIVISION or dial.face is Face.BALANCED:
        return Unwrapped(tuple(sweep.readings_mm), ())
    pairs = zip(sweep.typed, sweep.readings_mm, strict=True)
    return unwrap([DialReading(z, z is not None and is_certain(sweep, text)) for text, z in pairs], dial=dial)


def sweep_record(sweep: Sweep) -> SweepRecord:
    """Return a sweep as evidence; stations not read are left out."""
    pairs = station_readings(sweep)
    moved = moved_mm(sweep).readings_mm
    return SweepRecord(
        surface=Surface(sweep.surface),
        radius_mm=sweep.radius_mm,
        stations_deg=np.array([angle for angle, _ in pairs]),
        readings_mm=np.array([z for _, z in pairs]),
        graduation_mm=sweep.graduation_mm,
        read_to=sweep.read_to,
        index_deg=sweep.index_deg,
        cleaned=sweep.cleaned,
        nuts_torqued=sweep.nuts_torqued,
        instrument_error_mm=sweep.instrument_error_mm,
        # The way back can only be judged against a first reading.
        closing_mm=moved[-1] if moved[0] is not None else None,
    )


def quick_record(quick: QuickReading) -> HighSpot:
    """Return a quick reading as evidence."""
    return HighSpot(
        surface=Surface(quick.surface),
        radius_mm=quick.radius_mm,
        tir_mm=quick.tir_mm,
        high_deg=quick.high_deg,
        graduation_mm=quick.graduation_mm,
        within_deg=quick.within_deg,
        index_deg=quick.index_deg,
        cleaned=quick.cleaned,
        nuts_torqued=quick.nuts_torqued,
    )


def thickness_record(measured: ThicknessRound, looked: Looked) -> ThicknessRecord | None:
    """Return a round as evidence, or None while nothing was read.

    Radii that are read all round stand alone as long as there are any; before, those that were begun at the stations
    read at all of them.
    """
    rows = np.array([[np.nan if mm is None else mm for mm in row] for row in measured.rows_mm], dtype=np.float64)
    is_read = np.isfinite(rows)
    radii = is_read.all(axis=1) if is_read.all(axis=1).any() else is_read.any(axis=1)
    whole = is_read[radii].all(axis=0)
    if not radii.any() or not whole.any():
        return None
    return ThicknessRecord(
        stations_deg=np.array(measured.stations_deg)[whole],
        radii_mm=np.array(measured.radii_mm)[radii],
        readings_mm=rows[np.ix_(radii, whole)],
        graduation_mm=measured.graduation_mm,
        instrument_error_mm=measured.instrument_error_mm,
        index_deg=measured.index_deg,
        over_lips=_lips(measured, looked),
        rounds=measured.rounds,
    )


def look_of(corner: Corner) -> Look | None:
    """Return the corner's look, or None while nobody has looked."""
    return getattr(corner, "look", None)


def looked_at(corner: Corner) -> Looked:
    """Return what the corner's look says in millimetres."""
    look = look_of(corner)
    return read_look(look.typed, Unit(look.unit)) if look is not None else Looked({}, {})


def corner_record(
    corner: Corner,
    *,
    sweeps: Iterable[Sweep],
    rounds: Iterable[ThicknessRound],
    quick: Iterable[QuickReading],
) -> CornerRecord | None:
    """Return a corner's evidence, or None while it has no limits. What was struck out is none.

    The newest thickness round with readings counts, with those before it at the same places by the same micrometer.
    """
    if corner.limits is None:
        return None
    look, looked = look_of(corner), looked_at(corner)
    figures = corner.job.figures
    measured = [
        record for record in (thickness_record(r, looked) for r in rounds if not r.struck) if record is not None
    ]
    pads = Pads(*(looked.mm.get(name, ()) for name in ("pad_inner", "pad_outer", "pad_new")))
    drum = Drum(*(looked.mm.get(name, ()) for name in ("drum_diameter", "linings", "lining_new")))
    return CornerRecord(
        position=corner.position,
        spec=_spec(corner.limits, figures),
        sweeps=tuple(record for s in sweeps if not s.struck and (record := sweep_record(s)).readings_mm.size),
        high_spots=tuple(quick_record(q) for q in quick if not q.withdrawn),
        thickness=_pooled(measured) if measured else None,
        bearing_play_mm=looked.one("bearing_play"),
        pads=pads if pads.inner or pads.outer else None,  # new ones alone say nothing of how the old had worn
        drum=drum if drum.diameters_mm or drum.linings_mm else None,
        seen=frozenset(look.findings) if look is not None else frozenset(),
        seating_tir_mm=figures.get("seating_tir_mm", SEATING_TIR_MM),
    )


def _spec(limits: AxleLimits, figures: Mapping[str, float]) -> Spec:
    """Return an axle's limits; what new rotors run out here stands in where the part's tolerance is not told."""
    spec, learnt = spec_of(limits), figures.get("new_rotor_mm")
    return spec if spec.new_rotor_runout_mm or not learnt else replace(spec, new_rotor_runout_mm=learnt)


def _pooled(measured: list[ThicknessRecord]) -> ThicknessRecord:
    """Return the newest round as the mean of itself and the rounds before it that were taken alike."""
    last = measured[-1]

    def place(one: ThicknessRecord) -> tuple[object, ...]:
        places = (one.stations_deg.tobytes(), one.radii_mm.tobytes(), one.index_deg)
        return (*places, one.graduation_mm, one.instrument_error_mm, one.over_lips)

    alike = [one for one in measured if place(one) == place(last)]
    if len(alike) == 1:
        return last
    rounds = [one.rounds for one in alike]
    rows = np.array([one.readings_mm for one in alike])
    # A slip of one round is no reading of the disc; what every round reads is, however far it stands from the rest.
    lone = np.array([lone_readings(one.readings_mm) for one in alike])
    counts = np.where(lone & ~lone.all(axis=0), 0, np.array(rounds)[:, None, None])
    return replace(last, readings_mm=np.average(rows, axis=0, weights=counts), rounds=sum(rounds))


@dataclass(frozen=True)
class Past:
    """What a vehicle's record adds to a job's evidence: wear rates, and where a plate is fitted, by position."""

    wear: Mapping[str, WearRate]
    plates: frozenset[str]

    def added_to(self, record: CornerRecord) -> CornerRecord:
        """Return a corner's evidence with what the record knows of it."""
        position = record.position
        return replace(record, wear=self.wear.get(position), plate_fitted=position in self.plates)


def shop_of(user: User, job: Job) -> Shop:
    """Return what a job is reckoned with: the shop an imported case brought along, else this workshop's.

    Its base rates and learnt figures are those of the opening: a job's odds stay as they were told while others close.
    """
    brought = job.case_rest.get("shop")
    if brought:
        return shop_from_data(brought)
    learnt = {name: job.figures[name] for name in LEARNED if name in job.figures}
    return replace(shop_of_workshop(user), base_rates=job.base_rates, **learnt)


def case_record(user: User, job: Job, corners: Iterable[CornerRecord], *, beside: "Beside | None" = None) -> CaseRecord:
    """Return a job as a case: what an imported one brought along goes out with it again."""
    beside = beside or beside_of(user, job)
    return CaseRecord(
        corners=tuple(corners),
        case_id=job.case_rest.get("id", f"Job {job.pk}"),
        vehicle=beside.vehicle,
        complaint=beside.complaint,
        shop=beside.shop,
    )


@dataclass(frozen=True)
class Beside:
    """What a vehicle is judged by beside its corners."""

    positions: tuple[str, ...]
    complaint: Complaint
    vehicle: VehicleFacts
    shop: Shop


def beside_of(user: User, job: Job) -> Beside:
    """Return what a job is judged by beside its corners."""
    vehicle = job.vehicle
    return Beside(
        positions=vehicle.positions,
        complaint=complaint_from_data(job.story),
        vehicle=VehicleFacts(
            label=vehicle.label,
            kind=vehicle.kind,
            positions=vehicle.positions if vehicle.positions != BY_KIND[vehicle.kind] else (),
            odometer_km=job.odometer_km,
            rolling_circumference_mm=vehicle.rolling_circumference_mm,
        ),
        shop=shop_of(user, job),
    )


def station_readings(sweep: Sweep) -> list[tuple[float, float]]:
    """Return (hub angle, mm the plunger moved) of the stations that were read, without the way back."""
    moved = moved_mm(sweep).readings_mm[: len(sweep.stations_deg)]
    return [(angle, z) for angle, z in zip(sweep.stations_deg, moved, strict=True) if z is not None]


def round_readings(measured: ThicknessRound) -> dict[float, list[tuple[float, float]]]:
    """Return (hub angle, thickness mm) by the radius they were read at, mm."""
    return {
        radius: [(angle, t) for angle, t in zip(measured.stations_deg, row, strict=True) if t is not None]
        for radius, row in zip(measured.radii_mm, measured.rows_mm, strict=True)
    }


def is_certain(sweep: Sweep, text: str) -> bool:
    """Tell whether the turn of a typed reading is certain: its unit or its turns of the small hand were typed."""
    dial = dial_of(sweep.instrument, graduation_mm=sweep.graduation_mm)
    try:
        return read_dial(text, dial=dial, unit=sweep.unit, most_mm=sweep.most_mm)[1]
    except UnreadableNumberError:
        return False


def _lips(measured: ThicknessRound, looked: Looked) -> OverLips | None:
    """Return the lips to take off, where the round was taken with a plain caliper that rests on them."""
    if measured.instrument is None or measured.instrument.kind != Instrument.Kind.CALIPER:
        return None
    return OverLips.measured(looked.one("lip_outboard"), looked.one("lip_inboard"), within_mm=measured.lips_within_mm)


def done_passes(cut: Cut | None) -> tuple[DonePass, ...]:
    """Return the passes that were made and count."""
    if cut is None:
        return ()
    counted = (one for one in cut.passes.all() if not one.withdrawn)
    return tuple(DonePass(m.out_mm, m.in_mm, m.reading_mm, m.graduation_mm) for m in counted)
