"""Closed jobs by hand, so that every figure of the ledger can be counted on paper."""

from datetime import timedelta
from typing import Any

from django.test import TestCase
from django.utils import timezone

from jobs.models import Closing, Corner, CornerWorked, Job
from workshop.models import Lathe, Vehicle
from workshop.tests.base import client_of, person


class Record(TestCase):
    """A lead, a technician, a lathe and two vans."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.lead = person("lead")
        cls.user = person()
        cls.trainee = person("trainee")
        cls.vans = [Vehicle.objects.create(label=f"Van {k}", model=f"Make {k}", odometer_km=60_000) for k in (1, 2)]
        cls.lathe = Lathe.objects.create(name="Hub lathe", kind="on_vehicle", min_depth_mm=0.05, runout_left_mm=0.015)

    def setUp(self) -> None:
        self.client = client_of(self.lead)

    def closed(self, *works: dict[str, Any], van: int = 0, days: int = 100, km: int = 30_000, **fields: Any) -> Closing:
        """Close a job with works; the first of them leads."""
        vehicle, at = self.vans[van], timezone.now() - timedelta(days=days)
        job = Job.objects.create(
            vehicle=vehicle, state="closed", closed_by=self.lead, created_by=self.lead, created_at=at, odometer_km=km
        )
        named = {"proven": True, "odometer_km": km, "model": vehicle.model, "by": self.lead, "at": at}
        closing = Closing.objects.create(job=job, vehicle=vehicle, **named | fields)
        for k, work in enumerate(works):
            told = {"axle": "F", "remedy": "index", "leads": k == 0, "decided_by": self.user, "done_by": self.user}
            day = timezone.localdate(closing.at)
            repeated = {"on": day, "month": day.replace(day=1), "model": closing.model, "stands": closing.stands}
            repeated |= {"vehicle": vehicle, "odometer_km": closing.odometer_km}
            CornerWorked.objects.create(closing=closing, position=("FL", "FR")[k], **repeated | told | work)
        return closing

    def seen_again(
        self, closing: Closing, *, km: int, comeback: bool | None, variation_mm: float | None = None
    ) -> None:
        """Let a closing's vehicle be seen again after a distance."""
        job = Job.objects.create(
            vehicle=closing.vehicle,
            created_by=self.lead,
            created_at=timezone.now(),
            odometer_km=closing.odometer_km + km,
        )
        verdict = {"thickness": {"variation_mm": variation_mm, "variation_expanded_mm": 0.002}, "runout": {}}
        Corner.objects.create(job=job, position="FL", place=0, verdict=verdict)
        closing.said(seen_again=job, seen_km=job.odometer_km, comeback=comeback, comeback_by=self.lead)
