"""Writes of the Measure leg: each checks who may, locks what it changes, leaves its audit row in one transaction."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit, from_mm
from compass.measure.dial import read_dial
from jobs.adapters import moved_mm
from jobs.judging import Judged, judge, refresh
from jobs.measure.edits import Edits
from jobs.models import Corner, Job, QuickReading, Sweep, Tape, ThicknessRound
from jobs.writing import open_job_of, open_job_row, save
from workshop.adapters import dial_of
from workshop.models import User
from workshop.permissions import Deed, require

MOST_MM = 10.0  # mm; the longest travel of a workshop dial


@transaction.atomic
def add_quick(user: User, corner: Corner, *, typed: str, unit: Unit, **set_up: Any) -> QuickReading:
    """Store a quick reading as typed and in millimetres. Raises ``UnreadableNumberError``."""
    require(user, Deed.MEASURE)
    job = open_job_row(user, corner.job_id)
    dial = dial_of(set_up.get("instrument"), graduation_mm=set_up["graduation_mm"])
    amount, _ = read_dial(typed, dial=dial, unit=unit, most_mm=MOST_MM, signed=False)
    quick = QuickReading(
        corner=corner, episode=corner.episode, typed=typed.strip(), tir_mm=amount.mm, created_by=user, **set_up
    )
    quick._history_user = user
    quick.full_clean()
    quick.save()
    refresh(user, job)
    return quick


@transaction.atomic
def withdraw_quick(user: User, quick: QuickReading, *, withdrawn: bool) -> None:
    """Strike a quick reading out, or let it count again; the row stays."""
    require(user, Deed.MEASURE)
    job = open_job_row(user, quick.corner.job_id)
    row = QuickReading.of(user).get(pk=quick.pk)
    if row.withdrawn != withdrawn:
        row.withdrawn = withdrawn
        row._history_user = user
        row.save()
        refresh(user, job)


MAX_CLIENT = 40


class NothingToUndoError(Exception):
    """There is no earlier state of this tape."""


@dataclass(frozen=True)
class Entry:
    """One edit of one slot: text, who typed it (a page that was opened), its running number there, what stood before.

    ``id`` names the edit for its answer. ``heirs`` are pages of the same person whose unsent edit this one goes on
    from: what they wrote is no stranger's.
    """

    slot: int
    text: str
    client: str
    number: int
    was: str
    final: bool
    id: str = ""
    heirs: tuple[str, ...] = ()


@dataclass(frozen=True)
class Outcome:
    """What became of one edit: stored, superseded by a later one, unfit, or in conflict with ``theirs``."""

    entry: Entry
    kind: str
    theirs: str = ""


@dataclass(frozen=True)
class Typed:
    """The tape after edits, its corner judged anew, and what became of each edit."""

    job: Job
    tape: Tape
    judged: Judged
    outcomes: tuple[Outcome, ...] = ()


@transaction.atomic
def type_readings(user: User, tape: Tape, entries: Sequence[Entry]) -> Typed:
    """Store what was typed into slots, as typed and in millimetres; judge once.

    The same edit sent twice, or late behind a newer one of the same page, changes nothing: a slot holds one text.
    Where another page or person wrote the slot meanwhile nothing is stored and the outcome carries theirs. A text that
    cannot be read is kept as typed, without millimetres.
    """
    require(user, Deed.MEASURE)
    job, tape = _locked(user, tape)
    edits = Edits(user, tape)
    outcomes = tuple(_write(tape, entry, edits) for entry in entries)
    edits.keep()
    return replace(_typed(user, job, tape), outcomes=outcomes)


def _write(tape: Tape, entry: Entry, edits: Edits) -> Outcome:
    if entry.slot >= tape.slots:
        return Outcome(entry, "unfit")
    mark = tape.marks.get(str(entry.slot), {})
    stored, text = tape.typed[entry.slot], entry.text.strip()
    # The order is the server's: numbers count within one page, no clock of a device is asked.
    if mark.get("c") == entry.client and mark["n"] > entry.number:
        return Outcome(entry, "superseded")
    is_theirs = mark.get("c") not in (entry.client, *entry.heirs)
    if is_theirs and stored not in (entry.was, text):
        return Outcome(entry, "conflict", stored)
    if is_theirs and stored == text and not entry.final:
        return Outcome(entry, "stored")  # on its way past theirs, "5" to "5.5": the cell is not theirs for that
    tape.typed[entry.slot], tape.readings_mm[entry.slot] = text, read_slot(tape, text)[0]
    tape.marks[str(entry.slot)] = {"c": entry.client[:MAX_CLIENT], "n": entry.number}
    if stored != text or entry.final:
        edits.note(entry.slot, final=entry.final)
    return Outcome(entry, "stored")


def unread(tape: Tape) -> dict[int, UnreadableNumberError]:
    """Return what is wrong with each slot whose text cannot be read."""
    faults = {}
    for slot, (text, mm) in enumerate(zip(tape.typed, tape.readings_mm, strict=True)):
        error = read_slot(tape, text)[1] if text and mm is None else None
        if error is not None:
            faults[slot] = error
    return faults


@transaction.atomic
def zero_on_lowest(user: User, tape: Tape) -> Typed:
    """Re-type every reading as its height over the lowest, as turning the bezel at the low spot does."""
    require(user, Deed.MEASURE)
    job, tape = _locked(user, tape)
    if not isinstance(tape, Sweep):
        return _typed(user, job, tape)
    moved = moved_mm(tape).readings_mm
    lowest = min((z for z in moved if z is not None), default=0.0)
    if lowest:
        for slot, z in enumerate(moved):
            if z is not None:
                tape.readings_mm[slot] = round(z - lowest, 9)
                tape.typed[slot] = entry_text(tape, z - lowest)
        tape.marks, tape.undo_cursor = {}, None
        save(user, tape, reason="zero on the lowest")
    return _typed(user, job, tape)


@transaction.atomic
def undo(user: User, tape: Tape) -> Typed:
    """Bring back the state before the last change. Undoing is itself recorded, so nothing is ever lost."""
    require(user, Deed.MEASURE)
    job, tape = _locked(user, tape)
    past = tape.history.order_by("-history_id")
    if tape.undo_cursor is not None:
        past = past.filter(history_id__lt=tape.undo_cursor)
    before = past.filter(typed__len=tape.slots).exclude(typed=tape.typed).first()
    if before is None:
        raise NothingToUndoError
    tape.typed = before.typed
    same_reading = all(getattr(before, n) == getattr(tape, n) for n in ("graduation_mm", "entry_unit", "instrument_id"))
    # A set-up that was corrected since stands: what is brought back is read by it.
    tape.readings_mm = before.readings_mm if same_reading else [read_slot(tape, text)[0] for text in tape.typed]
    tape.marks, tape.undo_cursor = {}, before.history_id
    save(user, tape, reason="undo")
    return _typed(user, job, tape)


@transaction.atomic
def strike_tape(user: User, tape: Tape, *, struck: bool) -> None:
    """Strike a whole sweep or round out, or let it count again; its readings stay on the record."""
    require(user, Deed.MEASURE)
    job, row = _locked(user, tape)
    if row.struck != struck:
        row.struck = struck
        save(user, row, reason="struck out" if struck else "counts again")
        refresh(user, job)


@transaction.atomic
def correct_set_up(user: User, tape: Tape, **set_up: Any) -> None:
    """Put a tape's set-up right: what was typed stays, everything is worked out of it anew."""
    require(user, Deed.MEASURE)
    job, row = _locked(user, tape)
    reads = ("graduation_mm", "entry_unit", "instrument_id")
    before = [getattr(row, name) for name in reads]
    for name, value in set_up.items():
        setattr(row, name, value)
    if [getattr(row, name) for name in reads] != before:
        row.readings_mm = [read_slot(row, text)[0] for text in row.typed]
    row.undo_cursor = None
    save(user, row, reason="set-up corrected")
    refresh(user, job)


class OtherCornerError(Exception):
    """A tape cannot be that corner's: it is of before a work, or the corner has no limits to draw and judge it by."""


@transaction.atomic
def give_to_corner(user: User, tape: Tape, position: str) -> None:
    """Give a tape that was read at another corner of the job to that one; both are judged anew."""
    require(user, Deed.MEASURE)
    job, row = _locked(user, tape)
    corners = {corner.position: corner for corner in job.corners.all()}
    before, corner = next(c for c in corners.values() if c.pk == row.corner_id), corners.get(position)
    if corner is None or corner.limits_id is None or row.episode != before.episode:
        raise OtherCornerError
    if corner.pk != before.pk:
        row.corner, row.episode = corner, corner.episode
        save(user, row, reason="other corner")
        refresh(user, job)


@transaction.atomic
def another_round(user: User, measured: ThicknessRound, **micrometer: Any) -> ThicknessRound:
    """Lay out another thickness round at the same places, with this micrometer; an unread one is used first."""
    require(user, Deed.MEASURE)
    _job, row = _locked(user, measured)
    alike = row.corner.rounds.filter(episode=row.episode)
    empty = next((r for r in alike if r.is_empty and not r.struck), None)
    fresh = empty or ThicknessRound(corner=row.corner, episode=row.episode, created_by=user)
    for name in ("confirmed", "index_deg", "stations_deg", "radii_mm", "lips_within_mm"):
        setattr(fresh, name, getattr(row, name))
    fresh.typed, fresh.readings_mm = [""] * row.slots, [None] * row.slots
    for name, value in micrometer.items():
        setattr(fresh, name, value)
    save(user, fresh, reason="set-up")
    return fresh


def entry_text(tape: Tape, length_mm: float) -> str:
    """Write millimetres as they would be typed on this tape."""
    text = f"{from_mm(length_mm, tape.unit, division_mm=tape.graduation_mm):.4f}".rstrip("0").rstrip(".")
    return text or "0"


def _typed(user: User, job: Job, tape: Tape) -> Typed:
    """Judge the job anew; nothing of this tape is diagnosed twice."""
    fresh = refresh(user, job)
    corner = tape.corner = next(c for c in job.corners.all() if c.pk == tape.corner_id)
    judged = fresh.after.get(corner.position) if tape.episode == corner.episode else None
    judged = judged if judged is not None and tape.episode else fresh.corners[corner.position]
    if tape.episode not in (0, corner.episode):  # of a work before the last: looked at, and put right, by itself
        judged = judge(corner, episode=tape.episode)
    return Typed(job=job, tape=tape, judged=judged)


def _locked(user: User, tape: Tape) -> tuple[Job, Any]:
    """Return a tape's job and row, both locked; wake a booked job. ``tape`` needs no more than its pk."""
    job = open_job_of(user, tape)
    row = type(tape).of(user).select_for_update(of=("self",)).select_related("instrument").get(pk=tape.pk)
    if job.state == Job.State.BOOKED:
        job.state = Job.State.OPEN
        Job.of(user).filter(pk=job.pk).update(state=job.state)
    return job, row


def read_slot(tape: Tape, text: str) -> tuple[float | None, UnreadableNumberError | None]:
    """Read a text as this tape's dial or micrometer says it: millimetres, or what is wrong."""
    dial = dial_of(tape.instrument, graduation_mm=tape.graduation_mm)
    try:
        typed, _ = read_dial(text, dial=dial, unit=tape.unit, most_mm=tape.most_mm, signed=tape.signed)
    except UnreadableNumberError as error:
        return None, None if error.code == "empty" else error
    if typed.mm <= 0 and not tape.signed:  # a size: nothing is no disc
        return None, UnreadableNumberError("zero", text.strip())
    return typed.mm, None
