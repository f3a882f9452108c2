"""The bench as rows and pages: one's own, nobody else's; nothing given away, nothing lost, nothing doubled."""

import json

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.simulate.bench import true_high_deg
from compass.simulate.marking import Answer
from ironcompass.testing import Committed
from jobs.models import Corner, Job, QuickReading, Sweep
from jobs.tests.base import READINGS, Workshop, fill
from jobs.tests.test_at_once import at_once
from practice.corner.actions import EndedError, act, answer, begin
from practice.corner.acts import Touch
from practice.corner.page import stage_context
from practice.corner.standing import at_bench
from practice.models import Attempt, MadeExercise
from workshop.models import User
from workshop.tests.base import client_of, person

HTMX = {"HTTP_HX_REQUEST": "true"}


class Bench(Workshop):
    """A trainee at the bench of a workshop with jobs."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.learner = cls.trainee
        cls.lead = person("lead")

    def setUp(self) -> None:
        super().setUp()
        self.client = client_of(self.learner)
        self.row = begin(self.learner, "in-a-hurry")
        self.row.seed = 8_712_345  # the same hidden corner every time
        self.row.save()

    def url(self, name: str = "corner") -> str:
        return reverse(f"practice:{name}", args=[self.row.pk])

    def do(self, name: str, value: str = "", *, angle: float = 0.0, **more: object):
        told = {"act": name, "value": value, "angle": angle, "way": 1, "turn": 0}
        return self.client.post(self.url("act"), told, **HTMX, **more)

    def test_acts_change_how_it_stands_and_a_reload_goes_on_there(self) -> None:
        for name, value in (("clean", ""), ("nuts", "135241352413524"), ("tip", "in"), ("zero", ""), ("note", "4.5")):
            self.assertEqual(self.do(name, value, angle=30).status_code, 200, name)
        self.row.refresh_from_db()
        bench = at_bench(self.row)
        self.assertEqual(bench.conditions(), {"clean": True, "clamped": True, "bright": True})
        self.assertEqual([(row["deg"], row["mm"]) for row in self.row.noted], [(30.0, 0.045)])
        self.assertAlmostEqual(bench.turn().at(30), 0.0, delta=1e-6)
        self.assertGreater(self.row.minutes, 10)
        page = self.client.get(self.url())
        self.assertContains(page, "4.5")
        self.do("unnote")
        self.row.refresh_from_db()
        self.assertEqual(self.row.noted, [])

    def test_what_cannot_be_read_is_refused_beside_the_field_and_kept(self) -> None:
        wrong = self.do("note", "12x")
        self.assertContains(wrong, 'value="12x"', status_code=422)
        self.assertContains(wrong, "reading-error", status_code=422)
        self.assertEqual(self.client.post(self.url("act"), {"act": "explode"}).status_code, 400)
        for told in ({"angle": "nan"}, {"way": "9"}, {"turn": "-1"}, {"angle": "x"}):
            self.assertEqual(self.client.post(self.url("act"), {"act": "zero", **told}).status_code, 400, told)
        self.row.refresh_from_db()
        self.assertEqual((self.row.noted, self.row.stands), ([], {}))

    def test_the_page_gives_nothing_away(self) -> None:
        """What is drawn and sent is one turn of a needle: no vector, no seed, no figure of the truth."""
        bench = at_bench(self.row)
        text = self.client.get(self.url()).content.decode() + json.dumps(
            {k: str(v) for k, v in stage_context(bench).items() if k not in ("attempt", "stand")}
        )
        corner = bench.corner
        figures = [true_high_deg(corner, bench.spec, bench.stand) + 0.001, corner.true_tir_mm(), 2 * abs(corner.joint)]
        for hidden in (str(self.row.seed), *(f"{figure:.4f}"[:-1] for figure in figures), "joint_contamination"):
            self.assertNotIn(hidden, text)
        needle = [int(part) for part in stage_context(bench)["on"].split()]
        self.assertEqual(len(needle), 361)

    def test_only_ones_own_bench_is_there(self) -> None:
        others = client_of(self.lead)
        for method, name in (("get", "corner"), ("post", "act"), ("post", "draft"), ("post", "answer")):
            self.assertEqual(getattr(others, method)(self.url(name), {"act": "clean"}).status_code, 404, name)
        self.client.logout()
        self.assertEqual(self.client.get(self.url()).status_code, 302)
        client = client_of(self.learner)
        self.assertEqual(client.get(reverse("practice:people")).status_code, 403)
        self.assertEqual(client.post(reverse("practice:from-job", args=[self.job.pk])).status_code, 403)
        User.objects.filter(pk=self.learner.pk).update(is_active=False)
        self.assertEqual(client.get(reverse("practice:home")).status_code, 302)

    def test_an_answer_is_marked_once_and_its_truth_shown_then_only(self) -> None:
        draft = {"stud": "3", "past": "-10", "amount": "6,5"}
        self.assertEqual(self.client.post(self.url("draft"), {"amount": "6\x00,"}).status_code, 400)
        self.assertEqual(self.client.post(self.url("draft"), draft).status_code, 204)
        self.assertContains(self.client.get(self.url()), 'value="6,5"')
        empty = self.client.post(self.url("answer"), {})
        self.assertContains(empty, "Say something of what you found", status_code=422)
        wrong = self.client.post(self.url("answer"), draft | {"amount": "abc", "stud": "9"})
        self.assertContains(wrong, 'value="abc"', status_code=422)
        for _press in range(2):
            self.assertRedirects(self.client.post(self.url("answer"), draft), self.url())
        self.row.refresh_from_db()
        self.assertEqual(self.row.answer["high_deg"], 134.0)
        self.assertEqual(self.row.answer["tir_mm"], 0.065)
        self.assertIsNotNone(self.row.total)
        page = self.client.get(self.url())
        for words in ("Next time", "of the dirt in the joint", "Another like it"):
            self.assertContains(page, words)
        with self.assertRaises(EndedError):
            act(self.learner, self.row.pk, "clean", Touch())
        self.assertEqual(self.do("clean")["HX-Refresh"], "true")  # in another tab
        again = begin(self.learner, "in-a-hurry")
        self.assertNotEqual((again.pk, again.seed), (self.row.pk, self.row.seed))
        self.assertEqual(begin(self.learner, "in-a-hurry").pk, again.pk)

    def test_the_vehicle_is_driven_on_with_what_was_chosen(self) -> None:
        self.row = begin(self.learner, "cut-it")
        page = self.client.post(self.url("answer"), {"cause": "rotor_runout", "remedy": "index"})
        self.assertContains(page, "How many studs on?", status_code=422)
        self.client.post(self.url("answer"), {"cause": "rotor_runout", "remedy": "none"})
        self.assertContains(self.client.get(self.url()), "the pulse is still there")
        self.row = begin(self.learner, "cut-it")
        self.client.post(self.url("answer"), {"cause": "rotor_runout", "remedy": "on_vehicle_cut"})
        self.assertContains(self.client.get(self.url()), "the pulse is gone")

    def test_nothing_here_touches_a_record(self) -> None:
        before = [model.objects.count() for model in (Job, Corner, Sweep, QuickReading)]
        self.do("clean")
        self.do("note", "3")
        self.client.post(self.url("answer"), {"stud": "1"})
        self.assertEqual([model.objects.count() for model in (Job, Corner, Sweep, QuickReading)], before)

    def test_the_shelf_and_the_leads_page_ask_few_questions_however_many_tries(self) -> None:
        counts, lead = [], client_of(self.lead)
        for _more in range(2):
            for _try in range(4):
                answer(self.learner, begin(self.learner, "small").pk, Answer(tir_mm=0.02, state="within"))
            with CaptureQueriesContext(connection) as queries:
                self.client.get(reverse("practice:home"))
                lead.get(reverse("practice:people"))
            counts.append(len(queries))
        self.assertEqual(counts[0], counts[1])
        self.assertContains(client_of(self.lead).get(reverse("practice:people")), "100%")

    def test_a_closed_job_becomes_an_exercise_without_names(self) -> None:
        client = client_of(self.lead)
        url = reverse("practice:from-job", args=[self.job.pk])
        self.assertEqual(client.post(url).status_code, 404)  # open yet
        fill(self.user, self.sweep, READINGS)
        Job.objects.filter(pk=self.job.pk).update(state="closed", closed_by=self.lead, found_cause="rotor_runout")
        client.post(url, follow=True)
        made = MadeExercise.objects.get()
        self.assertContains(client.get(reverse("practice:home")), made.title)
        kept = json.dumps([made.title, made.tale, made.corners, made.specs])
        for name in (self.job.vehicle.label, self.job.complaint):
            self.assertNotIn(name, kept)
        self.assertEqual(made.right[0], "rotor_runout")
        self.row = begin(self.learner, f"made-{made.pk}", made=made)
        self.assertEqual(self.client.get(self.url()).status_code, 200)
        kept = Corner.objects.get(job=self.job, position=made.at).kept
        self.assertAlmostEqual(at_bench(self.row).corners[made.at].true_tir_mm(), kept.runout_mm, delta=0.02)
        retire = reverse("practice:retire", args=[made.pk])
        self.assertEqual(self.client.post(retire).status_code, 403)
        client.post(retire)
        self.assertNotContains(client.get(reverse("practice:home")), f"made-{made.pk}")
        self.client.post(self.url("answer"), {"cause": "rotor_runout", "remedy": "new_rotors", "corner": made.at})
        self.assertEqual(self.client.get(self.url()).status_code, 200)


class AtOnce(Committed):
    """Two presses at the same moment."""

    def test_two_beginnings_make_one_attempt_and_two_notes_are_both_kept(self) -> None:
        learner = person("trainee")
        rows: list[Attempt] = []
        at_once(*[lambda: rows.append(begin(learner, "find-it"))] * 3)
        at_once(*[lambda: act(learner, rows[0].pk, "note", Touch(10.0, 1, 0, "3"))] * 3)
        self.assertEqual({row.pk for row in rows}, {Attempt.objects.get().pk})
        self.assertEqual(len(Attempt.objects.get().noted), 3)
