"""Beside the discs, on the page: seen to, driven, still felt or gone; what closes a job, what the papers say."""

from django.http import HttpResponse
from django.urls import reverse

from compass.cause.stakes import ELSEWHERE_MINUTES
from jobs.choose.actions import decide
from jobs.measure.looking import write_look
from jobs.models import Corner, Decision, Job
from jobs.prove.actions import ReasonNeededError, close_job
from jobs.prove.proving import is_settled
from jobs.tests.base import Workshop, measure_in_order


class Beside(Workshop):
    """Discs in order, and a slide that is seized."""

    def setUp(self) -> None:
        super().setUp()
        measure_in_order(self.user, self.job)
        for corner in self.job.corners.all():
            stuck = corner.position == "FL"
            figures = {"pad_inner": "3.0 3.1" if stuck else "7.0 7.0", "pad_outer": "7.0", "bearing_play": "0.01"}
            write_look(
                self.user, corner, figures={n: ("", v) for n, v in figures.items()}, seen={"slides_seized": stuck}
            )

    def post(self, what: str, **more: str) -> HttpResponse:
        return self.client.post(reverse("jobs:beside", args=[self.job.pk]), {"what": what, **more})

    def page(self, name: str, *args: str) -> HttpResponse:
        return self.client.get(reverse(f"jobs:{name}", args=[self.job.pk, *args]))

    def felt(self, felt: str) -> None:
        self.client.post(reverse("jobs:felt", args=[self.job.pk]), {"felt": felt})

    def cause(self) -> dict:
        return self.page("cause").context

    def story(self) -> dict:
        return Job.objects.get(pk=self.job.pk).story

    def test_seen_to_driven_and_closed_without_a_reason(self) -> None:
        what = "caliper or slides · Front left"
        act = self.cause()["act"]
        self.assertEqual((act.words, act.minutes), (f"See to: {what}", ELSEWHERE_MINUTES))
        self.assertContains(self.page("cause"), "of labour, our estimate")
        self.assertContains(self.page("choose", "F"), what)
        closing = self.client.post(reverse("jobs:close", args=[self.job.pk]), {"reason": ""})
        self.assertContains(closing, "Front left: seen to beside the discs: caliper or slides", status_code=422)
        self.assertRedirects(self.post("caliper_or_slides@FL"), reverse("jobs:cause", args=[self.job.pk]) + "#beside")
        self.post("caliper_or_slides@FL")  # pressed twice it counts once
        self.assertEqual(self.story()["mended_beside"], [{"cause": "caliper_or_slides", "position": "FL"}])
        self.assertEqual(self.cause()["act"].words, "Road-test it")
        with self.assertRaises(ReasonNeededError):
            close_job(self.user, self.job, reason="")  # nobody drove it
        self.felt("gone")
        self.assertEqual(self.cause()["act"].words, "Close the job")
        trail = self.page("changes")
        self.assertContains(trail, "seen to beside the discs")
        self.assertContains(trail, "nothing is felt")
        self.assertContains(self.page("owner"), "Freed or renewed what stuck")
        close_job(self.user, self.job, reason="", found_cause="caliper_or_slides")
        self.assertEqual(self.post("caliper_or_slides@FL", back="1").status_code, 422)

    def test_still_felt_leads_on_and_the_drive_can_be_taken_back(self) -> None:
        self.post("caliper_or_slides@FL")
        self.felt("same")
        self.assertTrue(self.story()["mended_beside"][0]["driven"])
        self.assertNotIn(self.cause()["act"].words, ("Road-test it", "Close the job"))
        self.assertNotIn("caliper_or_slides@FL", [row["code"] for row in self.cause()["beside"]])
        self.felt("")
        self.assertEqual(self.cause()["act"].words, "Road-test it")
        self.post("caliper_or_slides@FL", back="1")
        self.assertNotIn("mended_beside", self.story())
        self.assertIn("See to: caliper", self.cause()["act"].words)

    def test_something_else_was_seen_to_and_what_cannot_be_is_refused(self) -> None:
        for wrong in ("", "rotor_runout@FL", "tyre_or_wheel@FL", "caliper_or_slides@A1L", "drum_out_of_round@FL"):
            refused = self.post(wrong)
            self.assertContains(refused, "Choose what was seen to, and where.", status_code=422)
        self.post("tyre_or_wheel@")
        self.assertEqual([row["name"] for row in self.cause()["mended"]], ["tyre or wheel"])
        self.assertEqual([row["code"] for row in self.cause()["beside"]], ["caliper_or_slides@FL"])

    def test_after_work_on_a_disc_it_is_driven_again_here(self) -> None:
        decide(self.user, self.job, "F", code="none")
        Decision.objects.update(remedies={"FL": "clean_and_torque", "FR": "clean_and_torque"})
        self.felt("same")
        self.assertNotIn("after_work", self.story())  # the decided work has its own drive
        job = Job.objects.get(pk=self.job.pk)
        job.story |= {"after_work": "same"}
        job.save()
        self.post("caliper_or_slides@FL")
        self.assertTrue(self.cause()["asks_felt"])
        self.felt("gone")
        self.assertEqual(self.story()["after_work"], "gone")
        self.felt("")  # the drive after the work stands in its steps
        self.assertEqual(self.story()["after_work"], "gone")

    def test_a_corner_is_settled_by_what_was_seen_to_there_and_driven_away(self) -> None:
        within = {
            "root_cause": "not_separable",
            "runout": {"state": "within"},
            "thickness": {"state_variation": "within"},
        }
        here, there = ({"cause": "caliper_or_slides", "position": at, "driven": True} for at in ("FL", "FR"))
        tyre = {"cause": "tyre_or_wheel", "driven": True}
        for mended, felt, cause, settled in (
            ([here], "gone", "not_separable", True),
            ([here], "less", "not_separable", False),
            ([here | {"driven": False}], "gone", "not_separable", False),
            ([there], "gone", "caliper_or_slides", False),
            ([tyre], "gone", "tyre_or_wheel", True),
            ([tyre], "gone", "not_separable", False),
            ([], "gone", "not_separable", False),
        ):
            with self.subTest(mended=mended, felt=felt, cause=cause):
                job = Job(story={"after_work": felt, "mended_beside": mended})
                corner = Corner(position="FL", verdict=within | {"root_cause": cause})
                self.assertIs(is_settled(job, corner), settled)
