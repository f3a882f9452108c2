"""Writes about vehicles and the limits of their axles."""

from collections.abc import Iterable
from difflib import get_close_matches
from typing import Any, Final

from django.db import transaction

from workshop.models import AxleLimits, User, Vehicle
from workshop.models.vehicles import without_spacing
from workshop.permissions import Deed, require

_A_PART: Final = 3  # letters: less is a part of half the fleet
_A_SLIP: Final = 0.8  # so alike are two names that differ by a letter or two
_READ_APART_KM: Final = 10  # two people read it unlike, or on the way into the bay


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
def rename_vehicle(user: User, vehicle: Vehicle, **names: str) -> None:
    """Put right what a vehicle is called: label, registration, model."""
    require(user, Deed.EDIT_JOB)
    for name, text in names.items():
        setattr(vehicle, name, text)
    vehicle._history_user = user
    vehicle.full_clean()
    vehicle.save()


def meant(fleet: Iterable[Vehicle], words: str) -> list[Vehicle]:
    """Return vehicles that ``words`` may be meant for: a part of the name or registration, or a slip of the pen.

    Figures tell vehicles apart: "Minibus 8" is no slip for "Minibus 7".
    """
    return [v for v in fleet if any(_may_be(words.casefold(), name.casefold()) for name in (v.label, v.registration))]


def _may_be(words: str, name: str) -> bool:
    typed, whole = without_spacing(words), without_spacing(name)
    if len(typed) < _A_PART or not whole:
        return False
    return typed in whole or _is_slip(typed, whole) or all(_is_among(word, name.split()) for word in words.split())


def _is_among(word: str, words: list[str]) -> bool:
    return any((word.isalpha() and name.startswith(word)) or _is_slip(word, name) for name in words)


def _is_slip(typed: str, name: str) -> bool:
    same_figures = [c for c in typed if c.isdigit()] == [c for c in name if c.isdigit()]
    return same_figures and bool(get_close_matches(typed, [name], cutoff=_A_SLIP))


def ran_back(km: int, before_km: int) -> bool:
    """Whether an odometer stands lower than it stood before: another was put in, or one of the two is wrong."""
    return km < before_km - _READ_APART_KM


@transaction.atomic
def note_odometer(user: User, vehicle: Vehicle, km: int, *, runs_back: bool = False) -> None:
    """Keep the newest that was read of a vehicle's odometer; less than it stood at only where it may run back."""
    if vehicle.odometer_km is None or km > vehicle.odometer_km or (runs_back and km != vehicle.odometer_km):
        vehicle.odometer_km = km
        vehicle._history_user = user
        vehicle.save()


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
