"""From what was measured, seen and told to signs: which outcome of which question of the table was met, and where."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from compass.cause import likelihoods as table
from compass.cause.causes import FOUND_BESIDE, Cause
from compass.cause.chain import CARRIES_MOST
from compass.cause.likelihoods import Sign
from compass.cause.verdict import CornerVerdict
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.ground.limits import State
from compass.ground.uncertainty import Estimate
from compass.measure.wear_pattern import MadeBy, Pattern

FAR_OVER: Final = 3.0  # times the runout limit: a hub beyond it was knocked
CLEARLY: Final = 1.5  # times the limit: far over, not just over
_A_PATCH: Final = 0.5  # share of the variation a patch explains
MUCH: Final = 0.5  # of the limit: what the joint must have taken out to be to blame
_AS_FOUND: Final = {  # what had not been put right when it was swept
    "both": table.DIRTY_RUNOUT_OVER,
    "dirt": table.UNCLEANED_RUNOUT_OVER,
    "nuts": table.UNTORQUED_RUNOUT_OVER,
}
_SWEPT: Final = dict(zip(("both", "dirt", "nuts", ""), table.CAME_IN.outcomes, strict=True))
_ORDER_WITHIN: Final = 0.15  # a stated frequency is a wheel order within this share


@dataclass(frozen=True, slots=True)
class Seen:
    """A sign with its outcome, at a corner or of the vehicle (position None)."""

    sign: Sign
    outcome: str
    position: str | None


def signs_of(
    positions: Sequence[str],
    verdicts: Sequence[CornerVerdict],
    complaint: Complaint,
    vehicle: VehicleFacts,
    mended: Sequence[CornerVerdict] = (),
) -> list[Seen]:
    """Return every sign of complaint, vehicle and diagnosed corners; of ``mended`` ones those beside the disc."""
    seen = [*_vehicle_signs(complaint, vehicle), *(s for v in verdicts for s in corner_signs(v))]
    seen += [s for v in mended for s in beside_signs(v)]
    if _nothing_beside(positions, (*verdicts, *mended)):
        seen.append(Seen(table.NOTHING_BESIDE, "yes", None))
    return [sign for sign in seen if not any(_shows(sign, *place) for place in cleared_beside(complaint))]


def cleared_beside(complaint: Complaint) -> frozenset[tuple[Cause, str | None]]:
    """Return what was put right beside the discs, by cause and place, and is still felt: it was not that."""
    driven = (mended for mended in complaint.mended_beside if mended.driven and complaint.still_felt)
    return frozenset((Cause(mended.cause), mended.position) for mended in driven)


def _shows(seen: Seen, cause: Cause, position: str | None) -> bool:
    """Whether a sign is what was found of a cause beside the discs: put right, it speaks for nothing else."""
    if position is not None and seen.position != position:
        return False
    uneven = cause is Cause.CALIPER and seen.sign is table.PADS_UNEVEN and seen.outcome == "uneven"
    return uneven or any(seen.sign is table.SEEN_SIGNS[name] for name, of in FOUND_BESIDE.items() if of is cause)


def _nothing_beside(positions: Sequence[str], verdicts: Sequence[CornerVerdict]) -> bool:
    """Whether every corner's pads were looked at and nothing was noted that sits beside the discs."""
    beside = {"tyre_damage", "drum_out_of_round"}
    looked = {v.position for v in verdicts if v.measured.corner.pads is not None} >= set(positions)
    return looked and not any(beside & v.measured.noted for v in verdicts)


def put_right(verdict: CornerVerdict) -> frozenset[Cause]:
    """Return what is no longer there to be felt: a joint that was cleaned to be swept, nuts torqued for it."""
    if verdict.measured.runout.tir is None:
        return frozenset()
    still_in = verdict.measured.runout.before
    return frozenset(
        cause for cause, gone in ((Cause.JOINT, ("", "nuts")), (Cause.NUTS, ("", "dirt"))) if still_in in gone
    )


def joint_took_mm(verdict: CornerVerdict) -> float | None:
    """Return what cleaning or torquing took of the runout at the least, mm; None where it was not swept before."""
    joint = verdict.measured.whose.joint
    return joint.tir_mm - joint.expanded_mm / 2 if joint is not None else None


def corner_signs(verdict: CornerVerdict) -> list[Seen]:
    """Return the signs one corner's verdict holds; what is flagged or too close says nothing."""
    here = verdict.position
    measured = verdict.measured
    limit_mm = measured.corner.spec.max_runout_mm
    seen: list[Seen] = []

    def note(sign: Sign, outcome: str) -> None:
        seen.append(Seen(sign, outcome, here))

    runout, thickness, whose = measured.runout, measured.thickness, measured.whose
    as_found = runout.before
    if runout.state is not State.UNKNOWN and "turns_disagree" not in runout.flags:
        if as_found and runout.state is not State.TOO_CLOSE:
            note(_AS_FOUND[as_found], runout.state.value)
        elif not as_found:
            note(table.RUNOUT_OVER, _graded(runout.state, runout.tir, limit_mm))
    swept_with = measured.before.before if measured.before is not None else ("" if runout.tir is not None else None)
    if swept_with in ("dirt", "nuts", ""):  # swept as it came in: all can show, and that speaks for nothing
        note(table.CAME_IN, _SWEPT[swept_with])
    if swept_with in ("both", "dirt") and as_found in ("", "nuts") and "rust_at_joint" not in measured.corner.seen:
        note(table.NO_RUST, "not noted")
    if not as_found and measured.before is not None and measured.before_state is State.WITHIN:
        note(_AS_FOUND[measured.before.before], "within")  # nothing was wrong as it was then
    took_mm = joint_took_mm(verdict)
    if took_mm is not None:
        much = took_mm > MUCH * limit_mm
        note(table.JOINT_TOOK, "past the limit" if took_mm > limit_mm else "much" if much else "little")
        if much:
            note(table.JOINT_OF, whose.joint_of)
        if much and measured.before_state is State.OVER and runout.state is State.WITHIN:
            note(table.CURED, "over before, within since")
    if whose.hub is not None and whose.rotor is not None and runout.state is State.OVER and not whose.disagrees:
        note(table.WHOSE, _whose(verdict))
    if whose.hub is not None and not whose.disagrees:
        far = whose.hub.tir_mm - whose.hub.expanded_mm > FAR_OVER * limit_mm
        note(table.HUB_FAR_OVER, "far over" if far else "ordinary")
    if thickness.state_variation is not State.UNKNOWN:
        variation = thickness.result.variation if thickness.result is not None else None
        limit = measured.corner.spec.max_thickness_variation_mm
        note(table.VARIATION_OVER, _graded(thickness.state_variation, variation, limit))
    # What is lost in noise says nothing: how often that is met is the micrometer's doing.
    if (
        thickness.state_variation is not State.WITHIN
        and thickness.pattern is not None
        and thickness.pattern.beyond_noise
    ):
        note(table.MADE_BY[swept_with], _made_by(thickness.pattern))
    if thickness.state_discard is not State.UNKNOWN and not measured.lips_hide_wear:
        note(table.UNDER_DISCARD, "above" if thickness.state_discard is State.ABOVE else "under")
    if runout.sweep is not None and runout.sweep.turns > 1:
        note(table.TURNS_REPEAT, "disagree" if "turns_disagree" in runout.flags else "agree")
    for name in sorted(measured.corner.seen - set(FOUND_BESIDE)):
        note(table.SEEN_SIGNS[name], "seen")
    return [*seen, *beside_signs(verdict)]


def beside_signs(verdict: CornerVerdict) -> list[Seen]:
    """Return the signs of what stands beside a disc: they hold whatever is done to it."""
    measured = verdict.measured
    seen: list[tuple[Sign, str]] = []
    if measured.corner.bearing_play_mm is not None and measured.corner.spec.max_bearing_play_mm is not None:
        seen.append((table.BEARING_PLAY_OVER, "over" if measured.bearing_over else "within"))
    rocked = measured.corner.bearing_play_mm is not None or measured.corner.pads is not None
    if rocked and "joint_play" not in measured.corner.seen:
        seen.append((table.JOINT_PLAY, "no play"))
    if measured.corner.pads is not None:
        seen.append((table.PADS_UNEVEN, "uneven" if measured.pads_uneven_mm is not None else "even"))
    seen += [(table.SEEN_SIGNS[name], "seen") for name in sorted(measured.noted & set(FOUND_BESIDE))]
    return [Seen(sign, outcome, verdict.position) for sign, outcome in seen]


def _graded(state: State, estimate: Estimate | None, limit_mm: float) -> str:
    """Tell far over from just over: an innocent corner is seldom far over."""
    if state is State.TOO_CLOSE:
        return "close"
    far = state is State.OVER and estimate is not None and estimate.value_mm > CLEARLY * limit_mm
    return "far over" if far else state.value


def _made_by(pattern: Pattern) -> str:
    if pattern.made_by is MadeBy.RUNOUT:
        return "runout"
    if pattern.like_runout:
        return "wide lobe"
    if pattern.narrow and not pattern.hollow and pattern.patch_share >= _A_PATCH:
        return "raised patch"  # whatever else is there: no rubbing makes metal
    return "hollow patch" if pattern.made_by is MadeBy.PATCH and pattern.hollow else "unclear"


def _whose(verdict: CornerVerdict) -> str:
    """Say who carries most of a runout told apart: for sure, or all that its U leaves open."""
    whose = verdict.measured.whose
    parts = [(part, name) for part, name in ((whose.hub, "hub"), (whose.rotor, "rotor")) if part is not None]
    together_mm = 2 * abs(sum(part.vector for part, _name in parts))
    may = []
    for part, name in parts:
        share, off = part.share or 0.0, part.expanded_mm / max(together_mm, part.expanded_mm)
        if share - off >= CARRIES_MOST:
            return name
        may += [name] if share + off >= CARRIES_MOST else []
    return f"{may[0]} or both" if len(may) == 1 else "both" if may else "both for sure"


def _vehicle_signs(complaint: Complaint, vehicle: VehicleFacts) -> Iterable[Seen]:
    when, braking, heat = complaint.when, complaint.braking, complaint.heat
    if when:
        yield Seen(table.WHEN_ALWAYS, "yes" if "always" in when else "no", None)
    if braking:
        yield Seen(table.HARD_ONLY, "hard only" if set(braking) == {"hard"} else "lightly too", None)
    if heat:
        yield Seen(table.WORSE_HOT, "yes" if heat == "worse_hot" else "no", None)
        yield Seen(table.WORSE_COLD, "yes" if heat == "worse_cold" else "no", None)
    for name in complaint.history:
        yield Seen(table.HISTORY[name], "yes", None)
    recorded = complaint.road_test
    if complaint.still_felt:
        yield Seen(table.AFTER_WORK, "still felt", None)
    if recorded:
        yield Seen(table.ROAD_TEST, recorded, None)
    if recorded == "not at wheel order":
        return  # a stated frequency would say the same again
    order = stated_order(complaint, vehicle)
    if order is not None:
        near = any(abs(order / whole - 1) <= _ORDER_WITHIN for whole in (1, 2))
        yield Seen(table.FREQUENCY, "wheel order" if near else "other", None)


def expected_hz(speed_kmh: float, circumference_mm: float) -> float:
    """Return the wheel's turns a second: speed / rolling circumference (measurement.md#frequency)."""
    return speed_kmh / 3.6 * 1000 / circumference_mm


def stated_order(complaint: Complaint, vehicle: VehicleFacts) -> float | None:
    """Return a stated frequency as an order of the wheel at the middle of the complaint's speeds, or None."""
    hertz, speeds = complaint.frequency_hz, complaint.speed_kmh
    circumference = vehicle.rolling_circumference_mm
    if not (hertz and speeds and circumference) or sum(speeds) <= 0:
        return None
    low, high = (hertz / expected_hz(max(speed, 1.0), circumference) for speed in (speeds[1], speeds[0]))
    for whole in (1.0, 2.0):
        if low * (1 - _ORDER_WITHIN) <= whole <= high * (1 + _ORDER_WITHIN):
            return whole
    return float(hertz / expected_hz(sum(speeds) / 2, circumference))
