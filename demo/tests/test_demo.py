"""The demo workshop."""

from django.urls import reverse

from demo.build import build_demo
from jobs.models import Corner, Job
from jobs.tests.base import Workshop
from workshop.models import Vehicle


class Demo(Workshop):
    """The demo workshop."""

    def test_builds_a_believable_workshop(self) -> None:
        Job.objects.all().delete()
        Vehicle.objects.all().delete()
        build_demo()
        self.assertGreaterEqual(Vehicle.objects.count(), 14)
        self.assertGreaterEqual(Vehicle.objects.values("kind").distinct().count(), 5)
        self.assertEqual(set(Job.objects.values_list("state", flat=True)), set(Job.State.values))
        states = {c.verdict["runout"]["state"] for c in Corner.objects.exclude(verdict={})}
        self.assertLessEqual({"over", "within"}, states)
        self.assertEqual(self.client.get(reverse("jobs:floor")).status_code, 200)
