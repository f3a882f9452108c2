"""The instrument's own entry: readings a device sends go through the same action as those that are typed."""

import hashlib
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Final

from django.db import transaction
from django.utils import timezone

from compass.ground.units import Unit, mm_per_unit
from compass.measure.dial import Doubt, doubt_of
from jobs.measure.actions import Entry, entry_text, type_readings
from jobs.models import DeviceReading, Listening, Sweep, Tape, ThicknessRound
from jobs.writing import JobClosedError, open_job_of
from workshop.adapters import dial_of
from workshop.models import DeviceKey, Instrument, User
from workshop.permissions import Deed, require
from workshop.walls import at_the_door, enter

MOST_A_SECOND: Final = 10  # readings of one device: a hand needs a second a station
LOW_BATTERY: Final = 0.08  # under this instruments are known to lie before they fall silent; our estimate
_FAR_OFF_MM: Final = 1.0  # of a disc's thickness from its fellows: another unit, or another disc
_USUAL_LIMIT_MM: Final = 0.05  # of runout, where nobody has said one
UNITS: Final = {"mm": Unit.MM, "um": Unit.MICROMETRE, "in": Unit.INCH, "thou": Unit.THOU}
_KINDS: Final = {"sweep": (Instrument.Kind.DIAL,), "thickness": (Instrument.Kind.MICROMETER, Instrument.Kind.CALIPER)}


class FloodError(Exception):
    """The device sends faster than any hand turns a wheel: nothing of it was kept."""


class NobodyListensError(Exception):
    """No open tape listens to this device; ``code`` says why."""

    def __init__(self, code: str) -> None:
        super().__init__(code)
        self.code = code


@dataclass(frozen=True)
class Sent:
    """One reading as it came: the device's own name for it, the figure and its unit, a station (from 1) where told."""

    given_id: str
    value: float
    unit: str
    station: int | None = None
    battery: float | None = None

    @property
    def mm(self) -> float:
        """The length in millimetres."""
        return self.value * mm_per_unit(UNITS[self.unit])


def key_of(token: str) -> DeviceKey | None:
    """Return the key a device shows, None where it is not known or was revoked; enter its workshop."""
    digest = hashlib.sha256(token.encode()).hexdigest()
    with at_the_door():
        # In no order: keys stand in that of their instruments, which are not to be seen from the door.
        key: DeviceKey | None = DeviceKey.of(None).filter(digest=digest, revoked_at=None).order_by().first()
    if key is not None:
        enter(key.workshop_id)
    return key


def keys_of(user: User) -> list[DeviceKey]:
    """Return the devices of a workshop."""
    return list(DeviceKey.of(user).filter(revoked_at=None).select_related("instrument"))


def can_hear(tape: Tape, key: DeviceKey) -> bool:
    """Whether a tape can listen to a device."""
    return key.instrument.kind in _KINDS[tape.kind] and not key.instrument.retired


def listening_of(user: User, tape: Tape) -> Listening | None:
    """Return what a tape listens to now."""
    rows = Listening.of(user).filter(ended_at=None, key__revoked_at=None, **_named(tape))
    return rows.select_related("key", "person").first()


def _named(tape: Tape) -> dict[str, int]:
    return {"sweep_id" if tape.kind == "sweep" else "round_id": tape.pk}


@transaction.atomic
def listen(user: User, tape: Tape, key: DeviceKey) -> Listening:
    """Let a tape hear a device from now on, instead of the one that heard it before."""
    require(user, Deed.MEASURE)
    open_job_of(user, tape)
    # Two tapes may ask for one device: one after the other.
    DeviceKey.of(user).select_for_update(of=("self",)).get(pk=key.pk)
    now = timezone.now()
    other = Listening.of(user).filter(key=key, ended_at=None).first()
    if other is not None and {other.sweep_id, other.round_id} - {None} == {tape.pk}:
        return other
    Listening.of(user).filter(key=key, ended_at=None).update(ended_at=now)
    Listening.of(user).filter(ended_at=None, **_named(tape)).update(ended_at=now)
    return Listening.of(user).create(key=key, person=user, **_named(tape))


@transaction.atomic
def stop(user: User, tape: Tape) -> None:
    """Let a tape hear nobody any more."""
    require(user, Deed.MEASURE)
    Listening.of(user).filter(ended_at=None, **_named(tape)).update(ended_at=timezone.now())


@transaction.atomic
def take(key: DeviceKey, sent: Sent) -> tuple[DeviceReading, bool]:
    """Take a reading into the tape that listens; return it, and whether it had come before.

    What is doubted is kept beside the tape and never in it. Raises ``FloodError`` and ``NobodyListensError``.
    """
    row = DeviceKey.of(None).select_for_update(of=("self",)).get(pk=key.pk)  # one reading of a device after the other
    before = DeviceReading.of(None).filter(key=row, given_id=sent.given_id).first()
    if before is not None:
        return before, True
    now = timezone.now()
    if DeviceReading.of(None).filter(key=row, at__gt=now - timedelta(seconds=1)).count() >= MOST_A_SECOND:
        raise FloodError
    row.heard_at = now
    row.battery = sent.battery if sent.battery is not None else row.battery
    row.save(update_fields=["heard_at", "battery"])
    listening = Listening.of(None).select_related("person").filter(key=row, ended_at=None).first()
    if listening is None:
        raise NobodyListensError("nobody_listens")
    tape = _tape(listening)
    try:
        open_job_of(listening.person, tape)
    except JobClosedError as error:
        raise NobodyListensError("job_closed") from error
    tape = type(tape).of(listening.person).select_for_update(of=("self",)).select_related("instrument").get(pk=tape.pk)
    if tape.struck:
        raise NobodyListensError("tape_struck")
    slot = sent.station - 1 if sent.station is not None else _free(tape)
    if slot is None or slot >= tape.slots:
        raise NobodyListensError("tape_full" if sent.station is None else "no_such_station")
    why = _doubt(tape, slot, sent, listening)
    told = {"value_mm": sent.mm, "text": entry_text(tape, sent.mm), "slot": slot}
    reading = DeviceReading(key=row, listening=listening, given_id=sent.given_id, outcome="doubted", why=why, **told)
    reading.save()
    if not why:
        entry = Entry(slot, told["text"], f"device {row.pk}", reading.pk, tape.typed[slot], final=True)
        type_readings(listening.person, tape, [entry])
        reading.outcome = DeviceReading.Outcome.TAKEN
        reading.save(update_fields=["outcome"])
    return reading, False


def _tape(listening: Listening) -> Any:
    if listening.sweep_id is not None:
        return Sweep(pk=listening.sweep_id)
    return ThicknessRound(pk=listening.round_id)


def _free(tape: Any) -> int | None:
    return next((slot for slot, text in enumerate(tape.typed) if not text.strip()), None)


def _doubt(tape: Any, slot: int, sent: Sent, listening: Listening) -> str:
    """Say why a reading is not taken; empty where it is."""
    if sent.battery is not None and sent.battery < LOW_BATTERY:
        return "battery"
    if not abs(sent.mm) <= tape.most_mm or (not tape.signed and sent.mm <= 0):
        return "out_of_range"
    if tape.typed[slot].strip() and not _own(tape, slot, listening):
        return "station_taken"  # somebody has typed there: theirs stands
    others = [z for k, z in enumerate(tape.readings_mm) if z is not None and k != slot]
    if tape.kind == "thickness":
        middle = sorted(others)[len(others) // 2] if others else None
        return "jump" if middle is not None and abs(sent.mm - middle) > _FAR_OFF_MM else ""
    limits = tape.corner.limits
    doubt = doubt_of(
        sent.mm,
        others,
        dial=dial_of(tape.instrument, graduation_mm=tape.graduation_mm),
        read_to=0.0,  # a device reads as finely as it likes
        in_divisions=False,
        limit_mm=limits.max_runout_mm if limits is not None else _USUAL_LIMIT_MM,
    )
    return {Doubt.LARGE: "jump", Doubt.BEYOND_FACE: "out_of_range"}.get(doubt, "") if doubt is not None else ""


def _own(tape: Any, slot: int, listening: Listening) -> bool:
    return bool(tape.marks.get(str(slot), {}).get("c") == f"device {listening.key_id}")
