"""Writes beside the tapes: quick readings, what was seen at a corner, rotors fitted. One transaction each."""

from typing import Any

from django.db import transaction

from compass.ground.units import Unit
from compass.measure.dial import read_dial
from jobs.actions import Judged, open_job_row, refresh_verdict
from jobs.models import Corner, Look, QuickReading, RotorFitting
from workshop.adapters import dial_of
from workshop.models import User, Vehicle
from workshop.policy import Deed, require

MOST_MM = 10.0  # mm; the longest travel of a workshop dial


@transaction.atomic
def add_quick(user: User, corner: Corner, *, typed: str, unit: Unit, **set_up: Any) -> QuickReading:
    """Store a quick reading as typed and in millimetres. Raises ``UnreadableNumberError``."""
    require(user, Deed.MEASURE)
    open_job_row(corner.job_id)
    dial = dial_of(set_up.get("instrument"), graduation_mm=set_up["graduation_mm"])
    amount, _ = read_dial(typed, dial=dial, unit=unit, most_mm=MOST_MM, signed=False)
    quick = QuickReading(corner=corner, typed=typed.strip(), tir_mm=amount.mm, created_by=user, **set_up)
    quick._history_user = user
    quick.full_clean()
    quick.save()
    refresh_verdict(corner)
    return quick


@transaction.atomic
def withdraw_quick(user: User, quick: QuickReading, *, withdrawn: bool) -> None:
    """Strike a quick reading out, or let it count again; the row stays."""
    require(user, Deed.MEASURE)
    open_job_row(quick.corner.job_id)
    quick.withdrawn = withdrawn
    quick._history_user = user
    quick.save()
    refresh_verdict(quick.corner)


@transaction.atomic
def keep_look(user: User, corner: Corner, *, typed: dict[str, str], findings: list[str], unit: Unit) -> Judged:
    """Keep what was typed and seen beside the disc, readable or not, and judge the corner anew."""
    require(user, Deed.MEASURE)
    open_job_row(corner.job_id)
    look = Look.objects.select_for_update().filter(corner=corner).first() or Look(corner=corner)
    fresh = (typed, sorted(findings), unit.value)
    if fresh != (look.typed, look.findings, look.unit):
        look.typed, look.findings, look.unit = fresh
        look._history_user = user
        look.save()
    corner.look = look
    return refresh_verdict(corner)


@transaction.atomic
def fit_rotor(user: User, vehicle: Vehicle, **fields: Any) -> RotorFitting:
    """Record that a rotor was fitted: its wear is counted from there."""
    require(user, Deed.EDIT_JOB)
    fitting = RotorFitting(vehicle=vehicle, created_by=user, **fields)
    fitting._history_user = user
    fitting.full_clean()
    fitting.save()
    return fitting
