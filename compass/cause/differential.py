"""The weighed causes of a vehicle: hypotheses, the signs that speak for and against each, and what to check next.

A hypothesis is a cause at a corner, or a cause of the vehicle as a whole. Signs are taken as independent given the
hypothesis (a naive Bayes of the table in ``compass.cause.likelihoods``): P(h | signs) ∝ P(h) · Π P(sign | h).
Every sign's weight is kept, so that the answer is a ledger and not a black box. Knows nothing of sentences or files.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any, Final

import numpy as np

from compass.cause import likelihoods as table
from compass.cause.causes import BASE_RATES, OF_THE_VEHICLE, REAR_ONLY, Cause
from compass.cause.checks import MINUTES, OPENING_MINUTES
from compass.cause.likelihoods import Sign
from compass.cause.verdict import CornerVerdict
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.ground.arrays import BoolArray, FloatArray
from compass.ground.limits import State
from compass.ground.positions import end_of
from compass.ground.uncertainty import Estimate
from compass.measure.wear_pattern import MadeBy, Pattern

FAR_OVER: Final = 3.0  # times the runout limit: a hub beyond it was knocked
CLEARLY: Final = 1.5  # times the limit: far over, not just over
_A_PATCH: Final = 0.5  # share of the variation a patch explains
MUCH: Final = 0.5  # of the limit: what the joint must have taken out to be to blame
_ORDER_WITHIN: Final = 0.15  # a stated frequency is a wheel order within this share
_SPREAD: Final = 0.25  # of the weight of feel that goes to every corner, whatever is felt: feel never excludes
_LEAST: Final = 1e-9


_BUILT_IN: Final[Mapping[str, float]] = {cause.value: rate for cause, rate in BASE_RATES.items()}
NOTHING_TOLD: Final = Complaint()
UNKNOWN_VEHICLE: Final = VehicleFacts()


@dataclass(frozen=True, slots=True)
class Seen:
    """A sign with its outcome, at a corner or of the vehicle (position None)."""

    sign: Sign
    outcome: str
    position: str | None


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """One line of the ledger: a sign's weight for a cause against all others, in decibans (10·log₁₀ of the odds)."""

    seen: Seen
    decibans: float


@dataclass(frozen=True, slots=True)
class CheckOutcome:
    """What a check may find, how likely that is, and the cause then ahead with its probability."""

    name: str
    probability: float
    cause: Cause
    cause_probability: float


@dataclass(frozen=True, slots=True)
class NextCheck:
    """A check not yet done: code, corner, minutes, expected drop in entropy (bits), and what each outcome would do."""

    check: str
    position: str | None
    minutes: int
    bits: float
    outcomes: tuple[CheckOutcome, ...]

    @property
    def bits_a_minute(self) -> float:
        """What it tells for its time."""
        return self.bits / self.minutes


@dataclass(frozen=True, slots=True, eq=False)
class Differential:
    """The weighed causes: probabilities, best first; odds a corner; the ledger of the first; checks, best first.

    ``hypotheses`` are (cause, position or None for the vehicle's, probability) of everything that was weighed.
    """

    causes: tuple[tuple[Cause, float], ...]
    hypotheses: tuple[tuple[Cause, str | None, float], ...]
    corners: Mapping[str, float]
    ledger: Mapping[Cause, tuple[LedgerLine, ...]]
    checks: tuple[NextCheck, ...]
    holes: tuple[tuple[str, str], ...]  # (position, runout or thickness) still unmeasured

    @property
    def settled(self) -> bool:
        """Whether one cause is so far ahead that no check pays for itself."""
        return bool(self.causes) and self.causes[0][1] >= 0.95

    def at_corner(self, position: str) -> tuple[tuple[Cause, float], ...]:
        """Return the causes that may sit at a corner with their odds, the likeliest first."""
        own = ((cause, odds) for cause, where, odds in self.hypotheses if where == position)
        return tuple(sorted(own, key=lambda pair: -pair[1]))


def weigh(
    positions: Sequence[str],
    verdicts: Sequence[CornerVerdict],
    *,
    complaint: Complaint = NOTHING_TOLD,
    vehicle: VehicleFacts = UNKNOWN_VEHICLE,
    base_rates: Mapping[str, float] | None = None,
    certain: Mapping[str, Cause] | None = None,
) -> Differential:
    """Weigh the causes of one vehicle with corners at ``positions``, of which ``verdicts`` tell some.

    ``certain`` are causes seen or measured outright, by position: all of that corner's odds are theirs.
    """
    hypotheses = _hypotheses(positions, verdicts)
    seen = [*_vehicle_signs(complaint, vehicle), *(s for v in verdicts for s in corner_signs(v))]
    if _nothing_beside(positions, verdicts):
        seen.append(Seen(table.NOTHING_BESIDE, "yes", None))
    log_prior = _log_prior(hypotheses, complaint, base_rates or _BUILT_IN)
    weights = np.array([_log_likelihood(s, hypotheses) for s in seen]).reshape(len(seen), len(hypotheses))
    posterior = _normal(log_prior + weights.sum(axis=0))
    for position, cause in (certain or {}).items():
        here = np.array([where == position for _, where in hypotheses])
        named = here & np.array([h[0] is cause for h in hypotheses])
        posterior = np.where(named, posterior[here].sum(), np.where(here, 0.0, posterior))
    causes = _by_cause(hypotheses, posterior)
    return Differential(
        causes=causes,
        hypotheses=tuple((cause, where, p) for (cause, where), p in zip(hypotheses, posterior.tolist(), strict=True)),
        corners={
            p: float(sum(posterior[k] for k, (_, where) in enumerate(hypotheses) if where == p)) for p in positions
        },
        ledger={cause: _ledger(cause, hypotheses, log_prior, weights, seen) for cause, _ in causes[:3]},
        checks=_checks(positions, verdicts, hypotheses, posterior, {s.sign.name for s in seen if s.position is None}),
        holes=_holes(positions, verdicts),
    )


def _nothing_beside(positions: Sequence[str], verdicts: Sequence[CornerVerdict]) -> bool:
    """Whether every corner's pads were looked at and nothing was noted that sits beside the discs."""
    corners = [v.measured.corner for v in verdicts]
    beside = {"tyre_damage", "joint_play", "abs_active", "drum_out_of_round"}
    looked = {c.position for c in corners if c.pads is not None} >= set(positions)
    return looked and not any(beside & c.seen for c in corners)


def corner_signs(verdict: CornerVerdict) -> list[Seen]:
    """Return the signs one corner's verdict holds; what is flagged or too close says nothing."""
    here = verdict.position
    measured = verdict.measured
    limit_mm = measured.corner.spec.max_runout_mm
    seen: list[Seen] = []

    def note(sign: Sign, outcome: str) -> None:
        seen.append(Seen(sign, outcome, here))

    runout, thickness, whose = measured.runout, measured.thickness, measured.whose
    dirty = bool({"joint_not_cleaned", "nuts_not_torqued"} & set(runout.flags))
    if runout.state is not State.UNKNOWN and "turns_disagree" not in runout.flags:
        if dirty and runout.state is not State.TOO_CLOSE:
            note(table.DIRTY_RUNOUT_OVER, runout.state.value)
        elif not dirty:
            note(table.RUNOUT_OVER, _graded(runout.state, runout.tir, limit_mm))
    if runout.tir is not None:
        came_in = dirty or measured.before is not None
        note(table.CAME_IN, "swept as it came in" if came_in else "swept cleaned only")
    if not dirty and measured.before is not None and measured.before_state is State.WITHIN:
        note(table.DIRTY_RUNOUT_OVER, "within")  # nothing was wrong with the joint as it came in
    if whose.joint is not None:
        much = whose.joint.tir_mm - whose.joint.expanded_mm / 2 > MUCH * limit_mm
        note(table.JOINT_TOOK, "much" if much else "little")
        if much:
            note(table.JOINT_OF, whose.joint_of)
    if whose.hub is not None and whose.rotor is not None and runout.state is State.OVER and not whose.disagrees:
        note(table.WHOSE, _whose(verdict))
    if whose.hub is not None and not whose.disagrees:
        far = whose.hub.tir_mm - whose.hub.expanded_mm > FAR_OVER * limit_mm
        note(table.HUB_FAR_OVER, "far over" if far else "ordinary")
    if thickness.state_variation is not State.UNKNOWN:
        variation = thickness.result.variation if thickness.result is not None else None
        limit = measured.corner.spec.max_thickness_variation_mm
        note(table.VARIATION_OVER, _graded(thickness.state_variation, variation, limit))
    if thickness.state_variation is not State.WITHIN and thickness.pattern is not None:
        note(table.MADE_BY, _made_by(thickness.pattern))
    if thickness.state_discard is not State.UNKNOWN:
        note(table.UNDER_DISCARD, "above" if thickness.state_discard is State.ABOVE else "under")
    if measured.corner.bearing_play_mm is not None and measured.corner.spec.max_bearing_play_mm is not None:
        note(table.BEARING_PLAY_OVER, "over" if measured.bearing_over else "within")
    if runout.sweep is not None and runout.sweep.turns > 1:
        note(table.TURNS_REPEAT, "disagree" if "turns_disagree" in runout.flags else "agree")
    if measured.corner.pads is not None:
        note(table.PADS_UNEVEN, "uneven" if measured.pads_uneven_mm is not None else "even")
    for name in sorted(measured.corner.seen):
        note(table.SEEN_SIGNS[name], "seen")
    return seen


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
    if not pattern.hollow and pattern.patch_share >= _A_PATCH:
        return "raised patch"  # whatever else is there: no rubbing makes metal
    if pattern.made_by is MadeBy.PATCH:
        return "hollow patch" if pattern.hollow else "raised patch"
    return "unclear"


def _whose(verdict: CornerVerdict) -> str:
    for part, name in ((verdict.measured.whose.hub, "hub"), (verdict.measured.whose.rotor, "rotor")):
        if part is not None and part.share is not None and part.share >= 0.6:
            return name
    return "both"


def _vehicle_signs(complaint: Complaint, vehicle: VehicleFacts) -> Iterable[Seen]:
    when, braking, heat = complaint.when, complaint.braking, complaint.heat
    if when:
        yield Seen(table.WHEN_ALWAYS, "yes" if "always" in when else "no", None)
    if braking:
        yield Seen(table.HARD_ONLY, "yes" if set(braking) == {"hard"} else "no", None)
    if heat:
        yield Seen(table.WORSE_HOT, "yes" if heat == "worse_hot" else "no", None)
        yield Seen(table.WORSE_COLD, "yes" if heat == "worse_cold" else "no", None)
    for name in complaint.history:
        yield Seen(table.HISTORY[name], "yes", None)
    recorded = complaint.road_test
    if recorded in table.ONLY_BRAKING.outcomes:
        yield Seen(table.ONLY_BRAKING, recorded, None)
    if recorded == "not at wheel order":
        yield Seen(table.FREQUENCY, "other", None)
        return
    order = stated_order(complaint, vehicle)
    if order is not None:
        near = any(abs(order / whole - 1) <= _ORDER_WITHIN for whole in (1, 2))
        yield Seen(table.FREQUENCY, "wheel order" if near else "other", None)


def expected_hz(speed_kmh: float, circumference_mm: float) -> float:
    """Return the wheel's turns a second: speed / rolling circumference (brief 1)."""
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


Hypothesis = tuple[Cause, str | None]


def _hypotheses(positions: Sequence[str], verdicts: Sequence[CornerVerdict]) -> list[Hypothesis]:
    """List what may be to blame; a drum only at the rear, unless the rotor is known to have none."""
    found: list[Hypothesis] = []
    no_drum = {
        v.position
        for v in verdicts
        if "drum_in_hat" not in v.measured.corner.spec.features and "drum_out_of_round" not in v.measured.corner.seen
    }
    for cause in BASE_RATES:
        if cause in OF_THE_VEHICLE:
            found.append((cause, None))
        else:
            drum = cause in REAR_ONLY
            found += [(cause, p) for p in positions if not drum or (end_of(p) == "rear" and p not in no_drum)]
    return found


def corner_odds(positions: Sequence[str], complaint: Complaint) -> dict[str, float]:
    """Return how likely each corner is to hold the culprit by feel alone: the first order of measuring. None is 0."""
    felt = complaint.felt_in
    weight = {p: math.prod(table.FELT[f][end_of(p)] for f in felt) for p in positions}
    total = sum(weight.values())
    return {p: _SPREAD / len(positions) + (1 - _SPREAD) * w / total for p, w in weight.items()}


def _log_prior(hypotheses: Sequence[Hypothesis], complaint: Complaint, base_rates: Mapping[str, float]) -> FloatArray:
    positions = sorted({p for _, p in hypotheses if p is not None})
    odds = corner_odds(positions, complaint)
    felt = complaint.felt_in
    prior: list[float] = []
    for cause, position in hypotheses:
        share = base_rates.get(cause, 0.0)
        if position is None:
            axle = math.prod(table.FELT[f]["vehicle"] for f in felt)
            any_corner = sum(math.prod(table.FELT[f][end_of(p)] for f in felt) for p in positions) / len(positions)
            share *= axle / any_corner
        else:
            rear = [p for p in positions if end_of(p) == "rear"]
            share *= odds[position] if cause not in REAR_ONLY else 1 / max(len(rear), 1)
        prior.append(max(share, _LEAST))
    log_prior: FloatArray = np.log(np.array(prior))
    return log_prior


def _log_likelihood(seen: Seen, hypotheses: Sequence[Hypothesis]) -> FloatArray:
    """Return log P(sign | hypothesis) of every hypothesis (n,); a sign of another corner speaks as of a clean one."""
    of_it = np.array(
        [seen.position is None or where == seen.position or _anywhere(seen.sign, cause) for cause, where in hypotheses]
    )
    told: FloatArray = np.log(_odds(seen.sign, hypotheses, of_it)[:, seen.sign.outcomes.index(seen.outcome)])
    return told


_ORDER: Final = {cause: k for k, cause in enumerate(Cause)}
_BY_ORDER: Final = tuple(Cause)


def _odds(sign: Sign, hypotheses: Sequence[Hypothesis], of_it: BoolArray) -> FloatArray:
    """Return P(outcome | hypothesis), (hypotheses, outcomes): the cause's where ``of_it``, else clean."""
    table_of, clean = _matrix(sign.name)
    odds: FloatArray = np.where(of_it[:, None], table_of[_causes_of(tuple(hypotheses))], clean)
    return odds


@cache
def _causes_of(hypotheses: tuple[Hypothesis, ...]) -> Any:
    """Return each hypothesis' cause by its place among all causes, shape (hypotheses,)."""
    return np.array([_ORDER[cause] for cause, _ in hypotheses])


@cache
def _matrix(name: str) -> tuple[FloatArray, FloatArray]:
    """Return a sign's odds as an array over all causes, and its clean row."""
    sign = table.BY_NAME[name]
    return np.array([sign.column(cause) for cause in Cause]), np.array(sign.column(None))


def _anywhere(sign: Sign, cause: Cause) -> bool:
    """A finding that is a vehicle's (play in a joint, a tyre, anti-lock) is noted at whichever corner it was seen."""
    return cause in OF_THE_VEHICLE and sign.name.startswith("seen:")


def _normal(log_weight: FloatArray) -> FloatArray:
    weight = np.exp(log_weight - log_weight.max())
    normal: FloatArray = weight / weight.sum()
    return normal


def _by_cause(hypotheses: Sequence[Hypothesis], posterior: FloatArray) -> tuple[tuple[Cause, float], ...]:
    total: dict[Cause, float] = {}
    for (cause, _), p in zip(hypotheses, posterior.tolist(), strict=True):
        total[cause] = total.get(cause, 0.0) + p
    return tuple(sorted(total.items(), key=lambda item: -item[1]))


def _ledger(
    cause: Cause, hypotheses: Sequence[Hypothesis], log_prior: FloatArray, weights: FloatArray, seen: Sequence[Seen]
) -> tuple[LedgerLine, ...]:
    """Return each sign's weight of evidence for ``cause``: 10·log₁₀ P(sign | cause) / P(sign | not cause) (Good 1950).

    Within the cause and within its rivals, hypotheses weigh as all other signs leave them.
    """
    mine = np.array([h[0] is cause for h in hypotheses])
    if not seen or mine.all() or not mine.any():
        return ()
    entries = []
    everything = log_prior + weights.sum(axis=0)
    for k, sign in enumerate(seen):
        rest = _normal(everything - weights[k])
        if rest[mine].sum() < 1e-300 or rest[~mine].sum() < 1e-300:
            continue
        likelihood = np.exp(weights[k])
        pro = float((rest[mine] @ likelihood[mine]) / rest[mine].sum())
        contra = float((rest[~mine] @ likelihood[~mine]) / rest[~mine].sum())
        entries.append(LedgerLine(sign, 10 * math.log10(pro / contra)))
    return tuple(sorted(entries, key=lambda e: -abs(e.decibans)))


def _holes(positions: Sequence[str], verdicts: Sequence[CornerVerdict]) -> tuple[tuple[str, str], ...]:
    known = {v.position: v for v in verdicts}
    holes = []
    for position in positions:
        verdict = known.get(position)
        if verdict is None or verdict.measured.runout.tir is None:
            holes.append((position, "runout"))
        if verdict is None or verdict.measured.thickness.result is None:
            holes.append((position, "thickness"))
    return tuple(holes)


def _checks(
    positions: Sequence[str],
    verdicts: Sequence[CornerVerdict],
    hypotheses: Sequence[Hypothesis],
    posterior: FloatArray,
    asked: set[str],
) -> tuple[NextCheck, ...]:
    """Weigh every check not yet done by the entropy it is expected to take out, a minute of work."""
    known = {v.position: v for v in verdicts}
    found = []
    for position in positions:
        verdict = known.get(position)
        opening = 0 if verdict is not None and verdict.measured.anything else OPENING_MINUTES
        for check, signs in _open_at(verdict):
            weighed = _weigh_check(check, position, signs, hypotheses, posterior)
            found.append(replace(weighed, minutes=weighed.minutes + opening))
    if "road_test" not in asked:
        found.append(_weigh_check("road_test", None, (table.ONLY_BRAKING,), hypotheses, posterior))
    return tuple(sorted((c for c in found if c.bits > 1e-4), key=lambda c: -round(c.bits_a_minute, 4)))


def _open_at(verdict: CornerVerdict | None) -> list[tuple[str, tuple[Sign, ...]]]:
    """Return the checks still open at a corner, each with the signs it would give."""
    if verdict is None:
        return [
            ("sweep_rotor", (table.RUNOUT_OVER,)),
            ("measure_thickness", (table.VARIATION_OVER, table.UNDER_DISCARD)),
            ("bearing_play", (table.BEARING_PLAY_OVER,)),
            ("inspect_pads_and_slides", (table.PADS_UNEVEN,)),
        ]
    checks: list[tuple[str, tuple[Sign, ...]]] = []
    runout, corner = verdict.measured.runout, verdict.measured.corner
    if runout.tir is None:
        checks.append(("sweep_rotor", (table.RUNOUT_OVER,)))
    elif "joint_not_cleaned" in runout.flags:
        checks.append(("clean_and_sweep", (table.JOINT_TOOK,)))
    elif "nuts_not_torqued" in runout.flags:
        checks.append(("torque_and_sweep", (table.JOINT_TOOK,)))
    elif runout.state is State.OVER and not verdict.measured.whose.told_apart and verdict.separating is not None:
        checks.append((verdict.separating.check, (table.WHOSE,)))
    if verdict.measured.thickness.result is None:
        checks.append(("measure_thickness", (table.VARIATION_OVER, table.UNDER_DISCARD)))
    if corner.bearing_play_mm is None and corner.spec.max_bearing_play_mm is not None:
        checks.append(("bearing_play", (table.BEARING_PLAY_OVER,)))
    if corner.pads is None:
        checks.append(("inspect_pads_and_slides", (table.PADS_UNEVEN,)))
    return checks


def _weigh_check(
    check: str,
    position: str | None,
    signs: tuple[Sign, ...],
    hypotheses: Sequence[Hypothesis],
    posterior: FloatArray,
) -> NextCheck:
    """Work out what a check would do: for every combination of outcomes its probability and the posterior after it."""
    here = np.array([where == position or position is None for _, where in hypotheses])
    names, odds = [""], np.ones((len(hypotheses), 1))
    for sign in signs:
        names = [f"{name} · {outcome}" if name else outcome for name in names for outcome in sign.outcomes]
        odds = (odds[:, :, None] * _odds(sign, hypotheses, here)[:, None, :]).reshape(len(hypotheses), -1)
    joint = posterior[:, None] * odds
    chances = joint.sum(axis=0)
    after = joint / chances
    bits_left = float(chances @ -(after * np.log2(np.maximum(after, 1e-300))).sum(axis=0))
    by_cause = np.zeros((len(_ORDER), len(names)))
    np.add.at(by_cause, _causes_of(tuple(hypotheses)), after)
    outcomes = tuple(
        CheckOutcome(name, float(chance), _BY_ORDER[int(best)], float(by_cause[best, k]))
        for k, (name, chance, best) in enumerate(zip(names, chances, by_cause.argmax(axis=0), strict=True))
    )
    return NextCheck(check, position, MINUTES[check], max(_bits(posterior) - bits_left, 0.0), outcomes)


def _bits(posterior: FloatArray) -> float:
    """Return the entropy of a distribution in bits (Shannon 1948)."""
    p = posterior[posterior > 0]
    return float(-(p * np.log2(p)).sum())
