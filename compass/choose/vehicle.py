"""Every remedy at every corner, decided axle by axle."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from compass.cause.measured import Reason
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Chosen, plan_axle, with_other_side
from compass.choose.offers import predict
from compass.choose.policies import POLICIES, ranked
from compass.evidence.shop import Shop
from compass.ground.positions import axle_of, is_single

ChoosesAxle = Callable[[Sequence[CornerVerdict], Shop, str | None], tuple[tuple[Chosen, ...], AxlePlan]]


def choose(
    corners: Sequence[CornerVerdict], *, shop: Shop, kind: str | None = None, choosing: ChoosesAxle | None = None
) -> tuple[tuple[Chosen, ...], tuple[AxlePlan, ...]]:
    """Choose for every axle; ``choosing`` may be a caller's own ``choose_axle`` that remembers its answers."""
    axles: dict[str, list[CornerVerdict]] = {}
    for corner in corners:
        axles.setdefault(axle_of(corner.position), []).append(corner)
    both = [(choosing or choose_axle)(sides, shop, kind) for sides in axles.values()]
    by_position = {chosen.position: chosen for sides, _plan in both for chosen in sides}
    return tuple(by_position[corner.position] for corner in corners), tuple(plan for _sides, plan in both)


def choose_axle(
    corners: Sequence[CornerVerdict], shop: Shop, kind: str | None = None
) -> tuple[tuple[Chosen, ...], AxlePlan]:
    """Predict every remedy at every corner of one axle and decide for both sides together."""
    done = {corner.position for corner in corners if corner.measured.broken or corner.measured.worn}
    predicted = [
        predict(corner.measured, shop, kind=kind, renewed_anyway=bool(done - {corner.position})) for corner in corners
    ]
    policy = POLICIES[shop.policy]
    both = []
    for corner, remedies in zip(corners, predicted, strict=True):
        mate_known = any(theirs for other, theirs in zip(corners, predicted, strict=True) if other is not corner)
        billed = with_other_side(remedies, mate_known=mate_known, single=is_single(corner.position))
        both.append(Chosen(corner, ranked(billed, policy), corner.recommended, corner.because))
    plan = plan_axle(both, policy=shop.policy)
    return tuple(_decided(chosen, plan) for chosen in both), plan


def _decided(chosen: Chosen, plan: AxlePlan) -> Chosen:
    """Return a corner with what its axle's plan gives it, first among its remedies, and why for the other's sake."""
    code = plan.remedies[chosen.position]
    first = [r for r in chosen.remedies if r.code == code]
    rest = [r for r in chosen.remedies if r.code != code]
    reasons = list(chosen.because)
    if chosen.position in plan.for_the_other:
        reasons.append(Reason("both_sides_alike", {"remedy": code}))
    elif plan.waits_for and code is None:
        reasons.append(Reason("axle_waits", {"positions": plan.waits_for}))
    if code == "new_rotors" and not first:  # unmeasured, in a pair
        return replace(chosen, recommended=code, because=tuple(reasons))
    if not chosen.remedies:
        return replace(chosen, because=tuple(reasons))
    return replace(chosen, remedies=(*first, *rest), recommended=code, because=tuple(reasons))
