"""Every remedy at every corner, decided axle by axle."""

from collections.abc import Sequence
from dataclasses import replace

from compass.cause.measured import Reason
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, plan_axle, with_other_side
from compass.choose.offers import predict
from compass.choose.policies import POLICIES, ranked
from compass.evidence.shop import Shop
from compass.ground.positions import axle_of


def choose(
    corners: Sequence[CornerVerdict], *, shop: Shop, kind: str | None = None
) -> tuple[tuple[CornerVerdict, ...], tuple[AxlePlan, ...]]:
    """Predict every remedy at every corner and decide axle by axle; returns the corners with it, and the plans."""
    policy = POLICIES[shop.policy]
    predicted = {c.position: predict(c.found, shop, kind=kind) for c in corners}
    axles: dict[str, list[CornerVerdict]] = {}
    for corner in corners:
        mates = [c.position for c in corners if c is not corner and axle_of(c.position) == axle_of(corner.position)]
        mate_known = any(predicted[p] for p in mates)
        told = with_other_side(predicted[corner.position], mate_known=mate_known, single=corner.position in ("F", "R"))
        axles.setdefault(axle_of(corner.position), []).append(replace(corner, remedies=ranked(told, policy)))
    plans = {axle: plan_axle(both, policy=shop.policy) for axle, both in axles.items()}
    decided = {corner.position: _decided(corner, plans[axle]) for axle, both in axles.items() for corner in both}
    return tuple(decided[c.position] for c in corners), tuple(plans.values())


def _decided(corner: CornerVerdict, plan: AxlePlan) -> CornerVerdict:
    """Return a corner with what its axle's plan gives it, first among its remedies, and why for the other's sake."""
    told = plan.remedies[corner.position]
    first = [r for r in corner.remedies if r.code == told]
    rest = [r for r in corner.remedies if r.code != told]
    reasons = list(corner.because)
    if corner.position in plan.for_the_other:
        reasons.append(Reason("both_sides_alike", {"remedy": told}))
    elif plan.waits_for and told is None:
        reasons.append(Reason("axle_waits", {"positions": plan.waits_for}))
    if told == "new_rotors" and not first:  # unmeasured, in a pair
        return replace(corner, recommended=told, because=tuple(reasons))
    if not corner.remedies:
        return replace(corner, because=tuple(reasons))
    return replace(corner, remedies=(*first, *rest), recommended=told, because=tuple(reasons))
