"""What an axle could get: its corners' evidence put to the core, and its answer as records. Reads only."""

import hashlib
import pickle
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Final

from django.db.models import Prefetch, prefetch_related_objects
from django.utils.translation import gettext_lazy

from compass.cause.corner import diagnose_corner
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Lane, lanes, plan_axle
from compass.choose.policies import POLICIES
from compass.choose.vehicle import choose
from compass.evidence.records import Corner as CornerRecord
from compass.evidence.shop import Shop
from jobs.adapters import corner_record, shop_of
from jobs.models import Corner, Decision, Job, Sweep, ThicknessRound
from jobs.vehicle.past import past_of
from workshop.models import POSITION_NAMES

AXLE_NAMES: Final = {
    "F": gettext_lazy("Front axle"),
    "R": gettext_lazy("Rear axle"),
    "A1": gettext_lazy("Axle 1"),
    "A2": gettext_lazy("Axle 2"),
}


@dataclass(frozen=True)
class AxleChoice:
    """An axle with all that could be done: ``lanes`` best first under ``policy``, ``plan`` the advice under it.

    ``advice`` is the plan under the workshop's own policy; ``others`` are the plans of all policies.
    """

    axle: str
    shop: Shop
    policy: str
    corners: tuple[CornerVerdict, ...]
    plan: AxlePlan
    advice: AxlePlan
    lanes: tuple[Lane, ...]
    others: dict[str, AxlePlan]

    def lane(self, code: str) -> Lane | None:
        """Return the lane of a remedy."""
        return next((lane for lane in self.lanes if lane.code == code), None)

    @property
    def advised(self) -> Lane | None:
        """The lane the workshop's own policy advises, or None while something must be known first."""
        return next((x for x in self.lanes if x.feasible and x.code == self.advice.remedies.get(x.lead)), None)

    def corner(self, position: str) -> CornerVerdict | None:
        """Return what is known of a corner of this axle."""
        return next((corner for corner in self.corners if corner.position == position), None)


def weigh_axle(job: Job, axle: str, *, policy: str | None = None, past: bool = True) -> AxleChoice | None:
    """Predict every remedy of one axle; None where no corner of it has limits.

    Without the vehicle's ``past`` nothing is said of wear and of plates in place: a lathe asks for neither.
    """
    records = axle_records(job, axle, past=past)
    if not records:
        return None
    own = shop_of(job)
    shop = replace(own, policy=policy) if policy in POLICIES else own
    asked = (axle, records, own, shop, job.vehicle.kind)
    return _weighed(_Asked(hashlib.sha256(pickle.dumps(asked)).digest(), *asked))


@dataclass(frozen=True)
class _Asked:
    """What an axle is weighed from; two that are the same to the last digit have the same answer."""

    digest: bytes
    axle: str = field(compare=False)
    records: tuple[CornerRecord, ...] = field(compare=False)
    own: Shop = field(compare=False)
    shop: Shop = field(compare=False)
    kind: str = field(compare=False)


@lru_cache(maxsize=32)
def _weighed(asked: _Asked) -> AxleChoice:
    """Weigh an axle: pure, so that the same evidence is worked out once, however often it is looked at."""
    corners, plans = choose([diagnose_corner(r) for r in asked.records], shop=asked.shop, kind=asked.kind)
    others = {code: plan_axle(corners, policy=code) for code in POLICIES}
    return AxleChoice(
        axle=asked.axle,
        shop=asked.shop,
        policy=asked.shop.policy,
        corners=corners,
        plan=plans[0],
        advice=others[asked.own.policy],
        lanes=lanes(corners, plans[0], policy=asked.shop.policy),
        others=others,
    )


def axle_records(job: Job, axle: str, *, past: bool) -> tuple[CornerRecord, ...]:
    """Return the evidence of one axle's corners that have limits; wear and plates come from the vehicle's record."""
    rows = [corner for corner in job.corners.all() if corner.axle == axle and corner.limits is not None]
    fetch_evidence(rows)
    recorded = past_of(job) if past else None
    found = []
    for corner in rows:
        record = corner_record(
            corner, sweeps=corner.sweeps.all(), rounds=corner.rounds.all(), quick=corner.quick_readings.all()
        )
        if record is not None:
            found.append(recorded.added_to(record) if recorded is not None else record)
    return tuple(found)


def fetch_evidence(corners: Sequence[Corner]) -> None:
    """Fetch tapes and quick readings of corners, with their instruments, in three queries."""
    prefetch_related_objects(
        corners,
        Prefetch("sweeps", Sweep.objects.select_related("instrument")),
        Prefetch("rounds", ThicknessRound.objects.select_related("instrument")),
        "quick_readings",
    )


def decisions_of(job: Job) -> dict[str, Decision]:
    """Return the newest decision of every axle, from what is already fetched."""
    return {decision.axle: decision for decision in job.decisions.all()}


def axles_of(job: Job) -> list[str]:
    """Return the job's axles in their order on the vehicle."""
    return list(dict.fromkeys(corner.axle for corner in job.corners.all()))


def worst_axle(job: Job) -> str:
    """Return the axle to open first: one still to be decided, else one with anything found, else the first."""

    def need(axle: str) -> tuple[bool, bool, bool]:
        verdicts = [c.verdict for c in job.corners.all() if c.axle == axle and c.verdict]
        trouble = any(v["root_cause"] != "none_found" for v in verdicts)
        return trouble and axle not in job.decided, trouble, bool(verdicts)

    return max(axles_of(job), key=need)


class ForbiddenRemedyError(Exception):
    """A rule forbids the remedy; ``rules`` are (position, code)."""

    def __init__(self, rules: tuple[tuple[str, str], ...]) -> None:
        super().__init__(rules)
        self.rules = rules


def axle_name(job: Job, axle: str) -> str:
    """Name an axle; a motorcycle's is a wheel."""
    if job.vehicle.kind == job.vehicle.Kind.MOTORCYCLE:
        return str(POSITION_NAMES[axle])
    return str(AXLE_NAMES[axle])
