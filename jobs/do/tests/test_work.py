"""The Do leg: the decided work of a corner in order, with the figures of its own plan."""

import re

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.choose.offers import REMEDIES
from compass.do.ladder import steps_of
from compass.words.places import between_studs
from jobs.choose.actions import decide, withdraw
from jobs.choose.axle import decisions_of
from jobs.do.doing import doing_of
from jobs.models import Decision, Job
from jobs.prove.actions import close_job
from jobs.tests.base import DemoShop
from workshop.models import User
from workshop.tests.base import client_of

MOST_QUERIES = 15


class Doing(DemoShop):
    """Minibus 6 is cut, Meal van 1 gets its plate."""

    def work(self, job: Job, position: str = "FL"):
        return self.client.get(reverse("jobs:work", args=[job.pk, position]))

    def test_nothing_decided_leads_to_choosing(self) -> None:
        self.assertRedirects(self.work(self.job), reverse("jobs:do", args=[self.job.pk]))
        page = self.client.get(reverse("jobs:do", args=[self.job.pk]))
        self.assertContains(page, "No work is decided on this job yet")
        self.assertEqual(page.context["act"].words, "Choose the remedy")

    def test_a_plate_with_its_place_and_the_torque_of_the_wheel(self) -> None:
        page = self.work(self.van)
        settings = decisions_of(self.van)["F"].settings["FL"]
        says = [step["says"] for step in page.context["steps"]]
        place = between_studs(settings["plate_deg"], self.van.corners.get(position="FL").limits.studs)
        self.assertIn(f"Put one new plate of {settings['plate_mm']:.3f} mm on the hub, its thin side {place}.", says)
        self.assertFalse([text for text in says if "{" in text or "…" in text])
        by_part = {step["part"]: step for step in page.context["steps"]}
        self.assertLess(list(by_part).index("Clean"), list(by_part).index("Plate"))
        torques = [step["torque"] for step in page.context["steps"] if step["torque"]]
        self.assertTrue(torques and all(re.fullmatch(r"\d+ N·m", text) for text in torques))
        asks = {step["asks"] for step in page.context["steps"] if step["asks"]}
        self.assertIn("torque of the caliper", asks)  # nobody has said it: looked up at its step
        self.assertContains(page, "Pump the brake before the vehicle moves")
        User.objects.filter(pk=self.user.pk).update(units="thou")
        with CaptureQueriesContext(connection) as queries:
            self.client.get(reverse("jobs:do", args=[self.van.pk]))
        self.assertLessEqual(len(queries), MOST_QUERIES)
        thou = client_of(User.objects.get(pk=self.user.pk)).get(reverse("jobs:work", args=[self.van.pk, "FL"]))
        self.assertContains(thou, "lb·ft")

    def test_a_cut_says_its_passes_lines_and_stops(self) -> None:
        decide(self.user, self.job, "F", code="on_vehicle_cut")
        with CaptureQueriesContext(connection) as queries:
            page = self.work(self.job)
        self.assertLessEqual(len(queries), MOST_QUERIES)
        says = [step["says"] for step in page.context["steps"]]
        passes = [text for text in says if text.startswith("Pass ")]
        cut = self.client.get(reverse("jobs:cut", args=[self.job.pk, "FL"]))
        self.assertEqual(len(passes), len(cut.context["plan"].passes))
        for text, made in zip(passes, cut.context["plan"].passes, strict=True):
            self.assertIn(f"{made.out_lines} lines outboard, {made.in_lines} lines inboard", text)
        self.assertEqual([tab["name"] for tab in page.context["tabs"]], ["Front left", "Front right"])

    def test_every_remedy_has_a_page_without_a_gap(self) -> None:
        row = Decision.objects.filter(job=self.van).latest("pk")
        for code in set(REMEDIES) - {"none"}:
            row.pk, row.remedies = None, {"FL": code, "FR": "none"}
            row.save()
            page = self.work(Job.objects.get(pk=self.van.pk))
            self.assertEqual(page.status_code, 200, code)
            self.assertGreater(len(page.context["steps"]), 15, code)
            self.assertFalse([step["says"] for step in page.context["steps"] if "{" in step["says"]], code)

    def test_every_step_of_every_part_has_a_page(self) -> None:
        row, seen = Decision.objects.filter(job=self.van).latest("pk"), set[str]()
        for code in ("on_vehicle_cut", "bench_cut+plate", "new_rotors+index", "hub_unit"):
            row.pk, row.remedies = None, {"FL": code, "FR": "none"}
            row.save()
            doing = doing_of(self.user, Job.objects.for_doing().get(pk=self.van.pk))
            for placed in (step for step in steps_of(doing.parts) if step.step.code not in seen):
                seen.add(placed.step.code)
                at = {"at": f"{placed.position}|{placed.key}"}
                page = self.client.get(reverse("jobs:do", args=[self.van.pk]), at)
                self.assertContains(page, page.context["now"]["says"].partition("’")[0], msg_prefix=placed.key)


class TheDay(DemoShop):
    """All decided work of open jobs, laid out in time."""

    def day(self, people: int = 2):
        with CaptureQueriesContext(connection) as queries:
            page = self.client.get(reverse("jobs:day"), {"people": people})
        return page, len(queries)

    def test_every_job_with_work_left_stands_in_it_and_asks_no_more_rows(self) -> None:
        page, few = self.day()
        self.assertEqual([row["job"].pk for row in page.context["jobs"]], [self.van.pk])
        decide(self.user, self.job, "F", code="on_vehicle_cut")
        page, more = self.day()
        self.assertEqual({row["job"].pk for row in page.context["jobs"]}, {self.van.pk, self.job.pk})
        self.assertLessEqual(more, few)
        self.assertIn("hub lathe", page.context["strip"])
        self.assertNotIn("hands 3", page.context["strip"])
        self.assertIn("hands 3", self.day(people=3)[0].context["strip"])
        close_job(self.user, self.job, reason="sold")
        self.assertEqual(len(self.day()[0].context["jobs"]), 1)

    def test_nonsense_is_two_people_and_nothing_decided_teaches(self) -> None:
        page, _queries = self.day(people="x")
        self.assertEqual(page.context["people"], 2)
        withdraw(self.user, self.van, "F", reason="later")
        self.assertContains(self.day()[0], "Choose a remedy on one")
