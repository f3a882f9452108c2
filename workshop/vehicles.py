"""Writes about vehicles and the limits of their axles."""

from typing import Any, Final

from django.db import transaction

from workshop.models import AxleLimits, User, Vehicle
from workshop.permissions import Deed, require

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
