"""Writes of the work being carried out, step by step: done, taken back, broken off, gone on with by another choice.

Each locks the job, holds what was sent against the work as it stands now, and keeps who did it and when.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Final

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from compass.do.ladder import Rung, falls_away, opened_again, plain_ahead, rung, skipped, steps_of
from compass.do.order import Order, order_work
from compass.do.reading import Held, Outcome, hold_reading
from compass.do.steps import RENEWED, Kind
from compass.do.work import PlacedStep
from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit, parse_length
from compass.prove.proof import ADVICE, CHANGES_THE_DISC
from jobs.cause.actions import keep_felt
from jobs.do.actions import (
    MOST_MM,
    CutRefusedError,
    fit_plate,
    keep_compensation,
    keep_scratch,
    record_pass,
    require_work,
    strike_pass,
)
from jobs.do.cut import carried_by
from jobs.do.doing import PROVE, Doing, Side, doing_of, is_once_more, plan_of
from jobs.do.renewing import note_renewed
from jobs.judging import OF_THE_JOINT, refresh
from jobs.look_fields import read_figure
from jobs.models import Corner, FittedPlate, Job, Run, RunStep
from jobs.writing import open_job_row
from workshop.models import TORQUES, AxleLimits, User
from workshop.permissions import Deed, may, may_sign, require

MOST_PEOPLE: Final = 6
_MOST_READ_MM: Final = 10.0  # the longest travel of a workshop dial
ON_THE_ROAD: Final = ("road_test", "trailer_test")
_SOLVING_S: Final = 0.25


class NothingDecidedError(Exception):
    """No work is decided on this job (any more)."""


class WorkChangedError(Exception):
    """Remedy, setting or limits are others than when the work was begun: it stops until somebody goes on by them."""


class UnknownStepError(Exception):
    """The work has no such step (any more)."""


class StepDoneError(Exception):
    """The step is done already; ``row`` says by whom and when."""

    def __init__(self, row: RunStep) -> None:
        super().__init__(row.pk)
        self.row = row


class OutOfOrderError(Exception):
    """Steps before this one are not done; ``skipped`` are they."""

    def __init__(self, steps: tuple[PlacedStep, ...]) -> None:
        super().__init__(len(steps))
        self.skipped = steps


class HoldError(Exception):
    """A hold point wants its ``want``: finding, reading, second (a second person), or passing (second or reason)."""

    def __init__(self, want: str) -> None:
        super().__init__(want)
        self.want = want


class TorqueWantedError(Exception):
    """A torque is on no record: it is looked up and typed at its step with its source. ``field`` is what is missing."""

    def __init__(self, field: str) -> None:
        super().__init__(field)
        self.field = field


@dataclass(frozen=True)
class Sent:
    """What a person sent for a step. ``out_of_order``: that steps before it are not done was seen and meant so."""

    position: str
    key: str
    typed: str = ""
    arm: str = ""
    finding: str = ""
    reason: str = ""
    torque_nm: float | None = None
    source: str = ""
    out_of_order: bool = False


@dataclass(frozen=True)
class Stepped:
    """What became of a step: the row kept, whether it passed, and the steps that were opened again by it."""

    row: RunStep
    outcome: Outcome
    opened: tuple[Rung, ...] = ()


@transaction.atomic
def do_step(user: User, job: Job, sent: Sent, *, second: User | None = None, ago: timedelta | None = None) -> Stepped:
    """Do one step, beginning the work where it is the first. ``ago``: it was pressed then, without a line.

    Raises ``NothingDecidedError``, ``WorkChangedError``, ``UnknownStepError``, ``StepDoneError``, ``OutOfOrderError``,
    ``HoldError``, ``TorqueWantedError``, ``UnreadableNumberError``, ``NoPlateError``, and what the cut raises; then
    nothing is kept.
    """
    require_work(user)
    doing, run = _locked(user, job)
    placed = doing.step(sent.position, sent.key)
    if placed is None:
        raise UnknownStepError
    if rung(placed) in doing.done:
        raise StepDoneError(doing.done[rung(placed)])
    before = skipped(doing.parts, doing.done.keys(), placed)
    if before and not sent.out_of_order:
        raise OutOfOrderError(before)
    if second is not None and (second.pk == user.pk or not may(second, Deed.SIGN_HOLD)):
        raise HoldError("second")
    source = _look_up_torque(user, doing, placed, sent)
    run = run or _begun(user, doing)
    passing = _passing_word(user, sent, second)
    row = RunStep(
        run=run,
        position=placed.position,
        key=placed.key,
        said=dict(placed.figures),
        reason=sent.reason.strip(),
        source=source,
        out_of_order=bool(before),
        second=second,
        done_by=user,
    )
    outcome, back = _carried_out(user, doing, placed, sent, row, passing=passing)
    row.outcome = outcome.value
    row.save()
    if placed.step.code in ON_THE_ROAD and row.finding:
        keep_felt(user, doing.job, row.finding)
    if ago:
        _pressed(user, row, ago)
    if placed.step.changes and row.passed and placed.position in doing.sides:
        side = doing.sides[placed.position]
        next_episode(user, side.corner, side.remedy)
    opened: tuple[Rung, ...] = ()
    if back:
        read = placed.step.expects == "after_pass"
        opened = _open_again(user, doing, placed, back, why=row.finding or row.outcome, read=read)
    if doing.job.kept.still_stopped and row.passed:  # it may be renewed by this
        refresh(user, open_job_row(user, job.pk))
    # A part that took longer or shorter than planned, a reading, a way back: the rest is planned anew.
    part = next(part for part in doing.parts if placed in part.steps)
    part_done = row.passed and {rung(step) for step in part.steps} <= {*doing.done, rung(placed)}
    _changed(user, run, replan=part_done or bool(opened) or placed.step.expects == "after_pass")
    return Stepped(row, outcome, opened)


def _pressed(user: User, row: RunStep, ago: timedelta) -> None:
    """Put a step to when it was pressed, never before the one that was done last."""
    before = RunStep.of(user).filter(run=row.run_id, pk__lt=row.pk).aggregate(at=Max("done_at"))["at"]
    at = row.done_at - ago
    row.done_at = at if before is None else max(at, min(before, row.done_at))
    RunStep.of(user).filter(pk=row.pk).update(done_at=row.done_at)


@transaction.atomic
def do_part(user: User, job: Job, position: str, key: str) -> int:
    """Do the step ``key`` and all after it in its part that only want to be done. Return how many.

    For who knows the work: a trainee goes step by step. Raises as ``do_step`` does.
    """
    require(user, Deed.DO)
    doing, _run = _locked(user, job)
    placed = doing.step(position, key)
    if placed is None:
        raise UnknownStepError
    steps = plain_ahead(doing.parts, doing.done.keys(), placed)
    for step in steps:
        do_step(user, job, Sent(step.position, step.key))
    return len(steps)


def next_episode(user: User, corner: Corner, work: str = "") -> None:
    """Begin the corner's next episode by a work: what is read from now on never joins what was read before.

    Where nothing was read since the last work there is nothing to keep apart: the two are one, but for a new disc.
    """
    tapes = (tape for rows in (corner.sweeps, corner.rounds) for tape in rows.filter(episode=corner.episode))
    quick = corner.quick_readings.filter(episode=corner.episode, withdrawn=False)
    read = any(not tape.is_empty for tape in tapes) or quick.exists()
    begun = corner.works[: corner.episode]
    if corner.episode == 0 or read or corner.decided_in == corner.episode:
        corner.episode += 1
    elif work == OF_THE_JOINT:
        return
    before = [*begun, *[""] * (corner.episode - 1 - len(begun))]
    corner.works = [*before[: corner.episode - 1], work]
    Corner.of(user).filter(pk=corner.pk).update(episode=corner.episode, after={}, works=corner.works)


def _passing_word(user: User, sent: Sent, second: User | None) -> bool:
    """Whether a hold may be passed without its reading: a second person, or a reason of somebody trained."""
    return second is not None or (bool(sent.reason.strip()) and may_sign(user))


def _carried_out(
    user: User, doing: Doing, placed: PlacedStep, sent: Sent, row: RunStep, *, passing: bool
) -> tuple[Outcome, str]:
    """Do what the step asks and note it on ``row``; return what came of it and the step it leads back to."""
    step, side = placed.step, doing.sides.get(placed.position)
    if step.each_pass and set(placed.asks) & set(step.figures):
        # No plan, no feed: it is refused before the tip touches, not after.
        raise CutRefusedError((side is not None and side.plan is not None and side.plan.refused) or "thickness_unknown")
    if step.findings:
        finding = next((one for one in step.findings if one.code == sent.finding), None)
        if finding is None:
            raise HoldError("finding")
        row.finding, row.passed = finding.code, not finding.back
        if step.code == "scratch" and side is not None and side.lathe is not None:
            keep_scratch(user, side.corner, side.lathe, scratch=finding.code)
        return Outcome.UNHELD, finding.back
    if step.expects:
        return _read(user, doing, placed, sent, row, passing=passing)
    if step.kind is Kind.HOLD and not passing:
        raise HoldError("passing" if may_sign(user) else "second")
    if step.fits == "plate" and side is not None:
        _fit(user, doing.job, side)
    return Outcome.UNHELD, ""


def _fit(user: User, job: Job, side: Side) -> None:
    """Take the plate from the stock, unless this job's is on record there already."""
    here = FittedPlate.of(user).filter(vehicle=job.vehicle, position=side.position, job=job, taken_out=False)
    if not here.exists():
        fit_plate(user, job, side.position)


def _read(
    user: User, doing: Doing, placed: PlacedStep, sent: Sent, row: RunStep, *, passing: bool
) -> tuple[Outcome, str]:
    step, side = placed.step, doing.sides.get(placed.position)
    row.typed = sent.typed.strip()
    if not row.typed:
        if step.expects == "after_pass" or not passing:
            raise UnreadableNumberError("empty", "")
        return Outcome.UNHELD, ""  # passed by a word, without its reading
    if step.expects == "after_pass" and side is not None and side.lathe is not None:
        return _pass_read(user, doing, placed, side, row)
    if step.expects == "compensated" and side is not None and side.lathe is not None:
        held = _compensated(user, placed, side, sent, row)
    else:
        row.reading_mm = (
            read_figure(step.expects, row.typed, user.unit)
            if step.expects in RENEWED
            else parse_length(row.typed, unit=user.unit, most_mm=_MOST_READ_MM, signed=False).mm
        )
        limit = side.corner.limits.max_runout_mm if side is not None and side.corner.limits is not None else None
        held = hold_reading(placed, row.reading_mm, limit_mm=limit)
    # What the machine runs out is cut into the disc, and a lining under its least brakes nothing: no word helps.
    by_word = passing and step.expects != "compensated" and step.expects not in RENEWED
    row.passed = held.passes or by_word
    if row.passed:
        note_renewed(user, doing, placed, row.typed)
    return held.outcome, ""


def _pass_read(user: User, doing: Doing, placed: PlacedStep, side: Side, row: RunStep) -> tuple[Outcome, str]:
    """Keep the pass with its reading and look whether the plan made anew from it still fits."""
    unit = user.unit if user.unit is Unit.MM else Unit.INCH
    reading = parse_length(row.typed, unit=unit, most_mm=MOST_MM, signed=False).mm
    outcome = hold_reading(placed, reading).outcome
    number, more = placed.pass_number or 0, side.one_more
    made = record_pass(
        user,
        doing.job,
        side.corner,
        side.lathe,
        number=number,
        typed=row.typed,
        unit=user.unit,
        one_more=more,
        renewed=side.renewed,
    )
    row.reading_mm = made.reading_mm
    fresh = doing_of(user, Job.of(user).for_doing().get(pk=doing.job.pk))
    plan = fresh.sides[side.position].plan if fresh is not None else None
    touch_again = plan is not None and plan.disagrees and bool(plan.passes) and not plan.refused
    return outcome, placed.step.back if touch_again else ""


def _compensated(user: User, placed: PlacedStep, side: Side, sent: Sent, row: RunStep) -> Held:
    cut = keep_compensation(user, side.corner, side.lathe, read=row.typed, arm=sent.arm, unit=user.unit)
    carried = carried_by(cut, side.chosen) if side.chosen is not None else None
    row.reading_mm = carried if carried is not None else cut.check_read_mm
    return hold_reading(placed, row.reading_mm or 0.0)


def _look_up_torque(user: User, doing: Doing, placed: PlacedStep, sent: Sent) -> str:
    """Put a torque that nobody has said into force with the limits of its axle; return its source."""
    name = placed.step.torque
    told = next((one for one in placed.step.findings if one.code == sent.finding), None)
    if not name or f"torque {name}" not in placed.asks or (told is not None and not told.torqued):
        return ""
    side = doing.sides.get(placed.position) or next(iter(doing.sides.values()))
    if side.corner.limits is None:
        return ""
    if not may(user, Deed.SET_LIMITS) or not sent.torque_nm:
        raise TorqueWantedError("torque")
    if not sent.source.strip():
        raise TorqueWantedError("source")
    old = side.corner.limits
    figures = old.figures() | {TORQUES[name]: sent.torque_nm}
    fresh = AxleLimits.of(user).create(vehicle=old.vehicle, axle=old.axle, entered_by=user, **figures)
    for corner in doing.job.corners.all():
        if corner.limits_id == old.pk:
            corner.limits = fresh
            corner.save(update_fields=["limits"])
    return sent.source.strip()[:120]


@transaction.atomic
def follow_advice(user: User, job: Job, position: str, code: str) -> None:
    """Note that an advice was followed at a corner that was not proven; what is read from now on is read after it."""
    require(user, Deed.DO)
    doing, run = _done(user, job)
    side = doing.sides.get(position)
    if run is None or side is None or code not in ADVICE:
        raise UnknownStepError
    followed = next((row for row in doing.rows if _is_advice(row, position, code)), None)
    if followed is not None:
        raise StepDoneError(followed)  # by another hand, or pressed twice: nothing is told twice
    key = f"{PROVE}{side.corner.episode}:{code}"
    RunStep(run=run, position=position, key=key, done_by=user).save()
    next_episode(user, side.corner, side.remedy if code in CHANGES_THE_DISC else OF_THE_JOINT)
    _changed(user, run, replan=False)


def _is_advice(row: RunStep, position: str, code: str) -> bool:
    return (
        row.position == position and not row.taken_back and row.key.startswith(PROVE) and row.key.endswith(f":{code}")
    )


@transaction.atomic
def sign_off(user: User, job: Job) -> None:
    """Sign the work off as a second person: somebody trained who cut none of it."""
    require(user, Deed.SIGN_HOLD)
    doing, run = _done(user, job)
    if run is None or user.pk in doing.cut_by:
        raise HoldError("second")
    run.signed_by, run.signed_at = user, timezone.now()
    _changed(user, run, replan=False)


@transaction.atomic
def take_back(user: User, job: Job, position: str, key: str, *, why: str) -> None:
    """Take a step back that was not done after all; its row stays. A pass that was read is struck out with it."""
    require_work(user)
    doing, run = _locked(user, job, stands=True)
    row = doing.done.get((position, key))
    if row is None or run is None:
        raise UnknownStepError
    placed, side = doing.step(position, key), doing.sides.get(position)
    if placed is not None and placed.step.expects == "after_pass" and side is not None and side.lathe is not None:
        later = [k for p, k in doing.done if p == position and k.startswith(key.rsplit(":", 1)[0])]
        if max(later, key=lambda k: int(k.rsplit(":", 1)[1])) != key:
            raise UnknownStepError  # the passes after it were planned from its reading
        strike_pass(user, side.corner, side.lathe)
    _mark_back(user, [row], why)
    if placed is not None:
        note_renewed(user, doing, placed, "")
    if placed is not None and placed.step.code in ON_THE_ROAD:
        keep_felt(user, doing.job, "")
    else:
        refresh(user, open_job_row(user, job.pk))  # a bearing or a disc may not be renewed after all
    _changed(user, run, replan=True)


@transaction.atomic
def break_off(user: User, job: Job, position: str, key: str) -> tuple[Rung, ...]:
    """Note that a pass was broken off: the steps from its zero or compensation on are to be done again."""
    require_work(user)
    doing, run = _locked(user, job)
    placed = doing.step(position, key)
    if placed is None or not placed.step.broken or run is None:
        raise UnknownStepError
    opened = _open_again(user, doing, placed, placed.step.broken, why="broken off")
    _changed(user, run, replan=True)
    return opened


@transaction.atomic
def go_on(user: User, job: Job) -> int:
    """Go on by what is decided now: steps carry over as far as the new work has them. Return how many do not."""
    require(user, Deed.DO)
    doing, run = _locked(user, job, stands=True)
    if run is None:
        raise UnknownStepError
    plan = plan_of(doing.sides)
    undone = _to_be_done_again(doing, run, plan)
    same = [at for at, now in plan.items() if run.plan.get(at, {}).get("remedy") == now["remedy"]]
    gone = (*undone, *falls_away(doing.parts, [one for one in doing.done if one not in undone], same=same))
    told = [row for row in doing.rows if row.key.startswith(PROVE) and not row.taken_back]
    _mark_back(user, [*(doing.done[one] for one in gone), *told], RunStep.DECIDED_ANEW)
    run.plan = plan
    _changed(user, run, replan=True)
    return len(gone)


def _to_be_done_again(doing: Doing, run: Run, plan: dict[str, Any]) -> list[Rung]:
    """Return what was done and is to be done again by the work decided now: what changed the corner, differently.

    By another setting, or once more after it was read and did not hold. A pass that was made stays made within a work.
    """
    again = {position for position, now in plan.items() if is_once_more(run.plan.get(position, {}), now)}
    changing = [placed for placed in steps_of(doing.parts) if placed.step.changes and rung(placed) in doing.done]
    return [
        rung(placed)
        for placed in changing
        if placed.position in again or _says_otherwise(placed, doing.done[rung(placed)].said)
    ]


def _says_otherwise(placed: PlacedStep, said: Mapping[str, Any]) -> bool:
    """Whether a step that was done says other figures now than it said then."""
    if placed.pass_number is not None:
        return False
    return any(name in said and said[name] != placed.figures.get(name) for name in placed.step.figures)


@transaction.atomic
def set_people(user: User, job: Job, people: int) -> None:
    """Say how many work on it; the order is planned anew."""
    require_work(user)
    doing, run = _locked(user, job)
    run = run or _begun(user, doing)
    run.people = min(max(people, 1), MOST_PEOPLE)
    _changed(user, run, replan=True)


def _locked(user: User, job: Job, *, stands: bool = False) -> tuple[Doing, Run | None]:
    """Lock the job and its run and return the work as it stands; ``stands``: also where it was changed meanwhile."""
    open_job_row(user, job.pk)
    run = Run.of(user).select_for_update().filter(job_id=job.pk).first()
    doing = doing_of(user, Job.of(user).for_doing().get(pk=job.pk), run=run)
    if doing is None:
        raise NothingDecidedError
    if doing.changes and not stands:
        raise WorkChangedError
    return doing, run


def _done(user: User, job: Job) -> tuple[Doing, Run | None]:
    """Lock a work that was carried out, to judge it: limits that changed since change nothing of what was done."""
    doing, run = _locked(user, job, stands=True)
    if doing.decided_anew:
        raise WorkChangedError
    return doing, run


def _begun(user: User, doing: Doing) -> Run:
    run = Run(job=doing.job, plan=plan_of(doing.sides), started_by=user)
    order = order_work(doing.tasks(), people=1, seconds=_SOLVING_S)
    run.order = _part_keys(order)
    run.finish_at = timezone.now() + timedelta(minutes=order.finish)
    run.save()
    return run


def _part_keys(order: Order) -> list[str]:
    """Return the keys of the parts, by their start."""
    return [slot.task.key.partition("|")[2] for slot in order.slots]


def _changed(user: User, run: Run, *, replan: bool) -> None:
    run.seen += 1
    if replan:
        doing = doing_of(user, Job.of(user).for_doing().get(pk=run.job_id), run=run)
        if doing is not None:
            run.order = _part_keys(order_work(doing.tasks(), people=run.people, seconds=_SOLVING_S))
    run.save()


def _open_again(
    user: User, doing: Doing, at: PlacedStep, back: str, *, why: str, read: bool = False
) -> tuple[Rung, ...]:
    again = opened_again(doing.parts, at, back, read=read)
    rows = [doing.done[one] for one in again if one in doing.done]
    _mark_back(user, rows, why)
    return tuple((row.position, row.key) for row in rows)


def _mark_back(user: User, rows: list[RunStep], why: str) -> None:
    for row in rows:
        row.taken_back, row.taken_by, row.taken_at, row.taken_why = True, user, timezone.now(), why.strip()[:300]
        row.save()
