"""A job as a strip on the floor. Reads only."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from compass.ground.units import Unit
from jobs.frame import CornerLink, corner_links, stopped_corners
from jobs.models import Job
from jobs.next_act import NextAct, next_act
from workshop.words import distance_text


@dataclass(frozen=True)
class Strip:
    """A job on the floor: all that its strip says, so that the same is drawn once (``{% drawn_once %}``)."""

    number: int
    state: str
    label: str
    registration: str
    odometer: str
    complaint: str
    corners: tuple[CornerLink, ...]
    act: NextAct | None
    stop: bool
    who: str
    at: datetime

    @property
    def state_word(self) -> str:
        """How the job stands, in words."""
        return str(Job.State(self.state).label)


def strips(jobs: Iterable[Job], *, unit: Unit) -> list[Strip]:
    """Return the strips of the floor; ``jobs`` come from ``for_floor``."""
    return [
        Strip(
            number=job.pk,
            state=job.state,
            label=job.vehicle.label,
            registration=job.vehicle.registration,
            odometer=distance_text(job.odometer_km, unit) if job.odometer_km else "",
            complaint=job.complaint,
            corners=tuple(corner_links(job)),
            act=next_act(job),
            stop=bool(stopped_corners(job)),
            who=str(job.assigned_to or ""),
            at=job.created_at,
        )
        for job in jobs
    ]
