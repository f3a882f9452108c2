"""What the core says of a job's corners, judged once and kept with the evidence it rests on."""

from dataclasses import dataclass

from compass.cause.corner import diagnose_corner
from compass.diagnose import CornerVerdict
from compass.evidence.records import Corner as CornerRecord
from compass.files.write_verdict import corner_to_data
from jobs.adapters import corner_record
from jobs.models import Corner, QuickReading, Sweep, ThicknessRound


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
        seen = record is not None and (record.high_spots or record.seen or record.pads or record.drum)
        typed = any(any(tape.typed) for tape in (*self.sweeps, *self.rounds))
        return typed or bool(seen) or (record is not None and record.bearing_play_mm is not None)


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
