"""Writes about remedies: a decision, a plate fitted, passes of a cut. One transaction each, refused by rule."""

import re
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.db.models import F

from compass.cause.verdict import CornerVerdict
from compass.choose.axle import Lane, kind_of_metal
from compass.choose.remedies.corner_draws import draw_corner
from compass.choose.remedies.setting import Tried, tried
from compass.choose.rules import OTHER_SIDE_NEEDS_METAL
from compass.do.cut_plan import CutPlan, DonePass, Scratch, plan_cut
from compass.evidence.shop import Lathe as LatheRecord
from compass.evidence.shop import Shop
from compass.files.write_verdict import to_data
from compass.ground.units import Unit, parse_length
from jobs.actions import open_job_row
from jobs.choosing import AxleChoice, decisions_of, weigh_axle
from jobs.models import Corner, Cut, CutPass, Decision, FittedPlate, Job
from workshop.adapters import lathe_of
from workshop.models import Lathe, PlateKind, User
from workshop.policy import Deed, require

WORSE_ODDS = 0.05  # a setting by hand that is less likely by more than this is against the advice
FAR_MM = 1.0  # no pass is off by more: a slip of the decimal sign or the unit
_FINEST_MM = 0.001
MOST_MM = 100.0  # mm; no disc is thicker


class ForbiddenRemedyError(Exception):
    """A rule forbids the remedy; ``rules`` are (position, code)."""

    def __init__(self, rules: tuple[tuple[str, str], ...]) -> None:
        super().__init__(rules)
        self.rules = rules


class WhyNeededError(Exception):
    """The decision goes against the advice; somebody must say why."""


class NoPlateError(Exception):
    """No such plate is decided for this corner, or none is left."""


class PassConflictError(Exception):
    """This pass is on record already."""


class FarReadingError(Exception):
    """The reading is further from the expected one than any cut could make it."""


class CutRefusedError(Exception):
    """No tip may touch this disc: ``reason`` is a code of the cut plan or of a rule."""

    def __init__(self, reason: str) -> None:
        super().__init__(reason)
        self.reason = reason


@transaction.atomic
def decide(
    user: User, job: Job, axle: str, *, code: str, reason: str = "", setting: dict[str, Any] | None = None
) -> Decision:
    """Record what an axle gets. ``setting`` (position, index_deg, plate_mm, plate_deg) was tried by hand.

    Raises ``ForbiddenRemedyError`` where a rule forbids it, ``WhyNeededError`` against the advice without a reason.
    """
    require(user, Deed.CHOOSE)
    row = open_job_row(job.pk)
    choice = weigh_axle(Job.objects.for_choosing().get(pk=row.pk), axle)
    last = decisions_of(row).get(axle)
    lane = _lane_of(choice, code, setting, last) if choice is not None else None
    if choice is None or lane is None:
        raise ForbiddenRemedyError(())
    if lane.blocked:
        raise ForbiddenRemedyError(lane.blocked)
    settings = {p: dict(remedy.settings) for p, remedy in lane.remedies.items() if remedy.settings}
    advised = choice.advised
    against = advised is None or _codes(advised) != _codes(lane)
    if setting is not None:
        settings[setting["position"]] = _tried_settings(choice, setting)
        against = against or _is_worse(choice, code, setting)
    if against and not reason.strip():
        raise WhyNeededError
    remedies: dict[str, str | None] = dict(_codes(lane))
    remedies |= {p: told for p, told in choice.plan.remedies.items() if p not in remedies and _goes_along(code, told)}
    fresh = (remedies, settings, choice.policy, reason.strip(), user.pk)
    if last is not None and fresh == (last.remedies, last.settings, last.policy, last.reason, last.decided_by_id):
        return last  # sent twice
    row.decided = sorted({*row.decided, axle})
    row._history_user = user
    row.save()
    return Decision.objects.create(
        job=row,
        axle=axle,
        policy=choice.policy,
        remedies=remedies,
        advised=dict(choice.advice.remedies),
        settings=settings,
        predicted={p: to_data(remedy) for p, remedy in lane.remedies.items()},
        price=lane.price,
        minutes=lane.minutes,
        against=against,
        reason=reason.strip(),
        decided_by=user,
    )


def _lane_of(choice: AxleChoice, code: str, setting: dict[str, Any] | None, last: Decision | None) -> Lane | None:
    """Return the lane decided on. A setting of the side that does not lead changes that side of the plan in force."""
    if setting is None:
        return choice.lane(code)
    if code != ("plate" if setting.get("plate_mm") else "index"):
        return None
    position = setting["position"]
    base = choice.advised
    if last is not None and base is not None:
        base = choice.lane(last.remedies.get(base.lead) or "") or base
    if base is None or base.lead == position or not choice.lanes:
        return choice.lane(code)
    corner = choice.corner(position)
    remedy = next((r for r in corner.remedies if r.code == code), None) if corner is not None else None
    if remedy is None:
        return None
    if base.blocked or kind_of_metal(base.code):
        raise ForbiddenRemedyError(base.blocked or ((position, OTHER_SIDE_NEEDS_METAL),))
    if remedy.blocked_by:
        raise ForbiddenRemedyError(tuple((position, rule) for rule in remedy.blocked_by))
    both = {**base.remedies, position: remedy}
    return replace(
        base,
        remedies=both,
        price=sum(r.price for r in both.values()),
        minutes=sum(r.minutes for r in both.values()),
        cost=sum(r.cost for r in both.values()),
    )


def _codes(lane: Lane) -> dict[str, str]:
    return {position: remedy.code for position, remedy in lane.remedies.items()}


def _goes_along(code: str, told: str | None) -> bool:
    """Whether an unmeasured side gets new rotors with the measured one."""
    return told == "new_rotors" and code.startswith("new_rotors")


def try_setting(choice: AxleChoice, setting: dict[str, Any]) -> Tried:
    """Return what a setting by hand would leave. Raises ``ForbiddenRemedyError`` for one the disc does not go on by."""
    corner = choice.corner(setting["position"])
    if corner is None or not corner.remedies:
        raise ForbiddenRemedyError(())
    spec = corner.found.corner.spec
    index_deg = float(setting.get("index_deg") or 0.0) % 360
    allowed = [0.0, *(p % 360 for p in spec.positions_deg)]
    if not any(abs(index_deg - p) < 0.01 for p in allowed):
        raise ForbiddenRemedyError(((corner.position, "one_position"),))
    plate_mm = setting.get("plate_mm")
    plate = None
    if plate_mm:
        kit = [p for p in choice.shop.plates if p.studs == spec.studs]
        plate = next((p for p in kit if abs(p.correction_mm - plate_mm) < 1e-6), None)
        if plate is None:
            raise ForbiddenRemedyError(((corner.position, "plate_pattern"),))
    return tried(
        draw_corner(corner.found), index_deg=index_deg, plate=plate, thin_deg=float(setting.get("plate_deg") or 0.0)
    )


def _tried_settings(choice: AxleChoice, setting: dict[str, Any]) -> dict[str, float]:
    option = try_setting(choice, setting).option
    settings = {"index_deg": option.index_deg}
    if option.plate_mm is not None and option.plate_deg is not None:
        settings |= {"plate_mm": option.plate_mm, "plate_deg": option.plate_deg}
    return settings


def _is_worse(choice: AxleChoice, code: str, setting: dict[str, Any]) -> bool:
    corner = choice.corner(setting["position"])
    remedy = next((r for r in corner.remedies if r.code == code), None) if corner is not None else None
    best = remedy.odds_within if remedy is not None else None
    return best is not None and try_setting(choice, setting).option.odds_within < best - WORSE_ODDS


@transaction.atomic
def fit_plate(user: User, job: Job, position: str) -> FittedPlate:
    """Take the decided plate from the stock and put it on the vehicle's record; an older one there counts as out.

    Raises ``NoPlateError`` where none is decided for this corner or none is left: no plate is used twice.
    """
    require(user, Deed.CHOOSE)
    row = open_job_row(job.pk)
    corner = row.corners.get(position=position)
    decision = decisions_of(row).get(corner.axle)
    settings = decision.settings.get(position, {}) if decision is not None else {}
    plate_mm = settings.get("plate_mm")
    if plate_mm is None or corner.limits is None:
        raise NoPlateError
    kit = PlateKind.objects.select_for_update().filter(studs=corner.limits.studs, stock__gt=0)
    kind = next((k for k in kit if abs(k.correction_mm - plate_mm) < 1e-6), None)
    before = (
        FittedPlate.objects.select_for_update().filter(vehicle=row.vehicle, position=position, taken_out=False).first()
    )
    if kind is None or (before is not None and before.job_id == row.pk):
        raise NoPlateError
    if before is not None:
        take_out(user, row, before)
    fitted = FittedPlate(
        vehicle=row.vehicle,
        job=row,
        position=position,
        plate=kind,
        thin_deg=settings.get("plate_deg", 0.0),
        odometer_km=row.odometer_km,
        created_by=user,
    )
    fitted._history_user = user
    fitted.save()
    PlateKind.objects.filter(pk=kind.pk).update(stock=F("stock") - 1)
    kind.refresh_from_db()
    kind._history_user = user
    kind.save()
    return fitted


@transaction.atomic
def take_out(user: User, job: Job, fitted: FittedPlate) -> None:
    """Note on a job that a plate was taken out. It goes to scrap: the stock stays as it is."""
    require(user, Deed.CHOOSE)
    open_job_row(job.pk)
    fitted.taken_out = True
    fitted._history_user = user
    fitted.save()


def done_passes(cut: Cut | None) -> tuple[DonePass, ...]:
    """Return the passes that were made and count."""
    if cut is None:
        return ()
    counted = (made for made in cut.passes.all() if not made.withdrawn)
    return tuple(DonePass(m.out_mm, m.in_mm, m.reading_mm, m.graduation_mm) for m in counted)


def plan_for(found: CornerVerdict, lathe: LatheRecord, shop: Shop, cut: Cut | None) -> CutPlan | None:
    """Plan what is still to be cut, after the passes made."""
    return plan_cut(found.found, lathe, shop, done=done_passes(cut))


def _cut_of(user: User, corner: Corner, lathe: Lathe) -> Cut:
    cut = Cut.objects.select_for_update().filter(corner=corner, lathe=lathe).first()
    return cut or Cut(corner=corner, lathe=lathe, created_by=user)


def _keep(user: User, row: Cut | CutPass) -> None:
    row._history_user = user
    row.full_clean(exclude=["scratch"])
    row.save()


@transaction.atomic
def keep_scratch(user: User, corner: Corner, lathe: Lathe, *, scratch: str) -> Cut:
    """Keep what the scratch cut showed."""
    require(user, Deed.CHOOSE)
    open_job_row(corner.job_id)
    cut = _cut_of(user, corner, lathe)
    cut.scratch = Scratch(scratch).value
    _keep(user, cut)
    return cut


@transaction.atomic
def keep_compensation(user: User, corner: Corner, lathe: Lathe, *, read: str, arm: str, unit: Unit) -> Cut:
    """Keep a compensation check: what the dial read at which arm. Raises ``UnreadableNumberError``."""
    require(user, Deed.CHOOSE)
    open_job_row(corner.job_id)
    cut = _cut_of(user, corner, lathe)
    large = unit if unit is Unit.MM else Unit.INCH
    cut.check_read_mm = parse_length(read, unit=unit, most_mm=2.0, signed=False).mm
    cut.check_arm_mm = parse_length(arm, unit=large, most_mm=1000.0, signed=False).mm or None
    _keep(user, cut)
    return cut


@transaction.atomic
def record_pass(user: User, job: Job, corner: Corner, lathe: Lathe, *, number: int, typed: str, unit: Unit) -> CutPass:
    """Record the planned pass ``number`` as made, with the smallest micrometer reading after it.

    Raises ``UnreadableNumberError``; ``PassConflictError`` where that pass is recorded already, by another hand or the
    same one twice; ``FarReadingError`` for a slip of the pen; ``CutRefusedError`` where a rule or the metal forbids.
    """
    require(user, Deed.CHOOSE)
    open_job_row(job.pk)
    choice = weigh_axle(Job.objects.for_page().get(pk=job.pk), corner.axle, past=False)
    found = choice.corner(corner.position) if choice is not None else None
    if choice is None or found is None:
        raise CutRefusedError("thickness_unknown")
    cut = _cut_of(user, corner, lathe)
    refused = refused_by(found, lathe) if not (cut.pk and done_passes(cut)) else None
    plan = plan_for(found, lathe_of(lathe), choice.shop, cut if cut.pk else None)
    if plan is None or refused or plan.refused or not plan.passes:
        raise CutRefusedError(refused or (plan.refused if plan is not None else None) or "thickness_unknown")
    large = unit if unit is Unit.MM else Unit.INCH
    reading = parse_length(typed, unit=large, most_mm=MOST_MM, signed=False).mm
    ahead = plan.passes[0]
    if ahead.number != number:
        raise PassConflictError
    if abs(reading - ahead.reading_mm[1]) > FAR_MM:
        raise FarReadingError
    _keep(user, cut)
    made = CutPass(
        cut=cut,
        number=ahead.number,
        out_mm=ahead.out_mm,
        in_mm=ahead.in_mm,
        typed=typed.strip(),
        reading_mm=reading,
        graduation_mm=_last_digit_mm(typed, reading),
        created_by=user,
    )
    _keep(user, made)
    return made


def _last_digit_mm(typed: str, reading_mm: float) -> float:
    """Return what the last digit of a typed reading is worth: 26.4 was not read to a micrometre."""
    figure = re.search(r"\d+(?:[.,](\d*))?", typed)
    if figure is None or reading_mm <= 0:
        return _FINEST_MM
    number = float(figure.group().replace(",", "."))
    worth = 10.0 ** -len(figure.group(1) or "") * reading_mm / number if number else _FINEST_MM
    return min(max(worth, _FINEST_MM), 1.0)


def refused_by(found: CornerVerdict, lathe: Lathe) -> str | None:
    """Return the first rule that keeps this lathe off this corner's disc, or None."""
    remedy = next((r for r in found.remedies if r.code == f"{lathe.kind}_cut"), None)
    if remedy is None:
        return "thickness_unknown"
    return remedy.blocked_by[0] if remedy.blocked_by else None


@transaction.atomic
def strike_pass(user: User, corner: Corner, lathe: Lathe) -> None:
    """Strike out the last pass: it was recorded by mistake. The row stays."""
    require(user, Deed.CHOOSE)
    open_job_row(corner.job_id)
    last = CutPass.objects.select_for_update().filter(cut__corner=corner, cut__lathe=lathe, withdrawn=False).last()
    if last is not None:
        last.withdrawn = True
        _keep(user, last)
