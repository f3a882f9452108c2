"""Policies: the schools of the trade as data. They re-order what the rules allow; none allows what a rule forbids."""

from dataclasses import dataclass
from typing import Final

from compass.choose.remedies.outcome import Remedy
from compass.ground.translation import _N

LIKELY: Final = 0.5  # odds of landing within: a remedy under them stands behind those over them, whatever it costs
WELL: Final = 0.8  # odds a school asks of the remedy it prefers


@dataclass(frozen=True, slots=True)
class Policy:
    """A school: the remedies it prefers, in its order, where their odds of landing within are good; and why."""

    code: str
    prefers: tuple[str, ...]
    reason: str


POLICIES: Final = {
    policy.code: policy
    for policy in (
        Policy("least_cost", (), _N("price, plus the odds of a comeback times what it costs")),
        Policy("index_first", ("index",), _N("turning the rotor on its studs is free: try it first")),
        Policy(
            "match_on_vehicle",
            ("on_vehicle_cut", "new_rotors+on_vehicle_cut"),
            _N("a disc cut true to its own hub carries nothing of it any more"),
        ),
        Policy(
            "plate",
            ("plate", "bench_cut+plate", "new_rotors+plate"),
            _N("a plate tilts the rotor back without paying the hub's runout in metal"),
        ),
        Policy(
            "replace_pairs",
            ("new_rotors", "new_rotors+index", "new_rotors+plate", "new_rotors+on_vehicle_cut"),
            _N("new discs on both sides, and be done"),
        ),
    )
}


def rank_key(remedy: Remedy, policy: Policy) -> tuple[float, ...]:
    """Return what remedies are sorted by under a policy: feasible, likely, preferred, then the least expected cost."""
    within = remedy.odds_within or 0.0
    preferred = remedy.code in policy.prefers and within >= WELL
    place = policy.prefers.index(remedy.code) if preferred else len(policy.prefers)
    return (not remedy.feasible, within < LIKELY, place, remedy.cost)


def ranked(remedies: tuple[Remedy, ...], policy: Policy) -> tuple[Remedy, ...]:
    """Return remedies best first; those a rule forbids stand last."""
    return tuple(sorted(remedies, key=lambda r: rank_key(r, policy)))
