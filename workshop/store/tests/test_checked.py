"""Checks of instruments, torque wrenches, repeatability studies."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from workshop.models import Instrument, InstrumentCheck, RepeatabilityStudy, TorqueWrench
from workshop.store.actions import begin_study
from workshop.tests.base import client_of, person


class Checked(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.user = person()
        cls.trainee = person("trainee")
        cls.dial = Instrument.objects.create(name="Dial", graduation_mm=0.01, error_limit_mm=0.01)

    def setUp(self) -> None:
        self.client = client_of(self.user)
        self.url = reverse("workshop:instrument", args=[self.dial.pk])

    def check(self, days_ago: int, shown: str, **fields: str):
        on = timezone.localdate() - timedelta(days=days_ago)
        return self.client.post(self.url, {"on": f"{on:%Y-%m-%d}", "standard_mm": "1", "shown_mm": shown} | fields)

    def test_checks_tell_drift_and_when_the_next_is_due(self) -> None:
        for days, shown in ((400, "1.000"), (200, "1.004"), (0, "1.008")):
            self.assertRedirects(self.check(days, shown), self.url)
        self.dial.refresh_from_db()
        self.assertFalse(self.dial.is_due(timezone.localdate()))
        self.check(300, "1.002")  # written down late: the newest still counts
        self.dial.refresh_from_db()
        self.assertEqual(self.dial.checked_on, timezone.localdate())
        page = self.client.get(self.url)
        self.assertContains(page, "+7.3 µm")  # 8 µm in 400 days
        self.assertContains(page, "it leaves its error limit in 100 days")

    def test_a_check_that_was_a_slip_is_struck_out_of_drift_and_of_when_it_is_due(self) -> None:
        for days, shown in ((900, "1.000"), (700, "1.004"), (500, "1.008")):
            self.check(days, shown)
        before = self.client.get(self.url).context["words"]
        self.check(0, "1.080")  # 1.008 was meant, and another dial
        slip = InstrumentCheck.objects.get(shown_mm=1.08)
        wrong = self.client.get(self.url).context["words"]
        strike = reverse("workshop:strike-check", args=[slip.pk])
        for struck, words, is_due, who in (("yes", before, True, self.user), ("no", wrong, False, None)):
            for _ in range(2):  # pressed twice
                self.assertRedirects(self.client.post(strike, {"struck": struck}), self.url)
            slip.refresh_from_db()
            self.dial.refresh_from_db()
            self.assertEqual((self.dial.is_due(timezone.localdate()), slip.withdrawn_by), (is_due, who))
            self.assertEqual(self.client.get(self.url).context["words"], words)
        self.assertNotEqual(before, wrong)
        InstrumentCheck.objects.exclude(pk=slip.pk).delete()
        self.client.post(strike, {"struck": "yes"})
        self.dial.refresh_from_db()
        self.assertIsNone(self.dial.checked_on)

    def test_a_wrong_check_is_refused_beside_its_field_with_what_was_typed(self) -> None:
        answer = self.check(0, "1.0x0", note="by the window")
        self.assertContains(answer, "by the window", status_code=422)
        self.assertEqual(self.check(-2, "1").status_code, 422)
        self.assertEqual(client_of(self.trainee).post(self.url, {}).status_code, 403)
        self.assertFalse(InstrumentCheck.objects.exists())

    def test_a_study_is_typed_in_pieces_and_by_two_people(self) -> None:
        url = reverse("workshop:new-study", args=[self.dial.pk])
        wrong = self.client.post(url, {"persons": "Ann", "parts": "2", "turns": "2", "limit_mm": "0.05"})
        self.assertContains(wrong, "Two to six different names", status_code=422)
        self.client.post(url, {"persons": "Ann, Bo", "parts": "2", "turns": "2", "limit_mm": "0.05"})
        study = RepeatabilityStudy.objects.get()
        page = reverse("workshop:study", args=[study.pk])
        bad = self.client.post(page, {"version": "1", "r0": "0.01", "r1": "0.0x"})
        self.assertContains(bad, "0.0x", status_code=422)
        self.client.post(page, {"version": "1", "r0": "0.010", "r1": "0.012"})
        stale = client_of(self.trainee).post(page, {"version": "1", "r0": "0.030", "r2": "0.020"})
        self.assertContains(stale, "somebody typed 0.010", status_code=409)
        self.assertContains(stale, "0.012", status_code=409)  # what only the other has is there
        study.refresh_from_db()
        self.assertEqual(study.readings_mm[:3], [0.01, 0.012, None])
        read = (0.0, 0.002, 0.010, 0.012, 0.002, 0.004, 0.012, 0.014)  # the study by hand of compass.tests.test_learn
        cells = {f"r{k}": f"{mm:.3f}" for k, mm in enumerate(read)}
        answer = self.client.post(page, {"version": str(study.version)} | cells, follow=True)
        self.assertContains(answer, "1.3 µm")  # √1.6
        self.assertContains(answer, "7.0 µm")  # √49.6
        self.assertContains(answer, "Good for this limit")

    def test_a_wrench_is_due_and_its_span_must_be_one(self) -> None:
        url = reverse("workshop:wrenches")
        fields = {"name": "Long", "least_nm": "40", "most_nm": "20", "check_every_days": "365"}
        self.assertContains(self.client.post(url, fields), "Must be more than where it begins", status_code=422)
        day = timezone.localdate() - timedelta(days=400)
        self.client.post(url, fields | {"most_nm": "200", "checked_on": f"{day:%Y-%m-%d}"})
        self.assertTrue(TorqueWrench.objects.get().is_due(timezone.localdate()))
        self.assertContains(self.client.get(url), "due since 35 days")
        self.assertEqual(client_of(self.trainee).post(url, fields).status_code, 403)

    def test_a_study_needs_two_of_everything(self) -> None:
        from django.core.exceptions import ValidationError

        with self.assertRaises(ValidationError):
            begin_study(self.user, self.dial, persons=["Ann", "Bo"], parts=1, turns=2, limit_mm=0.05)
