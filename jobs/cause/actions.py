"""Writes of the Cause leg."""

from django.db import transaction

from compass.cause.causes import Cause
from jobs.cause.road_test import Showed, has_own_drive, is_driven_again
from jobs.judging import refresh
from jobs.models import Job
from jobs.writing import open_job_row, save
from workshop.models import User
from workshop.permissions import Deed, require


class WorkDecidedError(Exception):
    """Work was decided: what is felt after it is said at its own road test."""


@transaction.atomic
def say_felt(user: User, job: Job, felt: str) -> Job:
    """Say what is felt on the road where no work has its own drive. Raises ``JobClosedError``, ``WorkDecidedError``."""
    require(user, Deed.MEASURE)
    current = open_job_row(user, job.pk)
    # A work's own drive is taken back with its step; here is only said what a later one showed.
    if has_own_drive(user, current) and not (felt and is_driven_again(current)):
        raise WorkDecidedError
    return keep_felt(user, job, felt)


@transaction.atomic
def put_right_beside(user: User, job: Job, cause: Cause, position: str | None, *, back: bool = False) -> Job:
    """Note that what sits beside the discs was put right, or take that ``back``, and judge anew.

    Said twice it counts once. It is driven after it: until then it may have been that. Raises ``JobClosedError``.
    """
    require(user, Deed.DO)
    current = open_job_row(user, job.pk)
    place = {"cause": cause.value} | ({"position": position} if position is not None else {})
    others = [m for m in current.mended_beside if (m["cause"], m.get("position")) != (cause.value, position)]
    if (len(others) < len(current.mended_beside)) is not back:
        return current  # it stands so already
    current.mend_beside(others if back else [*others, place])
    save(user, current)
    refresh(user, current)
    return current


@transaction.atomic
def keep_felt(user: User, job: Job, felt: str) -> Job:
    """Keep with the story what is felt on the road (a code of ``FELT``, or empty: taken back), and judge anew.

    A shake that is left has the rest looked at. Raises ``JobClosedError``.
    """
    current = open_job_row(user, job.pk)
    story = {name: value for name, value in current.story.items() if name != "after_work"}
    current.story = story | ({"after_work": felt} if felt else {})
    # All that was put right until now is driven, or not driven yet.
    current.mend_beside([one | {"driven": bool(felt)} for one in current.mended_beside])
    save(user, current)
    refresh(user, current)
    return current


@transaction.atomic
def keep_road_test(user: User, job: Job, showed: Showed) -> Job:
    """Keep what a recording showed with its job, as a sign among the others. Raises ``JobClosedError``."""
    require(user, Deed.MEASURE)
    current = open_job_row(user, job.pk)
    current.road_test = showed
    current.story = current.story | {"road_test": showed["shake"]}
    save(user, current)
    refresh(user, current)
    return current
