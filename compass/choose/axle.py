"""One plan for both sides of an axle: what is cut or replaced on one side is cut or replaced on the other (rule 7)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from compass.cause.measured import Measured, Reason
from compass.cause.verdict import CornerVerdict
from compass.choose.policies import POLICIES, Policy, rank_key, ranked
from compass.choose.remedies.outcome import Remedy
from compass.choose.rules import NOTHING_OVER, OTHER_SIDE_NEEDS_METAL, WANTS_MEASURING
from compass.ground.limits import State

# What both sides must have alike; None keeps the metal as it is.
_ALIKE: Final = {
    "bench_cut": "bench_cut",
    "bench_cut+plate": "bench_cut",
    "on_vehicle_cut": "on_vehicle_cut",
    "new_rotors": "new_rotors",
    "new_rotors+plate": "new_rotors",
    "new_rotors+index": "new_rotors",
    "new_rotors+on_vehicle_cut": "new_rotors+on_vehicle_cut",
}


@dataclass(frozen=True, slots=True)
class Chosen:
    """A corner with what each remedy would leave of it, best first, and what its axle's plan gives it, with reasons."""

    corner: CornerVerdict
    remedies: tuple[Remedy, ...]
    recommended: str | None
    because: tuple[Reason, ...]

    @property
    def position(self) -> str:
        """Which corner."""
        return self.corner.position

    @property
    def measured(self) -> Measured:
        """All that is known of it."""
        return self.corner.measured


@dataclass(frozen=True, slots=True)
class AxlePlan:
    """What one axle gets: remedies by position (None where something must be done or known first), bill of both.

    ``for_the_other`` are sides treated for the other's sake, ``waits_for`` sides that hold up what metal needs.
    """

    positions: tuple[str, ...]
    remedies: dict[str, str | None]
    price: float
    minutes: float
    for_the_other: tuple[str, ...] = ()
    waits_for: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Lane:
    """One way for a whole axle: what each measured side gets, for the sake of ``lead``, and the bill of all of it.

    ``blocked`` are (position, rule) pairs; the other side's rules count too where both must have alike.
    """

    code: str
    lead: str
    remedies: dict[str, Remedy]
    blocked: tuple[tuple[str, str], ...]
    price: float
    minutes: float
    cost: float

    @property
    def feasible(self) -> bool:
        """Whether no rule stands against it on either side."""
        return not self.blocked

    @property
    def own(self) -> Remedy:
        """The remedy of the side it is for."""
        return self.remedies[self.lead]


def kind_of_metal(remedy: str | None) -> str | None:
    """Return what the axle's other side must have too, or None where the metal is left alone."""
    return None if remedy is None else _ALIKE.get(remedy)


def plan_axle(corners: Sequence[Chosen], *, policy: str) -> AxlePlan:
    """Decide one axle's corners together under a policy; a corner without remedies is yet to be measured.

    A side that must first have its bearing seen to or its joint cleaned lets the axle's metal wait (rules 3, 4, 7), and
    no metal is cut or replaced while nothing on the axle is over a limit.
    """
    school = POLICIES[policy]
    must = {c.position: _must(c, school) for c in corners}
    free = [c for c in corners if must[c.position] is None and c.remedies]
    metal_waits = any(must.values()) or not any(_is_over(c) for c in corners)
    kinds = (None,) if metal_waits else (None, *dict.fromkeys(_ALIKE.values()))
    if not all(c.remedies for c in corners):  # a new rotor is fitted unmeasured, and is not matched so
        kinds = tuple(kind for kind in kinds if kind != "new_rotors+on_vehicle_cut")
    plans = [plan for kind in kinds if (plan := _plan(free, kind, school)) is not None]
    blamed = {c.position for c in free if c.corner.to_blame}
    if blamed:  # what is felt is not left as it is, where anything else can be done
        plans = [plan for plan in plans if any(kind_of_metal(r.code) for r in plan.values())] or plans
    chosen = min(plans, key=lambda plan: _plan_key(plan, free, school)) if plans else _waiting(free, school)
    remedies: dict[str, str | None] = {c.position: must[c.position] for c in corners}  # None: to be measured first
    remedies |= {p: r.code for p, r in chosen.items()}
    metal = next((kind for p in remedies if (kind := kind_of_metal(remedies[p]))), None)
    if metal == "new_rotors":  # needs no measuring to be fitted in pairs
        remedies |= {c.position: metal for c in corners if not c.remedies}
    by_code = {c.position: {r.code: r for r in c.remedies} for c in corners}
    bills = [by_code[p][code] for p, code in remedies.items() if code is not None and code in by_code[p]]
    own = {c.position: _own(c, school) for c in free}
    return AxlePlan(
        positions=tuple(c.position for c in corners),
        remedies=remedies,
        price=sum(r.price for r in bills),
        minutes=sum(r.minutes for r in bills),
        for_the_other=tuple(
            p for p in remedies if metal and remedies[p] and p not in blamed and _not_its_own(own.get(p), metal)
        ),
        waits_for=tuple(p for p, first in must.items() if first is not None and not chosen and free),
    )


def lanes(corners: Sequence[Chosen], plan: AxlePlan, *, policy: str) -> tuple[Lane, ...]:
    """Return every remedy of the side that needs it most, with what the other side then gets; the plan's own first.

    Where the plan lets one side wait for what the other needs first, that is a lane, though it leaves the axle over.
    """
    measured = [c for c in corners if c.remedies]
    if not measured:
        return ()
    school, lead = POLICIES[policy], lead_of(measured)
    ways = {remedy.code: _lane(remedy, lead, measured, school) for remedy in lead.remedies}
    planned = plan.remedies[lead.position]
    if plan.waits_for or (planned is not None and not ways[planned].feasible):
        own = _lane_of(plan, measured, lead)
        planned, ways[own.code] = own.code, own

    def in_turn(lane: Lane) -> tuple[bool, bool, tuple[float, float, float], str]:
        return not lane.feasible, lane.code != planned, _plan_key(lane.remedies, measured, school), lane.code

    return tuple(sorted(ways.values(), key=in_turn))


def lead_of(corners: Sequence[Chosen]) -> Chosen:
    """Return the side that needs a remedy most: a disc or bearing that is done, then what is most over its limit."""

    def need(corner: Chosen) -> tuple[bool, bool, float]:
        measured, spec = corner.measured, corner.measured.corner.spec
        variation = measured.thickness.result.variation if measured.thickness.result is not None else None
        ratios = [
            estimate.value_mm / limit
            for estimate, limit in (
                (measured.runout.tir, spec.max_runout_mm),
                (variation, spec.max_thickness_variation_mm),
            )
            if estimate is not None
        ]
        done = bool(measured.broken or measured.worn or measured.bearing_over)
        return done, not leaves_alone(corner.corner), max(ratios, default=0.0)

    return max(corners, key=need)


def _lane(remedy: Remedy, lead: Chosen, corners: Sequence[Chosen], policy: Policy) -> Lane:
    kind = kind_of_metal(remedy.code)
    chosen = {lead.position: remedy}
    blocked = [(lead.position, rule) for rule in remedy.blocked_by]
    if kind is not None and not any(_is_over(c) for c in corners):
        blocked.append((lead.position, NOTHING_OVER))
    for mate in corners:
        if mate is lead:
            continue
        first = _must(mate, policy)
        if first is not None:
            chosen[mate.position] = next(r for r in mate.remedies if r.code == first)
            if kind is not None:
                hub = "bearing_first" if mate.measured.bearing_over else "hub_work_first"
                blocked.append((mate.position, hub if first == "hub_unit" else "clean_first"))
            continue
        own = _own(mate, policy)
        alike = [r for r in mate.remedies if kind_of_metal(r.code) == kind]
        fitting = [r for r in alike if r.feasible and not _stopgap(r, own)]
        best = own if own in fitting else min(fitting, key=lambda r: rank_key(r, policy), default=None)
        if best is not None:
            chosen[mate.position] = best
            continue
        if kind is not None:
            blocked += [(mate.position, rule) for rule in alike[0].blocked_by]
            continue
        if not _only_unmeasured(mate) and own is not None:  # that side needs metal: no plan
            chosen[mate.position] = own
            blocked.append((mate.position, OTHER_SIDE_NEEDS_METAL))
    return _billed(lead.position, chosen, blocked)


def _lane_of(plan: AxlePlan, corners: Sequence[Chosen], lead: Chosen) -> Lane:
    """Return what a plan gives now as a lane: to the side that leads, or to the one it waits for."""
    given = ((c, r) for c in (lead, *corners) for r in c.remedies if r.code == plan.remedies[c.position])
    chosen = {c.position: remedy for c, remedy in given}
    return _billed(next(iter(chosen)), chosen)


def _billed(lead: str, chosen: dict[str, Remedy], blocked: Sequence[tuple[str, str]] = ()) -> Lane:
    return Lane(
        code=chosen[lead].code,
        lead=lead,
        remedies=chosen,
        blocked=tuple(blocked),
        price=sum(r.price for r in chosen.values()),
        minutes=sum(r.minutes for r in chosen.values()),
        cost=sum(r.cost for r in chosen.values()),
    )


def with_other_side(remedies: tuple[Remedy, ...], *, mate_known: bool, single: bool) -> tuple[Remedy, ...]:
    """Let the bill hold the axle's other side where that is not among the corners measured: rotors go in pairs."""
    if mate_known or single:
        return remedies
    return tuple(
        replace(r, price=2 * r.price, minutes=2 * r.minutes, cost=r.cost + r.price, sides=2)
        if kind_of_metal(r.code)
        else r
        for r in remedies
    )


def leaves_alone(corner: CornerVerdict) -> bool:
    """Whether the corner is settled, or within on everything: no policy treats it for its own sake."""
    measured = corner.measured
    if corner.settled:
        return True
    within = (measured.runout.state, measured.thickness.state_variation) == (State.WITHIN, State.WITHIN)
    return within and not (measured.broken or measured.worn or measured.bearing_over)


def _own(corner: Chosen, policy: Policy) -> Remedy | None:
    """Return what the corner would get for its own sake, or None where something must be known first."""
    best = next((r for r in ranked(corner.remedies, policy) if r.feasible), None)
    if best is not None and leaves_alone(corner.corner):
        return next((r for r in corner.remedies if r.code == "none" and r.feasible), best)
    return best


def _is_over(corner: Chosen) -> bool:
    """Whether something is over its limit here that metal may be cut for: too close to call after a work is not."""
    return corner.measured.anything_over and not corner.corner.settled


def _must(corner: Chosen, policy: Policy) -> str | None:
    """Return the one remedy a corner needs before the axle can be decided: the bearing or hub, or a clean joint."""
    own = _own(corner, policy)
    if corner.measured.bearing_over or (own is not None and own.code == "hub_unit"):
        return "hub_unit"
    done = corner.measured.broken or corner.measured.worn
    if corner.measured.to_be_cleaned and not done:
        return "clean_and_torque"
    return None


def _only_unmeasured(corner: Chosen) -> bool:
    """Whether nothing speaks against leaving this corner alone but that something is not measured yet."""
    quiet = next((r for r in corner.remedies if r.code == "none"), None)
    return quiet is not None and set(quiet.blocked_by) <= {*WANTS_MEASURING, "turns_do_not_repeat"}


def _stopgap(remedy: Remedy, own: Remedy | None) -> bool:
    """Whether a new hub would only be what is left to do while the metal waits that this corner really needs."""
    return remedy.code == "hub_unit" and own is not None and kind_of_metal(own.code) is not None


def _not_its_own(own: Remedy | None, metal: str) -> bool:
    return own is None or kind_of_metal(own.code) != metal


def _waiting(free: Sequence[Chosen], policy: Policy) -> dict[str, Remedy]:
    """Return what can be said while the axle waits: a disc that is done is replaced whatever else comes first."""
    done = [c for c in free if c.measured.broken or c.measured.worn]
    return {c.position: own for c in done if (own := _own(c, policy)) is not None}


def _plan(corners: Sequence[Chosen], kind: str | None, policy: Policy) -> dict[str, Remedy] | None:
    """Return the best remedy of one kind for every corner, or None where a corner has none of it.

    Where no metal is touched, a side that only wants measuring holds nobody up and gets nothing yet.
    """
    chosen: dict[str, Remedy] = {}
    for corner in corners:
        own = _own(corner, policy)
        fitting = [r for r in corner.remedies if r.feasible and kind_of_metal(r.code) == kind and not _stopgap(r, own)]
        best = own if own in fitting else min(fitting, key=lambda r: rank_key(r, policy), default=None)
        if best is not None:
            chosen[corner.position] = best
        elif kind is not None or not _only_unmeasured(corner):
            return None
    return chosen or None


def _plan_key(plan: dict[str, Remedy], corners: Sequence[Chosen], policy: Policy) -> tuple[float, float, float]:
    """Return what plans are sorted by: the needing side's odds and school, the cost of both."""
    keys = {p: rank_key(r, policy) for p, r in plan.items()}
    needing = [keys[c.position] for c in corners if c.position in keys and not leaves_alone(c.corner)]
    needing = needing or list(keys.values())
    return (max(key[1] for key in needing), max(key[2] for key in needing), sum(key[3] for key in keys.values()))
