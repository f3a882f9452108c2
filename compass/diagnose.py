"""From one case's evidence to its verdict: the front door of the core.

A corner is diagnosed from its own evidence (``compass.cause``); the vehicle is judged over all of them
(``compass.judge``: weighed causes, each corner's root cause, the next step); remedies are chosen axle by axle, since
both sides go together.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from compass.cause.causes import CURED_BY_MEASURING, LIKELY, UNEVEN, Cause
from compass.cause.corner import diagnose_corner, measure_corner
from compass.cause.measured import Measured, Reason
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Chosen, kind_of_metal
from compass.choose.vehicle import ChoosesAxle, choose
from compass.evidence.records import Case, Corner
from compass.ground.limits import State
from compass.judge.vehicle import Judgement, judge_vehicle

_TELL_APART: Final = "tell_apart_anew"


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to a case. ``stopped`` are the corners that forbid driving as the vehicle stands now."""

    case_id: str | None
    judged: Judgement
    corners: tuple[Chosen, ...]
    plans: tuple[AxlePlan, ...]
    advice: Reason | None
    stopped: tuple[str, ...]


def diagnose(case: Case) -> Verdict:
    """Diagnose every corner of ``case``; pure, and the same for the same case every time."""
    return conclude(case, tuple(diagnose_corner(corner) for corner in case.corners))


def conclude(
    case: Case,
    corners: Sequence[CornerVerdict],
    *,
    judged: Judgement | None = None,
    choosing: ChoosesAxle | None = None,
    standing: Mapping[str, CornerVerdict] | None = None,
    stopped: Sequence[str] | None = None,
) -> Verdict:
    """Conclude from corners that are diagnosed, and perhaps judged, already; ``choosing`` may remember its axles.

    ``standing`` are corners that were worked on, as they stand: what is still to be done there is chosen by that.
    ``stopped`` are the corners that forbid driving now, where more is known of that than was read since.
    """
    judged = judged or judge_vehicle(
        case.positions,
        corners,
        complaint=case.complaint,
        vehicle=case.vehicle,
        shop=case.shop,
        mended=[c.position for c in corners if case.complaint.still_felt and _is_mended(c)],
        worked=[c.position for c in corners if c.measured.corner.after],
    )
    if standing is None:
        standing = {c.position: stands for c in case.corners if (stands := stands_after_work(c)) is not None}
    if stopped is None:
        stopped = [c.position for c in corners if standing.get(c.position, c).do_not_drive]
    to_choose = [standing.get(corner.position) or blamed(corner, judged) for corner in corners]
    chosen, plans = choose(to_choose, shop=case.shop, kind=case.vehicle.kind, choosing=choosing)
    chosen = tuple(
        _told_as_it_came(tell_apart_first(given), corner)
        if corner.position in standing
        else measured_first(given, judged)
        for given, corner in zip(chosen, corners, strict=True)
    )
    return Verdict(
        case_id=case.case_id,
        judged=judged,
        corners=chosen,
        plans=plans,
        advice=_advice(judged, plans, chosen, stopped) or _of_the_work(case, judged, standing) or _likeliest(judged),
        stopped=tuple(stopped),
    )


def stands_after_work(corner: Corner) -> CornerVerdict | None:
    """Return what is said of a corner as it stands after its works; None where too little was read since."""
    stands = corner.as_it_stands()
    return None if stands is None else chosen_anew(diagnose_corner(stands))


def chosen_anew(stands: CornerVerdict) -> CornerVerdict:
    """Return what is to be chosen for by what was read after its work.

    Where nothing is over it is settled: too close to call it is measured again, and not worked on again.
    """
    measured = stands.measured
    over = State.OVER in (measured.runout.state, measured.thickness.state_variation)
    return replace(stands, settled=not over and not stands.do_not_drive)


def tell_apart_first(stands: Chosen) -> Chosen:
    """Hold a recommendation back where a corner is over again after its work and whose its runout is nobody knows.

    What was known of it before the work is not so any more. A joint to be cleaned, a bearing, a disc that is done wait
    for nothing; nor does anything where no way is left to tell hub from rotor.
    """
    way = stands.corner.separating
    if way is None or stands.recommended is None or stands.corner.recommended is not None:
        return stands
    figures = {"check": way.check, "position": stands.position, "minutes": way.minutes}
    return replace(stands, recommended=None, because=(*stands.because, Reason(_TELL_APART, figures)))


def _told_as_it_came(given: Chosen, came_in: CornerVerdict) -> Chosen:
    """Return what was chosen for a corner as it stands, beside what it was as it came in."""
    of_the_plan = given.because[len(given.corner.because) :]
    reasons = (*came_in.because, Reason("as_it_stands", {}), *of_the_plan)
    return replace(given, corner=came_in, because=reasons)


def blamed(corner: CornerVerdict, judged: Judgement) -> CornerVerdict:
    """Return a corner told whether its disc is to blame for what is felt, its variation being too close to call.

    Left as it is it would be felt again, whatever the doubt about the figure.
    """
    odds = sum(odds for cause, odds in judged.weighed.at_corner(corner.position) if cause in UNEVEN)
    if corner.measured.thickness.state_variation is not State.TOO_CLOSE or odds <= LIKELY:
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
    known = measured.runout.tir is not None and thickness.result is not None and not thickness.is_doubted
    return known and State.OVER not in (measured.runout.state, thickness.state_variation)


def _is_mended(came_in: CornerVerdict) -> bool:
    """Whether a corner's fault is put right, by what was done there and read after the last work."""
    corner = came_in.measured.corner
    stands = measure_corner(corner.as_after(len(corner.after))) if corner.after else None
    renewed = any("hub_unit" in read.work.split("+") for read in corner.after)
    return is_mended(came_in, stands, bearing_renewed=renewed)


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


def _advice(
    judged: Judgement, plans: Sequence[AxlePlan], chosen: Sequence[Chosen], stopped: Sequence[str]
) -> Reason | None:
    """Return what to do with the vehicle now, in one sentence's figures."""
    step, positions = judged.next, tuple(judged.root_causes)
    if stopped:
        return Reason("do_not_drive", {"positions": tuple(stopped)})
    if step.check is not None and step.position is not None:
        return Reason("next_check", {"check": step.check, "position": step.position})
    if not positions:
        return None
    if step.why == "beside":
        first = judged.beside_discs[0]
        at = "" if first.position is None else f" · {first.position}"
        figures = {"cause": first.cause.value, "at": at, "odds": first.odds}
        return Reason("beside_found" if first.found_at else "beside_likely", figures)
    apart = next((reason for corner in chosen for reason in corner.because if reason.code == _TELL_APART), None)
    if apart is not None:
        return Reason("next_check", {"check": apart.figures["check"], "position": apart.figures["position"]})
    if step.why == "linings":
        worn = next(c for c in chosen if c.position == step.position).measured.worn_linings[0]
        return Reason(f"renew_{worn.code}", {"position": step.position})
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
    return None


def _of_the_work(case: Case, judged: Judgement, standing: Mapping[str, CornerVerdict]) -> Reason | None:
    """Return what to do where all that was to be put right was worked on, and nothing is over there any more."""
    mended = tuple(p for p, c in standing.items() if c.settled and not c.measured.thickness.is_doubted)
    if not mended or not set(judged.troubled) <= set(mended) or case.complaint.still_felt:
        return None
    return Reason("drive_the_work" if case.complaint.after_work is None else "work_held", {"positions": mended})


def _likeliest(judged: Judgement) -> Reason | None:
    if not judged.root_causes:
        return None
    cause, odds = judged.weighed.causes[0]
    return Reason("most_likely", {"cause": cause.value, "odds": odds})
