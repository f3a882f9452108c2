"""What was measured, axle by axle."""

from django.urls import reverse

from compass.ground.units import Unit
from jobs.cause.pairs import measured_pairs
from jobs.judging import judge_job
from jobs.models import Job, Sweep
from jobs.prepare.actions import start_sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Workshop, fill
from workshop.models import ShopFigures


class Pairs(Workshop):
    """The compact figure of the Cause leg."""

    def pairs(self, unit: Unit = Unit.MM):
        job = Job.objects.for_page().get(pk=self.job.pk)
        return measured_pairs(job, judge_job(job.created_by, job), unit)

    def test_nothing_measured_is_no_figure(self) -> None:
        self.assertEqual(self.pairs(), [])
        self.assertContains(self.client.get(reverse("jobs:cause", args=[self.job.pk])), "odds of the story alone")

    def test_both_sides_stand_beside_each_other_in_the_readers_unit(self) -> None:
        fill(self.user, self.sweep, READINGS)
        ((left, right),) = (pair["rows"] for pair in self.pairs())
        self.assertEqual((left["name"], right), ("Front left", {"name": "Front right", "measured": False}))
        self.assertEqual((left["runout"]["figure"], left["runout"]["state"]), ("0.110 ±0.006", "over"))
        self.assertEqual((left["variation"], left["thinnest"]), (None, None))
        self.assertTrue(left["high"].startswith("stud 4"))
        self.assertEqual(left["whose"], ["not told apart yet"])
        self.assertEqual(self.pairs(Unit.THOU)[0]["rows"][0]["runout"]["unit"], "thou")

    def test_words_say_only_what_the_figure_does_not(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        turned = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        fill(self.user, turned, READINGS)
        left = self.pairs()[0]["rows"][0]
        self.assertRegex(" ".join(left["whose"]), r"^hub 0\.1\d+ ±0\.\d+ mm rotor 0\.0\d* ±0\.\d+ mm$")
        self.assertEqual(left["variation"]["state"], "over")
        for words in left["means"]:
            self.assertNotRegex(words, r"runout is \d|carries|variation is \d")

    def test_the_most_suspect_axle_comes_first_and_a_struck_sweep_is_not_in_it(self) -> None:
        fill(self.user, self.sweep, READINGS)
        self.assertEqual(len(self.pairs()), 1)
        Sweep.objects.filter(pk=self.sweep.pk).update(struck=True)
        self.assertEqual(self.pairs(), [])

    def test_two_faults_at_one_corner_are_both_named(self) -> None:
        fill(self.user, self.sweep, READINGS)
        dirty = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"cleaned": False})
        fill(self.user, dirty, [str(3 * float(z)) for z in READINGS])
        fill(self.user, start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0}), READINGS)
        fill(self.user, self.round, ["26.440"] * 10)
        (row,) = (r for r in self.pairs()[0]["rows"] if r["measured"])
        self.assertEqual(set(row["named"].split(" and ")), {"dirt in the joint", "the hub face runs out"})

    def test_checks_that_are_not_worth_their_minutes_are_said_to_be_so(self) -> None:
        fill(self.user, self.sweep, READINGS)
        page = self.client.get(reverse("jobs:cause", args=[self.job.pk]))
        self.assertIsNone(page.context["spared"])
        self.assertTrue(page.context["checks"])
        ShopFigures.objects.update_or_create(workshop_id=1, defaults={"labour_per_hour": 90_000, "price_comeback": 10})
        page = self.client.get(reverse("jobs:cause", args=[self.job.pk]))
        self.assertEqual(page.context["checks"], [])
        self.assertContains(page, "No further check is worth its minutes")
        self.assertContains(page, "Rear left: runout, thickness")
