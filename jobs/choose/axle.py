"""What an axle could get: its corners' evidence put to the core, and its answer as records. Reads only."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from compass.cause.checks import Separating
from compass.cause.differential import NextCheck
from compass.cause.verdict import CornerVerdict
from compass.choose.axle import AxlePlan, Chosen, Lane, lanes, plan_axle
from compass.choose.policies import POLICIES
from compass.diagnose import blamed, measured_first, tell_apart_first
from compass.evidence.shop import Shop
from compass.judge.vehicle import Judgement
from jobs.judging import JudgedJob, choose_for_axle, judge_job, standing, with_past
from jobs.models import Corner, Decision, Job
from jobs.remembered import Remembered, digest
from jobs.vehicle.past import past_of
from workshop.models import User


@dataclass(frozen=True)
class AxleChoice:
    """An axle with all that could be done: ``lanes`` best first under ``policy``, ``plan`` the advice under it.

    ``advice`` is the plan under the workshop's own policy; ``others`` are the plans of all policies. ``first`` is the
    check that is worth more than any of them now, ``apart`` the corner that is over again after its work, and how hub
    and rotor are told apart there: what is chosen rests on that.
    """

    axle: str
    shop: Shop
    policy: str
    corners: tuple[Chosen, ...]
    plan: AxlePlan
    advice: AxlePlan
    lanes: tuple[Lane, ...]
    others: dict[str, AxlePlan]
    first: NextCheck | None = None
    apart: tuple[str, Separating] | None = None

    def lane(self, code: str) -> Lane | None:
        """Return the lane of a remedy."""
        return next((lane for lane in self.lanes if lane.code == code), None)

    @property
    def advised(self) -> Lane | None:
        """The lane the workshop's own policy advises, or None while something must be known first."""
        if self.first is not None or self.apart is not None:
            return None
        return next((x for x in self.lanes if x.feasible and x.code == self.advice.remedies.get(x.lead)), None)

    def corner(self, position: str) -> Chosen | None:
        """Return what is known of a corner of this axle."""
        return next((corner for corner in self.corners if corner.position == position), None)


def weigh_axle(
    user: User,
    job: Job,
    axle: str,
    *,
    policy: str | None = None,
    as_decided: bool = False,
    judged: JudgedJob | None = None,
) -> AxleChoice | None:
    """Predict every remedy of one axle as it stands; None where no corner of it has limits.

    ``as_decided`` is what the decision in force rests on: the axle as it stood then (without one, as it came in),
    whatever was done and fitted since; nothing is said of wear and of plates in place, which a lathe does not ask for.
    ``judged`` is the job, where it was judged already.
    """
    rows = [corner for corner in job.corners.all() if corner.axle == axle and corner.limits is not None]
    if not rows:
        return None
    recorded = None if as_decided else past_of(job)
    fresh = judged or judge_job(user, job)
    worked_on = (row for row in rows if row.episode)
    stands = {row.position: standing(job, row, past=recorded, as_decided=as_decided) for row in worked_on}
    came_in = {row.position: fresh.corners[row.position].verdict for row in rows}
    verdicts = (stands.get(p) or (verdict and with_past(verdict, recorded)) for p, verdict in came_in.items())
    corners = tuple(verdict for verdict in verdicts if verdict is not None)
    worked = frozenset(position for position, verdict in stands.items() if verdict is not None)
    own = fresh.beside.shop
    shop = replace(own, policy=policy) if policy in POLICIES else own
    evidence = tuple(corner.measured.corner for corner in corners)
    kind = job.vehicle.kind
    name = digest(axle, evidence, own, shop, kind, fresh.name, *sorted(worked))
    return _weighed(axle, corners, own, shop, kind, fresh.judged, worked, name=name)


def _weigh(
    axle: str,
    corners: tuple[CornerVerdict, ...],
    own: Shop,
    shop: Shop,
    kind: str,
    judged: Judgement,
    worked: frozenset[str],
) -> AxleChoice:
    to_choose = [corner if corner.position in worked else blamed(corner, judged) for corner in corners]
    chosen, plan = choose_for_axle(to_choose, shop, kind)
    others = {code: plan_axle(chosen, policy=code) for code in POLICIES}
    return AxleChoice(
        axle=axle,
        shop=shop,
        policy=shop.policy,
        corners=chosen,
        plan=plan,
        advice=others[own.policy],
        lanes=lanes(chosen, plan, policy=shop.policy),
        others=others,
        first=_check_first([corner for corner in chosen if corner.position not in worked], judged),
        apart=_to_tell_apart([corner for corner in chosen if corner.position in worked]),
    )


def _to_tell_apart(worked: Sequence[Chosen]) -> tuple[str, Separating] | None:
    """Return the corner where hub and rotor are told apart before anything is chosen anew, and how; or None."""
    held = (corner for corner in worked if tell_apart_first(corner) is not corner)
    return next(((c.position, c.corner.separating) for c in held if c.corner.separating is not None), None)


def _check_first(chosen: Sequence[Chosen], judged: Judgement) -> NextCheck | None:
    """Return the check that what would be recommended waits for, or None."""
    held = (corner.position for corner in chosen if measured_first(corner, judged) is not corner)
    return next((judged.check_at(position) for position in held), None)


_weighed = Remembered(_weigh, most=32)


def corners_of(job: Job, axle: str) -> list[Corner]:
    """Return a job's corners of one axle."""
    return [corner for corner in job.corners.all() if corner.axle == axle]


def decisions_of(job: Job) -> dict[str, Decision]:
    """Return the decision in force of every axle, from what is already fetched; a withdrawn one is none."""
    newest = {decision.axle: decision for decision in job.decisions.all()}
    return {axle: decision for axle, decision in newest.items() if decision.remedies}


def axles_of(job: Job) -> list[str]:
    """Return the job's axles in their order on the vehicle."""
    return list(dict.fromkeys(corner.axle for corner in job.corners.all()))


def worst_axle(job: Job) -> str:
    """Return the axle to open first: one still to be decided, one whose work did not hold, one with anything found."""
    corners = job.corners.all()
    troubled = {c.axle for c in corners if c.position in job.kept.troubled}
    measured = {c.axle for c in corners if c.kept is not None}
    not_held = {c.axle for c in corners if c.episode and c.stands is not None and c.stands.over}

    def need(axle: str) -> tuple[bool, bool, bool, bool]:
        return axle in troubled and axle not in job.decided, axle in not_held, axle in troubled, axle in measured

    return max(axles_of(job), key=need)


class ForbiddenRemedyError(Exception):
    """A rule forbids the remedy; ``rules`` are (position, code)."""

    def __init__(self, rules: tuple[tuple[str, str], ...]) -> None:
        super().__init__(rules)
        self.rules = rules
