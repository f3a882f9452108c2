"""Writes about a vehicle's discs."""

from typing import Any

from django.db import transaction

from jobs.models import RotorFitting
from workshop.models import User, Vehicle
from workshop.permissions import Deed, require


@transaction.atomic
def fit_rotor(user: User, vehicle: Vehicle, **fields: Any) -> RotorFitting:
    """Record that a rotor was fitted: its wear is counted from there."""
    require(user, Deed.EDIT_JOB)
    fitting = RotorFitting(vehicle=vehicle, created_by=user, **fields)
    fitting._history_user = user
    fitting.full_clean()
    fitting.save()
    return fitting


@transaction.atomic
def strike_fitting(user: User, fitting: RotorFitting, *, withdrawn: bool) -> None:
    """Strike a rotor fitted out, or let it count again; the row stays."""
    require(user, Deed.EDIT_JOB)
    row = RotorFitting.of(user).select_for_update().get(pk=fitting.pk)
    if row.withdrawn != withdrawn:
        row.withdrawn = withdrawn
        row._history_user = user
        row.save()
