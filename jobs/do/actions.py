"""Writes of the work's own records: a plate fitted, passes of a cut. One transaction each, refused by rule."""

import re

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.db.models import F

from compass.cause.measured import Measured
from compass.do.cut_plan import Scratch
from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit, parse_length
from jobs.adapters import done_passes
from jobs.choose.axle import decisions_of, weigh_axle
from jobs.do.cut import check_failed, plan_for, refused_by
from jobs.models import Corner, Cut, CutPass, FittedPlate, Job
from jobs.writing import open_job_row
from workshop.adapters import lathe_of
from workshop.models import Lathe, PlateKind, ShopFigures, User
from workshop.permissions import Deed, may_work, require

FAR_MM = 1.0  # no pass is off by more: a slip of the decimal sign or the unit
_FINEST_MM = 0.001
MOST_MM = 100.0  # mm; no disc is thicker


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


def lets_work(user: User) -> bool:
    """Whether the workshop lets this person carry out steps; its figures are asked only for a trainee."""
    return may_work(user, trainees=False) or may_work(user, trainees=ShopFigures.in_force(user).trainees_work)


def require_work(user: User) -> None:
    """Refuse whom the workshop does not let carry out steps."""
    if not lets_work(user):
        raise PermissionDenied(Deed.DO.value)


@transaction.atomic
def fit_plate(user: User, job: Job, position: str) -> FittedPlate:
    """Take the decided plate from the stock and put it on the vehicle's record; an older one there counts as out.

    Raises ``NoPlateError`` where none is decided for this corner or none is left: no plate is used twice.
    """
    require_work(user)
    row = open_job_row(user, job.pk)
    corner = row.corners.get(position=position)
    decision = decisions_of(row).get(corner.axle)
    settings = decision.settings.get(position, {}) if decision is not None else {}
    plate_mm = settings.get("plate_mm")
    if plate_mm is None or corner.limits is None:
        raise NoPlateError
    kit = PlateKind.of(user).select_for_update().filter(studs=corner.limits.studs, stock__gt=0)
    kind = next((k for k in kit if abs(k.correction_mm - plate_mm) < 1e-6), None)
    before = (
        FittedPlate.of(user).select_for_update().filter(vehicle=row.vehicle, position=position, taken_out=False).first()
    )
    if kind is None or (before is not None and before.job_id == row.pk):
        raise NoPlateError
    if before is not None:
        _take_out(user, before)
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
    PlateKind.of(user).filter(pk=kind.pk).update(stock=F("stock") - 1)
    kind.refresh_from_db()
    kind._history_user = user
    kind.save()
    return fitted


@transaction.atomic
def take_out(user: User, job: Job, fitted: FittedPlate) -> None:
    """Note on a job that a plate was taken out. It goes to scrap: the stock stays as it is."""
    require(user, Deed.CHOOSE)
    open_job_row(user, job.pk)
    _take_out(user, fitted)


def _take_out(user: User, fitted: FittedPlate) -> None:
    fitted.taken_out = True
    fitted._history_user = user
    fitted.save()


def _cut_of(user: User, corner: Corner, lathe: Lathe) -> Cut:
    of_this_work = {"corner": corner, "lathe": lathe, "episode": corner.decided_in or 0}
    cut = Cut.of(user).select_for_update().filter(**of_this_work).first()
    return cut or Cut(**of_this_work, created_by=user)


def _keep(user: User, row: Cut | CutPass) -> None:
    row._history_user = user
    row.full_clean(exclude=["scratch"])
    row.save()


@transaction.atomic
def keep_scratch(user: User, corner: Corner, lathe: Lathe, *, scratch: str) -> Cut:
    """Keep what the scratch cut showed."""
    require_work(user)
    open_job_row(user, corner.job_id)
    cut = _cut_of(user, corner, lathe)
    cut.scratch = Scratch(scratch).value
    _keep(user, cut)
    return cut


@transaction.atomic
def keep_compensation(user: User, corner: Corner, lathe: Lathe, *, read: str, arm: str, unit: Unit) -> Cut:
    """Keep a compensation check: what the dial read at which arm. Raises ``UnreadableNumberError``."""
    require_work(user)
    open_job_row(user, corner.job_id)
    cut = _cut_of(user, corner, lathe)
    large = unit if unit is Unit.MM else Unit.INCH
    cut.check_read_mm = parse_length(read, unit=unit, most_mm=2.0, signed=False).mm
    cut.check_arm_mm = parse_length(arm, unit=large, most_mm=1000.0, signed=False).mm
    if cut.check_arm_mm <= 0:
        raise UnreadableNumberError("zero", arm.strip())
    _keep(user, cut)
    return cut


@transaction.atomic
def record_pass(
    user: User,
    job: Job,
    corner: Corner,
    lathe: Lathe,
    *,
    number: int,
    typed: str,
    unit: Unit,
    one_more: bool = False,
    renewed: Measured | None = None,
) -> CutPass:
    """Record the planned pass ``number`` as made, with the smallest micrometer reading after it.

    ``one_more``: a dark patch was left after what was planned, and this pass is for it. ``renewed``: what was read of
    the new rotor that is cut; the rules spoke of the old one.

    Raises ``UnreadableNumberError``; ``PassConflictError`` where that pass is recorded already, by another hand or the
    same one twice; ``FarReadingError`` for a slip of the pen; ``CutRefusedError`` where a rule or the metal forbids.
    """
    require_work(user)
    open_job_row(user, job.pk)
    choice = weigh_axle(user, Job.of(user).for_page().get(pk=job.pk), corner.axle, as_decided=True)
    side = choice.corner(corner.position) if choice is not None else None
    if choice is None or side is None:
        raise CutRefusedError("thickness_unknown")
    cut = _cut_of(user, corner, lathe)
    begun = bool(cut.pk and done_passes(cut))
    refused = None if begun or renewed is not None else refused_by(side, lathe)
    refused = refused or ("compensate_again" if check_failed(cut, lathe, side) else None)
    measured = renewed or side.measured
    plan = plan_for(measured, lathe_of(lathe), choice.shop, cut if cut.pk else None, one_more=one_more)
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
    one = CutPass(
        cut=cut,
        number=ahead.number,
        out_mm=ahead.out_mm,
        in_mm=ahead.in_mm,
        typed=typed.strip(),
        reading_mm=reading,
        graduation_mm=_last_digit_mm(typed, reading),
        created_by=user,
    )
    _keep(user, one)
    return one


def _last_digit_mm(typed: str, reading_mm: float) -> float:
    """Return what the last digit of a typed reading is worth: 26.4 was not read to a micrometre."""
    figure = re.search(r"\d+(?:[.,](\d*))?", typed)
    if figure is None or reading_mm <= 0:
        return _FINEST_MM
    number = float(figure.group().replace(",", "."))
    worth = 10.0 ** -len(figure.group(1) or "") * reading_mm / number if number else _FINEST_MM
    return min(max(worth, _FINEST_MM), 1.0)


@transaction.atomic
def strike_pass(user: User, corner: Corner, lathe: Lathe) -> None:
    """Strike out the last pass: it was recorded by mistake. The row stays."""
    require_work(user)
    open_job_row(user, corner.job_id)
    of_this_work = {"cut__corner": corner, "cut__lathe": lathe, "cut__episode": corner.decided_in or 0}
    last = CutPass.of(user).select_for_update().filter(**of_this_work, withdrawn=False).last()
    if last is not None:
        last.withdrawn = True
        _keep(user, last)
