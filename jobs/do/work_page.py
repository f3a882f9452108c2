"""The decided work of one corner as a checklist, to read and to print. Reads only."""

from typing import Any

from django.utils.translation import gettext as _

from compass.do.ladder import rung
from compass.do.steps import Kind
from compass.do.work import Part, PlacedStep
from compass.words.codes import remedy_name
from jobs.do.doing import Doing
from jobs.do.step_words import step_words
from jobs.models import Corner
from jobs.words import axle_name
from workshop.addresses import address
from workshop.models import POSITION_NAMES, User


def work_context(user: User, doing: Doing, corner: Corner) -> dict[str, Any]:
    """Return the steps of a corner's work, those done once for the vehicle among them; every corner is a tab."""
    side = doing.sides[corner.position]
    parts = [part for part in doing.parts if part.position in ("", corner.position)]
    studs = corner.limits.studs if corner.limits is not None else 5
    steps = [step_words(placed, studs, user.unit) for part in parts for placed in part.steps]
    for number, (row, placed) in enumerate(zip(steps, _steps(parts), strict=True), start=1):
        row["number"], row["done"] = number, doing.done.get(rung(placed))
    return {
        "axle_name": axle_name(doing.job.vehicle, corner.axle),
        "name": POSITION_NAMES[corner.position],
        "remedy": _(remedy_name(side.remedy, corner.position)),
        "tabs": [
            {
                "name": POSITION_NAMES[position],
                "url": address("jobs:work", doing.job.pk, position),
                "here": position == corner.position,
            }
            for position in doing.sides
        ],
        "steps": steps,
        "holds": sum(placed.step.kind is Kind.HOLD for placed in _steps(parts)),
        "minutes": sum(task.minutes for task in doing.tasks() if task.place == corner.position),
    }


def _steps(parts: list[Part]) -> list[PlacedStep]:
    return [placed for part in parts for placed in part.steps]
