"""Writes of the floor: opening a job."""

from typing import Any

from django.core.cache import cache
from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from compass.cause.causes import adjusted_rates
from compass.ground.positions import axle_of
from jobs.judging import refresh
from jobs.models import Closing, Corner, Job
from workshop.adapters import learned_figures
from workshop.models import User, Vehicle
from workshop.permissions import Deed, require
from workshop.store.limits import limits_for_axles
from workshop.vehicles import note_odometer

_RATES_SECONDS = 300


@transaction.atomic
def open_job(user: User, vehicle: Vehicle, **told: Any) -> Job:
    """Open a job and judge it: what to do first. It takes what ``make_job`` takes."""
    job = make_job(user, vehicle, **told)
    refresh(user, job)
    return job


@transaction.atomic
def make_job(
    user: User,
    vehicle: Vehicle,
    *,
    complaint: str = "",
    odometer_km: int | None = None,
    odometer_runs_back: bool = False,
    assigned_to: User | None = None,
) -> Job:
    """Make a job with all corners of the vehicle, each with the limits in force for its axle; it is not judged yet.

    ``odometer_runs_back``: who read it was asked, and it does stand lower than the vehicle's newest.
    """
    require(user, Deed.OPEN_JOB)
    job = Job(
        vehicle=vehicle,
        complaint=complaint,
        odometer_km=odometer_km,
        assigned_to=assigned_to,
        created_by=user,
        created_at=timezone.now(),
        base_rates=rates_of_closed_jobs(user),
        figures=learned_figures(user),
    )
    job._history_user = user
    job.full_clean()
    job.save()
    lay_corners(user, job, vehicle)
    see_again(user, job)
    if odometer_km is not None:
        note_odometer(user, vehicle, odometer_km, runs_back=odometer_runs_back)
    return job


def lay_corners(user: User, job: Job, vehicle: Vehicle) -> None:
    """Give a job the corners of a vehicle, each with the limits in force for its axle."""
    in_force = limits_for_axles(user, vehicle)
    Corner.of(user).bulk_create(
        Corner(job=job, position=position, place=place, limits=in_force.get(axle_of(position)))
        for place, position in enumerate(vehicle.positions)
    )


def see_again(user: User, job: Job) -> None:
    """Note that the work of the last visit has been seen again; whether it came back is for a person to say."""
    for closing in Closing.of(user).filter(vehicle=job.vehicle, stands=True, seen_again=None, at__lt=job.created_at):
        closing.said(seen_again=job, seen_km=job.odometer_km)


def rates_of_closed_jobs(user: User) -> dict[str, float]:
    """Return the base rates of causes adjusted by this workshop's closed jobs; counted anew every few minutes."""
    counts = cache.get(f"closed-causes-{user.here_id}")
    if counts is None:
        rows = Job.of(user).filter(state=Job.State.CLOSED).exclude(found_cause="").values("found_cause")
        counts = {row["found_cause"]: row["n"] for row in rows.annotate(n=Count("pk"))}
        cache.set(f"closed-causes-{user.here_id}", counts, _RATES_SECONDS)
    return {cause.value: rate for cause, rate in adjusted_rates(counts).items()}
