"""The judgement of a vehicle over all its corners: pages and files only word it."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from compass.cause.beside_discs import BesideDisc, to_put_right
from compass.cause.causes import Cause
from compass.cause.differential import Differential, NextCheck, weigh
from compass.cause.verdict import CornerVerdict
from compass.choose.worth import all_checks
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.shop import Shop
from compass.judge.next_step import NextStep, Standing, best_of, next_step
from compass.judge.root_cause import CERTAIN, also_there, is_troubled, root_cause

_NOT_OF_THE_DISC: Final = ("bearing_play", "inspect_pads_and_slides")  # what a work on a disc leaves to be looked at


@dataclass(frozen=True, slots=True)
class Judgement:
    """What all corners of a vehicle say together.

    ``root_causes`` are codes by measured position and never contradict ``weighed``, ``also`` what stands there beside
    them; ``troubled`` are the corners whose disc, joint or hub is to be put right, the most suspect first;
    ``stopped`` those that forbade driving as they came in; ``beside_discs`` what is to be put right beside them, before
    any of it.
    """

    weighed: Differential
    root_causes: Mapping[str, str]
    also: Mapping[str, tuple[str, ...]]
    next: NextStep
    troubled: tuple[str, ...]
    stopped: tuple[str, ...]
    beside_discs: tuple[BesideDisc, ...] = ()

    def check_at(self, position: str) -> NextCheck | None:
        """Return the check at a corner that is worth most, while one is worth its minutes."""
        return next((c for c in self.weighed.checks if c.position == position and c.worth > 0), None)


def judge_vehicle(
    positions: Sequence[str],
    corners: Sequence[CornerVerdict],
    *,
    complaint: Complaint,
    vehicle: VehicleFacts,
    shop: Shop,
    mended: Collection[str] = (),
    worked: Collection[str] = (),
) -> Judgement:
    """Judge a vehicle with wheels at ``positions`` from its diagnosed corners: pages and files only word this.

    Where it is still felt after the work, the causes of what is left are weighed: ``mended`` corners keep the root
    cause that they came in with, and are looked at no more but for what no work on a disc mends. ``worked`` corners are
    no longer as they came in: nothing more is read there for it.
    """
    told = _Told(tuple(positions), complaint, vehicle, shop, frozenset(worked))
    left = [c for c in corners if c.position not in mended]
    if len(left) == len(corners):
        return _judge(told, corners)
    before = _judge(replace(told, complaint=replace(complaint, after_work=None)), corners)
    now = _judge(told, left, [c for c in corners if c.position in mended])
    return replace(
        now,
        root_causes={c.position: {**before.root_causes, **now.root_causes}[c.position] for c in corners},
        also={**{p: also for p, also in before.also.items() if p in mended}, **now.also},
        troubled=(*now.troubled, *(p for p in before.troubled if p in mended)),
    )


@dataclass(frozen=True, slots=True)
class _Told:
    """What a vehicle is judged by beside its corners."""

    positions: tuple[str, ...]
    complaint: Complaint
    vehicle: VehicleFacts
    shop: Shop
    worked: frozenset[str]

    def is_past(self, check: NextCheck) -> bool:
        """Whether a check would add to what was read of a disc before it was worked on."""
        return check.position in self.worked and check.check not in _NOT_OF_THE_DISC


def _judge(told: _Told, corners: Sequence[CornerVerdict], mended: Sequence[CornerVerdict] = ()) -> Judgement:
    shop = told.shop
    certain = {c.position: Cause(c.root_cause) for c in corners if c.root_cause in CERTAIN}
    weighed = weigh(
        told.positions,
        corners,
        complaint=told.complaint,
        vehicle=told.vehicle,
        base_rates=shop.base_rates,
        certain=certain,
        mended=mended,
        shop=shop,
    )
    named = {c.position: root_cause(c, weighed) for c in corners}
    suspects = sorted(corners, key=lambda c: -weighed.corners.get(c.position, 0.0))
    checks = all_checks(suspects, weighed, shop, told.vehicle.kind)
    checks = tuple(check for check in checks if not told.is_past(check))
    troubled = tuple(c.position for c in suspects if is_troubled(c, named[c.position], weighed))
    leads = best_of(checks) is None and not troubled
    beside = to_put_right((*corners, *mended), weighed, told.complaint, leads=leads)
    step = next_step(Standing(told.complaint, suspects, mended, weighed, checks, troubled, beside))
    if step.is_drive:  # what is felt then tells more than what a recording shows
        checks = tuple(check for check in checks if check.check != "road_test")
    return Judgement(
        weighed=replace(weighed, checks=checks),
        root_causes=named,
        also={p: also for p, cause in named.items() if (also := also_there(p, cause, weighed))},
        next=step,
        troubled=troubled,
        stopped=tuple(c.position for c in corners if c.do_not_drive),
        beside_discs=beside,
    )
