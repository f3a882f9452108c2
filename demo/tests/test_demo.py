"""The demo workshop."""

from functools import partial

from django.test import TestCase
from django.urls import reverse

from demo.bench.many import fill
from demo.build import Past, build_demo
from demo.history import JOBS, build_history
from ironcompass.testing import as_owner
from jobs.models import Closing, Corner, CornerWorked, Job
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


class History(TestCase):
    """The years before the demo's open jobs: of the vehicles that have a tale, the others are like them."""

    def test_three_come_back_one_work_was_needless_and_the_rest_holds(self) -> None:
        build_demo(past=Past(jobs=JOBS, build=partial(build_history, places=(0, 4, 7, 9))))
        self.assertGreaterEqual(JOBS, 60)
        closings = Closing.objects.exclude(works=None)
        self.assertEqual(closings.filter(comeback=True).distinct().count(), 3)
        self.assertEqual(CornerWorked.objects.filter(leads=True, needless=True).count(), 1)
        works = CornerWorked.objects.exclude(runout_mm=None)
        self.assertGreater(works.filter(within=True).count(), works.count() / 2)
        self.assertTrue(all(row.at.date() == row.history.latest().at.date() for row in closings))
        self.assertGreater(len(closings.first().part_minutes["opening"]), 0)


class ManyRows(TestCase):
    """The rows that measuring by the hundred thousand stands on: written past Django, they know the tables by heart."""

    def test_they_fit_the_tables(self) -> None:
        build_demo(past=None)
        before = Job.objects.count()
        with as_owner():
            fill(jobs=24, workshops=1, jobs_each=24, progress=lambda _made, _total: None)
        self.assertEqual(Job.objects.count(), before + 24)  # the other workshop's stand behind its wall
        self.assertGreater(CornerWorked.objects.count(), 24)
