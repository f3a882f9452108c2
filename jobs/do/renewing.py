"""New pads and shoes put in at a step: their thickness stands in the looks of the wheels it is said for."""

from collections.abc import Iterator

from compass.do.steps import RENEWED
from compass.do.work import PlacedStep
from jobs.adapters import look_of
from jobs.do.doing import Doing
from jobs.measure.looking import write_look
from jobs.models import Corner
from workshop.models import User


def note_renewed(user: User, doing: Doing, placed: PlacedStep, typed: str) -> None:
    """Write what was put in new where the step says it; an empty text takes it back."""
    name = placed.step.expects
    if name not in RENEWED:
        return
    for corner in _wheels(doing, placed):
        look = look_of(corner)
        stands = look.typed.get(name, "") if look is not None else ""
        write_look(user, corner, figures={name: (stands, typed)}, unit=user.unit)


def _wheels(doing: Doing, placed: PlacedStep) -> Iterator[Corner]:
    """Yield the corner of a step, and those of its axle that no step is at: their linings are renewed with it."""
    side = doing.sides[placed.position]
    for corner in doing.job.corners.all():
        alone = corner.axle == side.corner.axle and corner.position not in doing.sides
        if corner.position == placed.position or (alone and corner.limits_id):
            yield corner
