"""Writes about instruments, tooling and the workshop's figures."""

import hashlib
from typing import Any, Final

from django.db import transaction
from django.utils import timezone
from django.utils.crypto import get_random_string

from workshop.models import (
    DeviceKey,
    Instrument,
    InstrumentCheck,
    Lathe,
    PlateKind,
    RepeatabilityStudy,
    ShopFigures,
    TipTurned,
    TorqueWrench,
    User,
)
from workshop.permissions import Deed, require
from workshop.versions import save_version

_KEY_LENGTH: Final = 40  # of letters and digits: 238 bits


@transaction.atomic
def keep_instrument(user: User, instrument: Instrument) -> Instrument:
    """Add an instrument or change it; sweeps taken with it keep the graduation they were read in."""
    require(user, Deed.SET_LIMITS)
    instrument._history_user = user
    instrument.full_clean()
    instrument.save()
    return instrument


@transaction.atomic
def make_device_key(user: User, instrument: Instrument, *, name: str) -> tuple[DeviceKey, str]:
    """Let an instrument talk: return its row and the key itself, which nobody can tell again."""
    require(user, Deed.KEEP_STORE)
    secret = get_random_string(_KEY_LENGTH)
    digest = hashlib.sha256(secret.encode()).hexdigest()
    row = DeviceKey.of(user).create(instrument=instrument, name=name, digest=digest, made_by=user)
    return row, secret


@transaction.atomic
def revoke_device_key(user: User, pk: int) -> bool:
    """Take a key back: from now on nobody is let in by it. Return whether there was one."""
    require(user, Deed.KEEP_STORE)
    rows = DeviceKey.of(user).filter(pk=pk, revoked_at=None)
    return bool(rows.update(revoked_at=timezone.now(), revoked_by=user))


@transaction.atomic
def keep_tooling(user: User, row: Lathe | PlateKind) -> None:
    """Add a lathe or a kind of plate, or change it."""
    require(user, Deed.KEEP_STORE)
    row._history_user = user
    row.full_clean()
    row.save()


@transaction.atomic
def keep_figures(user: User, *, version: int, **figures: Any) -> ShopFigures:
    """Set the workshop's prices, minutes and policy; refused if somebody else was faster."""
    require(user, Deed.SET_PRICES)
    ShopFigures.of(user).get_or_create(workshop_id=user.here_id)
    kept = ShopFigures.of(user).select_for_update().get()
    save_version(user, kept, version=version, **figures)
    return kept


@transaction.atomic
def check_instrument(user: User, instrument: Instrument, **fields: Any) -> InstrumentCheck:
    """Record a check against a standard; the newest says when the next is due."""
    require(user, Deed.KEEP_STORE)
    row = Instrument.of(user).select_for_update().get(pk=instrument.pk)
    check = InstrumentCheck(instrument=row, by=user, **fields)
    check.full_clean()
    check.save()
    if row.checked_on is None or check.on > row.checked_on:
        row.checked_on = check.on
        row._history_user = user
        row.save()
    return check


@transaction.atomic
def strike_check(user: User, check: InstrumentCheck, *, withdrawn: bool) -> None:
    """Strike a check out that was a slip, or let it count again; when the next is due follows those that count."""
    require(user, Deed.KEEP_STORE)
    row = Instrument.of(user).select_for_update().get(pk=check.instrument_id)
    check = row.checks.get(pk=check.pk)
    if (check.withdrawn_by_id is not None) == withdrawn:
        return
    newest = row.checks.filter(withdrawn_by=None).order_by("-on").values_list("on", flat=True)
    by_checks = row.checked_on == newest.first()  # not by a day that was typed on the instrument itself
    check.withdrawn_by = user if withdrawn else None
    check.save(update_fields=["withdrawn_by"])
    last = newest.first()
    if by_checks or (last is not None and (row.checked_on is None or last > row.checked_on)):
        row.checked_on = last
        row._history_user = user
        row.save()


@transaction.atomic
def keep_wrench(user: User, wrench: TorqueWrench) -> None:
    """Add a torque wrench or change it."""
    require(user, Deed.KEEP_STORE)
    wrench._history_user = user
    wrench.full_clean()
    wrench.save()


@transaction.atomic
def begin_study(
    user: User, instrument: Instrument, *, persons: list[str], parts: int, turns: int, limit_mm: float
) -> RepeatabilityStudy:
    """Lay a repeatability study out, to be read in any order."""
    require(user, Deed.KEEP_STORE)
    count = len(persons) * parts * turns
    study = RepeatabilityStudy(
        instrument=instrument,
        persons=persons,
        parts=parts,
        turns=turns,
        limit_mm=limit_mm,
        typed=[""] * count,
        readings_mm=[None] * count,
        by=user,
    )
    study._history_user = user
    study.full_clean()
    study.save()
    return study


@transaction.atomic
def read_study(
    user: User, study: RepeatabilityStudy, *, version: int, typed: list[str], readings_mm: list[float | None]
) -> None:
    """Keep a study's readings; refused if somebody else was faster."""
    require(user, Deed.MEASURE)
    row = RepeatabilityStudy.of(user).select_for_update(of=("self",)).get(pk=study.pk)
    save_version(user, row, version=version, typed=typed, readings_mm=readings_mm)


@transaction.atomic
def turn_tips(user: User, lathe: Lathe, *, now: int, new: bool, discs: int) -> Lathe:
    """Turn all tips of a lathe to their next corner, in unison, or put new ones in; ``now`` is the corner seen."""
    require(user, Deed.KEEP_STORE)
    row = Lathe.of(user).select_for_update().get(pk=lathe.pk)
    if row.tip_corner_now != now and not new:
        return row  # turned meanwhile, or pressed twice
    row.tip_corner_now = 1 if new else row.tip_corner_now % row.tip_corners + 1
    row._history_user = user
    row.save()
    TipTurned(lathe=row, corner=row.tip_corner_now, new=new, discs=discs, by=user).save()
    return row
