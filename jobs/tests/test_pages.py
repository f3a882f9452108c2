"""Every page: status, roles, queries."""

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from jobs.floor.actions import open_job
from jobs.measure.looking import write_look
from jobs.models import Corner, Job, Sweep, ThicknessRound
from jobs.prepare.actions import start_sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Workshop, fill
from workshop.models import User, Vehicle
from workshop.tests.base import client_of

MOST_QUERIES = 15


class Pages(Workshop):
    """Whole pages."""

    def address(self, name: str, position: str = "FL") -> str:
        return reverse(f"jobs:{name}", args=[self.job.pk, position])

    def test_every_page_answers_within_its_queries(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        pages = [
            reverse("jobs:floor"),
            reverse("jobs:new"),
            reverse("jobs:complaint", args=[self.job.pk]),
            reverse("jobs:changes", args=[self.job.pk]),
            self.address("prepare"),
            self.address("measure"),
            self.address("measure") + "?tape=thickness",
        ]
        for page in pages:
            with (
                self.subTest(page=page),
                CaptureQueriesContext(
                    connection,
                ) as queries,
            ):
                self.assertEqual(self.client.get(page).status_code, 200)
            self.assertLessEqual(len(queries), MOST_QUERIES, page)

    def test_the_floor_asks_no_more_for_more_jobs(self) -> None:
        def count() -> int:
            with CaptureQueriesContext(connection) as queries:
                self.client.get(reverse("jobs:floor"))
            return len(queries)

        count()
        one = count()
        for _ in range(9):
            open_job(self.user, self.vehicle, assigned_to=self.user)
        self.assertEqual(count(), one)

    def test_the_floor_finds_by_words_number_and_state(self) -> None:
        other = open_job(
            self.user, Vehicle.objects.create(label="Meal van 7", registration="IS 77"), complaint="squeal"
        )
        for question, found in (
            ("q=minibus+shakes", [self.job]),
            (f"q={other.pk}", [other]),
            ("q=is+77", [other]),
            ("state=closed", []),
            ("q=%25", []),
        ):
            with self.subTest(question=question):
                strips = self.client.get(reverse("jobs:floor") + "?" + question).context["strips"]
                self.assertEqual([strip.number for strip in strips], [job.pk for job in found])

    def test_an_unprepared_corner_leads_to_its_preparation(self) -> None:
        self.assertRedirects(self.client.get(self.address("measure", "RR")), self.address("prepare", "RR"))
        self.assertEqual(self.client.get(self.address("measure", "A1L")).status_code, 404)

    def test_a_corner_nobody_has_read_since_the_work_says_so_and_keeps_what_came_in(self) -> None:
        Corner.objects.filter(pk=self.corner.pk).update(episode=1)
        bench = reverse("jobs:measure", args=[self.job.pk, "FL"])
        again = reverse("jobs:prepare", args=[self.job.pk, "FL"])
        for query in ("", "?tape=e1"):
            page = self.client.get(bench + query)
            self.assertContains(page, "since the work")
            self.assertContains(page, f'class="button" href="{again}"')
            self.assertEqual([tab["url"][-8:] for tab in page.context["tabs"] if tab["here"]], ["?tape=e1"])
        self.assertContains(self.client.get(bench + "?tape=e0"), f'data-show="s{self.sweep.pk}"')
        # Nothing but what was seen: no tape either.
        Corner.objects.filter(pk=self.corner.pk).update(episode=0)
        Sweep.objects.all().delete()
        ThicknessRound.objects.all().delete()
        write_look(self.user, Corner.objects.get(pk=self.corner.pk), seen={"deep_grooves": True})
        self.assertContains(self.client.get(bench), "No sweep and no round is laid out here")

    def test_figures_switch_units(self) -> None:
        fill(self.user, self.sweep, READINGS)
        self.assertContains(self.client.get(self.address("measure")), "0.110")
        User.objects.filter(pk=self.user.pk).update(units="thou")
        page = self.client.get(self.address("measure"))
        self.assertContains(page, "4.3")
        self.assertContains(page, "limit 2.0")  # 0.05 mm
        self.assertNotContains(page, "0.110")

    def test_a_turned_sweep_tells_hub_from_rotor(self) -> None:
        fill(self.user, self.sweep, READINGS)
        self.assertNotContains(self.client.get(self.address("measure")), "vector-hub")
        turned = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        fill(self.user, turned, READINGS)  # nothing turned with the rotor: it is all the hub's
        page = self.client.get(self.address("measure"))
        self.assertContains(page, "vector-hub")
        hub, rotor = page.context["bench"].vectors
        self.assertAlmostEqual(hub.tir_mm, 0.107, delta=0.003)
        self.assertLess(rotor.tir_mm, 0.003)

    def test_a_verdict_that_stops_is_on_every_page_of_the_job(self) -> None:
        fill(self.user, self.round, [f"{25.3:.3f}"] * 10)
        for name in (reverse("jobs:complaint", args=[self.job.pk]), self.address("measure"), reverse("jobs:floor")):
            with self.subTest(name=name):
                self.assertContains(self.client.get(name), "Do not drive")

    def test_strangers_and_trainees_are_refused_on_the_server(self) -> None:
        trainee = client_of(self.trainee)
        job = [self.job.pk]
        for post in (reverse("jobs:new"), reverse("jobs:complaint", args=job), reverse("jobs:close", args=job)):
            with self.subTest(post=post):
                self.assertEqual(trainee.post(post, {"reason": "x"}).status_code, 403)
        self.assertEqual(trainee.get(reverse("jobs:new")).status_code, 403)
        self.assertEqual(Job.objects.get().state, Job.State.BOOKED)
