"""The lathes as pages: an act at a time, one's own only, marked once."""

from django.test import TestCase
from django.urls import reverse

from compass.simulate.lathe import plan_of
from practice.exercises import SPEC
from practice.lathe.actions import OverError, act, at_lathe, begin
from practice.lathe.page import lathe_shelf
from practice.lathe.tasks import TASKS
from practice.models import LatheTry
from workshop.tests.base import client_of, person

HTMX = {"HTTP_HX_REQUEST": "true"}


class Lathes(TestCase):
    """A trainee at a lathe."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.learner = person("trainee")

    def setUp(self) -> None:
        self.client = client_of(self.learner)
        self.row = begin(self.learner, "match")
        LatheTry.objects.update(seed=77)

    def press(self, name: str, **told: str):
        return self.client.post(reverse("practice:lathe-act", args=[self.row.pk]), {"act": name} | told, **HTMX)

    def test_a_disc_is_matched_act_by_act_and_marked(self) -> None:
        self.assertContains(self.press("cut", out_lines="5", in_lines="5"), "not bolted on yet")
        for name in ("clean", "hand", "flush", "compensate", "damper", "scratch", "zero"):
            self.assertEqual(self.press(name).status_code, 200, name)
        self.assertContains(self.press("cut"), "Set a knob first")
        bench = at_lathe(LatheTry.objects.get())
        plan = plan_of(bench.corner, SPEC, bench.stand, seed=77)
        page = self.press("cut", out_lines=str(plan.out_lines), in_lines=str(plan.in_lines), feed="finish")
        self.assertContains(page, "a steady hiss")
        for _press in range(2):
            self.client.post(reverse("practice:lathe-finish", args=[self.row.pk]))
        self.row.refresh_from_db()
        self.assertEqual(self.row.total, 100)
        self.assertGreater(self.row.minutes, 20)
        self.assertContains(self.client.get(reverse("practice:lathe", args=[self.row.pk])), "Another like it")
        with self.assertRaises(OverError):
            act(self.learner, self.row.pk, "clean", lines=(0, 0), feed="finish")
        self.assertEqual({row["code"]: row["best"] for row in lathe_shelf(self.learner)}["match"], 100)

    def test_what_is_typed_wrong_stands_beside_its_fault_and_changes_nothing(self) -> None:
        for told in ({"out_lines": "many"}, {"in_lines": "900"}, {"out_lines": "-1"}, {"out_lines": "nan"}):
            answer = self.press("cut", **told)
            self.assertEqual(answer.status_code, 422, told)
            self.assertContains(answer, 'class="error"', status_code=422)
        self.assertEqual(self.press("explode").status_code, 422)
        self.row.refresh_from_db()
        self.assertEqual(self.row.stand, {})

    def test_only_ones_own_lathe_is_there(self) -> None:
        other = client_of(person())
        for method, name in (("get", "lathe"), ("post", "lathe-act"), ("post", "lathe-finish")):
            answer = getattr(other, method)(reverse(f"practice:{name}", args=[self.row.pk]), {"act": "clean"})
            self.assertEqual(answer.status_code, 404, name)
        self.assertEqual(self.client.post(reverse("practice:lathe-begin"), {"task": "nothing"}).status_code, 404)

    def test_every_disc_can_be_put_on_and_begun_twice_is_one(self) -> None:
        for task in TASKS:
            row = begin(self.learner, task.code)
            self.assertEqual(begin(self.learner, task.code).pk, row.pk)
            self.assertEqual(self.client.get(reverse("practice:lathe", args=[row.pk])).status_code, 200, task.code)
