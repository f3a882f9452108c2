"""Writes about instruments, tooling and the workshop's figures."""

from typing import Any

from django.db import transaction

from workshop.models import Instrument, Lathe, PlateKind, ShopFigures, User
from workshop.permissions import Deed, require
from workshop.versions import save_version


@transaction.atomic
def keep_instrument(user: User, instrument: Instrument) -> Instrument:
    """Add an instrument or change it; sweeps taken with it keep the graduation they were read in."""
    require(user, Deed.SET_LIMITS)
    instrument._history_user = user
    instrument.full_clean()
    instrument.save()
    return instrument


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
    ShopFigures.of(user).get_or_create(pk=1)
    kept = ShopFigures.of(user).select_for_update().get(pk=1)
    save_version(user, kept, version=version, **figures)
    return kept
