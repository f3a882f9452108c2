"""A job as a strip on the floor. Reads only."""

from collections.abc import Iterable
from dataclasses import dataclass

from jobs.frame import CornerLink, corner_links
from jobs.models import Job
from jobs.next_act import NextAct, next_act


@dataclass(frozen=True)
class Strip:
    """A job on the floor."""

    job: Job
    corners: list[CornerLink]
    act: NextAct | None
    stop: bool


def strips(jobs: Iterable[Job]) -> list[Strip]:
    """Return the strips of the floor; ``jobs`` come from ``for_floor``."""
    return [
        Strip(
            job=job,
            corners=corner_links(job),
            act=next_act(job),
            stop=any(corner.stands.do_not_drive for corner in job.corners.all() if corner.stands is not None),
        )
        for job in jobs
    ]
