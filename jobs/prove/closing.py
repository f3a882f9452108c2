"""What a job is closed as: each corner's work with what was foretold and what came, and when to look again."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any, Final

from django.utils import timezone

from compass.cause.causes import OF_THE_VEHICLE
from compass.cause.measured import Measured
from compass.do.step_times import PAUSE_MINUTES, Press, minutes_by_part
from compass.ground.limits import State
from compass.learn.refits import seating_likelihood
from compass.measure.analysed import vectors
from compass.measure.separation import VectorEvidence
from compass.prove.check_back import CHANCE, After, CheckBack, check_back
from compass.prove.proof import Figure, of_metal
from jobs.adapters import shop_of
from jobs.do.doing import PROVE
from jobs.models import Closing, CornerWorked, FittedPlate, Job, RotorFitting, RunStep
from jobs.prove.proving import Proving, SideProof
from jobs.vehicle.past import daily_km, past_of
from workshop.models import ShopFigures, User

_PAUSE: Final = timedelta(minutes=PAUSE_MINUTES)
_FEWEST_STEPS: Final = 3
_SAME_PARTS: Final = ("index", "clean_and_torque")  # works after which hub and rotor are those that were separated


def keep_closing(user: User, job: Job, proving: Proving | None, *, proven: bool, supplier: str) -> Closing:
    """Write what a job was closed as; ``supplier`` is that of new rotors."""
    vehicle = job.vehicle
    closing = Closing(
        job=job,
        vehicle=vehicle,
        model=vehicle.model,
        at=timezone.now(),
        by=user,
        proven=proven,
        reason=job.closing_reason,
        found_cause=job.found_cause,
        odometer_km=job.odometer_km,
        judged_by=_judged_by(user, job),
    )
    sides = [side for side in proving.sides.values() if _was_worked(proving, side)] if proving is not None else []
    if proving is not None:
        closing.part_minutes = _part_minutes(proving)
    if sides:
        due = due_of(user, job, sides)
        closing.due_on = timezone.localdate(closing.at) + timedelta(days=due.days)
        closing.due_km = round(job.odometer_km + due.km) if job.odometer_km is not None else None
        closing.due_why = due.why
        # Of what was not measured after the work nobody knows the odds.
        closing.chance = due.chance if all(side.after is not None for side in sides) else None
    closing.save()
    if proving is not None and sides:
        works = [_worked(closing, proving, side, supplier) for side in sides]
        max(works, key=_trouble).leads = True
        CornerWorked.of(user).bulk_create(works)
        _fit_new_rotors(user, job, works)
    return closing


def _was_worked(proving: Proving, side: SideProof) -> bool:
    """Whether anything was done or read there: what was decided and never begun is no work."""
    return side.after is not None or any(position == side.position for position, _key in proving.doing.done)


def due_of(user: User, job: Job, sides: Iterable[SideProof], *, figures: ShopFigures | None = None) -> CheckBack:
    """Return when a job's work is to be looked at again, by what was measured after it.

    ``figures`` are the workshop's, where they were read already.
    """
    sides, wear = list(sides), past_of(job).wear
    shop = next((side.side.shop for side in sides if side.side.shop is not None), None) or shop_of(user, job)
    figures = figures or ShopFigures.in_force(user)
    corners = []
    for side in sides:
        read = {figure.name: figure.estimate for figure in side.proof.figures}
        limits = side.side.corner.limits
        corners.append(
            After(
                read.get("runout"),
                read.get("variation"),
                read.get("thinnest"),
                wear.get(side.position),
                limits.discard_thickness_mm if limits is not None else None,
            )
        )
    return check_back(corners, shop=shop, daily_km=daily_km(job.vehicle), chance=figures.look_again_chance or CHANCE)


def _judged_by(user: User, job: Job) -> dict[str, Any]:
    """Return the figures a job was judged by."""
    shop = shop_of(user, job)
    named = ("policy", "growth_mm", "quiet_runout_mm", "seating_tir_mm", "warranty_km", "wear_allowance_mm")
    return {name: getattr(shop, name) for name in named} | {"base_rates": dict(shop.base_rates)}


def _worked(closing: Closing, proving: Proving, side: SideProof, supplier: str) -> CornerWorked:
    decision, corner = side.side.decision, side.side.corner
    predicted = decision.predicted.get(side.position, {})
    low, middle, high = predicted.get("runout_after_mm") or (None, None, None)
    figures = {figure.name: figure for figure in side.proof.figures}
    runout = figures.get("runout")
    sides = max(len(decision.remedies), 1)
    steps = [row for row in proving.doing.done.values() if row.position == side.position]
    remedy = side.side.remedy
    fitted = _plate_of(proving, side)
    new_rotor, u_new_rotor = _new_rotor(side)
    kept = corner.kept
    worked = CornerWorked(
        closing=closing,
        vehicle=closing.vehicle,
        odometer_km=closing.odometer_km,
        on=timezone.localdate(closing.at),
        month=timezone.localdate(closing.at).replace(day=1),
        model=closing.model,
        position=side.position,
        axle=corner.axle,
        root_cause=kept.root_cause if kept is not None else "",
        remedy=remedy,
        against=decision.against,
        needless=of_metal(remedy) and closing.found_cause in OF_THE_VEHICLE,
        spared=side.proof.proven and "new_rotors" not in remedy,
        decided_by=decision.decided_by,
        done_by=_who_did(steps) or closing.by,
        lathe=side.side.lathe if _is_cut(remedy) else None,
        plate=fitted.plate if fitted is not None else None,
        supplier=supplier.strip()[:60] if "new_rotors" in remedy else "",
        price=decision.price / sides,
        minutes_said=decision.minutes / sides,
        minutes_taken=minutes_of(steps),
        foretold_low_mm=low,
        foretold_mm=middle,
        foretold_high_mm=high,
        odds_within=predicted.get("odds_within"),
        comeback_odds=predicted.get("comeback_odds"),
        within=None if runout is None or runout.estimate is None else runout.state is State.WITHIN,
        came=runout.came.value if runout is not None else "",
        new_rotor_mm=new_rotor,
        new_rotor_u_mm=u_new_rotor,
        seating=_seating(side),
    )
    _before(worked, side)
    _after(worked, figures)
    return worked


def _trouble(worked: CornerWorked) -> tuple[bool, float, float]:
    """Rank a corner by what was wrong with it."""
    return worked.root_cause != "none_found", worked.runout_before_mm or 0.0, worked.variation_before_mm or 0.0


def _before(worked: CornerWorked, side: SideProof) -> None:
    measured = _measured(side.before.verdict)
    if measured is None:
        return
    tir, result, whose = measured.runout.tir, measured.thickness.result, measured.whose
    worked.runout_before_mm = tir.value_mm if tir is not None else None
    worked.variation_before_mm = result.variation.value_mm if result is not None and result.variation else None
    if whose.hub is not None and whose.rotor is not None:
        worked.hub_mm, worked.rotor_mm, worked.hub_share = whose.hub.tir_mm, whose.rotor.tir_mm, whose.hub.share


def _after(worked: CornerWorked, figures: dict[str, Figure]) -> None:
    for name in ("runout", "variation"):
        estimate = figures[name].estimate if name in figures else None
        if estimate is not None:
            setattr(worked, f"{name}_mm", estimate.value_mm)
            setattr(worked, f"{name}_expanded_mm", estimate.expanded_mm)
    thinnest = figures["thinnest"].estimate if "thinnest" in figures else None
    worked.thinnest_mm = thinnest.value_mm if thinnest is not None else None


def _measured(verdict: Any) -> Measured | None:
    return verdict.measured if verdict is not None else None


def _is_cut(remedy: str) -> bool:
    return "cut" in remedy


def _plate_of(proving: Proving, side: SideProof) -> FittedPlate | None:
    if "plate" not in side.side.remedy.split("+"):
        return None
    rows = proving.doing.job.fitted_plates.filter(position=side.position, taken_out=False)
    return rows.select_related("plate").order_by("-pk").first()


def _who_did(steps: Sequence[RunStep]) -> User | None:
    people = [row.done_by for row in steps]
    return max(people, key=lambda one: sum(one.pk == other.pk for other in people), default=None)


def minutes_of(steps: Sequence[RunStep]) -> float | None:
    """Return the minutes between a corner's first and last step, without long pauses; None where few were pressed."""
    times: list[datetime] = sorted(row.done_at for row in steps if not row.key.startswith(PROVE))
    if len(times) < _FEWEST_STEPS:
        return None
    gaps = [late - early for early, late in pairwise(times)]
    taken = sum((gap for gap in gaps if gap < _PAUSE), timedelta()).total_seconds() / 60
    return taken or None


def _part_minutes(proving: Proving) -> dict[str, list[float]]:
    """Return the minutes of each part of the work by the presses that stand, in the order they were made."""
    doing = proving.doing
    if doing.run is None:
        return {}
    rows = sorted(doing.done.items(), key=lambda item: item[1].pk)
    pressed = {key: Press(str(row.done_by_id), row.done_at.timestamp() / 60) for key, row in rows}
    began = {str(doing.run.started_by_id): doing.run.started_at.timestamp() / 60}
    taken = minutes_by_part(doing.parts, pressed, began=began)
    return {name: [round(minutes, 1) for minutes in every] for name, every in taken.items()}


def _evidence(side: SideProof) -> list[VectorEvidence]:
    """Return the first-order vectors of a corner, as it came in and, where both parts are the same still, after."""
    measured = _measured(side.before.verdict)
    if measured is None:
        return []
    evidence = list(vectors(measured.analysed, spec=measured.corner.spec))
    after = _measured(side.after.verdict) if side.after is not None and side.after is not side.before else None
    if after is not None and side.side.remedy in _SAME_PARTS:
        fresh = vectors(after.analysed, spec=after.corner.spec)
        evidence += [replace(one, mounting=f"after {one.mounting}") for one in fresh]
    return evidence


def _seating(side: SideProof) -> list[float]:
    told = seating_likelihood(_evidence(side))
    return [round(float(one), 4) for one in told - told.max()] if told.any() else []


def _new_rotor(side: SideProof) -> tuple[float | None, float | None]:
    """Return a new rotor's own runout with its standard uncertainty, where the hub was known: what is not the hub's."""
    before = _measured(side.before.verdict)
    after = _measured(side.after.verdict) if side.after is not None else None
    if side.side.remedy not in ("new_rotors", "new_rotors+index") or before is None or after is None:
        return None, None
    hub = before.whose.hub
    fresh = [one for one in vectors(after.analysed, spec=after.corner.spec) if one.hub and one.rotor and not one.before]
    if hub is None or not fresh:
        return None, None
    u_mm = (float(fresh[0].covariance.trace()) / 2 * 4 + (hub.expanded_mm / 2) ** 2) ** 0.5
    return 2 * abs(fresh[0].vector - hub.vector), u_mm


def _fit_new_rotors(user: User, job: Job, works: Sequence[CornerWorked]) -> None:
    """Put new rotors on the vehicle's record with the thickness measured: their wear is counted from there."""
    for worked in works:
        if "new_rotors" not in worked.remedy or worked.thinnest_mm is None or job.odometer_km is None:
            continue
        here = {"vehicle": job.vehicle, "position": worked.position, "odometer_km": job.odometer_km}
        if RotorFitting.of(user).filter(**here, withdrawn=False).exists():
            continue  # written down already, by hand or at an earlier closing of this job
        fitting = RotorFitting(
            **here,
            thickness_mm=worked.thinnest_mm,
            supplier=worked.supplier,
            created_by=user,
        )
        fitting._history_user = user
        fitting.save()
