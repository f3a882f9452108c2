"""Pages and fragments: status, what they hold, how many queries, who is refused."""

import json

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from jobs.actions import close_job, open_job, start_sweep
from jobs.demo.build import build_demo
from jobs.models import Corner, Job, Sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Workshop, fill
from workshop.models import User, Vehicle
from workshop.tests.test_workshop import client_of

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
                self.assertEqual([strip.job for strip in strips], found)

    def test_an_unprepared_corner_leads_to_its_preparation(self) -> None:
        self.assertRedirects(self.client.get(self.address("measure", "RR")), self.address("prepare", "RR"))
        self.assertEqual(self.client.get(self.address("measure", "A1L")).status_code, 404)

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


class Preparing(Workshop):
    """Limits and set-up."""

    form = {
        "studs": "5",
        "rotor": "vented",
        "measuring_radius_mm": "138",
        "max_runout_mm": "2 thou",
        "max_thickness_variation_mm": "0,012",
        "discard_thickness_mm": "12.4",
        "source": "cast",
        "cleaned": "on",
        "dial": "mm10",
        "read_to": "0.5",
        "entry_unit": "div",
        "stations": "10",
        "radius_mm": "138",
        "micrometer": "mm1",
        "micrometer_unit": "mm",
    }

    def post(self, position: str = "RL", **changes: str):
        return self.client.post(reverse("jobs:prepare", args=[self.job.pk, position]), self.form | changes)

    def test_lays_out_both_tapes_and_judges_the_whole_axle(self) -> None:
        answer = self.post()
        corner = Corner.objects.get(job=self.job, position="RL")
        tape = f"?tape=s{corner.sweeps.get().pk}"
        self.assertRedirects(answer, reverse("jobs:measure", args=[self.job.pk, "RL"]) + tape)
        self.assertAlmostEqual(corner.limits.max_runout_mm, 0.0508)
        self.assertEqual(Corner.objects.get(job=self.job, position="RR").limits, corner.limits)
        sweep = corner.sweeps.get()
        self.assertEqual((sweep.slots, sweep.cleaned, sweep.nuts_torqued), (11, True, False))
        self.assertEqual(corner.rounds.get().slots, 10)

    def test_bad_limits_are_named_beside_their_field_and_nothing_typed_is_lost(self) -> None:
        for field, text in (
            ("max_runout_mm", "0"),
            ("max_runout_mm", "five"),
            ("discard_thickness_mm", "1.2.3"),
            ("measuring_radius_mm", "1000"),
            ("nominal_thickness_mm", "12"),
            ("stations", "3"),
            ("studs", "0"),
        ):
            with self.subTest(field=field, text=text):
                answer = self.post(**{field: text})
                self.assertContains(answer, f'id="id_{field}_error"', status_code=422)
                self.assertContains(answer, f'value="{text}"', status_code=422)
                self.assertContains(answer, 'value="2 thou"' if field != "max_runout_mm" else text, status_code=422)
        self.assertFalse(Corner.objects.get(job=self.job, position="RL").sweeps.exists())

    def test_a_trainee_uses_the_limits_in_force_and_cannot_change_them(self) -> None:
        self.client = client_of(self.trainee)
        self.assertEqual(self.post("FR", max_runout_mm="1").status_code, 302)
        self.assertEqual(Corner.objects.get(job=self.job, position="FR").limits.max_runout_mm, 0.05)
        self.assertEqual(self.post("RL").status_code, 422)

    def test_limits_shown_in_thou_and_left_alone_stay_as_stored(self) -> None:
        User.objects.filter(pk=self.user.pk).update(units="thou")
        address = reverse("jobs:prepare", args=[self.job.pk, "FL"])
        page = self.client.get(address).context
        texts = {name: page["limits_form"][name].value() or "" for name in page["limits_form"].fields}
        self.assertEqual(texts["max_runout_mm"], "2.0")
        self.client.post(address, self.form | texts | {"radius_mm": "5.4331"})
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).limits, self.corner.limits)

    def test_turning_the_rotor_lays_out_a_sweep_of_its_own(self) -> None:
        fill(self.user, self.sweep, READINGS)
        self.post("FL", turned="2")
        self.assertEqual([s.index_deg for s in Sweep.objects.filter(corner=self.corner)], [0.0, 144.0])


class Tape(Workshop):
    """What the reading tape sends and gets."""

    def post(self, kind: str = "sweep", pk: int | None = None, **data):
        data = {"slot": 0, "text": "5", "was": "", "client": "tab", "number": 1, "final": "1"} | data
        address = reverse("jobs:reading", args=[kind, pk or self.sweep.pk])
        return self.client.post(address, data, headers={"HX-Request": "true"})

    def test_a_reading_redraws_rose_trace_verdict_and_next(self) -> None:
        fill(self.user, self.sweep, READINGS[:9])
        with CaptureQueriesContext(connection) as queries:
            answer = self.post(slot=9, text="4.5")
        self.assertLessEqual(len(queries), MOST_QUERIES)
        for place in ("rose", "trace", "verdict", "next", "corners", "note"):
            self.assertContains(answer, f'hx-swap-oob="innerHTML:#{place}"')
        self.assertLess(len(answer.content), 30_000)
        state = json.loads(answer["HX-Trigger"])["tape-state"]
        self.assertEqual((state["typed"][9], state["stored"]), ("4.5", True))

    def test_bad_text_is_422_with_what_to_do(self) -> None:
        answer = self.post(text="1.2.3")
        self.assertContains(answer, "two decimal signs", status_code=422)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "1.2.3")
        self.assertEqual(self.post(text="-", final="", number=2).status_code, 200)  # still typing

    def test_a_conflict_is_409_and_stores_nothing(self) -> None:
        self.post()
        answer = self.post(text="7", client="other")
        self.assertEqual(answer.status_code, 409)
        state = json.loads(answer["HX-Trigger"])["tape-state"]
        self.assertEqual((state["conflict"], state["stored"]), ("5", False))

    def test_what_does_not_fit_is_refused(self) -> None:
        self.assertEqual(self.post(slot=11).status_code, 400)
        self.assertEqual(self.post(text="9" * 41).status_code, 400)
        self.assertEqual(self.post(kind="sweeps").status_code, 404)
        self.assertEqual(self.post(pk=10**6).status_code, 404)
        close_job(self.user, self.job, reason="Sold")
        self.assertContains(self.post(), "closed", status_code=422)

    def test_zero_and_undo_answer_with_the_tape(self) -> None:
        fill(self.user, self.sweep, ["3", "1", "4"])
        zero = self.client.post(reverse("jobs:zero", args=["sweep", self.sweep.pk]))
        self.assertEqual(json.loads(zero["HX-Trigger"])["tape-state"]["typed"][:3], ["2", "0", "3"])
        back = self.client.post(reverse("jobs:undo", args=["sweep", self.sweep.pk]))
        self.assertEqual(json.loads(back["HX-Trigger"])["tape-state"]["typed"][:3], ["3", "1", "4"])


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
