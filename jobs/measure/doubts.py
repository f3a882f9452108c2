"""A live word on a reading that looks like the wrong unit or the wrong dial, while it can still be put right."""

import numpy as np
from django.utils.translation import gettext as _

from compass.ground.units import Unit
from compass.measure.dial import Doubt, doubt_of
from compass.measure.thickness import is_doubtful, is_over_new, stands_alone
from compass.words.figures import plain_text
from jobs.adapters import is_certain, moved_mm
from jobs.models import Sweep, Tape, ThicknessRound
from workshop.adapters import dial_of, spec_of
from workshop.models import Instrument


def doubt_words(tape: Tape, slot: int) -> str:
    """Say what looks wrong with the reading in ``slot``; empty where nothing does."""
    if tape.readings_mm[slot] is None or tape.corner.limits is None:
        return ""
    if isinstance(tape, ThicknessRound):
        return _thickness_words(tape, slot)
    if not isinstance(tape, Sweep):
        return ""
    moved = moved_mm(tape).readings_mm
    others = [z for k, z in enumerate(moved) if k != slot and z is not None]
    doubt = doubt_of(
        moved[slot] or 0.0,
        others,
        dial=dial_of(tape.instrument, graduation_mm=tape.graduation_mm),
        read_to=tape.read_to,
        in_divisions=tape.unit is Unit.DIVISION,
        limit_mm=tape.corner.limits.max_runout_mm,
    )
    text = tape.typed[slot]
    match doubt:
        case Doubt.FINER_THAN_READ:
            step = plain_text(tape.graduation_mm * tape.read_to)
            return _("“%(text)s” is finer than this dial is read (%(step)s mm). Is it mm? Then type “%(text)s mm”.") % {
                "text": text,
                "step": step.figure,
            }
        case Doubt.BEYOND_FACE if is_certain(tape, text):
            return ""  # the turns were typed: that is the answer
        case Doubt.BEYOND_FACE:
            return _("“%(text)s” is more than one turn of this dial. Turns of the small hand: “1t 5”.") % {"text": text}
        case Doubt.LARGE:
            return _("“%(text)s” is far beyond its fellows: wrong unit, wrong dial, or a turn missed?") % {"text": text}
        case _:
            return ""


def doubtful_thicknesses(tape: ThicknessRound) -> set[int]:
    """Return the slots whose reading can hardly be of this disc; its fellows are those of its radius."""
    limits = tape.corner.limits
    if limits is None:
        return set()
    spec, read = spec_of(limits), {k: mm for k, mm in enumerate(tape.readings_mm) if mm is not None}
    row = len(tape.stations_deg)
    fellows = {k: [z for j, z in read.items() if j != k and j // row == k // row] for k in read}
    doubtful = {k for k, mm in read.items() if is_doubtful(mm, fellows[k], spec=spec)}
    return doubtful | {k for k, mm in read.items() if _is_over_new(tape, mm)}


def standing_alone(tape: ThicknessRound) -> set[int]:
    """Return the slots whose reading stands out between its neighbours, one a radius: a slip, or a narrow patch."""
    row = len(tape.stations_deg)
    read = np.array([np.nan if mm is None else mm for mm in tape.readings_mm])
    alone = ((start, stands_alone(read[start : start + row])) for start in range(0, tape.slots, row))
    return {start + k for start, k in alone if k is not None}


def _is_over_new(tape: ThicknessRound, mm: float) -> bool:
    """Whether a reading is thicker than new; a plain caliper rests on the lips, and they are taken off."""
    if tape.corner.limits is None or (tape.instrument is not None and tape.instrument.kind == Instrument.Kind.CALIPER):
        return False
    return is_over_new(mm, spec=spec_of(tape.corner.limits))


def _thickness_words(tape: ThicknessRound, slot: int) -> str:
    if slot in doubtful_thicknesses(tape):
        words = _("“%(text)s” can hardly be this disc: a digit missed, another unit, or the dial’s? Mike it again.")
        mm = tape.readings_mm[slot]
        if _is_over_new(tape, mm) and not is_doubtful(mm, (), spec=spec_of(tape.corner.limits)):
            words = _(
                "“%(text)s” is thicker than new: over a lip, on rust, or another disc? Mike it in the swept band."
            )
        return words % {"text": tape.typed[slot]}
    row = len(tape.stations_deg)
    alone = next((k for k in standing_alone(tape) if k // row == slot // row), None)
    if alone is None or (slot == alone and tape.stations_to_go):  # it may not be typed to its end yet
        return ""
    words = _(
        "Station %(n)s, “%(text)s”, stands alone between its neighbours: a slip, or a narrow patch? Mike it again."
    )
    return words % {"n": alone % row + 1, "text": tape.typed[alone]}
