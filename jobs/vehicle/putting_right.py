"""A vehicle that was put into the fleet under another name, or as another kind, than it has: put right."""

from django.db import transaction
from django.db.models import Q

from compass.ground.positions import BY_KIND, LAYOUTS
from jobs.floor.actions import lay_corners
from jobs.judging import refresh
from jobs.models import Closing, Corner, Job
from jobs.vehicle.moving import HeldError, laid_out
from jobs.writing import save
from workshop.models import User, Vehicle
from workshop.permissions import Deed, require
from workshop.vehicles import rename_vehicle


def stays(user: User, vehicle: Vehicle, *, kind: str, layout: str) -> bool:
    """Whether a vehicle cannot be of this kind: something is on record of corners that it would not have."""
    if LAYOUTS.get(layout, BY_KIND[kind]) == vehicle.positions:
        return False
    ours = Job.of(user).filter(vehicle=vehicle)
    closed_or_mended = ours.filter(Q(state=Job.State.CLOSED) | Q(story__has_key="mended_beside"))
    worked = ours.exclude(decided=[], run__isnull=True), closed_or_mended
    fitted = Closing.of(user).filter(vehicle=vehicle), vehicle.rotor_fittings.all(), vehicle.fitted_plates.all()
    return any(rows.exists() for rows in (*worked, *fitted)) or bool(laid_out(user, read=True, job__vehicle=vehicle))


@transaction.atomic
def put_right(user: User, vehicle: Vehicle, *, kind: str, layout: str, **names: str) -> bool:
    """Put right what a vehicle is called and what it is; return whether it has other corners now.

    Its open jobs get the corners it has then, and are judged anew. Raises ``HeldError("bound")``.
    """
    require(user, Deed.EDIT_JOB)
    jobs = list(Job.of(user).filter(vehicle=vehicle).exclude(state=Job.State.CLOSED).select_for_update().order_by("pk"))
    row = Vehicle.of(user).select_for_update().get(pk=vehicle.pk)  # nobody opens another job meanwhile
    if stays(user, row, kind=kind, layout=layout):
        raise HeldError("bound")
    before, positions = (row.kind, row.layout), row.positions
    row.kind, row.layout = kind, layout
    rename_vehicle(user, row, **names)
    if before == (kind, layout):
        return False
    for job in jobs:
        job.vehicle = row
        if row.positions != positions:
            Corner.of(user).filter(job=job).delete()
            lay_corners(user, job, row)
            job.version += 1
            save(user, job)
        refresh(user, job)
    return row.positions != positions
