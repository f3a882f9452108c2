"""The decided work of a job as it stands: its parts with their figures, what is done, what was changed. Reads only."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from django.db.models import prefetch_related_objects

from compass.cause.measured import Measured
from compass.choose.axle import Chosen
from compass.do.cut_plan import CutPlan
from compass.do.ladder import Rung, ahead_of, in_turn, next_step, rung, steps_of
from compass.do.order import Order, Task, plain_order
from compass.do.steps import RENEWED_AT, Work
from compass.do.tasks import tasks_of
from compass.do.work import CornerWork, Figure, Part, PlacedStep, figures_of_corner, vehicle_work
from compass.evidence.shop import Shop
from compass.ground.positions import axle_of
from jobs.adapters import done_passes
from jobs.choose.axle import AxleChoice, decisions_of, weigh_axle
from jobs.do.cut import chosen_lathe, cuts_of_work, plan_for
from jobs.judging import judge, judge_job
from jobs.models import Corner, Cut, Decision, Job, Run, RunStep
from workshop.adapters import lathe_of, part_minutes_here
from workshop.models import TORQUES, Lathe, User

LATHES: Final = {"bench_cut": "bench", "on_vehicle_cut": "on_vehicle"}
_OF_THE_WORK: Final = ("remedy", "setting", "once_more")  # changes of what is to be done; others are of its limits
_AFTER_DARK_PATCH: Final = "patch"
_SET_BY_HAND: Final = ("index_deg", "plate_mm", "plate_deg")
PROVE: Final = "prove:"  # keys of what was done because a corner was not proven


@dataclass(frozen=True)
class Side:
    """One corner with decided work: what the core knows of it, its lathe and cut plan where it is cut."""

    corner: Corner
    decision: Decision
    remedy: str
    chosen: Chosen | None
    shop: Shop | None
    lathe: Lathe | None
    cut: Cut | None
    plan: CutPlan | None
    one_more: bool = False  # a dark patch was left after what was planned
    renewed: Measured | None = None  # what was read of a new rotor that is to be cut

    @property
    def position(self) -> str:
        """Where it is."""
        return self.corner.position


@dataclass(frozen=True)
class Change:
    """What is another than when the work was begun: remedy, setting or a limit of a corner, before and now."""

    position: str
    what: str
    before: Any
    now: Any


@dataclass(frozen=True)
class Doing:
    """A job's decided work. ``done`` are the steps that hold, ``tries`` the readings that did not pass."""

    job: Job
    sides: dict[str, Side]
    corners: tuple[CornerWork, ...]
    parts: tuple[Part, ...]
    run: Run | None
    rows: tuple[RunStep, ...]
    changes: tuple[Change, ...]
    choices: Mapping[str, AxleChoice]  # what was decided of each axle rests on these
    user: User  # who reads

    @property
    def done(self) -> dict[Rung, RunStep]:
        """The steps that hold, by their place and key."""
        held = (row for row in self.rows if row.passed and not row.taken_back and not row.key.startswith(PROVE))
        return {(row.position, row.key): row for row in held}

    @property
    def decided_anew(self) -> frozenset[str]:
        """Where other work was decided than what was begun, and nobody has gone on by it yet."""
        return frozenset(change.position for change in self.changes if change.what in _OF_THE_WORK)

    @property
    def cut_by(self) -> frozenset[int]:
        """Who cut any of it: they sign no metal off."""
        return frozenset(row.done_by_id for row in self.rows if ":read_pass" in row.key or ":bench_read" in row.key)

    def told(self, position: str) -> list[str]:
        """Return the advices that were followed at a corner since it was decided, by their codes."""
        rows = (row for row in self.rows if row.position == position and row.key.startswith(PROVE))
        return [row.key.split(":")[2] for row in rows if not row.taken_back]

    @property
    def order(self) -> list[str]:
        """The keys of the parts as planned last."""
        return self.run.order if self.run is not None else []

    @property
    def current(self) -> PlacedStep | None:
        """The step that comes next; None where all is done."""
        return next_step(self.parts, self.done, self.order)

    @property
    def ahead(self) -> tuple[PlacedStep, ...]:
        """The step that comes next and those after it, up to and with the first that asks for anything."""
        return ahead_of(self.parts, self.done, self.order)

    def step(self, position: str, key: str) -> PlacedStep | None:
        """Return a step by its place and key."""
        return next((placed for placed in steps_of(self.parts) if rung(placed) == (position, key)), None)

    def tries(self, placed: PlacedStep) -> list[RunStep]:
        """Return what was read at a step and did not pass, since it was begun last."""
        rows = [row for row in self.rows if (row.position, row.key) == rung(placed) and not row.taken_back]
        return [row for row in rows if not row.passed]

    def tasks(self) -> list[Task]:
        """Return what is left as tasks, in plain order."""
        lathes = {side.lathe.kind: side.lathe.name for side in self.sides.values() if side.lathe is not None}
        name = str(self.job.pk)
        done, here = self.done.keys(), part_minutes_here(self.user)
        return tasks_of(name, self.parts, self.corners, done=done, lathes=lathes, minutes_here=here)

    def timetable(self) -> Order:
        """Lay what is left out in time, in the order planned last."""
        place = {f"{self.job.pk}|{part.key}": k for k, part in enumerate(in_turn(self.parts, self.order))}
        tasks = sorted(self.tasks(), key=lambda task: place[task.key])
        return plain_order(tasks, people=self.run.people if self.run is not None else 1)


def decided_corners(job: Job) -> list[tuple[Corner, Decision, str]]:
    """Return the corners for which work was decided, with the decision and the remedy."""
    decisions = decisions_of(job)
    return [
        (corner, decision, code)
        for corner in job.corners.all()
        if (decision := decisions.get(corner.axle)) is not None
        and (code := decision.remedies.get(corner.position)) not in (None, "none")
    ]


def doing_of(user: User, job: Job, *, run: Run | None = None) -> Doing | None:
    """Return the work decided on a job, None where none is.

    ``job`` comes from ``for_doing``; ``run`` is its row where it is locked already.
    """
    decided = decided_corners(job)
    if not decided:
        return None
    run = run or getattr(job, "run", None)
    rows = tuple(RunStep.of(user).filter(run=run).select_related("done_by", "second")) if run is not None else ()
    cut = [corner for corner, _d, code in decided if "cut" in code]
    prefetch_related_objects(cut, "cuts__passes")
    lathes = list(Lathe.of(user).filter(retired=False)) if cut else []
    axles = {corner.axle for corner, _d, _code in decided if corner.limits_id}
    judged = judge_job(user, job, steps=rows)
    weighed = {axle: weigh_axle(user, job, axle, as_decided=True, judged=judged) for axle in axles}
    sides, corners = {}, []
    for corner, decision, code in decided:
        choice = weighed.get(corner.axle)
        chosen = choice.corner(corner.position) if choice is not None else None
        shop = choice.shop if choice is not None else None
        side = _side(corner, decision, code, chosen, shop, lathes, rows)
        sides[corner.position] = side
        work = work_of(job, corner, code, decided, leaves_lathe=shop is not None and shop.leaves_lathe, rows=rows)
        corners.append(_corner_work(side, work))
    return Doing(
        job=job,
        sides=sides,
        corners=tuple(corners),
        parts=vehicle_work(corners),
        run=run,
        rows=rows,
        changes=_changes(run, sides) if run is not None else (),
        choices={axle: choice for axle, choice in weighed.items() if choice is not None},
        user=user,
    )


def plan_of(sides: Mapping[str, Side]) -> dict[str, Any]:
    """Return what a run goes by, as data: remedy, setting and limits of each corner."""
    return {
        position: {
            "remedy": side.remedy,
            "setting": {name: value for name, value in side.decision.settings.get(position, {}).items() if value},
            "limits": _limits(side.corner),
            "decided_in": side.corner.decided_in,
            "decided_by": str(side.decision.decided_by),
        }
        for position, side in sides.items()
    }


def is_once_more(before: Mapping[str, Any], now: Mapping[str, Any]) -> bool:
    """Whether a corner's work was decided anew after the one a run goes by was read; runs of old do not say."""
    return before.get("decided_in") is not None and before["decided_in"] != now.get("decided_in", before["decided_in"])


def _limits(corner: Corner) -> dict[str, Any]:
    """Return the limits that the work goes by; torques are looked up at their steps."""
    if corner.limits is None:
        return {}
    return {name: value for name, value in corner.limits.figures().items() if name not in TORQUES.values()}


def _by_hand(told: Mapping[str, Any]) -> dict[str, Any]:
    """Return what is set by hand in a corner's plan: where rotor and plate stand. How deep a cut goes its plan says."""
    return {name: value for name, value in told.get("setting", {}).items() if name in _SET_BY_HAND}


def _changes(run: Run, sides: Mapping[str, Side]) -> tuple[Change, ...]:
    now, changes = plan_of(sides), []
    for position in dict.fromkeys([*run.plan, *now]):
        old, new = run.plan.get(position, {}), now.get(position, {})
        if old.get("remedy") != new.get("remedy"):
            changes.append(Change(position, "remedy", old.get("remedy"), new.get("remedy")))
        if _by_hand(old) != _by_hand(new):
            changes.append(Change(position, "setting", old.get("setting"), new.get("setting")))
        if is_once_more(old, new) and not any(change.position == position for change in changes):
            changes.append(Change(position, "once_more", None, None))
        before, after = old.get("limits", {}), new.get("limits", {})
        if old and new:
            changes += [
                Change(position, name, before.get(name), after.get(name))
                for name in dict.fromkeys([*before, *after])
                if before.get(name) != after.get(name)
            ]
    return tuple(changes)


def _side(
    corner: Corner,
    decision: Decision,
    code: str,
    chosen: Chosen | None,
    shop: Shop | None,
    lathes: list[Lathe],
    rows: tuple[RunStep, ...],
) -> Side:
    kind = next((LATHES[work] for work in code.split("+") if work in LATHES), None)
    lathe = chosen_lathe([one for one in lathes if one.kind == kind], corner) if kind is not None else None
    cut = next((one for one in cuts_of_work(corner) if one.lathe_id == lathe.pk), None) if lathe is not None else None
    plan, one_more = None, _dark_patch_left(corner, cut, rows)
    is_new = code.startswith("new_rotors")
    renewed = _renewed(corner) if is_new and kind is not None else None
    measured = renewed if is_new else chosen.measured if chosen is not None else None
    if measured is not None and lathe is not None and shop is not None:
        plan = plan_for(measured, lathe_of(lathe), shop, cut, one_more=one_more)
    return Side(corner, decision, code, chosen, shop, lathe, cut, plan, one_more, renewed)


def _renewed(corner: Corner) -> Measured | None:
    """Return what was read of a new rotor before it was cut: the first it was miked in this work; None until it is."""
    for episode in range((corner.decided_in or 0) + 1, corner.episode + 1):
        judged = judge(corner, episode=episode)
        measured = judged.verdict.measured if judged.verdict is not None else None
        if measured is not None and measured.thickness.result is not None:
            return measured
    return None


def _dark_patch_left(corner: Corner, cut: Cut | None, rows: tuple[RunStep, ...]) -> bool:
    """Whether a dark patch was seen after the last pass that counts."""
    seen = [row for row in rows if row.position == corner.position and row.finding == _AFTER_DARK_PATCH]
    seen = [row for row in seen if row.key.endswith(":dark_patch")]
    made = [one.created_at for one in cut.passes.all() if not one.withdrawn] if cut is not None else []
    return bool(seen and made) and seen[-1].done_at > max(made)


def work_of(
    job: Job,
    corner: Corner,
    code: str,
    decided: Sequence[tuple[Corner, Decision, str]],
    *,
    leaves_lathe: bool,
    rows: Sequence[RunStep] = (),
) -> Work:
    """Return what decides which steps belong to a corner's work."""
    limits = corner.limits
    discs = [other for other in job.corners.all() if other.axle == corner.axle]
    worked = [other for other, _d, _code in decided if other.axle == corner.axle]
    one_wheel = job.vehicle.is_motorcycle and len(discs) > 1
    return Work(
        remedy=code,
        vehicle=job.vehicle.kind,
        axle=corner.axle,
        single=len(discs) == 1,
        first=corner.pk == worked[0].pk,
        features=frozenset(limits.features) if limits is not None else frozenset(),
        locating_screw=limits is not None and bool(limits.index_positions),
        twin=job.vehicle.has_twin_wheels(corner.axle),
        shares_wheel=one_wheel and len(worked) > 1,
        beside_a_disc=one_wheel and len(worked) == 1,
        leaves_lathe=leaves_lathe,
        worn=frozenset(worn.code for disc in discs if disc.kept is not None for worn in disc.kept.linings)
        | _new_linings(corner.axle, rows),
    )


def _new_linings(axle: str, rows: Iterable[RunStep]) -> frozenset[str]:
    """Return which linings of an axle were renewed at a step that holds: what is done stays a step of the work."""
    held = (row for row in rows if row.passed and not row.taken_back and row.position)
    codes = {row.key.rpartition(":")[2] for row in held if axle_of(row.position) == axle}
    return frozenset(worn for code, worn in RENEWED_AT.items() if code in codes)


def _corner_work(side: Side, work: Work) -> CornerWork:
    limits, position = side.corner.limits, side.position
    predicted = side.decision.predicted.get(position, {})
    figures: dict[str, Figure] = {}
    if side.chosen is not None and limits is not None:
        measured, foretold = side.chosen.measured, predicted.get("runout_after_mm")
        tir = measured.runout.tir
        figures = figures_of_corner(
            measured.corner.spec,
            settings=side.decision.settings.get(position, {}),
            runout_before_mm=(tir.value_mm, tir.expanded_mm) if tir is not None else None,
            runout_after_mm=tuple(foretold) if foretold else None,
            lathe=lathe_of(side.lathe) if side.lathe is not None else None,
            torques_nm=limits.torques_nm(),
        )
    made = range(1, len(done_passes(side.cut)) + 1)
    ahead = side.plan.passes if side.plan is not None and not side.plan.refused else ()
    return CornerWork(position, work, figures, (*made, *ahead), predicted.get("minutes"))
