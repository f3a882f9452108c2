"""Writes of this app. Each takes who does it, checks that they may, and leaves an audit row in the same transaction."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from workshop.models import AxleLimits, Instrument, Lathe, PlateKind, ShopFigures, User, Vehicle
from workshop.policy import Deed, require


@transaction.atomic
def add_vehicle(user: User, **fields: Any) -> Vehicle:
    """Put a vehicle into the fleet."""
    require(user, Deed.OPEN_JOB)
    vehicle = Vehicle(**fields)
    vehicle._history_user = user
    vehicle.full_clean()
    vehicle.save()
    return vehicle


@transaction.atomic
def set_limits(user: User, vehicle: Vehicle, axle: str, **figures: Any) -> AxleLimits:
    """Set the limits of an axle. Unchanged figures keep the row in force; changed ones make a new row."""
    require(user, Deed.SET_LIMITS)
    current = vehicle.limits.filter(axle=axle).first()
    fresh = AxleLimits(vehicle=vehicle, axle=axle, entered_by=user, **figures)
    if current is not None and current.figures() == fresh.figures():
        return current
    fresh.full_clean()
    fresh.save()
    return fresh


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
    ShopFigures.objects.get_or_create(pk=1)
    kept = ShopFigures.objects.select_for_update().get(pk=1)
    if kept.version != version:
        raise StaleFiguresError
    for name, value in figures.items():
        setattr(kept, name, value)
    kept.version += 1
    kept._history_user = user
    kept.full_clean()
    kept.save()
    return kept


def set_preferences(user: User, *, units: str | None = None, theme: str | None = None) -> None:
    """Remember how a person wants to see figures and pages."""
    if units in User.Units.values:
        user.units = units
    if theme in User.Theme.values:
        user.theme = theme
    User.objects.filter(pk=user.pk).update(units=user.units, theme=user.theme)


@transaction.atomic
def add_person(user: User, *, username: str, password: str, **fields: Any) -> User:
    """Let a person sign in."""
    require(user, Deed.MANAGE_PEOPLE)
    person = User(username=username, **fields)
    person._history_user = user
    person.set_password(password)
    person.full_clean()
    person.save()
    return person


@transaction.atomic
def change_person(user: User, person: User, *, role: str, is_active: bool) -> User:
    """Change what a person may do. Nobody takes the last lead's keys, not even that lead."""
    require(user, Deed.MANAGE_PEOPLE)
    leads = User.objects.select_for_update().filter(role=User.Role.LEAD, is_active=True)
    stays_lead = role == User.Role.LEAD and is_active
    if not stays_lead and [lead.pk for lead in leads] == [person.pk]:
        raise LastLeadError
    person.role, person.is_active = role, is_active
    person._history_user = user
    person._history_date = timezone.now()
    person.save()
    return person


class LastLeadError(Exception):
    """The change would leave the workshop without a lead."""


class StaleFiguresError(Exception):
    """Somebody else changed the workshop's figures since the page was drawn."""
