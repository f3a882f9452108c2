"""What the core says of a job: each corner diagnosed once for its evidence, the vehicle judged over all of them.

The one door between rows and the core. An answer is remembered in this process by a digest of its evidence, and what
lists and heads of pages show is kept beside the rows by the write that changed the evidence.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from django.db.models import prefetch_related_objects

from compass.cause.corner import diagnose_corner
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Chosen
from compass.choose.vehicle import choose_axle
from compass.diagnose import Verdict, chosen_anew, conclude, is_mended
from compass.evidence.records import AfterWork
from compass.evidence.records import Case as CaseRecord
from compass.evidence.records import Corner as CornerRecord
from compass.evidence.shop import Shop
from compass.judge.vehicle import Judgement, judge_vehicle
from jobs.adapters import Beside, Past, beside_of, case_record, corner_record
from jobs.kept import KeptCorner, KeptJob
from jobs.models import CORNERS, EVIDENCE, Corner, Job, QuickReading, RunStep, Sweep, ThicknessRound
from jobs.remembered import Remembered, digest
from workshop.models import User

# What forbids driving: the step that says that it was renewed, and the work that holds it.
_BEARING: Final = (":hub_play", "hub_unit")
_DISC: Final = ((":new_one", ":in_pairs"), "new_rotors")
OF_THE_JOINT: Final = "clean_and_torque"  # leaves the disc as it is; what an advice on joint, nuts and marks comes to

_diagnosed = Remembered(lambda record: diagnose_corner(record), most=160)  # a third of a megabyte each
_vehicles = Remembered(
    lambda verdicts, beside, mended, worked: judge_vehicle(
        beside.positions,
        verdicts,
        complaint=beside.complaint,
        vehicle=beside.vehicle,
        shop=beside.shop,
        mended=mended,
        worked=worked,
    ),
    most=64,
)
_chosen = Remembered(choose_axle, most=32)


@dataclass(frozen=True)
class Judged:
    """A corner's tapes of one episode and what the core says of them; ``name`` is the digest of its evidence."""

    sweeps: list[Sweep]
    rounds: list[ThicknessRound]
    quick: list[QuickReading]
    record: CornerRecord | None
    verdict: CornerVerdict | None
    name: str = ""

    @property
    def since(self) -> datetime | None:
        """When something was first laid out or read; None where nothing was."""
        return min((row.created_at for row in (*self.sweeps, *self.rounds, *self.quick)), default=None)

    @property
    def broken_off(self) -> str:
        """The name of the first tape that was begun and not read to its end, nor another since; empty: none."""
        tapes = (*self.sweeps, *self.rounds)
        missed = (tape for tape in tapes if tape.is_broken_off and not any(t.stands_in_for(tape) for t in tapes))
        return next((tape.name for tape in missed), "")

    @property
    def is_measured(self) -> bool:
        """Whether anything was typed, read or seen at this corner."""
        record = self.record
        seen = record is not None and (record.high_spots or record.seen or record.pads or record.drum)
        typed = any(any(tape.typed) and not tape.struck for tape in (*self.sweeps, *self.rounds))
        return typed or bool(seen) or (record is not None and record.bearing_play_mm is not None)


@dataclass(frozen=True)
class JudgedJob:
    """A job's corners as they came in and what they say as a whole; ``name`` is the digest of all evidence.

    ``after`` are the corners that were worked on, as they stand now; ``still_stopped`` those of them where what forbids
    driving was left as it was, ``undecided`` their axles where what was decided does not see to it either.
    """

    corners: dict[str, Judged]
    after: dict[str, Judged]
    still_stopped: tuple[str, ...]
    undecided: tuple[str, ...]
    verdicts: tuple[CornerVerdict, ...]
    judged: Judgement
    name: str
    beside: Beside

    @property
    def stopped(self) -> tuple[str, ...]:
        """The corners that forbid driving as the vehicle stands now."""
        now = {**self.corners, **self.after}
        forbid = {position for position, judged in now.items() if judged.verdict and judged.verdict.do_not_drive}
        return tuple(position for position in now if position in forbid or position in self.still_stopped)


def fetch_evidence(corners: Sequence[Corner]) -> None:
    """Fetch tapes and quick readings of corners, with their instruments, in three queries."""
    prefetch_related_objects(corners, *EVIDENCE)


def case_of(user: User, job: Job) -> CaseRecord:
    """Return a job's evidence as a case: the corners that have limits. Nothing is diagnosed for it."""
    rows = list(job.corners.all())
    fetch_evidence(rows)
    records = (_with_after(job, row, _read(row).record) for row in rows)
    return case_record(user, job, [record for record in records if record is not None])


def _with_after(job: Job, row: Corner, record: CornerRecord | None) -> CornerRecord | None:
    """Return a corner's evidence with what was done on it and read after each work."""
    if record is None or not row.episode:
        return record
    prefetch_related_objects([job], "decisions")
    after = []
    for episode in range(1, row.episode + 1):
        read = _read(row, episode)
        if read.record is not None:
            work = _work_of(job, row, episode) or _decided_before(job, row, read.since)
            after.append(AfterWork(read.record.sweeps, read.record.high_spots, read.record.thickness, work))
    return replace(record, after=tuple(after))


def works_of(job: Job, row: Corner) -> list[str]:
    """Return what was done at a corner and read since, each work once, in order. ``row`` has its evidence fetched.

    Joint and nuts seen to once more after another work are none by themselves.
    """
    record = _with_after(job, row, _read(row).record)
    works = [read.work for read in record.after if read.work] if record is not None else []
    return list(dict.fromkeys(work for work in works if work != OF_THE_JOINT or len(works) == 1))


def _work_of(job: Job, row: Corner, episode: int) -> str:
    """Return what began an episode of a corner, as it is on record here or came with its case; else empty."""
    brought = _brought_works(job, row.position)
    works = brought if episode <= len(brought) else row.works
    return works[episode - 1] if episode <= len(works) else ""


def _brought_works(job: Job, position: str) -> list[str]:
    """Return what a case file that was taken in said was done at a corner, work by work."""
    return job.case_rest.get("works", {}).get(position, [])


def _decided_before(job: Job, row: Corner, moment: datetime | None) -> str:
    """Return the remedy that was decided for a corner when something was read there; empty where none was."""
    decided = [d for d in job.decisions.all() if d.axle == row.axle and moment is not None and d.created_at <= moment]
    last = max(decided, key=lambda decision: (decision.created_at, decision.pk), default=None)
    return (last.remedies.get(row.position) or "") if last is not None else ""


def standing(job: Job, row: Corner, *, past: Past | None = None, as_decided: bool = False) -> CornerVerdict | None:
    """Return what may be chosen for by how a corner stands after its works, or stood when the last was decided.

    None where nothing was done, or too little read since. ``row`` has its evidence fetched.
    """
    stands = as_it_stands(job, row, past=past, as_decided=as_decided)
    return None if stands is None else chosen_anew(stands)


def as_it_stands(job: Job, row: Corner, *, past: Past | None = None, as_decided: bool = False) -> CornerVerdict | None:
    """Return what the core says of a corner by what was read since its works, and what they left as it was.

    What the record knows of it (a plate under the disc) is of how it came in: a work may have changed that.
    """
    record = _with_after(job, row, _read(row).record)
    if record is None or not record.after:
        return None
    if past is not None:
        record = past.added_to(record)
    if as_decided and row.decided_in is not None:
        record = replace(record, after=record.after[: row.decided_in])
    stands = record.as_it_stands()
    return None if stands is None else _diagnosed(stands, name=digest(stands))


def choose_for_axle(
    corners: Sequence[CornerVerdict], shop: Shop, kind: str | None
) -> tuple[tuple[Chosen, ...], AxlePlan]:
    """Predict and decide one axle, remembered: a verdict is named by the record it was made from."""
    told = tuple((corner.because if corner.to_blame else (), corner.settled) for corner in corners)
    name = digest(tuple(corner.measured.corner for corner in corners), told, shop, kind)
    return _chosen(corners, shop, kind, name=name)


def judge(corner: Corner, *, episode: int | None = None) -> Judged:
    """Ask the core what it says of one corner in an episode, the one now unless said; nothing is written."""
    return judge_corners([corner], episode=corner.episode if episode is None else episode)[0]


def judge_corners(corners: Sequence[Corner], *, episode: int = 0) -> list[Judged]:
    """Ask the core what it says of corners, their evidence fetched together; nothing is written."""
    fetch_evidence(corners)
    return [_judge(corner, episode) for corner in corners]


def judge_job(user: User, job: Job, *, steps: Sequence[RunStep] | None = None) -> JudgedJob:
    """Ask the core what it says of all corners of a job and of the vehicle; nothing is written.

    ``job`` comes from ``for_page`` (corners with limits and looks); ``steps`` are those of its work, where they were
    read already.
    """
    rows = list(job.corners.all())
    fetch_evidence(rows)
    corners = {row.position: _judge(row, 0) for row in rows}
    after = {row.position: _judge(row, row.episode) for row in rows if row.episode}
    verdicts = tuple(judged.verdict for judged in corners.values() if judged.verdict is not None)
    beside = beside_of(user, job)
    left, undecided = _left(user, job, rows, corners, after, steps)
    mended = _mended(corners, after, left) if beside.complaint.still_felt else ()
    worked = tuple(row.position for row in rows if row.episode)
    name = digest(tuple(judged.name for judged in corners.values()), beside, mended, worked)
    judged = _vehicles(verdicts, beside, mended, worked, name=name)
    return JudgedJob(corners, after, left, undecided, verdicts, judged, name, beside)


def _mended(corners: dict[str, Judged], after: dict[str, Judged], left: Collection[str]) -> tuple[str, ...]:
    """Return the corners whose fault is put right, by what was read there after the work."""
    stands = {p: now.verdict.measured for p, now in after.items() if now.verdict is not None}
    came_in = {p: judged.verdict for p, judged in corners.items() if judged.verdict is not None}
    return tuple(p for p, v in came_in.items() if is_mended(v, stands.get(p), bearing_renewed=p not in left))


def _left(
    user: User,
    job: Job,
    rows: Sequence[Corner],
    corners: dict[str, Judged],
    after: dict[str, Judged],
    steps: Sequence[RunStep] | None,
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the corners that were worked on though what forbids driving was left, and their axles still to be decided.

    A bearing that is rocked after its disc was cut, a crack that is seen then: what was read after the work is silent
    about both. They stand until a step says that the bearing, or the disc, was renewed; how thick a disc is, what was
    miked since says itself.
    """
    worked = {row.position: row.axle for row in rows if row.episode}
    verdicts = {p: v for p in worked if (v := corners[p].verdict) is not None and v.do_not_drive}
    if not verdicts:  # nearly always: then nothing more is asked
        return (), ()
    pressed = RunStep.of(user).filter(run__job=job, passed=True) if steps is None else steps
    done = [(row.position, row.key) for row in pressed if row.was_done]
    works = {d.axle: d.remedies for d in sorted(job.decisions.all(), key=lambda d: (d.created_at, d.pk))}
    left, undecided = [], []
    for position, verdict in verdicts.items():
        wants = [_BEARING] if verdict.measured.bearing_over else []
        now = after[position].verdict
        miked = now is not None and now.measured.thickness.result is not None
        wants += [_DISC] if verdict.measured.broken or (verdict.measured.worn and not miked) else []
        renewed = {part for work in _brought_works(job, position) for part in work.split("+")}
        open_ = [
            work
            for ends, work in wants
            if work not in renewed and not any(p == position and key.endswith(ends) for p, key in done)
        ]
        if open_:
            left.append(position)
            decided = works.get(worked[position], {}).get(position) or ""
            if any(work not in decided for work in open_):
                undecided.append(worked[position])
    return tuple(left), tuple(dict.fromkeys(undecided))


def verdict_of(user: User, job: Job, past: Past) -> Verdict:
    """Return the whole verdict on a job, remedies and all, with what the vehicle's record knows beside its evidence."""
    fresh = judge_job(user, job)
    corners = [with_past(verdict, past) for verdict in fresh.verdicts]
    case = case_record(user, job, [corner.measured.corner for corner in corners], beside=fresh.beside)
    stands = {r.position: verdict for r in job.corners.all() if (verdict := standing(job, r, past=past)) is not None}
    return conclude(
        case, corners, judged=fresh.judged, choosing=choose_for_axle, standing=stands, stopped=fresh.stopped
    )


def with_past(verdict: CornerVerdict, past: Past | None) -> CornerVerdict:
    """Return a verdict with wear and plates from the record: they speak in remedies, not in the diagnosis."""
    if past is None:
        return verdict
    measured = verdict.measured
    return replace(verdict, measured=replace(measured, corner=past.added_to(measured.corner)))


def refresh(user: User, job: Job) -> JudgedJob:
    """Judge a job anew after a write and keep the answer beside its rows, and on ``job``.

    Called under the lock of the job's row (``writing.open_job_row``), so that two writes to one vehicle follow each
    other and what is kept is never older than the evidence.
    """
    job._prefetched_objects_cache = {}  # whatever was read before the write
    prefetch_related_objects([job], CORNERS)
    fresh = judge_job(user, job)
    for row in job.corners.all():
        judged = fresh.corners[row.position]
        verdict = judged.verdict
        data = _kept(judged, fresh.judged.root_causes[row.position] if verdict is not None else "")
        after = _kept_after(job, row, fresh.after.get(row.position))
        if after and row.position in fresh.still_stopped:
            after |= {"do_not_drive": True}
        if (data, after) != (row.verdict, row.after):
            row.keep_verdict(data, after)
    kept = KeptJob.of(
        fresh.judged, evidence=fresh.name, still_stopped=fresh.still_stopped, undecided=fresh.undecided
    ).data()
    if kept != job.judgement:
        job.keep_judgement(kept)
    return fresh


def _read(corner: Corner, episode: int = 0) -> Judged:
    """Read the evidence of an episode. What was seen and measured beside the disc is of the corner as it came in."""
    sweeps = [row for row in corner.sweeps.all() if row.episode == episode]
    rounds = [row for row in corner.rounds.all() if row.episode == episode]
    quick = [row for row in corner.quick_readings.all() if row.episode == episode]
    record = corner_record(corner, sweeps=sweeps, rounds=rounds, quick=quick)
    if episode and record is not None:
        record = replace(record, bearing_play_mm=None, pads=None, drum=None, seen=frozenset())
    return Judged(sweeps, rounds, quick, record, None, digest(record))


def _judge(corner: Corner, episode: int) -> Judged:
    read = _read(corner, episode)
    return read if read.record is None else replace(read, verdict=_diagnosed(read.record, name=read.name))


def _kept_after(job: Job, row: Corner, now: Judged | None) -> dict[str, object]:
    """Return what is kept of a corner after its work: what was read since, and how thick its disc is known to be."""
    if now is None or now.verdict is None:
        return {}
    kept = _kept(now, now.verdict.root_cause)
    if kept and now.verdict.measured.thickness.result is None:
        stands = as_it_stands(job, row)
        if stands is not None and stands.measured.thickness.result is not None:
            kept["thickness"] = _kept(replace(now, verdict=stands), stands.root_cause)["thickness"]
    return kept


def _kept(corner: Judged, root_cause: str) -> dict[str, object]:
    if corner.verdict is None or not corner.is_measured:
        return {}
    kept = KeptCorner.of(corner.verdict, root_cause=root_cause, evidence=corner.name, broken_off=corner.broken_off)
    return kept.data()
