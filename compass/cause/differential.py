"""The weighed causes of a vehicle: hypotheses, the signs that speak for and against each, and what to check next.

A hypothesis is a cause at a corner (or two that stand together there), or a cause of the vehicle as a whole. Corners
are faulty independently of each other, given that something brought the vehicle in: two may be faulty at once.
Signs are taken as independent given the hypothesis (a naive Bayes of the table in ``compass.cause.likelihoods``), so
that every hypothesis has its odds against a clean corner, o = prior · Π P(sign | h) / P(sign | clean), and a set of
faults weighs the product of theirs. Every sign's weight is kept: the answer is a ledger and not a black box. A check is
worth what it saves (``compass.cause.stakes``). Knows nothing of sentences or files.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache, lru_cache, partial
from typing import Final, NamedTuple

import numpy as np

from compass.cause import likelihoods as table
from compass.cause.causes import BASE_RATES, OF_THE_VEHICLE, REAR_ONLY, STANDS_BESIDE, Cause
from compass.cause.checks import MINUTES, OPENING_MINUTES
from compass.cause.likelihoods import Sign
from compass.cause.measured import CONDITION_CHECKS
from compass.cause.signs import MUCH, Seen, cleared_beside, joint_took_mm, put_right, signs_of
from compass.cause.stakes import Stakes, stakes
from compass.cause.verdict import CornerVerdict
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.shop import Shop
from compass.ground.arrays import BoolArray, FloatArray
from compass.ground.limits import State
from compass.ground.positions import end_of

_SPREAD: Final = 0.25  # of the weight of feel that goes to every corner, whatever is felt: feel never excludes
_LEAST: Final = 1e-9
# Odds that a vehicle with one fault has another: prior odds of a fault beside those of none. Our estimate.
_ANOTHER: Final = 0.25
_CERTAIN_ODDS: Final = 1e9
_WORTH_TELLING: Final = 1e-3  # money: a check that saves less is none
_TOLD: Final = 6  # of the checks, best first, whose outcomes are worked out
# Two that may stand together at one corner, and how often beside two that have nothing to do with each other.
_PAIRS: Final = tuple(
    (joint, other)
    for joint in (Cause.JOINT, Cause.NUTS)
    for other in (Cause.HUB, Cause.ROTOR, Cause.STACK, Cause.BENT, Cause.CORROSION, Cause.DEPOSIT)
)
_TOGETHER: Final = 8.0  # wheels that were off once were off for both; our estimate


_BUILT_IN: Final[Mapping[str, float]] = {cause.value: rate for cause, rate in BASE_RATES.items()}
NOTHING_TOLD: Final = Complaint()
UNKNOWN_VEHICLE: Final = VehicleFacts()
USUAL_SHOP: Final = Shop()


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """One line of the ledger: a sign's weight for a cause against all others, in decibans (10·log₁₀ of the odds)."""

    seen: Seen
    decibans: float


@dataclass(frozen=True, slots=True)
class CheckOutcome:
    """What a check may find, how likely that is, and a cause with its probability then.

    It is the cause then ahead; where that is the same for the first two outcomes, the one that they tell apart most.
    """

    name: str
    probability: float
    cause: Cause
    cause_probability: float


@dataclass(frozen=True, slots=True)
class NextCheck:
    """A check not yet done: code, corner, minutes, what it saves on average (money).

    ``worth`` is what it saves less what its minutes cost; ``index_deg`` how far to turn the rotor for it. ``finds``
    works out what each outcome would do: only who reads it needs to know. ``why`` is a code where it saves for another
    reason than the causes that it tells apart.
    """

    check: str
    position: str | None
    minutes: int
    saves: float
    worth: float
    finds: Callable[[], tuple[CheckOutcome, ...]] | None = field(default=None, compare=False, repr=False)
    index_deg: float | None = None
    why: str | None = None

    @property
    def outcomes(self) -> tuple[CheckOutcome, ...]:
        """What it may find: first the likeliest, then the one most worth telling beside it; none where not known."""
        return self.finds() if self.finds is not None else ()


@dataclass(frozen=True, slots=True, eq=False)
class Differential:
    """The weighed causes: how likely each is to be there, likeliest first (two may be); odds that a corner is faulty.

    ``hypotheses`` are (cause, position or None for the vehicle's, probability) of everything that was weighed.
    Checks stand best first. ``tell_signs`` works out the ledger.
    """

    causes: tuple[tuple[Cause, float], ...]
    hypotheses: tuple[tuple[Cause, str | None, float], ...]
    corners: Mapping[str, float]
    tell_signs: Callable[[], Mapping[Cause, tuple[LedgerLine, ...]]]
    checks: tuple[NextCheck, ...]
    holes: tuple[tuple[str, str], ...]  # (position, runout or thickness) still unmeasured

    @property
    def ledger(self) -> Mapping[Cause, tuple[LedgerLine, ...]]:
        """What each sign weighs for the likeliest causes, the heaviest first: worked out each time it is asked for."""
        return self.tell_signs()

    @property
    def settled(self) -> bool:
        """Whether no check is worth its minutes any more."""
        return all(check.worth <= 0 for check in self.checks)

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
    mended: Sequence[CornerVerdict] = (),
    shop: Shop = USUAL_SHOP,
) -> Differential:
    """Weigh the causes of one vehicle with corners at ``positions``, of which ``verdicts`` tell some.

    ``certain`` are causes seen or measured outright, by position: nothing else is to blame there. ``mended`` are
    corners, not among ``verdicts``, whose fault was found and put right: of what may be left there only what no work on
    a disc mends is to blame for what is felt after it, a bearing that nobody rocked or a caliper that sticks. What was
    put right beside the discs, driven since and still felt, is out.
    """
    grid = _grid(tuple(positions), _without_drum((*verdicts, *mended)))
    seen = signs_of(positions, verdicts, complaint, vehicle, mended)
    ratios = np.array([_log_ratio(s.sign.name, s.outcome, s.position, grid) for s in seen])
    ratios = ratios.reshape(len(seen), len(grid.hypotheses))
    if complaint.still_felt:
        felt = [s.sign.name for s in seen].index(table.AFTER_WORK.name)
        ratios[felt, _no_longer_felt(verdicts, grid)] = ratios[felt, grid.nothing]
    log_prior = _log_prior(grid, complaint.felt_in, tuple((base_rates or _BUILT_IN).items()))
    for verdict in mended:
        log_prior = np.where(_mended_at(verdict, grid), -math.inf, log_prior)
    for cause, position in cleared_beside(complaint):
        log_prior = np.where([h == ((cause,), position) for h in grid.hypotheses], -math.inf, log_prior)
    if complaint.still_felt and mended:  # what brought it in was found and mended: that nothing else is left is usual
        log_prior = np.where(np.arange(len(log_prior)) == grid.nothing, 0.0, log_prior)
    log_odds = log_prior + ratios.sum(axis=0)
    for position, cause in (certain or {}).items():
        named = grid.at[position] & np.array([h.causes == (cause,) for h in grid.hypotheses])
        log_odds = np.where(named, math.log(_CERTAIN_ODDS), np.where(grid.at[position], -math.inf, log_odds))
    odds = np.exp(np.minimum(log_odds, math.log(_CERTAIN_ODDS)))[:, None]
    chances = _chances(odds, grid)
    there = _there(odds, grid)[:, 0]
    causes = tuple(sorted(((c, float(there[_ORDER[c]])) for c in grid.listed), key=lambda item: -item[1]))
    single = (grid.marginal @ chances)[:, 0].tolist()
    asked = {s.sign.name for s in seen if s.position is None}
    checks = _checks(positions, verdicts, mended, grid, odds, asked, shop)
    return Differential(
        causes=causes,
        hypotheses=tuple((cause, where, p) for (cause, where), p in zip(grid.singles, single, strict=True)),
        corners={p: float(chances[grid.at[p], 0].sum()) for p in positions},
        tell_signs=partial(_ledgers, [cause for cause, _ in causes[:3]], grid, log_odds, ratios, seen),
        checks=checks,
        holes=_holes([p for p in positions if all(v.position != p for v in mended)], verdicts),
    )


def _no_longer_felt(verdicts: Sequence[CornerVerdict], grid: "_Grid") -> BoolArray:
    """Return which dirt or nuts (n,) were put right to be swept: driven since, they are not what is still felt.

    Where that took out much it was to blame, and may have been put right after the drive.
    """
    gone = {
        (verdict.position, cause)
        for verdict in verdicts
        if (joint_took_mm(verdict) or 0.0) < MUCH * verdict.measured.corner.spec.max_runout_mm
        for cause in put_right(verdict)
    }
    return np.array([all((h.position, cause) in gone for cause in h.causes) for h in grid.hypotheses])


def _mended_at(verdict: CornerVerdict, grid: "_Grid") -> BoolArray:
    """Return what is no longer to blame at a mended corner (n,): its root cause, and all that work on a disc mends."""
    beside = STANDS_BESIDE - {verdict.root_cause}
    mended: BoolArray = grid.at[verdict.position] & np.array([not set(h.causes) <= beside for h in grid.hypotheses])
    return mended


@lru_cache(maxsize=64)
def _money(grid: "_Grid", shop: Shop) -> Stakes:
    return stakes([h.causes for h in grid.hypotheses], shop)


class _Hypothesis(NamedTuple):
    causes: tuple[Cause, ...]
    position: str | None


_ORDER: Final = {cause: k for k, cause in enumerate(Cause)}
_BY_ORDER: Final = tuple(Cause)


@dataclass(frozen=True, slots=True, eq=False)
class _Grid:
    """What may be to blame on one layout of wheels: hypotheses (n,), at most one a place (a corner, or the vehicle).

    ``at`` are masks (n,) by position, ``places`` all of them (places, n). ``nothing`` is the hypothesis that nothing is
    wrong. ``singles`` are (cause, position), ``marginal`` (singles, n) adds hypotheses up to them, ``others``
    (causes · places, n) adds up, place by place, those that do not hold a cause.
    """

    hypotheses: tuple[_Hypothesis, ...]
    at: Mapping[str | None, BoolArray]
    places: FloatArray
    nothing: int
    listed: tuple[Cause, ...]
    singles: tuple[tuple[Cause, str | None], ...]
    marginal: FloatArray
    others: FloatArray


def _without_drum(verdicts: Sequence[CornerVerdict]) -> frozenset[str]:
    """Return the corners that are known to have no drum: a drum is to blame only where there may be one."""
    return frozenset(
        v.position
        for v in verdicts
        if "drum_in_hat" not in v.measured.corner.spec.features and "drum_out_of_round" not in v.measured.noted
    )


@lru_cache(maxsize=64)
def _grid(positions: tuple[str, ...], no_drum: frozenset[str]) -> _Grid:
    """List what may be to blame; a drum only at the rear, unless the rotor is known to have none."""
    hypotheses: list[_Hypothesis] = []
    for cause in BASE_RATES:
        if cause in OF_THE_VEHICLE:
            hypotheses.append(_Hypothesis((cause,), None))
        else:
            drum = cause in REAR_ONLY
            held = [p for p in positions if not drum or (end_of(p) == "rear" and p not in no_drum)]
            hypotheses += [_Hypothesis((cause,), p) for p in held]
    singles = tuple((h.causes[0], h.position) for h in hypotheses)
    hypotheses += [_Hypothesis(pair, p) for pair in _PAIRS for p in positions]
    where = {p: np.array([h.position == p for h in hypotheses]) for p in (*positions, None)}
    nothing = hypotheses.index(_Hypothesis((Cause.NONE,), None))
    where[None][nothing] = False  # the absence of a fault is no fault of the vehicle's
    places = np.array(list(where.values()), dtype=float)
    holds = np.array([[cause in h.causes for h in hypotheses] for cause in Cause])
    return _Grid(
        hypotheses=tuple(hypotheses),
        at=where,
        places=places,
        nothing=nothing,
        listed=tuple(dict.fromkeys(cause for cause, _ in singles)),
        singles=singles,
        marginal=np.array([[c in h.causes and h.position == p for h in hypotheses] for c, p in singles], dtype=float),
        others=(places[None, :, :] * ~holds[:, None, :]).reshape(-1, len(hypotheses)).astype(float),
    )


def _chances(odds: FloatArray, grid: _Grid) -> FloatArray:
    """Return P(hypothesis) (n, c) for columns of odds (n, c): faults stand independently of each other.

    Z = o(nothing) + Π_places (1 + Σ o) − 1, and P(h) = o_h · Π_other places (1 + Σ o) / Z.
    """
    place = grid.places @ odds
    together = np.prod(1 + place, axis=0)
    total = odds[grid.nothing] + together - 1
    chances: FloatArray = odds * (grid.places.T @ (together / (1 + place) / total))
    chances[grid.nothing] = odds[grid.nothing] / total
    return chances


def _there(odds: FloatArray, grid: _Grid) -> FloatArray:
    """Return P(cause anywhere) (causes, c): one less what all sets of faults without it weigh."""
    places, weight = len(grid.places), _weight(odds, grid)
    without = np.prod(1 + (grid.others @ odds).reshape(-1, places, odds.shape[1]), axis=1)
    there: FloatArray = 1 - (odds[grid.nothing] + without - 1) / weight
    there[_ORDER[Cause.NONE]] = odds[grid.nothing] / weight
    return there.clip(0.0, 1.0)


def corner_odds(positions: Sequence[str], complaint: Complaint) -> dict[str, float]:
    """Return how likely each corner is to hold the culprit by feel alone: the first order of measuring. None is 0."""
    felt = complaint.felt_in
    weight = {p: math.prod(table.FELT[f][end_of(p)] for f in felt) for p in positions}
    total = sum(weight.values())
    return {p: _SPREAD / len(positions) + (1 - _SPREAD) * w / total for p, w in weight.items()}


@lru_cache(maxsize=256)
def _log_prior(grid: _Grid, felt: tuple[str, ...], rates: tuple[tuple[str, float], ...]) -> FloatArray:
    """Return the log of every hypothesis' odds against a clean place before any sign; the feel orders the corners."""
    base_rates = dict(rates)
    positions = sorted({p for _, p in grid.singles if p is not None})
    odds = corner_odds(positions, Complaint(felt_in=felt))
    axle = math.prod(table.FELT[f]["vehicle"] for f in felt)
    any_corner = sum(math.prod(table.FELT[f][end_of(p)] for f in felt) for p in positions) / len(positions)
    rear = max(sum(end_of(p) == "rear" for p in positions), 1)
    # A cause that older base rates do not name is as usual as it is in ours, beside those they name.
    named = sum(rate for cause, rate in _BUILT_IN.items() if cause in base_rates)
    scale = sum(base_rates.values()) / named if named else 1.0
    share: dict[tuple[Cause, str | None], float] = {}
    for cause, position in grid.singles:
        rate = base_rates.get(cause, _BUILT_IN[cause] * scale)
        if position is None:
            share[cause, position] = rate * axle / any_corner
        else:
            share[cause, position] = rate * (1 / rear if cause in REAR_ONLY else odds[position])
    faults = sum(rate for (cause, _), rate in share.items() if cause is not Cause.NONE) or 1.0
    prior = []
    for causes, position in grid.hypotheses:
        own = [max(share[cause, position] / faults, _LEAST) * _ANOTHER for cause in causes]
        prior.append(math.prod(own) * (_TOGETHER if len(own) > 1 else 1.0))
    log_prior: FloatArray = np.log(np.array(prior))
    return log_prior


@lru_cache(maxsize=4096)
def _log_ratio(sign: str, outcome: str, position: str | None, grid: _Grid) -> FloatArray:
    """Return log P(sign | hypothesis) / P(sign | clean) (n,); a sign of another corner speaks as of a clean one."""
    k = table.BY_NAME[sign].outcomes.index(outcome)
    clean = _clean(sign)[k]
    ratio: FloatArray = np.log(_odds(sign, position, grid)[:, k] / clean)
    return ratio


@lru_cache(maxsize=1024)
def _odds(sign: str, position: str | None, grid: _Grid) -> FloatArray:
    """Return P(outcome | hypothesis), (n, outcomes): of two that stand together the one that speaks louder."""
    table_of, clean = _matrix(sign), _clean(sign)
    loud = np.abs(np.log(table_of / clean)).max(axis=1)
    rows = []
    for causes, where in grid.hypotheses:
        of_it = position is None or where == position or _anywhere(table.BY_NAME[sign], causes[0])
        cause = max(causes, key=lambda c: loud[_ORDER[c]])
        rows.append(table_of[_ORDER[cause]] if of_it else clean)
    return np.array(rows)


@cache
def _matrix(name: str) -> FloatArray:
    """Return a sign's odds as an array over all causes."""
    return np.array([table.BY_NAME[name].column(cause) for cause in Cause])


@cache
def _clean(name: str) -> FloatArray:
    return np.array(table.BY_NAME[name].column(None))


def _anywhere(sign: Sign, cause: Cause) -> bool:
    """A finding that is a vehicle's (play in a joint, a tyre, anti-lock) is noted at whichever corner it was seen."""
    return cause in OF_THE_VEHICLE and (sign.name.startswith("seen:") or sign.name == table.JOINT_PLAY.name)


def _ledgers(
    causes: Sequence[Cause], grid: _Grid, log_odds: FloatArray, ratios: FloatArray, seen: Sequence[Seen]
) -> dict[Cause, tuple[LedgerLine, ...]]:
    """Return each sign's weight of evidence for a cause: 10·log₁₀ of its odds with the sign over those without."""
    if not seen:
        return dict.fromkeys(causes, ())
    without = np.exp(np.minimum(log_odds[:, None] - ratios.T, math.log(_CERTAIN_ODDS)))  # (n, signs)
    with_all = np.exp(np.minimum(log_odds, math.log(_CERTAIN_ODDS)))[:, None]
    after, before = (np.clip(_there(odds, grid), 1e-12, 1 - 1e-12) for odds in (with_all, without))
    moved = 10 * (np.log10(after / (1 - after)) - np.log10(before / (1 - before)))  # (causes, signs)
    return {
        cause: tuple(
            sorted(
                (LedgerLine(s, weight) for s, weight in zip(seen, moved[_ORDER[cause]].tolist(), strict=True)),
                key=lambda line: -abs(line.decibans),
            )
        )
        for cause in causes
    }


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
    mended: Sequence[CornerVerdict],
    grid: _Grid,
    odds: FloatArray,
    vehicle_signs: set[str],
    shop: Shop,
) -> tuple[NextCheck, ...]:
    """Weigh every check not yet done by what it saves, less its minutes, best first."""
    by_position = {v.position: v for v in (*verdicts, *mended)}
    finished = {v.position for v in mended}
    money = _money(grid, shop)
    uneven = _uneven(positions, by_position, grid)
    now = float(_lost(_chances(odds, grid), grid, money, uneven[:, None])[0])
    ways: list[tuple[str, str | None, tuple[str, ...]]] = []
    minutes: list[int] = []
    for position in positions:
        verdict = by_position.get(position)
        opening = 0 if verdict is not None and verdict.measured.anything else OPENING_MINUTES
        for check, signs in _open_at(verdict, mended=position in finished):
            ways.append((check, position, tuple(sign.name for sign in signs)))
            minutes.append(MINUTES[check] + opening)
    if "road_test" not in vehicle_signs:
        ways.append(("road_test", None, (table.ROAD_TEST.name,)))
        minutes.append(MINUTES["road_test"])
    if table.HARD_ONLY.name not in vehicle_signs:
        ways.append(("ask_driver", None, (table.HARD_ONLY.name,)))
        minutes.append(MINUTES["ask_driver"])
    if not ways:
        return ()
    shown = _what_checks_show(tuple((position, signs) for _, position, signs in ways), grid)
    after = odds * shown.ratios
    before, total = _weight(odds, grid), _weight(after, grid)
    chances = shown.clean * total / before  # P(outcome), since a set of faults weighs its odds
    ends = [*shown.starts[1:], len(shown.names)]
    chances /= np.repeat(np.add.reduceat(chances, shown.starts), np.diff([*shown.starts, len(shown.names)]))
    each = _chances(after, grid)
    lost = _lost(each, grid, money, np.where(shown.uneven < 0, uneven[:, None], shown.uneven))
    saves = np.maximum(now - np.add.reduceat(chances * lost, shown.starts), 0.0).tolist()
    labour = shop.minute_of_checking
    checks = [
        (
            NextCheck(check, position, minutes[k], saves[k], saves[k] - minutes[k] * labour),
            slice(shown.starts[k], ends[k]),
        )
        for k, (check, position, _) in enumerate(ways)
        if saves[k] > _WORTH_TELLING
    ]
    checks.sort(key=lambda pair: best_first(pair[0]))
    if not checks:
        return ()
    told = (
        replace(weighed, finds=partial(_outcomes, shown.names[own], chances[own], after[:, own], grid))
        for weighed, own in checks[:_TOLD]
    )
    return (*told, *(check for check, _ in checks[_TOLD:]))


def _outcomes(names: Sequence[str], chances: FloatArray, odds: FloatArray, grid: _Grid) -> tuple[CheckOutcome, ...]:
    """Return what the outcomes (c,) of one check tell: ``chances`` (c,) of each, ``odds`` (n, c) after it.

    First the likeliest, then the one most worth telling beside it: likely, and leaving other causes ahead.
    """
    there = _there(odds, grid)
    first = int(chances.argmax())
    second = int((chances * np.abs(there - there[:, [first]]).sum(axis=0)).argmax())
    best = there.argmax(axis=0)
    if second != first and best[first] == best[second]:
        best[[first, second]] = np.abs(there[:, first] - there[:, second]).argmax()
    ahead = there[best, np.arange(len(best))].tolist()
    told = [
        CheckOutcome(name, chance, _BY_ORDER[k], odds_ahead)
        for name, chance, k, odds_ahead in zip(names, chances.tolist(), best.tolist(), ahead, strict=True)
    ]
    shown = dict.fromkeys((first, second))
    return (*(told[k] for k in shown), *(outcome for k, outcome in enumerate(told) if k not in shown))


def best_first(check: NextCheck) -> tuple[bool, float]:
    """Checks worth their minutes come first, those that save most for their time before the others."""
    return check.worth <= 0, -round(check.saves / check.minutes, 4)


def _weight(odds: FloatArray, grid: _Grid) -> FloatArray:
    """Return what all sets of faults weigh together (c,)."""
    weight: FloatArray = odds[grid.nothing] + np.prod(1 + grid.places @ odds, axis=0) - 1
    return weight


def _lost(chances: FloatArray, grid: _Grid, money: Stakes, uneven: FloatArray) -> FloatArray:
    """Return what acting now loses on average (c,): at every place the work that loses least, over what may be wrong.

    ``uneven`` (n, c): how likely the disc is uneven too, where its runout alone is mended.
    """
    works, n = money.losses.shape
    own = money.losses[:, None, :] * grid.places  # (works, places, n)
    left = money.stays[:, None, :] * grid.places
    lost = (own.reshape(-1, n) @ chances + left.reshape(-1, n) @ (chances * uneven)).reshape(
        works, -1, chances.shape[1]
    )
    lost += money.bills[:, None, None]
    total: FloatArray = lost.min(axis=0).sum(axis=0)
    return total


def _uneven(positions: Sequence[str], by_position: Mapping[str, CornerVerdict], grid: _Grid) -> FloatArray:
    """Return how likely the disc is uneven beside a runout (n,): measured, else as the table has it for the cause."""
    over = table.VARIATION_OVER.outcomes.index("far over"), table.VARIATION_OVER.outcomes.index("over")
    uneven = np.zeros(len(grid.hypotheses))
    for position in positions:
        verdict = by_position.get(position)
        state = verdict.measured.thickness.state_variation if verdict is not None else State.UNKNOWN
        usual = _odds(table.VARIATION_OVER.name, position, grid)[:, list(over)].sum(axis=1)
        here = {State.OVER: 1.0, State.WITHIN: 0.0, State.TOO_CLOSE: 0.3}.get(state)
        uneven[grid.at[position]] = (usual if here is None else np.full(uneven.size, here))[grid.at[position]]
    return uneven


class _Shown(NamedTuple):
    """Every outcome of every check side by side (c,): its name, where each check begins, P(outcome | clean).

    ``ratios`` (n, c) are P(outcome | hypothesis) over P(outcome | clean); ``uneven`` (n, c) what an outcome tells of
    the disc's thickness at that corner, −1 where it tells nothing of it.
    """

    names: list[str]
    starts: list[int]
    clean: FloatArray
    ratios: FloatArray
    uneven: FloatArray


@lru_cache(maxsize=256)
def _what_checks_show(ways: tuple[tuple[str | None, tuple[str, ...]], ...], grid: _Grid) -> _Shown:
    names: list[str] = []
    starts: list[int] = []
    clean: list[FloatArray] = []
    ratios: list[FloatArray] = []
    uneven: list[FloatArray] = []
    n = len(grid.hypotheses)
    for position, signs in ways:
        own, base, ratio, state = [""], np.ones(1), np.ones((n, 1)), np.full(1, -1.0)
        for sign in signs:
            outcomes = table.BY_NAME[sign].outcomes
            own = [f"{name} · {outcome}" if name else outcome for name in own for outcome in outcomes]
            here = _odds(sign, position, grid) / _clean(sign)
            ratio = (ratio[:, :, None] * here[:, None, :]).reshape(n, -1)
            base = (base[:, None] * _clean(sign)[None, :]).reshape(-1)
            tells = [_EVEN.get(outcome, -1.0) if sign == table.VARIATION_OVER.name else -1.0 for outcome in outcomes]
            state = np.maximum(state[:, None], np.array(tells)[None, :]).reshape(-1)
        starts.append(len(names))
        names += own
        clean.append(base)
        ratios.append(ratio)
        at = grid.at[position] if position is not None else np.zeros(n, dtype=bool)
        uneven.append(np.where(at[:, None], state[None, :], -1.0))
    return _Shown(names, starts, np.concatenate(clean), np.concatenate(ratios, 1), np.concatenate(uneven, 1))


_EVEN: Final = {"far over": 1.0, "over": 1.0, "close": 0.3, "within": 0.0}


# A first sweep is mostly made as the disc came in: dirt and uneven nuts show in it, too.
_FIRST_SWEEP: Final = (table.DIRTY_RUNOUT_OVER,)


def _open_at(verdict: CornerVerdict | None, *, mended: bool = False) -> list[tuple[str, tuple[Sign, ...]]]:
    """Return the checks still open at a corner, each with the signs it would give; a mended disc is left alone."""
    if verdict is None:
        return [
            ("sweep_rotor", _FIRST_SWEEP),
            ("measure_thickness", (table.VARIATION_OVER, table.UNDER_DISCARD)),
            ("bearing_play", (table.BEARING_PLAY_OVER, table.JOINT_PLAY)),
            ("inspect_pads_and_slides", (table.PADS_UNEVEN, table.JOINT_PLAY)),
        ]
    checks: list[tuple[str, tuple[Sign, ...]]] = []
    runout, corner = verdict.measured.runout, verdict.measured.corner
    if mended:
        pass
    elif runout.tir is None:
        checks.append(("sweep_rotor", _FIRST_SWEEP))
    elif set(runout.flags) & set(CONDITION_CHECKS):
        if runout.state is not State.WITHIN:  # a joint that lets the disc run true as it came in needs no cleaning
            flag = next(flag for flag in CONDITION_CHECKS if flag in runout.flags)
            checks.append((CONDITION_CHECKS[flag], (table.JOINT_TOOK, table.RUNOUT_OVER)))
    elif runout.state is State.OVER and not verdict.measured.whose.told_apart and verdict.separating is not None:
        checks.append((verdict.separating.check, (table.WHOSE,)))
    if verdict.measured.thickness.result is None and not mended:
        checks.append(("measure_thickness", (table.VARIATION_OVER, table.UNDER_DISCARD)))
    rocked = () if corner.bearing_play_mm is not None or corner.pads is not None else (table.JOINT_PLAY,)
    if corner.bearing_play_mm is None and corner.spec.max_bearing_play_mm is not None:
        checks.append(("bearing_play", (table.BEARING_PLAY_OVER, *rocked)))
    if corner.pads is None:
        checks.append(("inspect_pads_and_slides", (table.PADS_UNEVEN, *rocked)))
    return checks
