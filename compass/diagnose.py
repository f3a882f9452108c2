"""From one case's evidence to its verdict: the front door of the core, and the one place that says what to do next.

A corner is diagnosed from its own evidence; the vehicle is judged over all of them: weighed causes, each corner's root
cause, the next step; remedies are chosen axle by axle, since both sides go together.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from compass.cause.causes import OF_THE_VEHICLE, Cause
from compass.cause.checks import REPAIRS
from compass.cause.corner import diagnose_corner, measure_corner
from compass.cause.differential import Differential, weigh
from compass.cause.measured import Measured, Reason
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Chosen, kind_of_metal
from compass.choose.vehicle import ChoosesAxle, choose
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Case
from compass.ground.limits import State

_SUSPECT: Final = 0.2  # of the odds: a corner worth putting its readings right before another is opened
_MOST: Final = 0.5  # of a corner's odds: a cause that has more is its root cause
# What is seen or measured outright: at its corner no weighing speaks against it.
_CERTAIN: Final = frozenset({Cause.BROKEN, Cause.WORN, Cause.BEARING})


@dataclass(frozen=True, slots=True)
class NextStep:
    """The one thing to do next: a check, at which corner (None: the vehicle's), how far to turn the rotor, and why.

    ``why`` is a code of ``compass.words.codes.WHY``. No check is left to make where ``check`` is None.
    """

    check: str | None
    position: str | None
    why: str
    index_deg: float | None = None


@dataclass(frozen=True, slots=True)
class Judgement:
    """What all corners of a vehicle say together.

    ``root_causes`` are codes by measured position and never contradict ``weighed``; ``troubled`` are the corners where
    something is to be put right, the most suspect first.
    """

    weighed: Differential
    root_causes: Mapping[str, str]
    next: NextStep
    troubled: tuple[str, ...]
    stopped: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to a case."""

    case_id: str | None
    judged: Judgement
    corners: tuple[Chosen, ...]
    plans: tuple[AxlePlan, ...]
    advice: Reason | None


def diagnose(case: Case) -> Verdict:
    """Diagnose every corner of ``case``; pure, and the same for the same case every time."""
    return conclude(case, tuple(diagnose_corner(corner) for corner in case.corners))


def conclude(
    case: Case,
    corners: Sequence[CornerVerdict],
    *,
    judged: Judgement | None = None,
    choosing: ChoosesAxle | None = None,
) -> Verdict:
    """Conclude from corners that are diagnosed, and perhaps judged, already; ``choosing`` may remember its axles."""
    judged = judged or judge_vehicle(
        case.positions, corners, complaint=case.complaint, vehicle=case.vehicle, base_rates=case.shop.base_rates
    )
    chosen, plans = choose(corners, shop=case.shop, kind=case.vehicle.kind, choosing=choosing)
    return Verdict(
        case_id=case.case_id,
        judged=judged,
        corners=chosen,
        plans=plans,
        advice=_advice(judged, plans),
    )


def judge_vehicle(
    positions: Sequence[str],
    corners: Sequence[CornerVerdict],
    *,
    complaint: Complaint,
    vehicle: VehicleFacts,
    base_rates: Mapping[str, float],
) -> Judgement:
    """Judge a vehicle with wheels at ``positions`` from its diagnosed corners: pages and files only word this."""
    certain = {c.position: Cause(c.root_cause) for c in corners if c.root_cause in _CERTAIN}
    weighed = weigh(positions, corners, complaint=complaint, vehicle=vehicle, base_rates=base_rates, certain=certain)
    root_causes = {c.position: _root_cause(c, weighed) for c in corners}
    suspects = sorted(corners, key=lambda c: -weighed.corners.get(c.position, 0.0))
    return Judgement(
        weighed=weighed,
        root_causes=root_causes,
        next=_next_step(suspects, weighed),
        troubled=tuple(
            c.position
            for c in suspects
            if c.do_not_drive or (c.measured.anything and root_causes[c.position] != Cause.NONE)
        ),
        stopped=tuple(c.position for c in corners if c.do_not_drive),
    )


def _root_cause(corner: CornerVerdict, weighed: Differential) -> str:
    """Return the corner's root cause: what its chain names, where the weighing does not hold it less likely.

    The chain names the cause from this corner's figures alone. Where another cause has more of the corner's odds, that
    one is named if it has most of them, else none; and a corner in order on its own figures keeps that only while the
    vehicle's likeliest cause does not sit there.
    """
    own = weighed.at_corner(corner.position)
    likeliest, odds = own[0] if own else (Cause.NONE, 0.0)
    total = sum(p for _cause, p in own)
    if corner.root_cause == Cause.NONE:
        return likeliest.value if odds > _MOST else corner.root_cause
    if corner.root_cause in ("not_separable", likeliest.value):
        return corner.root_cause
    if dict(weighed.causes).get(Cause(corner.root_cause), 0.0) >= odds and Cause(corner.root_cause) in OF_THE_VEHICLE:
        return corner.root_cause  # play, a tyre, anti-lock: seen at this corner, but the vehicle's
    return likeliest.value if odds > _MOST * total else "not_separable"


def _next_step(suspects: Sequence[CornerVerdict], weighed: Differential) -> NextStep:
    """Name the check that helps the vehicle most: what spoils a suspect's reading, then the most told a minute."""
    for corner in suspects:
        suspected = weighed.corners.get(corner.position, 0.0) >= _SUSPECT
        if corner.next_check in REPAIRS and (suspected or corner.measured.runout.state is not State.WITHIN):
            return _at(corner)
    by_position = {corner.position: corner for corner in suspects}
    if weighed.checks and not weighed.settled:
        best = weighed.checks[0]
        own = by_position.get(best.position or "")
        if own is not None and own.next_check == best.check:
            return _at(own)
        return NextStep(best.check, best.position, "tells_most")
    for corner in suspects:
        if corner.next_check not in (None, "measure_other_corner"):
            return _at(corner)
    if weighed.holes:
        return NextStep("measure_other_corner", weighed.holes[0][0], "measure_other_corner")
    return NextStep(None, None, "nothing_left")


def _at(corner: CornerVerdict) -> NextStep:
    index_deg = corner.separating.index_deg if corner.separating is not None else None
    return NextStep(corner.next_check, corner.position, corner.next_check or "", index_deg)


def _advice(judged: Judgement, plans: Sequence[AxlePlan]) -> Reason | None:
    """Return what to do with the vehicle now, in one sentence's figures."""
    step, positions = judged.next, tuple(judged.root_causes)
    if judged.stopped:
        return Reason("do_not_drive", {"positions": judged.stopped})
    if step.check is not None and step.position is not None:
        return Reason("next_check", {"check": step.check, "position": step.position})
    if not positions:
        return None
    if all(code == Cause.NONE for code in judged.root_causes.values()):
        return Reason("measured_corners_within", {"positions": positions})
    for plan in plans:
        if any(kind_of_metal(code) or code in ("index", "plate") for code in plan.remedies.values()):
            return Reason("plan", {"positions": plan.positions, "remedies": tuple(plan.remedies.values())})
    cause, odds = judged.weighed.causes[0]
    return Reason("most_likely", {"cause": cause.value, "odds": odds})


__all__ = [
    "CornerVerdict",
    "Judgement",
    "Measured",
    "NextStep",
    "Reason",
    "Verdict",
    "conclude",
    "diagnose",
    "diagnose_corner",
    "judge_vehicle",
    "measure_corner",
]
