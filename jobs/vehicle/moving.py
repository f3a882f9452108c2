"""A job that was opened for another vehicle than the one that stands here, given to the right one."""

from dataclasses import dataclass
from itertools import chain
from typing import Any, Final

from django.db import transaction
from django.utils.translation import gettext_lazy as _

from compass.ground.positions import axle_of
from jobs.floor.actions import lay_corners, see_again
from jobs.judging import refresh
from jobs.models import Closing, Corner, Job, Look, QuickReading, Sweep, ThicknessRound
from jobs.odometer import read_before
from jobs.writing import open_job_row, save
from workshop.models import User, Vehicle
from workshop.permissions import Deed, require
from workshop.store.limits import limits_for_axles
from workshop.vehicles import note_odometer, set_limits

HELD: Final = {
    "same": _("It is this vehicle’s already."),
    "decided": _("A remedy is decided on this job. Take the decision back first."),
    "worked": _("Work was done on this job, or it was closed: it stays with its vehicle."),
    "read": _("Something is read at a corner that this vehicle has not got."),
    "bound": _(
        "Readings or work are on record at its corners: its wheels stay. What has others is another vehicle, with a "
        "name and a job of its own."
    ),
}


@dataclass(frozen=True, slots=True)
class Moved:
    """A job at its vehicle, and the axles whose limits had to come along: it had none there."""

    job: Job
    brought: tuple[str, ...]


class HeldError(Exception):
    """A job stays with its vehicle; its argument is a code of ``HELD``."""


def held(user: User, job: Job, vehicle: Vehicle) -> str:
    """Return why a job cannot go to a vehicle, a code of ``HELD``; empty where it can."""
    if vehicle.pk == job.vehicle_id:
        return "same"
    if job.decided:
        return "decided"
    if hasattr(job, "run") or job.closings.exists() or job.fitted_plates.exists():
        return "worked"
    if vehicle.positions == job.vehicle.positions:
        return ""
    if any("position" in mended for mended in job.mended_beside):
        return "worked"
    return "read" if laid_out(user, read=True, job=job) else ""


def laid_out(user: User, *, read: bool = False, **of: Any) -> set[str]:
    """Return the axles of corners at which something is laid out to be read; ``read``: is read already."""
    at, these = "corner__position", {f"corner__{name}": value for name, value in of.items()}
    tapes = [kind.of(user).filter(**these).values_list(at, "typed") for kind in (Sweep, ThicknessRound)]
    looks = Look.of(user).exclude(typed={}, findings=[])
    beside = [rows.filter(**these).values_list(at, flat=True) for rows in (QuickReading.of(user), looks)]
    read_at = [position for rows in tapes for position, texts in rows if any(texts) or not read]
    return {axle_of(position) for position in (*read_at, *chain.from_iterable(beside))}


def is_slip(job: Job) -> bool:
    """Whether the vehicle of a job was never there for anything else: it may have been made by a slip."""
    vehicle = job.vehicle
    elsewhere = vehicle.jobs.exclude(pk=job.pk), vehicle.rotor_fittings.all(), vehicle.fitted_plates.all()
    return not any(rows.exists() for rows in elsewhere)


@transaction.atomic
def move_job(
    user: User,
    job: Job,
    vehicle: Vehicle,
    *,
    odometer_km: int | None,
    odometer_runs_back: bool = False,
    take_out: bool = False,
) -> Moved:
    """Give an open job to ``vehicle``, with all that was read; its limits are that vehicle's now.

    ``odometer_runs_back``: who read it was asked, and it does stand lower than the vehicle's newest.
    ``take_out``: the vehicle it was opened for is no vehicle, but a slip. Raises ``HeldError``, ``JobClosedError``.
    """
    require(user, Deed.EDIT_JOB)
    current = open_job_row(user, job.pk)
    before = Vehicle.of(user).select_for_update().get(pk=current.vehicle_id)  # nobody opens another job for a slip
    if why := held(user, current, vehicle):
        raise HeldError(why)
    slip = take_out and is_slip(current)
    brought: tuple[str, ...] = ()
    if vehicle.positions == before.positions:
        brought = _take_limits(user, current, vehicle)
    else:
        Corner.of(user).filter(job=current).delete()
        lay_corners(user, current, vehicle)
    noted_km = current.odometer_km
    current.vehicle, current.odometer_km = vehicle, odometer_km
    current.version += 1
    save(user, current)
    _see_again_without(user, current)
    see_again(user, current)
    if slip:
        before._history_user = user
        before.delete()
    elif noted_km is not None and before.odometer_km == noted_km:
        before.odometer_km = _stood_at(before, current)
        save(user, before)
    if odometer_km is not None:
        note_odometer(user, vehicle, odometer_km, runs_back=odometer_runs_back)
    refresh(user, current)
    return Moved(current, brought)


def _take_limits(user: User, job: Job, vehicle: Vehicle) -> tuple[str, ...]:
    """Put the limits of ``vehicle`` in force at a job's corners; return the axles that had none there.

    Where something is laid out they come along: a tape is drawn, and judged, by some.
    """
    corners = list(Corner.of(user).filter(job=job).select_related("limits"))
    in_force = limits_for_axles(user, vehicle)
    ours = {corner.axle: corner.limits for corner in corners if corner.limits is not None}
    brought = sorted(laid_out(user, job=job) & set(ours) - set(in_force))
    in_force |= {axle: set_limits(user, vehicle, axle, **ours[axle].figures()) for axle in brought}
    for corner in corners:
        corner.limits = in_force.get(corner.axle)
    Corner.of(user).bulk_update(corners, ["limits"])
    return tuple(brought)


def _stood_at(vehicle: Vehicle, job: Job) -> int | None:
    """Return what a vehicle's odometer stood at without a job's: as it was noted then, else at its newest visit."""
    by_job = job.history.filter(odometer_km__isnull=False).values_list("odometer_km", flat=True)
    noted = vehicle.history.filter(odometer_km__isnull=False).exclude(odometer_km__in=list(by_job))
    if (last := noted.order_by("-history_id").values_list("odometer_km", flat=True).first()) is not None:
        return last
    newest = read_before(vehicle)
    return newest.km if newest is not None else None


def _see_again_without(user: User, job: Job) -> None:
    """Let what was closed on the vehicle before be seen again by its next job, not by one that is not its own."""
    for closing in Closing.of(user).filter(seen_again=job).select_related("vehicle"):
        following = (
            closing.vehicle.jobs.filter(created_at__gt=closing.at)
            .exclude(pk=closing.job_id)
            .order_by("created_at")
            .first()
        )
        closing._history_user = user
        seen_km = following.odometer_km if following is not None else None
        closing.said(seen_again=following, seen_km=seen_km, comeback=None, comeback_by=None)
