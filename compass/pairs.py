"""One plan for both sides of an axle: what is cut or replaced on one side is cut or replaced on the other (rule 7)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from compass.findings import CONDITION_CHECKS, Findings
from compass.limits import State
from compass.policies import POLICIES, Policy, rank_key, ranked
from compass.remedies.outcome import Remedy
from compass.verdict import CornerVerdict

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


def axle_of(position: str) -> str:
    """Return the axle of a position: FL → F, A1R → A1; a motorcycle's wheel is its own."""
    return position if position in ("F", "R") else position[:-1]


def kind_of_metal(remedy: str | None) -> str | None:
    """Return what the axle's other side must have too, or None where the metal is left alone."""
    return None if remedy is None else _ALIKE.get(remedy)


def plan_axle(corners: Sequence[CornerVerdict], *, policy: str) -> AxlePlan:
    """Decide one axle's corners together under a policy; a corner without remedies is yet to be measured.

    A side that must first have its bearing seen to or its joint cleaned lets the axle's metal wait (rules 3, 4, 7).
    """
    school = POLICIES[policy]
    must = {c.position: _must(c) for c in corners}
    free = [c for c in corners if must[c.position] is None and c.remedies]
    kinds = (None,) if any(must.values()) else (None, *dict.fromkeys(_ALIKE.values()))
    plans = [plan for kind in kinds if (plan := _plan(free, kind, school)) is not None]
    chosen = min(plans, key=lambda plan: _plan_key(plan, free, school)) if plans else _waiting(free, school)
    told: dict[str, str | None] = {c.position: must[c.position] for c in corners}
    told |= {p: r.code for p, r in chosen.items()}
    metal = next((kind for p in told if (kind := kind_of_metal(told[p]))), None)
    if metal == "new_rotors":  # needs no measuring to be fitted in pairs
        told |= {c.position: metal for c in corners if not c.remedies}
    by_code = {c.position: {r.code: r for r in c.remedies} for c in corners}
    bills = [by_code[p][code] for p, code in told.items() if code is not None and code in by_code[p]]
    own = {c.position: _own(c, school) for c in free}
    return AxlePlan(
        positions=tuple(c.position for c in corners),
        remedies=told,
        price=sum(r.price for r in bills),
        minutes=sum(r.minutes for r in bills),
        for_the_other=tuple(p for p in told if metal and _not_its_own(own.get(p), metal)),
        waits_for=tuple(p for p, first in must.items() if first is not None and not chosen and free),
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


def leaves_alone(found: Findings) -> bool:
    """Whether the corner is within on everything: no policy treats it for its own sake."""
    within = (found.runout.state, found.thickness.state_variation) == (State.WITHIN, State.WITHIN)
    return within and not (found.broken or found.worn or found.bearing_over)


def _own(corner: CornerVerdict, policy: Policy) -> Remedy | None:
    """Return what the corner would get for its own sake, or None where something must be known first."""
    best = next((r for r in ranked(corner.remedies, policy) if r.feasible), None)
    if best is not None and leaves_alone(corner.found):
        return next((r for r in corner.remedies if r.code == "none" and r.feasible), best)
    return best


def _must(corner: CornerVerdict) -> str | None:
    """Return the one remedy a corner needs before the axle can be decided: the bearing, or a clean joint."""
    if corner.found.bearing_over:
        return "hub_unit"
    done = corner.found.broken or corner.found.worn
    if set(corner.found.runout.flags) & set(CONDITION_CHECKS) and not done:
        return "clean_and_torque"
    return None


def _not_its_own(own: Remedy | None, metal: str) -> bool:
    return own is None or kind_of_metal(own.code) != metal


def _waiting(free: Sequence[CornerVerdict], policy: Policy) -> dict[str, Remedy]:
    """Return what can be said while the axle waits: a disc that is done is replaced whatever else comes first."""
    done = [c for c in free if c.found.broken or c.found.worn]
    return {c.position: own for c in done if (own := _own(c, policy)) is not None}


def _plan(corners: Sequence[CornerVerdict], kind: str | None, policy: Policy) -> dict[str, Remedy] | None:
    """Return the best remedy of one kind for every corner, or None where a corner has none of it."""
    chosen: dict[str, Remedy] = {}
    for corner in corners:
        fitting = [r for r in corner.remedies if r.feasible and kind_of_metal(r.code) == kind]
        own = _own(corner, policy)
        best = own if own in fitting else min(fitting, key=lambda r: rank_key(r, policy), default=None)
        if best is None:
            return None
        chosen[corner.position] = best
    return chosen or None


def _plan_key(plan: dict[str, Remedy], corners: Sequence[CornerVerdict], policy: Policy) -> tuple[float, float, float]:
    """Return what plans are sorted by: the needing side's odds and school, the cost of both."""
    keys = {p: rank_key(r, policy) for p, r in plan.items()}
    needing = [keys[c.position] for c in corners if not leaves_alone(c.found)] or list(keys.values())
    return (max(key[1] for key in needing), max(key[2] for key in needing), sum(key[3] for key in keys.values()))
