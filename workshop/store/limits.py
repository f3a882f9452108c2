"""The limits library: what is known of a vehicle model's axles, and how it comes into force on a vehicle."""

from typing import Any

from django.db import transaction
from django.db.models.functions import Upper

from compass.ground.positions import axle_of
from workshop.models import AxleLimits, LibraryLimits, User, Vehicle
from workshop.permissions import Deed, require


def limits_for_axles(user: User, vehicle: Vehicle) -> dict[str, AxleLimits]:
    """Return the limits in force of each axle; an axle without any takes those of its model from the library."""
    in_force: dict[str, AxleLimits] = {}
    for limits in vehicle.limits.order_by("created_at", "pk"):
        in_force[limits.axle] = limits
    missing = {axle_of(position) for position in vehicle.positions} - set(in_force)
    if missing and vehicle.model.strip():
        for row in LibraryLimits.of(user).of_model(vehicle.model).filter(axle__in=missing):
            in_force[row.axle] = AxleLimits.of(user).create(
                vehicle=vehicle, axle=row.axle, entered_by=row.entered_by, **row.figures()
            )
    return in_force


@transaction.atomic
def put_into_library(user: User, rows: list[dict[str, Any]]) -> int:
    """Put limits of models into the library, all or nothing; unchanged ones keep their row. Return how many are new.

    ``rows`` are cleaned figures (of a form or of ``limits_files``); the database refuses what contradicts itself.
    """
    require(user, Deed.SET_LIMITS)
    models = {row["model"].strip().upper() for row in rows}
    in_force = LibraryLimits.of(user).annotate(named=Upper("model")).filter(named__in=models).in_force()
    known = {(limits.named, limits.axle): limits.figures() for limits in in_force}
    read = [LibraryLimits(entered_by=user, **row) for row in rows]
    fresh = [row for row in read if known.get((row.model.strip().upper(), row.axle)) != row.figures()]
    # Few at a time: a statement of ten thousand figures takes longer to take apart than to carry out.
    LibraryLimits.of(user).bulk_create(fresh, batch_size=25)
    return len(fresh)


def library_rows(user: User, words: str = "") -> list[LibraryLimits]:
    """Return what is in force in the library, of models that hold ``words``."""
    rows = LibraryLimits.of(user).in_force()
    for word in words.split()[:6]:
        rows = rows.filter(model__icontains=word)
    return list(rows[:400])


def models_known(user: User) -> list[str]:
    """Return the models the library has limits for, by name."""
    return list(LibraryLimits.of(user).order_by("model").values_list("model", flat=True).distinct()[:400])
