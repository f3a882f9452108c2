"""Kinds of vehicle."""

from django.urls import reverse

from demo.build import build_demo
from jobs.models import Job
from jobs.tests.base import Workshop
from workshop.models import User, Vehicle
from workshop.tests.base import client_of


class Kinds(Workshop):
    """Motorcycles and trailers throughout."""

    def test_prepare_measure_and_vehicle_pages_of_every_kind(self) -> None:
        build_demo()
        lead = client_of(User.objects.get(username="holm"))
        for kind in Vehicle.Kind.values:
            job = Job.objects.filter(vehicle__kind=kind, corners__verdict__runout__isnull=False).first()
            with self.subTest(kind=kind):
                for corner in job.corners.all():
                    self.assertEqual(lead.get(reverse("jobs:prepare", args=[job.pk, corner.position])).status_code, 200)
                    address = reverse("jobs:measure", args=[job.pk, corner.position])
                    for view in ("runout", "thickness", "indices", "joint", "wear"):
                        self.assertLess(lead.get(f"{address}?view={view}").status_code, 400)
                self.assertContains(lead.get(reverse("jobs:vehicle", args=[job.vehicle_id])), job.vehicle.label)
        bike = Job.objects.filter(vehicle__kind="motorcycle").first()
        self.assertContains(lead.get(reverse("jobs:prepare", args=[bike.pk, "F"])), "No wheel-nut plate fits here")
