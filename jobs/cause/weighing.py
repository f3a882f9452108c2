"""The weighed causes of a job. Reads only."""

from dataclasses import dataclass

from django.core.cache import cache
from django.db.models import Count

from compass.cause.causes import Cause, adjusted_rates
from compass.cause.corner import diagnose_corner
from compass.cause.differential import Differential, weigh
from compass.diagnose import CornerVerdict
from jobs.adapters import corner_record
from jobs.models import Job

_RATES_SECONDS = 300


@dataclass(frozen=True)
class Weighed:
    """A job's differential beside the verdicts it rests on."""

    differential: Differential
    verdicts: list[CornerVerdict]


def weigh_job(job: Job) -> Weighed:
    """Weigh the causes of a job's vehicle from all its corners; the workshop's closed jobs adjust the base rates."""
    corners = job.corners.select_related("limits", "look").prefetch_related(
        "sweeps__instrument", "rounds__instrument", "quick_readings"
    )
    verdicts = []
    for corner in corners:
        record = corner_record(
            corner, sweeps=corner.sweeps.all(), rounds=corner.rounds.all(), quick=corner.quick_readings.all()
        )
        if record is not None and corner.verdict:
            verdicts.append(diagnose_corner(record))
    vehicle = {"rolling_circumference_mm": job.vehicle.rolling_circumference_mm}
    differential = weigh(
        job.vehicle.positions, verdicts, complaint=job.story, vehicle=vehicle, base_rates=closed_rates()
    )
    return Weighed(differential, verdicts)


def closed_rates() -> dict[Cause, float]:
    """Return the base rates adjusted by this workshop's closed jobs; counted anew every few minutes."""
    counts = cache.get("closed-causes")
    if counts is None:
        rows = Job.objects.filter(state=Job.State.CLOSED).exclude(found_cause="").values("found_cause")
        counts = {row["found_cause"]: row["n"] for row in rows.annotate(n=Count("pk"))}
        cache.set("closed-causes", counts, _RATES_SECONDS)
    return adjusted_rates(counts)
