"""From complaint to cause: the interview, the weighed causes on the page, the road test, what a closed job teaches."""

import numpy as np
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import HttpResponse
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.cause.causes import Cause
from compass.measure.recording import recording_csv
from compass.simulate.road import made_recording
from demo.build import build_demo
from jobs.choose.actions import decide
from jobs.floor.actions import rates_of_closed_jobs
from jobs.judging import judge_job
from jobs.models import Decision, Job
from jobs.prepare.actions import start_sweep
from jobs.prove.actions import close_job
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Workshop, fill, measure_in_order
from workshop.models import LongWork, User
from workshop.tests.base import client_of, work_done

MOST_QUERIES = 15


class CausePage(Workshop):
    """The weighed causes, their ledger, and what to check next."""

    def address(self, query: str = "") -> str:
        return reverse("jobs:cause", args=[self.job.pk]) + query

    def test_begins_with_the_story_and_ends_with_the_hub(self) -> None:
        self.assertContains(self.client.get(self.address()), "Nothing measured yet")
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        before = self.client.get(self.address())
        self.assertContains(before, "What a check is worth")
        self.assertContains(before, "Sweep the rotor · Front right")
        fill(self.user, start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0}), READINGS)
        page = self.client.get(self.address())
        self.assertEqual(page.context["causes"][0]["code"], "hub_face_runout")
        self.assertEqual(sum(page.context["causes"][0]["marks"]), round(20 * self.probability("hub_face_runout")))
        self.assertContains(page, "Who carries the runout: the hub")
        self.assertContains(page, "vector-hub")
        self.assertIn("Rear right: runout, thickness", page.context["holes"])
        second = page.context["causes"][1]
        other = self.client.get(self.address(f"?cause={second['code']}"))
        self.assertContains(other, f"For and against: {second['name']}")

    def probability(self, code: str) -> float:
        return dict(judge_job(self.user, Job.objects.for_page().get(pk=self.job.pk)).judged.weighed.causes)[Cause(code)]

    def test_stays_within_its_queries_however_much_is_measured(self) -> None:
        build_demo()
        lead = client_of(User.objects.get(username="holm"))
        for job in Job.objects.filter(pk__gt=self.job.pk):
            for name in ("cause", "complaint"):
                with CaptureQueriesContext(connection) as asked:
                    self.assertEqual(lead.get(reverse(f"jobs:{name}", args=[job.pk])).status_code, 200)
                self.assertLessEqual(len(asked), MOST_QUERIES, f"{name} of {job}")

    def test_a_stop_stands_on_every_leg(self) -> None:
        fill(self.user, self.round, ["25.3"] * 10)
        legs = [reverse(f"jobs:{name}", args=[self.job.pk]) for name in ("complaint", "cause", "changes")]
        legs += [reverse(f"jobs:{name}", args=[self.job.pk, "FR"]) for name in ("prepare",)]
        legs += [reverse("jobs:measure", args=[self.job.pk, "FL"])]
        for leg in legs:
            with self.subTest(leg=leg):
                self.assertContains(self.client.get(leg), "Do not drive")

    def test_what_a_closed_job_was_moves_the_base_rates(self) -> None:
        cache.clear()
        before = rates_of_closed_jobs(self.user)[Cause.NUTS]
        close_job(self.user, self.job, reason="Torqued", found_cause="lug_torque")
        cache.clear()
        self.assertAlmostEqual(rates_of_closed_jobs(self.user)[Cause.NUTS], before + 1)
        self.assertEqual(Job.objects.get(pk=self.job.pk).found_cause, "lug_torque")
        for cause, shown in (("lug_torque", True), ("wheel_bearing", False)):
            page = self.client.get(reverse("jobs:floor"), {"cause": cause})
            self.assertEqual(self.vehicle.label in page.content.decode(), shown)


class Driven(Workshop):
    """Nothing found, but what was put right to be swept may have been it: the road tells, and the job goes on by it."""

    def setUp(self) -> None:
        super().setUp()
        self.job.story = {"felt_in": ["steering_wheel"], "history": ["wheels_off", "rotors_renewed"]}
        self.job.save()
        measure_in_order(self.user, self.job)

    def say(self, felt: str, client=None) -> HttpResponse:
        return (client or self.client).post(reverse("jobs:felt", args=[self.job.pk]), {"felt": felt})

    def act(self) -> str:
        return self.client.get(reverse("jobs:cause", args=[self.job.pk])).context["act"].words

    def test_it_is_driven_before_the_job_is_closed(self) -> None:
        page = self.client.get(reverse("jobs:cause", args=[self.job.pk]))
        self.assertEqual((page.context["act"].words, page.context["asks_felt"]), ("Road-test it", True))
        self.assertNotIn("Road-test", [check["words"] for check in page.context["checks"]])  # a recording says less
        self.assertRedirects(self.say("same"), reverse("jobs:cause", args=[self.job.pk]) + "#road")
        self.assertContains(self.client.get(reverse("jobs:cause", args=[self.job.pk])), "Driven: as before")
        self.assertNotIn(self.act(), ("Road-test it", "Close the job"))
        self.say("gone")
        self.assertEqual(self.act(), "Close the job")
        self.say("")
        self.assertEqual((self.act(), Job.objects.get(pk=self.job.pk).story.get("after_work")), ("Road-test it", None))

    def test_it_is_said_where_the_work_is_done_once_there_is_work(self) -> None:
        self.assertEqual(self.say("loudly").status_code, 422)
        decide(self.user, self.job, "F", code="none")
        self.assertEqual(self.act(), "Road-test it")
        self.say("same")  # nothing is done to a disc that is left as it is: no other drive is to come
        self.assertEqual(Job.objects.get(pk=self.job.pk).story["after_work"], "same")
        self.say("")
        Decision.objects.update(remedies={"FL": "clean_and_torque", "FR": "clean_and_torque"})
        self.assertContains(self.say("gone"), "at its road test", status_code=422)
        close_job(self.user, self.job, reason="the bay is wanted")
        self.assertEqual(self.say("gone").status_code, 422)
        self.assertNotIn("after_work", Job.objects.get(pk=self.job.pk).story)


class RoadTest(Workshop):
    """A recording on the job."""

    def send(self, raw: bytes, client=None):
        upload = SimpleUploadedFile("drive.csv", raw)
        return (client or self.client).post(reverse("jobs:road-test", args=[self.job.pk]), {"recording": upload})

    def read(self, raw: bytes) -> LongWork:
        """Send a recording, and have a worker read it."""
        self.assertRedirects(self.send(raw), reverse("jobs:cause", args=[self.job.pk]) + "#road")
        return work_done()

    def test_shows_its_orders_and_counts_as_a_sign(self) -> None:
        made = made_recording(np.random.default_rng(4), order=1.0, braking_only=False)
        before = dict(judge_job(self.user, Job.objects.for_page().get(pk=self.job.pk)).judged.weighed.causes)[
            Cause.TYRE
        ]
        self.assertEqual(self.read(recording_csv(made).encode()).state, "done")
        job = Job.objects.get(pk=self.job.pk)
        self.assertEqual((job.road_test["order"], job.story["road_test"]), (1, "without braking too"))
        self.assertGreater(
            dict(judge_job(self.user, Job.objects.for_page().get(pk=job.pk)).judged.weighed.causes)[Cause.TYRE],
            3 * before,
        )
        page = self.client.get(reverse("jobs:cause", args=[self.job.pk]))
        self.assertContains(page, "braked or not")
        self.assertContains(page, "orders-line braked")
        # telling the story again keeps what was recorded
        self.client.post(reverse("jobs:story", args=[self.job.pk]), {"felt_in": ["seat"]})
        self.assertIn("road_test", Job.objects.get(pk=self.job.pk).story)

    def test_a_broken_file_is_refused_with_what_is_wrong(self) -> None:
        for raw, words in ((b"a,b\n1,2\n", "Columns missing"), (b"time_s,ax,speed_kmh\n0,x,3\n", "not a number")):
            work = self.read(raw)
            self.assertIn(words, work.said[0])
            told = self.client.get(reverse("workshop:work", args=[work.pk]), headers={"HX-Request": "true"})
            self.assertEqual(told["HX-Refresh"], "true")
            self.assertContains(self.client.get(reverse("jobs:cause", args=[self.job.pk])), words)
        self.assertContains(
            self.client.post(reverse("jobs:road-test", args=[self.job.pk])), "Choose a file", status_code=422
        )
        self.assertEqual(Job.objects.get(pk=self.job.pk).road_test, {})
