"""Whether a job's work is proven: each corner after it, and all that must hold before the job may close. Reads only."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from compass.do.ladder import steps_of
from compass.do.work import PlacedStep
from compass.ground.limits import State
from compass.prove.proof import Proof, prove_corner
from jobs.do.doing import Doing, Side, doing_of
from jobs.do.running import ON_THE_ROAD
from jobs.judging import OF_THE_JOINT, Judged, as_it_stands, fetch_evidence, judge
from jobs.models import Corner, Job, RunStep
from jobs.next_act import holds_after, wants_after
from workshop.models import AxleLimits, ShopFigures, User

_MARKS: Final = ("match_mark", "new_mark", "match_before_letting_go")
_LEAVING: Final = ("pump", "bed_in")
_NOTHING_FELT: Final = "gone"
_OF_METAL: Final = ("bench_cut", "on_vehicle_cut")
_SAME_ROTOR: Final = ("index", "plate")
_LIMITS: Final = {
    "runout": "max_runout_mm",
    "variation": "max_thickness_variation_mm",
    "thinnest": "discard_thickness_mm",
}


@dataclass(frozen=True)
class SideProof:
    """One corner with decided work: as it came in, as it stands now (None before the work), and its proof."""

    side: Side
    before: Judged
    after: Judged | None
    proof: Proof
    limits_then: dict[str, float]  # by figure, where they were others when the work was decided

    @property
    def position(self) -> str:
        """Where it is."""
        return self.side.position


@dataclass(frozen=True)
class Condition:
    """What must hold before a job may close: its code, where, whether it holds, by whom and when."""

    code: str
    position: str
    holds: bool
    who: User | None = None
    at: datetime | None = None
    detail: str = ""


@dataclass(frozen=True)
class Proving:
    """A job's work and its proof."""

    doing: Doing
    sides: dict[str, SideProof]
    conditions: tuple[Condition, ...]

    @property
    def open(self) -> list[Condition]:
        """The conditions that do not hold yet."""
        return [condition for condition in self.conditions if not condition.holds]


def is_settled(job: Job, corner: Corner) -> bool:
    """Whether nothing is left to be done at a corner without decided work.

    It is in order, or was cured by measuring it, or what was found there sat beside its disc, was put right, and when
    it was driven nothing was felt any more. What was worked on is in order only by what was read since.
    """
    kept = corner.kept
    close = corner.stands is not None and State.TOO_CLOSE.value in (corner.stands.runout, corner.stands.variation)
    if corner.episode and (close or not holds_after(corner)):
        return False
    if kept is None or kept.settled:
        return kept is not None
    gone = job.story.get("after_work") == _NOTHING_FELT
    driven = [(m["cause"], m.get("position")) for m in job.mended_beside if m.get("driven")]
    here = any(at == corner.position or (at is None and cause == kept.root_cause) for cause, at in driven)
    return kept.within and gone and here


def beside_conditions(job: Job) -> list[Condition]:
    """Return what must hold beside the discs: what is worn or out of order there is put right, and was driven since."""
    open_ = [Condition("beside", position or "", False, detail=cause) for cause, position in job.kept.beside]
    open_ += [
        Condition(worn.code, corner.position, False)
        for corner in job.corners.all()
        if corner.kept is not None
        for worn in corner.kept.linings
    ]
    return open_ + [
        Condition(
            "beside" if m.get("driven") else "beside_driven",
            m.get("position", ""),
            bool(m.get("driven")),
            detail=m["cause"],
        )
        for m in job.mended_beside
    ]


def proving_of(user: User, job: Job, *, figures: ShopFigures | None = None) -> Proving | None:
    """Return the proof of a job's decided work, None where none is decided. ``job`` comes from ``for_doing``.

    ``figures`` are the workshop's, where they were read already.
    """
    doing = doing_of(user, job)
    if doing is None:
        return None
    fetch_evidence([side.corner for side in doing.sides.values()])
    newer = any(_limits_since(side) for side in doing.sides.values())
    limits = list(AxleLimits.of(user).filter(vehicle=job.vehicle_id)) if newer else []
    sides = {position: _prove(doing, side, limits) for position, side in doing.sides.items()}
    return Proving(doing, sides, tuple(_conditions(user, doing, sides, figures)))


def _prove(doing: Doing, side: Side, limits: list[AxleLimits]) -> SideProof:
    corner = side.corner
    before = judge(corner, episode=0)
    cleaned = side.remedy == OF_THE_JOINT
    after = before if cleaned else judge(corner, episode=corner.episode) if corner.episode else None
    measured = after.verdict.measured if after is not None and after.verdict is not None else None
    of_an_earlier_work = corner.is_to_do
    if measured is not None and (of_an_earlier_work or not after.is_measured or (cleaned and measured.runout.flags)):
        measured = None
    predicted = side.decision.predicted.get(side.position, {})
    bands = {
        "runout": predicted.get("runout_after_mm"),
        "variation": predicted.get("variation_after_mm"),
        "thinnest": predicted.get("thickness_after_mm"),
    }
    foretold = {name: tuple(band) if band else None for name, band in bands.items()}
    stands = as_it_stands(doing.job, corner)
    proof = prove_corner(
        measured,
        remedy=side.remedy,
        foretold=foretold,
        least_mm=_least_mm(side),
        told=doing.told(side.position),
        index_deg=_index_deg(side),
        stands=stands.measured if stands is not None else None,
    )
    begun = corner.stands.begun if measured is not None and corner.episode and corner.stands is not None else ""
    if begun:  # half a turn proves nothing of the other half
        proof = replace(proof, wants=tuple(dict.fromkeys([*proof.wants, begun])), advice="")
    changed = _changed_limits(side, limits)
    return SideProof(side, before, after if measured is not None else None, proof, changed)


def _index_deg(side: Side) -> float | None:
    """Return how the rotor was to stand after the work; None where it is another rotor, or as it came."""
    if side.remedy not in _SAME_ROTOR:
        return None
    return side.decision.settings.get(side.position, {}).get("index_deg")


def _limits_since(side: Side) -> bool:
    """Whether limits came into force since the work was decided."""
    limits = side.corner.limits
    return limits is not None and limits.created_at > side.decision.created_at


def _changed_limits(side: Side, limits: list[AxleLimits]) -> dict[str, float]:
    """Return the limits that were in force when the work was decided and are others now, by the figure they hold."""
    now = side.corner.limits
    axle = [row for row in limits if row.axle == side.corner.axle and row.created_at <= side.decision.created_at]
    then = max(axle, key=lambda row: (row.created_at, row.pk), default=None)
    if now is None or then is None:
        return {}
    return {
        name: getattr(then, column) for name, column in _LIMITS.items() if getattr(then, column) != getattr(now, column)
    }


def _least_mm(side: Side) -> float:
    """Return what must be left of the disc: machine-to after a cut, else discard."""
    limits = side.corner.limits
    if limits is None:
        return 0.0
    cut = any(work in side.remedy.split("+") for work in _OF_METAL)
    if side.plan is not None and cut:
        return side.plan.machine_to_mm
    return (limits.machine_to_thickness_mm if cut else None) or limits.discard_thickness_mm


def _conditions(user: User, doing: Doing, sides: dict[str, SideProof], figures: ShopFigures | None) -> list[Condition]:
    found: list[Condition] = []
    for position, side in sides.items():
        found.append(Condition("after_readings", position, not side.proof.wants, detail=" ".join(side.proof.wants)))
        if not side.proof.wants:
            found.append(Condition("within", position, side.proof.proven, detail=side.proof.advice))
    for corner in doing.job.corners.all():
        if corner.position not in sides and not is_settled(doing.job, corner):
            found.append(_beyond_the_work(corner))
    found += [Condition("do_not_drive", position, False) for position in doing.job.kept.still_stopped]
    found += beside_conditions(doing.job)
    steps = list(steps_of(doing.parts))
    for position in sides:
        own = [step for step in steps if step.position == position]
        found += _together(doing, "match_mark", position, [step for step in own if step.step.code in _MARKS])
        found += _together(doing, "torques", position, [step for step in own if step.step.torque])
    for step in steps:
        if step.step.code in _LEAVING:
            found += _together(doing, step.step.code, "", [step])
        if step.step.code in ON_THE_ROAD:
            row = doing.done.get((step.position, step.key))
            felt = row.finding if row is not None else ""
            # What was still felt then, was put right since and driven again, with nothing felt any more.
            since = doing.job.story.get("after_work") == _NOTHING_FELT
            holds = row is not None and (felt in ("", _NOTHING_FELT) or since)
            found.append(_by(Condition("road_test", "", holds, detail=felt), row))
    cuts = any(work in s.side.remedy for s in sides.values() for work in _OF_METAL)
    if cuts and (figures or ShopFigures.in_force(user)).second_signs:
        run = doing.run
        signed = run is not None and run.signed_by_id is not None
        found.append(Condition("second_signs", "", signed, run.signed_by if signed else None, run and run.signed_at))
    return found


def _beyond_the_work(corner: Corner) -> Condition:
    """Return what is open at a corner without decided work: what was not measured there, else what is not within."""
    kept = corner.stands
    if corner.episode and (wants := wants_after(corner)):
        return Condition("after_readings", corner.position, False, detail=" ".join(wants))
    if kept is None:
        return Condition("not_looked_at", corner.position, False)
    read = {"sweep": kept.runout_mm, "thickness": kept.variation_mm}
    unread = [name for name, mm in read.items() if mm is None or name == kept.begun]
    quiet = unread and not kept.do_not_drive and State.OVER.value not in (kept.runout, kept.variation)
    return Condition("not_looked_at" if quiet else "within", corner.position, False, detail=" ".join(unread))


def _together(doing: Doing, code: str, position: str, steps: list[PlacedStep]) -> list[Condition]:
    """Return one condition for steps that must all be done; the last of them says by whom. Without steps, none."""
    if not steps:
        return []
    rows = [doing.done.get((step.position, step.key)) for step in steps]
    done = [row for row in rows if row is not None]
    last = max(done, key=lambda row: row.done_at, default=None) if len(done) == len(rows) else None
    return [_by(Condition(code, position, last is not None), last)]


def _by(condition: Condition, row: RunStep | None) -> Condition:
    who, at = (row.done_by, row.done_at) if row is not None else (None, None)
    return Condition(condition.code, condition.position, condition.holds, who, at, condition.detail)
