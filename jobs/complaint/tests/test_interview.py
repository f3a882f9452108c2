"""The interview: kept as it is answered."""

from django.urls import reverse

from jobs.complaint.page import measuring_order
from jobs.models import Job
from jobs.prove.actions import close_job
from jobs.record.case_out import job_case_data
from jobs.tests.base import Workshop
from workshop.tests.base import client_of, person


class Interview(Workshop):
    """The driver's story in drawn choices."""

    def tell(self, client=None, **answers):
        return (client or self.client).post(reverse("jobs:story", args=[self.job.pk]), answers)

    def test_is_kept_in_the_words_of_the_case_file(self) -> None:
        told = {"felt_in": ["seat", "pedal"], "when": ["braking"], "heat": "worse_hot", "history": ["kerb_strike"]}
        answer = self.tell(**told, speed_from="70", speed_to="90", frequency_hz="11.5", km_since_work="")
        self.assertRedirects(answer, reverse("jobs:complaint", args=[self.job.pk]))
        job = Job.objects.get(pk=self.job.pk)
        self.assertEqual(job.story, told | {"speed_kmh": [70.0, 90.0], "frequency_hz": 11.5})
        self.assertEqual(job_case_data(self.user, job)["complaint"], job.story)
        self.assertEqual(job.history.first().history_user, self.user)
        page = self.client.get(reverse("jobs:complaint", args=[self.job.pk]))
        self.assertContains(page, "it clears no corner")
        self.assertContains(page, "speed-band")
        self.assertEqual({c["position"] for c in measuring_order(job)[:2]}, {"RL", "RR"})

    def test_two_hands_on_one_story_keep_what_either_said(self) -> None:
        self.tell(felt_in=["seat"], when=["braking"], heat="same", speed_from="80", speed_to="100", was="{}")
        was = self.client.get(reverse("jobs:complaint", args=[self.job.pk])).context["story_form"]["was"].value()
        self.tell(client_of(person("lead")), felt_in=["seat", "pedal"], heat="worse_cold", was=was)
        answer = self.client.post(
            reverse("jobs:story", args=[self.job.pk]),
            {"felt_in": ["seat"], "when": ["braking"], "heat": "worse_hot", "history": ["towing"], "speed_from": "80.3",
             "speed_to": "100", "was": was},
            headers={"HX-Request": "true"},
        )  # fmt: skip
        story = {"felt_in": ["seat", "pedal"], "heat": "worse_cold", "history": ["towing"]}
        self.assertEqual(Job.objects.get(pk=self.job.pk).story, story)
        self.assertEqual(answer.headers["HX-Refresh"], "true")
        page = self.client.get(reverse("jobs:complaint", args=[self.job.pk]))
        self.assertContains(page, "“worse cold” meanwhile, and that stands; you said “worse hot”")
        huge, deep = f'{{"km_since_work": {10**400}}}', "[" * 20_000
        for nonsense in ("", "[1", "7", '{"speed_kmh": "x", "felt_in": 4, "heat": []}', huge, deep):
            self.assertEqual(self.tell(felt_in=["pedal"], km_since_work="7", was=nonsense).status_code, 302)
        self.assertEqual(Job.objects.get(pk=self.job.pk).story["felt_in"], ["pedal"])

    def test_bad_answers_are_named_and_what_was_said_stays(self) -> None:
        answer = self.tell(felt_in=["seat"], speed_from="90", speed_to="70")
        self.assertContains(answer, "The lower speed first", status_code=422)
        self.assertContains(answer, 'value="90"', status_code=422)
        self.assertContains(self.tell(speed_from="90"), "both ends", status_code=422)
        self.assertEqual(Job.objects.get(pk=self.job.pk).story, {})
        self.assertEqual(self.tell(client_of(self.trainee), felt_in=["seat"]).status_code, 403)
        close_job(self.user, self.job, reason="Sold")
        self.assertEqual(self.tell(felt_in=["seat"]).status_code, 422)
