"""Writes of the Prepare leg: limits in force, tapes laid out."""

from typing import Any, TypeVar

from django.db import transaction

from compass.evidence.records import Surface
from compass.ground.angles import equal_stations_deg
from jobs.judging import refresh
from jobs.models import Corner, Sweep, ThicknessRound
from jobs.writing import open_job_row, save
from workshop.models import AxleLimits, User
from workshop.permissions import Deed, require

Laid = TypeVar("Laid", Sweep, ThicknessRound)


@transaction.atomic
def use_limits(user: User, corner: Corner, limits: AxleLimits) -> None:
    """Put limits in force on every corner of this axle in this job, and judge the readings anew."""
    require(user, Deed.SET_LIMITS)
    job = open_job_row(user, corner.job_id)
    for other in job.corners.all():
        if other.axle == limits.axle and other.limits_id != limits.pk:
            other.limits = limits
            other.save(update_fields=["limits"])
    refresh(user, job)


@transaction.atomic
def start_sweep(user: User, corner: Corner, *, stations: int, **set_up: Any) -> Sweep:
    """Lay out an empty sweep for a confirmed set-up; an empty one of the same surface and index is set up anew."""
    require(user, Deed.MEASURE)
    open_job_row(user, corner.job_id)
    angles = [float(angle) for angle in equal_stations_deg(stations)]
    index_deg = set_up.get("index_deg", 0.0)
    surface = set_up.get("surface", Surface.ROTOR_OUTBOARD.value)
    laid_out = corner.sweeps.filter(index_deg=index_deg, surface=surface, episode=corner.episode)
    sweep = next((s for s in laid_out if s.is_empty and not s.struck), None) or _fresh(Sweep, user, corner)
    for name, value in set_up.items():
        setattr(sweep, name, value)
    sweep.stations_deg = angles
    sweep.typed, sweep.readings_mm = [""] * (stations + 1), [None] * (stations + 1)
    save(user, sweep, reason="set-up")
    return sweep


@transaction.atomic
def start_round(
    user: User,
    corner: Corner,
    *,
    stations: int,
    radius_mm: float = 0.0,
    radii_mm: list[float] | None = None,
    **set_up: Any,
) -> ThicknessRound:
    """Lay out an empty thickness round at one to three radii; an empty one is set up anew, one with readings kept."""
    require(user, Deed.MEASURE)
    open_job_row(user, corner.job_id)
    last = corner.rounds.filter(struck=False, episode=corner.episode).last()
    measured = last if last is not None and last.is_empty else _fresh(ThicknessRound, user, corner)
    for name, value in set_up.items():
        setattr(measured, name, value)
    measured.stations_deg = [float(angle) for angle in equal_stations_deg(stations)]
    measured.radii_mm = radii = radii_mm or [radius_mm]
    measured.typed, measured.readings_mm = [""] * stations * len(radii), [None] * stations * len(radii)
    save(user, measured, reason="set-up")
    return measured


def _fresh(kind: type[Laid], user: User, corner: Corner) -> Laid:
    """Return a tape of the episode the corner is in now."""
    return kind(corner=corner, episode=corner.episode, created_by=user)


@transaction.atomic
def add_turn(user: User, sweep: Sweep) -> Sweep:
    """Lay out another turn under the same conditions; an unread one is used first."""
    require(user, Deed.MEASURE)
    open_job_row(user, sweep.corner.job_id)
    for other in sweep.corner.sweeps.filter(episode=sweep.episode):
        if other.set_up == sweep.set_up and other.is_empty and not other.struck:
            return other
    turn = Sweep(
        corner=sweep.corner,
        created_by=user,
        **{
            name: getattr(sweep, name)
            for name in (
                "episode",
                "surface",
                "instrument",
                "confirmed",
                "radius_mm",
                "read_to",
                "cleaned",
                "nuts_torqued",
                "graduation_mm",
                "instrument_error_mm",
                "entry_unit",
                "index_deg",
                "stations_deg",
            )
        },
        typed=[""] * sweep.slots,
        readings_mm=[None] * sweep.slots,
    )
    save(user, turn, reason="set-up")
    return turn
