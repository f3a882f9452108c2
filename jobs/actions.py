"""Writes of this app: each checks who may, locks what it changes, and leaves its audit row in one transaction."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from compass.cause.corner import diagnose_corner
from compass.diagnose import CornerVerdict
from compass.evidence.records import Corner as CornerRecord
from compass.evidence.records import Surface
from compass.files.write_verdict import corner_to_data
from compass.ground.angles import equal_stations_deg
from compass.ground.errors import UnreadableNumberError
from compass.ground.units import from_mm
from compass.measure.dial import read_dial
from compass.words.codes import CAUSES
from jobs.adapters import corner_record, moved_mm
from jobs.models import Corner, Job, QuickReading, Sweep, Tape, ThicknessRound
from workshop.adapters import dial_of
from workshop.library import limits_for_axles
from workshop.models import AxleLimits, User, Vehicle, axle_of
from workshop.policy import Deed, require

MAX_CLIENT = 40
_SAME_KEYSTROKES = timedelta(seconds=20)  # typing on in one cell is one step to undo


class JobClosedError(Exception):
    """The job is closed; nothing is written to it."""


class StaleJobError(Exception):
    """Somebody else changed the job since this page was drawn."""


class ReasonNeededError(Exception):
    """The job cannot be closed without a written reason (rule 9)."""


class NothingToUndoError(Exception):
    """There is no earlier state of this tape."""


class SlotConflictError(Exception):
    """Somebody else typed ``theirs`` into the same slot."""

    def __init__(self, slot: int, theirs: str) -> None:
        super().__init__(slot, theirs)
        self.slot, self.theirs = slot, theirs


@transaction.atomic
def open_job(
    user: User,
    vehicle: Vehicle,
    *,
    complaint: str = "",
    odometer_km: int | None = None,
    assigned_to: User | None = None,
) -> Job:
    """Open a job with all corners of the vehicle, each with the limits in force for its axle."""
    require(user, Deed.OPEN_JOB)
    job = Job(
        vehicle=vehicle,
        complaint=complaint,
        odometer_km=odometer_km,
        assigned_to=assigned_to,
        created_by=user,
        created_at=timezone.now(),
    )
    job._history_user = user
    job.full_clean()
    job.save()
    in_force = limits_for_axles(user, vehicle)
    Corner.objects.bulk_create(
        Corner(job=job, position=position, place=place, limits=in_force.get(axle_of(position)))
        for place, position in enumerate(vehicle.positions)
    )
    if odometer_km and odometer_km > (vehicle.odometer_km or 0):
        vehicle.odometer_km = odometer_km
        vehicle._history_user = user
        vehicle.save()
    return job


@transaction.atomic
def edit_job(user: User, job: Job, *, version: int, **fields: Any) -> Job:
    """Change words, odometer, state or who has it; refused if somebody else was faster."""
    require(user, Deed.EDIT_JOB)
    current = open_job_row(job.pk)
    if current.version != version:
        raise StaleJobError
    for name, value in fields.items():
        setattr(current, name, value)
    current.version += 1
    current._history_user = user
    current.full_clean()
    current.save()
    return current


@transaction.atomic
def keep_story(user: User, job: Job, story: dict[str, Any]) -> Job:
    """Keep what the driver tells; what a recording showed stays with it."""
    require(user, Deed.EDIT_JOB)
    current = open_job_row(job.pk)
    recorded = {"road_test": current.story["road_test"]} if "road_test" in current.story else {}
    current.story = story | recorded
    current._history_user = user
    current.save()
    return current


@transaction.atomic
def close_job(user: User, job: Job, *, reason: str, found_cause: str = "") -> Job:
    """Close a job: every corner measured and within, or a named person's written reason (rule 9).

    ``found_cause`` is what it was; the workshop's base rates learn from it.
    """
    require(user, Deed.CLOSE_JOB)
    current = open_job_row(job.pk)
    proven = all(corner.verdict.get("root_cause") == "none_found" for corner in current.corners.all())
    if not proven and not reason.strip():
        raise ReasonNeededError
    current.state = Job.State.CLOSED
    current.closing_reason, current.closed_by = reason.strip(), user
    current.found_cause = found_cause if found_cause in CAUSES else ""
    current.version += 1
    current._history_user = user
    current.save()
    return current


@transaction.atomic
def use_limits(user: User, corner: Corner, limits: AxleLimits) -> None:
    """Put limits in force on every corner of this axle in this job, and judge the readings anew."""
    require(user, Deed.SET_LIMITS)
    job = open_job_row(corner.job_id)
    for other in job.corners.all():
        if other.axle == limits.axle and other.limits_id != limits.pk:
            other.limits = limits
            other.save(update_fields=["limits"])
            refresh_verdict(other)


@transaction.atomic
def start_sweep(user: User, corner: Corner, *, stations: int, **set_up: Any) -> Sweep:
    """Lay out an empty sweep for a confirmed set-up; an empty one of the same surface and index is set up anew."""
    require(user, Deed.MEASURE)
    open_job_row(corner.job_id)
    angles = [float(angle) for angle in equal_stations_deg(stations)]
    index_deg = set_up.get("index_deg", 0.0)
    surface = set_up.get("surface", Surface.ROTOR_OUTBOARD.value)
    laid_out = corner.sweeps.filter(index_deg=index_deg, surface=surface)
    sweep = next((s for s in laid_out if s.is_empty), None) or Sweep(corner=corner, created_by=user)
    for name, value in set_up.items():
        setattr(sweep, name, value)
    sweep.stations_deg = angles
    sweep.typed, sweep.readings_mm = [""] * (stations + 1), [None] * (stations + 1)
    _save(user, sweep, reason="set-up")
    return sweep


@transaction.atomic
def start_round(
    user: User,
    corner: Corner,
    *,
    stations: int,
    radius_mm: float = 0.0,
    radii_mm: list[float] | None = None,
    **set_up: Any,
) -> ThicknessRound:
    """Lay out an empty thickness round at one to three radii; an empty one is set up anew, one with readings kept."""
    require(user, Deed.MEASURE)
    open_job_row(corner.job_id)
    last = corner.rounds.last()
    measured = last if last is not None and last.is_empty else ThicknessRound(corner=corner, created_by=user)
    for name, value in set_up.items():
        setattr(measured, name, value)
    measured.stations_deg = [float(angle) for angle in equal_stations_deg(stations)]
    measured.radii_mm = radii = radii_mm or [radius_mm]
    measured.typed, measured.readings_mm = [""] * stations * len(radii), [None] * stations * len(radii)
    _save(user, measured, reason="set-up")
    return measured


@transaction.atomic
def add_turn(user: User, sweep: Sweep) -> Sweep:
    """Lay out another turn under the same conditions; an unread one is used first."""
    require(user, Deed.MEASURE)
    open_job_row(sweep.corner.job_id)
    for other in sweep.corner.sweeps.all():
        if other.set_up == sweep.set_up and other.is_empty:
            return other
    turn = Sweep(
        corner=sweep.corner,
        created_by=user,
        **{
            name: getattr(sweep, name)
            for name in (
                "surface",
                "instrument",
                "confirmed",
                "radius_mm",
                "read_to",
                "cleaned",
                "nuts_torqued",
                "graduation_mm",
                "instrument_error_mm",
                "entry_unit",
                "index_deg",
                "stations_deg",
            )
        },
        typed=[""] * sweep.slots,
        readings_mm=[None] * sweep.slots,
    )
    _save(user, turn, reason="set-up")
    return turn


@dataclass(frozen=True)
class Entry:
    """One edit of one slot: text, who typed it (a browser tab), its running number, what stood there before."""

    slot: int
    text: str
    client: str
    number: int
    was: str
    final: bool


@dataclass(frozen=True)
class Judged:
    """A corner's tapes and what the core says of them."""

    sweeps: list[Sweep]
    rounds: list[ThicknessRound]
    quick: list[QuickReading]
    record: CornerRecord | None
    verdict: CornerVerdict | None

    @property
    def is_measured(self) -> bool:
        """Whether anything was typed, read or seen at this corner."""
        record = self.record
        seen = record is not None and (record.high_spots or record.findings or record.pads or record.drum)
        typed = any(any(tape.typed) for tape in (*self.sweeps, *self.rounds))
        return typed or bool(seen) or (record is not None and record.bearing_play_mm is not None)


@dataclass(frozen=True)
class Typed:
    """The tape after an edit, its corner judged anew, and what is wrong with the text, if anything."""

    tape: Tape
    judged: Judged
    error: UnreadableNumberError | None


@transaction.atomic
def type_reading(user: User, tape: Tape, entry: Entry) -> Typed:
    """Store what was typed into a slot, as typed and in millimetres.

    The same edit sent twice, or late behind a newer one of the same tab, changes nothing: a slot holds one
    text. A text that cannot be read is kept as typed, without millimetres. Raises ``SlotConflictError`` where
    another tab or person wrote the slot meanwhile.
    """
    require(user, Deed.MEASURE)
    tape = _locked(tape)
    mark = tape.marks.get(str(entry.slot), {})
    stored = tape.typed[entry.slot]
    same_tab = mark.get("c") == entry.client
    error: UnreadableNumberError | None = None
    mm: float | None = None
    if not (same_tab and mark["n"] > entry.number):
        if not same_tab and stored not in (entry.was, entry.text.strip()):
            raise SlotConflictError(entry.slot, stored)
        mm, error = _read(tape, entry.text)
        changed = stored != entry.text.strip()
        tape.typed[entry.slot], tape.readings_mm[entry.slot] = entry.text.strip(), mm
        tape.marks[str(entry.slot)] = {"c": entry.client[:MAX_CLIENT], "n": entry.number}
        if changed or entry.final:
            _save_keystrokes(user, tape, entry)
    else:
        _, error = _read(tape, stored)
    return Typed(tape=tape, judged=refresh_verdict(tape.corner), error=error)


@transaction.atomic
def zero_on_lowest(user: User, tape: Tape) -> Typed:
    """Re-type every reading as its height over the lowest, as turning the bezel at the low spot does."""
    require(user, Deed.MEASURE)
    tape = _locked(tape)
    if not isinstance(tape, Sweep):
        return Typed(tape=tape, judged=refresh_verdict(tape.corner), error=None)
    moved = moved_mm(tape).readings_mm
    lowest = min((z for z in moved if z is not None), default=0.0)
    if lowest:
        for slot, z in enumerate(moved):
            if z is not None:
                tape.readings_mm[slot] = round(z - lowest, 9)
                tape.typed[slot] = entry_text(tape, z - lowest)
        tape.marks, tape.undo_cursor = {}, None
        _save(user, tape, reason="zero on the lowest")
    return Typed(tape=tape, judged=refresh_verdict(tape.corner), error=None)


@transaction.atomic
def undo(user: User, tape: Tape) -> Typed:
    """Bring back the state before the last change. Undoing is itself recorded, so nothing is ever lost."""
    require(user, Deed.MEASURE)
    tape = _locked(tape)
    past = tape.history.order_by("-history_id")
    if tape.undo_cursor is not None:
        past = past.filter(history_id__lt=tape.undo_cursor)
    before = past.filter(typed__len=tape.slots).exclude(typed=tape.typed).first()
    if before is None:
        raise NothingToUndoError
    tape.typed, tape.readings_mm = before.typed, before.readings_mm
    tape.marks, tape.undo_cursor = {}, before.history_id
    _save(user, tape, reason="undo")
    return Typed(tape=tape, judged=refresh_verdict(tape.corner), error=None)


def entry_text(tape: Tape, length_mm: float) -> str:
    """Write millimetres as they would be typed on this tape."""
    text = f"{from_mm(length_mm, tape.unit, division_mm=tape.graduation_mm):.4f}".rstrip("0").rstrip(".")
    return text or "0"


def judge(corner: Corner) -> Judged:
    """Ask the core what it says of a corner; nothing is written."""
    sweeps = list(corner.sweeps.select_related("instrument"))
    rounds = list(corner.rounds.select_related("instrument"))
    quick = list(corner.quick_readings.select_related("instrument"))
    record = corner_record(corner, sweeps=sweeps, rounds=rounds, quick=quick)
    verdict = diagnose_corner(record) if record is not None else None
    return Judged(sweeps=sweeps, rounds=rounds, quick=quick, record=record, verdict=verdict)


def refresh_verdict(corner: Corner) -> Judged:
    """Judge a corner anew and keep the answer beside it."""
    judged = judge(corner)
    told = judged.verdict is not None and judged.is_measured
    corner.verdict = corner_to_data(judged.verdict) if told else {}
    Corner.objects.filter(pk=corner.pk).update(verdict=corner.verdict)
    return judged


def open_job_row(pk: int) -> Job:
    """Return the job, locked; raises ``JobClosedError``."""
    job = Job.objects.select_for_update(of=("self",)).get(pk=pk)
    if job.is_closed:
        raise JobClosedError
    return job


def _locked(tape: Tape) -> Any:
    """Return the tape's row, locked, with its corner and limits; refuse a closed job, wake a booked one."""
    model = type(tape)
    rows = model.objects.select_for_update(of=("self",))
    row = rows.select_related("corner__job", "corner__limits", "corner__look", "instrument").get(pk=tape.pk)
    job = row.corner.job
    if job.is_closed:
        raise JobClosedError
    if job.state == Job.State.BOOKED:
        Job.objects.filter(pk=job.pk).update(state=Job.State.OPEN)
    return row


def _read(tape: Tape, text: str) -> tuple[float | None, UnreadableNumberError | None]:
    dial = dial_of(tape.instrument, graduation_mm=tape.graduation_mm)
    try:
        typed, _ = read_dial(text, dial=dial, unit=tape.unit, most_mm=tape.most_mm, signed=tape.signed)
    except UnreadableNumberError as error:
        return None, None if error.code == "empty" else error
    return typed.mm, None


def _save(user: User, tape: Tape, *, reason: str) -> None:
    tape._history_user = user
    tape._change_reason = reason
    tape.save()


def _save_keystrokes(user: User, tape: Tape, entry: Entry) -> None:
    """Save an edit; keystrokes that follow each other in one cell share one history row, so one undo takes all."""
    tape.undo_cursor = None
    typing, done = f"slot {entry.slot}…", f"slot {entry.slot}"
    last = tape.history.first()
    going_on = (
        last is not None
        and last.history_change_reason == typing
        and last.history_user_id == user.pk
        and timezone.now() - last.history_date < _SAME_KEYSTROKES
    )
    if not going_on:
        _save(user, tape, reason=done if entry.final else typing)
        return
    tape.skip_history_when_saving = True
    tape.save()
    del tape.skip_history_when_saving
    type(last).objects.filter(pk=last.pk).update(
        typed=tape.typed, readings_mm=tape.readings_mm, history_change_reason=done if entry.final else typing
    )
