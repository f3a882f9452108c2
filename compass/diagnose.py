"""From one case's evidence to its verdict: the front door of the core, and the one place that says what to do next.

A corner is diagnosed from its own evidence; the vehicle is judged over all of them: weighed causes, each corner's root
cause, the next step; remedies are chosen axle by axle, since both sides go together.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from compass.cause.beside_discs import BesideDisc, to_put_right
from compass.cause.causes import BESIDE, OF_THE_VEHICLE, UNEVEN, Cause
from compass.cause.corner import diagnose_corner, measure_corner
from compass.cause.differential import Differential, NextCheck, weigh
from compass.cause.measured import Measured, Reason
from compass.cause.signs import put_right
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Chosen, kind_of_metal
from compass.choose.vehicle import ChoosesAxle, choose
from compass.choose.worth import all_checks
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Case
from compass.evidence.shop import Shop
from compass.ground.limits import State

_SUSPECTED: Final = 0.1  # odds of a fault at a corner: under them, and with nothing over, there is no trouble to see to
_MOST: Final = 0.5  # of a corner's odds: a cause that has more is its root cause
# What is seen or measured outright: at its corner no weighing speaks against it.
_CERTAIN: Final = frozenset({Cause.BROKEN, Cause.WORN, Cause.BEARING})
_LOOK: Final = "inspect_pads_and_slides"
CURED_BY_MEASURING: Final = frozenset({Cause.JOINT, Cause.NUTS})  # the joint is cleaned and torqued to be swept again


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

    ``root_causes`` are codes by measured position and never contradict ``weighed``, ``also`` what stands there beside
    them; ``troubled`` are the corners whose disc, joint or hub is to be put right, the most suspect first;
    ``beside_discs`` what is to be put right beside them, before any of it.
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
        case.positions,
        corners,
        complaint=case.complaint,
        vehicle=case.vehicle,
        shop=case.shop,
        mended=[c.position for c in corners if case.complaint.still_felt and is_mended(c, _as_it_stands(c))],
    )
    corners = [blamed(corner, judged) for corner in corners]
    chosen, plans = choose(corners, shop=case.shop, kind=case.vehicle.kind, choosing=choosing)
    chosen = tuple(measured_first(corner, judged) for corner in chosen)
    return Verdict(
        case_id=case.case_id,
        judged=judged,
        corners=chosen,
        plans=plans,
        advice=_advice(judged, plans, chosen),
    )


def blamed(corner: CornerVerdict, judged: Judgement) -> CornerVerdict:
    """Return a corner told whether its disc is to blame for what is felt, its variation being too close to call.

    Left as it is it would be felt again, whatever the doubt about the figure.
    """
    odds = sum(odds for cause, odds in judged.weighed.at_corner(corner.position) if cause in UNEVEN)
    if corner.measured.thickness.state_variation is not State.TOO_CLOSE or odds <= _MOST:
        return corner
    return replace(corner, to_blame=True, because=(*corner.because, Reason("felt_here", {"odds": odds})))


def is_mended(came_in: CornerVerdict, stands: Measured | None, *, bearing_renewed: bool = False) -> bool:
    """Whether a corner's fault is put right: measured within after its work, or cured by cleaning or torquing alone.

    What a disc reads says nothing of a bearing with play, unless that was renewed.
    """
    if came_in.measured.bearing_over and not bearing_renewed:
        return False
    if stands is None and came_in.root_cause not in CURED_BY_MEASURING:
        return False
    measured = stands or came_in.measured
    # A plate or a turn leaves the disc as thick as it was: it is not miked again.
    thickness = measured.thickness if measured.thickness.result is not None else came_in.measured.thickness
    known = measured.runout.tir is not None and thickness.result is not None
    return known and State.OVER not in (measured.runout.state, thickness.state_variation)


def _as_it_stands(came_in: CornerVerdict) -> Measured | None:
    """Return what was read after the last work on a corner, measured; None where none was read."""
    corner = came_in.measured.corner
    return measure_corner(corner.as_after(len(corner.after))) if corner.after else None


def measured_first(chosen: Chosen, judged: Judgement) -> Chosen:
    """Hold a recommendation back while a check at this corner that could change it is worth more than acting now.

    What comes before any choice (a clean joint, the bearing, a disc that is done) waits for nothing but its own
    thickness; what the axle's other side still wants is the vehicle's next step and holds nothing back here.
    """
    check = judged.check_at(chosen.position)
    own, done = chosen.corner.recommended, chosen.measured.thickness.state_discard is State.TOO_CLOSE
    if check is None or chosen.recommended is None or (own is not None and not done):
        return chosen
    figures = {"check": check.check, "position": check.position, "minutes": check.minutes, "saves": check.saves}
    return replace(chosen, recommended=None, because=(*chosen.because, Reason("measure_first", figures)))


def judge_vehicle(
    positions: Sequence[str],
    corners: Sequence[CornerVerdict],
    *,
    complaint: Complaint,
    vehicle: VehicleFacts,
    shop: Shop,
    mended: Collection[str] = (),
) -> Judgement:
    """Judge a vehicle with wheels at ``positions`` from its diagnosed corners: pages and files only word this.

    Where it is still felt after the work, the causes of what is left are weighed: ``mended`` corners keep the root
    cause that they came in with, and are looked at no more but for what no work on a disc mends.
    """
    told = _Told(tuple(positions), complaint, vehicle, shop)
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


def _judge(told: _Told, corners: Sequence[CornerVerdict], mended: Sequence[CornerVerdict] = ()) -> Judgement:
    shop = told.shop
    certain = {c.position: Cause(c.root_cause) for c in corners if c.root_cause in _CERTAIN}
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
    root_causes = {c.position: _root_cause(c, weighed) for c in corners}
    suspects = sorted(corners, key=lambda c: -weighed.corners.get(c.position, 0.0))
    checks = all_checks(suspects, weighed, shop, told.vehicle.kind)
    troubled = tuple(
        c.position for c in suspects if c.do_not_drive or _is_troubled(c, root_causes[c.position], weighed)
    )
    step = _next_step(checks, weighed, opened={c.position for c in (*corners, *mended) if c.measured.anything})
    idle = step.check in (None, "road_test") and not troubled
    beside = to_put_right((*corners, *mended), weighed, told.complaint, leads=step.check is None and not troubled)
    awaits_drive = any(not mended.driven for mended in told.complaint.mended_beside)
    loose = [c.position for c in (*suspects, *mended) if _may_be_loose(c.measured)]
    if idle and loose and _is_unexplained(told.complaint, weighed):
        step = NextStep("bearing_play", loose[0], "before_it_leaves")
    elif step.check is None and beside:
        step = NextStep(None, beside[0].position, "beside")
        unseen = [c.position for c in suspects if c.measured.anything and c.measured.corner.pads is None]
        if unseen and not beside[0].found_at and beside[0].odds <= _MOST:
            # An hour's work on a guess waits for what three minutes at a wheel that is off show.
            step = NextStep(_LOOK, unseen[0], "before_a_guess")
    elif idle and (awaits_drive or (not told.complaint.still_felt and _was_put_right(corners, weighed))):
        # What is felt now tells more than what a recording shows; and where nothing is felt any more, that was it.
        driven = told.complaint.after_work is not None and not awaits_drive
        step = NextStep(None, None, "mended_beside" if awaits_drive else "nothing_left" if driven else "put_right")
        checks = tuple(check for check in checks if check.check != "road_test")
    return Judgement(
        weighed=replace(weighed, checks=checks),
        root_causes=root_causes,
        also={p: also for p, named in root_causes.items() if (also := _also(p, named, weighed))},
        next=step,
        troubled=troubled,
        stopped=tuple(c.position for c in corners if c.do_not_drive),
        beside_discs=beside,
    )


def _is_troubled(corner: CornerVerdict, root_cause: str, weighed: Differential) -> bool:
    """Whether something is to be put right here: not where no more is known than that hardly anything can be wrong.

    A corner swept within, and not miked since nothing suspects it, is such a one. What sits beside the disc is put
    right there.
    """
    if not corner.measured.anything or root_cause == Cause.NONE:
        return False
    likeliest = weighed.at_corner(corner.position)[0][0] if root_cause == "not_separable" else root_cause
    if likeliest in BESIDE and not _rotor_over(corner.measured):
        return False
    suspected = corner.measured.anything_over or weighed.corners[corner.position] >= _SUSPECTED
    return root_cause != "not_separable" or suspected


def _is_unexplained(complaint: Complaint, weighed: Differential) -> bool:
    """Whether what is felt has no likely cause: nothing found, none with most of the odds, or still felt after work."""
    likeliest, odds = weighed.causes[0]
    unlikely = likeliest is Cause.NONE or odds <= _MOST
    return complaint.still_felt or (unlikely and complaint.after_work is None)


def _may_be_loose(measured: Measured) -> bool:
    """Whether a wheel is off whose bearing nobody rocked, though there is a limit to hold its play against."""
    rocked = measured.corner.bearing_play_mm is not None or measured.corner.spec.max_bearing_play_mm is None
    return measured.anything and not rocked


def _rotor_over(measured: Measured) -> bool:
    """Whether a rotor's runout or variation is over its limit or too close to call, or the drum in its hat over."""
    states = {measured.runout.state, measured.thickness.state_variation}
    return bool({State.OVER, State.TOO_CLOSE} & states) or measured.drum_over_mm is not None


def _was_put_right(corners: Sequence[CornerVerdict], weighed: Differential) -> bool:
    """Whether nothing is likelier than dirt or nuts that were put right to be swept: driving it tells."""
    gone = {(cause, c.position) for c in corners for cause in put_right(c)}
    odds = sum(odds for cause, position, odds in weighed.hypotheses if (cause, position) in gone)
    return odds > max(odds for cause, odds in weighed.causes if cause not in CURED_BY_MEASURING)


def _root_cause(corner: CornerVerdict, weighed: Differential) -> str:
    """Return the corner's root cause: the cause with most of the odds there, ``not_separable`` where none has.

    Dirt and nuts are put right in one go: where they have most of the odds together, the likelier is named.
    Where something is over its limit there is a cause, and the odds are shared among causes; else "nothing wrong"
    has its own. What was seen here but sits elsewhere (a tyre, a joint) is named where it is likelier than all.
    """
    if corner.root_cause in _CERTAIN:
        return corner.root_cause
    own = weighed.at_corner(corner.position)
    likeliest, odds = own[0] if own else (Cause.NONE, 0.0)
    elsewhere = corner.root_cause in OF_THE_VEHICLE and corner.root_cause != Cause.NONE
    if elsewhere and dict(weighed.causes).get(Cause(corner.root_cause), 0.0) >= odds:
        return corner.root_cause
    measured = corner.measured
    is_over = State.OVER in (measured.runout.state, measured.thickness.state_variation)
    if likeliest in CURED_BY_MEASURING:
        odds = sum(odds for cause, odds in own if cause in CURED_BY_MEASURING)
    if odds > _MOST * (weighed.corners[corner.position] if is_over else 1.0):
        return likeliest.value
    return corner.root_cause if corner.root_cause == Cause.NONE else "not_separable"


def _also(position: str, named: str, weighed: Differential) -> tuple[str, ...]:
    """Return the causes that stand at a corner beside the one that is named: likelier there than not."""
    return tuple(cause.value for cause, odds in weighed.at_corner(position) if odds > _MOST and cause.value != named)


def _next_step(checks: Sequence[NextCheck], weighed: Differential, *, opened: Collection[str]) -> NextStep:
    """Name the check that is worth most, while one is worth its minutes, and why: at an unopened corner, to open it."""
    if checks and checks[0].worth > 0:
        best = checks[0]
        why = "worth_most" if best.position is None else best.check if best.position in opened else "unopened"
        return NextStep(best.check, best.position, why, best.index_deg)
    return NextStep(None, None, "not_looked_at" if weighed.holes else "nothing_left")


def _advice(judged: Judgement, plans: Sequence[AxlePlan], chosen: Sequence[Chosen]) -> Reason | None:
    """Return what to do with the vehicle now, in one sentence's figures."""
    step, positions = judged.next, tuple(judged.root_causes)
    if judged.stopped:
        return Reason("do_not_drive", {"positions": judged.stopped})
    if step.check is not None and step.position is not None:
        return Reason("next_check", {"check": step.check, "position": step.position})
    if not positions:
        return None
    if step.why == "beside":
        first = judged.beside_discs[0]
        at = "" if first.position is None else f" · {first.position}"
        figures = {"cause": first.cause.value, "at": at, "odds": first.odds}
        return Reason("beside_found" if first.found_at else "beside_likely", figures)
    if step.why == "put_right":
        return Reason("drive_it", {"positions": positions})
    if step.why == "mended_beside":
        return Reason("drive_mended", {})
    if all(code == Cause.NONE for code in judged.root_causes.values()):
        return Reason("measured_corners_within" if judged.weighed.holes else "all_within", {"positions": positions})
    held = {corner.position for corner in chosen if corner.recommended is None}
    for plan in plans:
        if held & set(plan.positions):
            continue
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
