"""The weighed causes of a vehicle: hypotheses, the signs that speak for and against each, and what to check next.

A hypothesis is a cause at a corner, or a cause of the vehicle as a whole. Signs are taken as independent given the
hypothesis (a naive Bayes of the table in ``compass.cause.likelihoods``): P(h | signs) ∝ P(h) · Π P(sign | h).
Every sign's weight is kept, so that the answer is a ledger and not a black box. Knows nothing of sentences or files.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Final

import numpy as np

from compass.cause import likelihoods as table
from compass.cause.causes import BASE_RATES, OF_THE_VEHICLE, REAR_ONLY, Cause
from compass.cause.checks import MINUTES, OPENING_MINUTES
from compass.cause.likelihoods import Sign
from compass.cause.verdict import CornerVerdict
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.ground.arrays import BoolArray, FloatArray, IntArray
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
    grid = _grid(tuple(positions), _without_drum(verdicts))
    seen = [*_vehicle_signs(complaint, vehicle), *(s for v in verdicts for s in corner_signs(v))]
    if _nothing_beside(positions, verdicts):
        seen.append(Seen(table.NOTHING_BESIDE, "yes", None))
    log_prior = _log_prior(grid.hypotheses, complaint, base_rates or _BUILT_IN)
    weights = np.array([_log_likelihood(s.sign.name, s.outcome, s.position, grid) for s in seen])
    weights = weights.reshape(len(seen), len(grid.hypotheses))
    posterior = _normal(log_prior + weights.sum(axis=0))
    for position, cause in (certain or {}).items():
        named = grid.at[position] & (grid.causes == _ORDER[cause])
        posterior = np.where(named, posterior[grid.at[position]].sum(), np.where(grid.at[position], 0.0, posterior))
    by_cause = (grid.by_cause @ posterior).tolist()
    causes = tuple(sorted(((c, by_cause[_ORDER[c]]) for c in grid.listed), key=lambda item: -item[1]))
    first = tuple(cause for cause, _ in causes[:3])
    return Differential(
        causes=causes,
        hypotheses=tuple(
            (cause, where, p) for (cause, where), p in zip(grid.hypotheses, posterior.tolist(), strict=True)
        ),
        corners={p: float(posterior[grid.at[p]].sum()) for p in positions},
        ledger=_ledgers(first, grid, log_prior, weights, seen),
        checks=_checks(positions, verdicts, grid, posterior, {s.sign.name for s in seen if s.position is None}),
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


Hypothesis = tuple[Cause, str | None]
_ORDER: Final = {cause: k for k, cause in enumerate(Cause)}
_BY_ORDER: Final = tuple(Cause)


@dataclass(frozen=True, slots=True, eq=False)
class _Grid:
    """What may be to blame on one layout of wheels: hypotheses (n,), each one's cause by its place among all causes.

    ``at`` are masks (n,) by position, ``listed`` the causes that occur, ``by_cause`` (causes, n) adds up by cause.
    """

    hypotheses: tuple[Hypothesis, ...]
    causes: IntArray
    at: Mapping[str | None, BoolArray]
    listed: tuple[Cause, ...]
    by_cause: FloatArray


def _without_drum(verdicts: Sequence[CornerVerdict]) -> frozenset[str]:
    """Return the corners that are known to have no drum: a drum is to blame only where there may be one."""
    return frozenset(
        v.position
        for v in verdicts
        if "drum_in_hat" not in v.measured.corner.spec.features and "drum_out_of_round" not in v.measured.corner.seen
    )


@lru_cache(maxsize=64)
def _grid(positions: tuple[str, ...], no_drum: frozenset[str]) -> _Grid:
    """List what may be to blame; a drum only at the rear, unless the rotor is known to have none."""
    hypotheses: list[Hypothesis] = []
    for cause in BASE_RATES:
        if cause in OF_THE_VEHICLE:
            hypotheses.append((cause, None))
        else:
            drum = cause in REAR_ONLY
            hypotheses += [(cause, p) for p in positions if not drum or (end_of(p) == "rear" and p not in no_drum)]
    causes = np.array([_ORDER[cause] for cause, _ in hypotheses])
    return _Grid(
        hypotheses=tuple(hypotheses),
        causes=causes,
        at={p: np.array([where == p for _, where in hypotheses]) for p in (*positions, None)},
        listed=tuple(dict.fromkeys(cause for cause, _ in hypotheses)),
        by_cause=(causes[None, :] == np.arange(len(_ORDER))[:, None]).astype(np.float64),
    )


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


@lru_cache(maxsize=4096)
def _log_likelihood(sign: str, outcome: str, position: str | None, grid: _Grid) -> FloatArray:
    """Return log P(sign | hypothesis) of every hypothesis (n,); a sign of another corner speaks as of a clean one."""
    of_it = np.array(
        [
            position is None or where == position or _anywhere(table.BY_NAME[sign], cause)
            for cause, where in grid.hypotheses
        ]
    )
    log_odds: FloatArray = np.log(_odds(sign, grid, of_it)[:, table.BY_NAME[sign].outcomes.index(outcome)])
    return log_odds


def _odds(sign: str, grid: _Grid, of_it: BoolArray) -> FloatArray:
    """Return P(outcome | hypothesis), (hypotheses, outcomes): the cause's where ``of_it``, else clean."""
    table_of, clean = _matrix(sign)
    odds: FloatArray = np.where(of_it[:, None], table_of[grid.causes], clean)
    return odds


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


def _ledgers(
    causes: Sequence[Cause], grid: _Grid, log_prior: FloatArray, weights: FloatArray, seen: Sequence[Seen]
) -> dict[Cause, tuple[LedgerLine, ...]]:
    """Return each sign's weight of evidence for a cause: 10·log₁₀ P(sign | cause) / P(sign | not cause) (Good 1950).

    Within the cause and within its rivals, hypotheses weigh as all other signs leave them.
    """
    if not seen:
        return dict.fromkeys(causes, ())
    rest = (log_prior + weights.sum(axis=0))[None, :] - weights  # (signs, n)
    rest = np.exp(rest - rest.max(axis=1, keepdims=True))
    both = rest * np.exp(weights)
    ledgers = {}
    for cause in causes:
        mine = grid.causes == _ORDER[cause]
        sums = [part[:, which].sum(axis=1) for which in (mine, ~mine) for part in (both, rest)]
        lines = [
            LedgerLine(sign, 10 * math.log10(pro / pro_rest * contra_rest / contra))
            for sign, pro, pro_rest, contra, contra_rest in zip(seen, *(s.tolist() for s in sums), strict=True)
            if pro_rest > 1e-300 and contra_rest > 1e-300 and pro > 0 and contra > 0
        ]
        ledgers[cause] = tuple(sorted(lines, key=lambda line: -abs(line.decibans)))
    return ledgers


def _holes(positions: Sequence[str], verdicts: Sequence[CornerVerdict]) -> tuple[tuple[str, str], ...]:
    by_position = {v.position: v for v in verdicts}
    holes = []
    for position in positions:
        verdict = by_position.get(position)
        if verdict is None or verdict.measured.runout.tir is None:
            holes.append((position, "runout"))
        if verdict is None or verdict.measured.thickness.result is None:
            holes.append((position, "thickness"))
    return tuple(holes)


def _checks(
    positions: Sequence[str],
    verdicts: Sequence[CornerVerdict],
    grid: _Grid,
    posterior: FloatArray,
    vehicle_signs: set[str],
) -> tuple[NextCheck, ...]:
    """Weigh every check not yet done by the entropy it is expected to take out, a minute of work."""
    by_position = {v.position: v for v in verdicts}
    ways: list[tuple[str, str | None, tuple[str, ...]]] = []
    minutes: list[int] = []
    for position in positions:
        verdict = by_position.get(position)
        opening = 0 if verdict is not None and verdict.measured.anything else OPENING_MINUTES
        for check, signs in _open_at(verdict):
            ways.append((check, position, tuple(sign.name for sign in signs)))
            minutes.append(MINUTES[check] + opening)
    if "road_test" not in vehicle_signs:
        ways.append(("road_test", None, (table.ONLY_BRAKING.name,)))
        minutes.append(MINUTES["road_test"])
    if not ways:
        return ()
    names, starts, odds = _what_checks_show(tuple((position, signs) for _, position, signs in ways), grid)
    joint = posterior[:, None] * odds
    chances = joint.sum(axis=0)
    after = joint / chances
    left = -(after * np.log2(np.maximum(after, 1e-300))).sum(axis=0)
    bits = np.maximum(_bits(posterior) - np.add.reduceat(chances * left, starts), 0.0).tolist()
    by_cause = grid.by_cause @ after
    best = by_cause.argmax(axis=0)
    outcomes = [
        CheckOutcome(name, chance, _BY_ORDER[k], p)
        for name, chance, k, p in zip(
            names, chances.tolist(), best.tolist(), by_cause[best, np.arange(best.size)].tolist(), strict=True
        )
    ]
    ends = [*starts[1:], len(outcomes)]
    checks = [
        NextCheck(check, position, minutes[k], bits[k], tuple(outcomes[starts[k] : ends[k]]))
        for k, (check, position, _) in enumerate(ways)
        if bits[k] > 1e-4
    ]
    return tuple(sorted(checks, key=lambda c: -round(c.bits_a_minute, 4)))


@lru_cache(maxsize=256)
def _what_checks_show(
    ways: tuple[tuple[str | None, tuple[str, ...]], ...], grid: _Grid
) -> tuple[list[str], list[int], FloatArray]:
    """Return every outcome of every check side by side: names, where each check begins, P(outcome | hypothesis)."""
    names: list[str] = []
    starts: list[int] = []
    columns = []
    for position, signs in ways:
        here = np.ones(len(grid.hypotheses), dtype=bool) if position is None else grid.at[position]
        own, odds = [""], np.ones((len(grid.hypotheses), 1))
        for sign in signs:
            outcomes = table.BY_NAME[sign].outcomes
            own = [f"{name} · {outcome}" if name else outcome for name in own for outcome in outcomes]
            odds = (odds[:, :, None] * _odds(sign, grid, here)[:, None, :]).reshape(len(grid.hypotheses), -1)
        starts.append(len(names))
        names += own
        columns.append(odds)
    return names, starts, np.concatenate(columns, axis=1)


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


def _bits(posterior: FloatArray) -> float:
    """Return the entropy of a distribution in bits (Shannon 1948)."""
    p = posterior[posterior > 0]
    return float(-(p * np.log2(p)).sum())
