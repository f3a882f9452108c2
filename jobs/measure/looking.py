"""Writes of what is seen and measured beside the disc: every figure and every finding by itself.

Two people, or an older page, never write over what they did not change; what stops a vehicle is lifted only by who may,
with a reason that stands on the record.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from django.db import transaction

from compass.ground.units import Unit
from jobs.judging import JudgedJob, refresh
from jobs.look_fields import with_unit
from jobs.models import Corner, Job, Look
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, may, require

STOPPING: Final = ("cracked", "vent_showing")  # findings that take a vehicle off the road
_REASON: Final = 60  # characters that fit beside a finding in the record


@dataclass(frozen=True)
class Written:
    """The look after a write, its job judged anew, and what was not written.

    ``conflicts``: figures somebody else wrote meanwhile, theirs by name. ``held``: findings that stop the vehicle and
    were to be lifted without the right to, or without why.
    """

    job: Job
    judged: JudgedJob
    conflicts: Mapping[str, str]
    held: tuple[str, ...]


@transaction.atomic
def write_look(
    user: User,
    corner: Corner,
    *,
    figures: Mapping[str, tuple[str, str]] | None = None,
    seen: Mapping[str, bool] | None = None,
    unit: Unit = Unit.MM,
    reason: str = "",
) -> Written:
    """Write figures (name: what stood there, what was typed) and findings (code: seen or not), and judge anew.

    Nothing that is not named is touched. A figure is kept as typed, readable or not; where somebody else wrote it
    meanwhile theirs stays. A stop that is lifted without right or why is held; all else is written.
    """
    require(user, Deed.MEASURE)
    job = open_job_row(user, corner.job_id)
    look = Look.of(user).select_for_update().filter(corner=corner).first() or Look(corner=corner, unit=unit.value)
    conflicts = {}
    for name, (was, text) in (figures or {}).items():
        stored, typed = look.typed.get(name, ""), with_unit(name, text.strip(), unit, stands_in=Unit(look.unit))
        if stored not in (was, typed):
            conflicts[name] = stored
        elif stored != typed:
            look.typed = {k: v for k, v in {**look.typed, name: typed}.items() if v}
            save(user, look, reason=f"figure {name}")
    lifts = may(user, Deed.LIFT_STOP) and reason.strip()
    held = []
    for finding, is_seen in (seen or {}).items():
        if finding in STOPPING and not is_seen and finding in look.findings and not lifts:
            held.append(finding)
        elif is_seen != (finding in look.findings):
            look.findings = sorted({*look.findings, finding} if is_seen else {*look.findings} - {finding})
            save(user, look, reason=f"{'seen' if is_seen else 'not seen'} {finding} {reason.strip()[:_REASON]}".strip())
    return Written(job, refresh(user, job), conflicts, tuple(held))
