"""Writes of the Cause leg."""

from django.db import transaction

from compass.measure.recording import read_recording
from jobs.cause.road_test import _USUAL_CIRCUMFERENCE_MM, _short
from jobs.judging import refresh
from jobs.models import Job
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require


@transaction.atomic
def keep_road_test(user: User, job: Job, raw: bytes) -> Job:
    """Analyse a recording and keep what it shows with the job. Raises ``RecordingError``."""
    require(user, Deed.MEASURE)
    current = open_job_row(user, job.pk)
    recording = read_recording(raw)
    # scipy takes a second to load, and only a road test needs it: not every start of the server.
    from compass.measure.road_test import analyse_orders

    circumference = current.vehicle.rolling_circumference_mm
    orders = analyse_orders(recording, circumference_mm=circumference or _USUAL_CIRCUMFERENCE_MM)
    current.road_test = {
        "orders": _short(orders.orders),
        "braked": _short(orders.braked),
        "free": _short(orders.free),
        "order": orders.order,
        "other_order": orders.other_order,
        "shake": orders.shake.value,
        "seconds": [round(s, 1) for s in orders.seconds],
        "guessed_circumference": circumference is None,
    }
    current.story = current.story | {"road_test": orders.shake.value}
    save(user, current)
    refresh(user, current)
    return current
