"""The Choose leg: lanes, one decision on record, plates off the stock, the cut plan pass by pass."""

import json
import subprocess
import sys
from dataclasses import replace

from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, connection, transaction
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.files.write_case import shop_to_data
from compass.ground.units import Unit
from jobs.actions import JobClosedError, close_job
from jobs.case_actions import import_case, job_case_data, job_verdict_data
from jobs.choosing import weigh_axle
from jobs.demo.build import build_demo
from jobs.models import Corner, CutPass, Decision, FittedPlate, Job
from jobs.nextact import next_act
from jobs.remedy_actions import (
    CutRefusedError,
    ForbiddenRemedyError,
    NoPlateError,
    WhyNeededError,
    decide,
    fit_plate,
    record_pass,
    strike_pass,
    take_out,
)
from workshop.adapters import shop_of_workshop
from workshop.models import Lathe, PlateKind, ShopFigures, User
from workshop.tests.test_workshop import client_of

MOST_QUERIES = 15


class DemoShop(TestCase):
    """The demo's jobs: Minibus 6 wants a cut, Meal van 1 a plate."""

    @classmethod
    def setUpTestData(cls) -> None:
        build_demo()
        cls.user = User.objects.get(username="brandt")
        cls.trainee = User.objects.get(username="ness")
        cls.job = Job.objects.for_choosing().get(vehicle__label="Minibus 6")
        cls.van = Job.objects.for_choosing().get(vehicle__label="Meal van 1", state="open")
        cls.lathe = Lathe.objects.get(kind="on_vehicle")

    def setUp(self) -> None:
        self.client = client_of(self.user)

    def page(self, name: str, *args, client=None):
        return (client or self.client).get(reverse(f"jobs:{name}", args=args))


class Deciding(DemoShop):
    """What may be decided, by whom, and what stays on record."""

    def test_the_advice_needs_no_reason_and_stands_on_record(self) -> None:
        advice = weigh_axle(self.job, "F").advised
        self.assertEqual(next_act(self.job).words, "Turn the rotor on 2 studs, sweep again · Front left")
        decision = decide(self.user, self.job, "F", code=advice.code)
        self.assertEqual(decision.remedies, {"FL": "on_vehicle_cut", "FR": "on_vehicle_cut"})
        self.assertEqual((decision.decided_by, decision.against, decision.policy), (self.user, False, "least_cost"))
        self.assertEqual(decision.predicted["FL"]["odds_within"], 1.0)
        self.assertEqual(decide(self.user, self.job, "F", code=advice.code), decision)  # sent twice
        page = self.page("choose", self.job.pk, "F")
        self.assertContains(page, "A. Brandt")
        self.assertContains(page, "Open the cut plan")
        self.assertContains(self.page("changes", self.job.pk), "decided")

    def test_against_the_advice_a_reason_is_asked_and_kept(self) -> None:
        address = reverse("jobs:decide", args=[self.job.pk, "F"])
        answer = self.client.post(address, {"remedy": "bench_cut+plate", "reason": " "})
        self.assertContains(answer, "Write why", status_code=422)
        self.assertEqual(answer.context["picked"], "bench_cut+plate")
        self.assertFalse(Decision.objects.filter(job=self.job).exists())
        answer = self.client.post(address, {"remedy": "bench_cut+plate", "reason": "hub lathe is out"})
        self.assertRedirects(answer, reverse("jobs:choose", args=[self.job.pk, "F"]))
        self.assertTrue(Decision.objects.get(job=self.job).against)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Decision.objects.filter(job=self.job).update(reason="")

    def test_what_a_rule_forbids_nobody_decides(self) -> None:
        for code, rule in (("none", "over_limit"), ("plate", "plate_not_parallel"), ("nonsense", None)):
            with self.assertRaises(ForbiddenRemedyError) as refused:
                decide(self.user, self.job, "F", code=code, reason="I say so")
            self.assertEqual(refused.exception.rules[0][1] if rule else rule, rule)
        answer = self.client.post(reverse("jobs:decide", args=[self.job.pk, "F"]), {"remedy": "none", "reason": "x"})
        self.assertContains(answer, "leaving it is no remedy", status_code=422)
        self.assertFalse(Decision.objects.filter(job=self.job).exists())

    def test_who_may_not_and_when_no_more(self) -> None:
        self.assertEqual(self.page("choose", self.job.pk, "F", client=client_of(self.trainee)).status_code, 200)
        for name, args in (("decide", ["F"]), ("fit-plate", ["FL"]), ("cut-step", ["FL"])):
            answer = client_of(self.trainee).post(reverse(f"jobs:{name}", args=[self.job.pk, *args]))
            self.assertEqual(answer.status_code, 403, name)
        with self.assertRaises(PermissionDenied):
            decide(self.trainee, self.job, "F", code="on_vehicle_cut")
        close_job(self.user, self.job, reason="Sold")
        with self.assertRaises(JobClosedError):
            decide(self.user, self.job, "F", code="on_vehicle_cut")
        answer = self.client.post(reverse("jobs:decide", args=[self.job.pk, "F"]), {"remedy": "on_vehicle_cut"})
        self.assertContains(answer, "is closed", status_code=422)

    def test_every_page_says_what_it_knows_within_its_queries(self) -> None:
        for job, name, args in (
            (self.job, "choose", ["F"]),
            (self.job, "choose", ["R"]),
            (self.van, "choose", ["F"]),
            (self.van, "turn-rotor", ["FL"]),
            (self.job, "cut", ["FL"]),
        ):
            with self.subTest(name=name), CaptureQueriesContext(connection) as asked:
                self.assertEqual(self.page(name, job.pk, *args).status_code, 200)
            self.assertLessEqual(len(asked), MOST_QUERIES, (name, [q["sql"][:90] for q in asked]))
        self.assertContains(self.page("choose", self.job.pk, "R"), "Nothing is measured on this axle yet")
        lanes = self.page("choose", self.job.pk, "F")
        self.assertContains(lanes, "What each policy would choose")
        self.assertContains(lanes, "Over the life of the disc")
        self.assertContains(lanes, "refused, and why")
        self.assertRedirects(self.page("choose-worst", self.job.pk), reverse("jobs:choose", args=[self.job.pk, "F"]))
        self.assertEqual(self.page("choose", self.job.pk, "Q").status_code, 404)
        other = self.client.get(reverse("jobs:choose", args=[self.job.pk, "F"]) + "?policy=replace_pairs")
        self.assertEqual(other.context["lanes"][0]["code"], "new_rotors+on_vehicle_cut")
        self.assertFalse(other.context["lanes"][0]["advised"])

    def test_a_missing_measurement_that_would_open_a_cheaper_lane_comes_first(self) -> None:
        truck = Job.objects.get(vehicle__label="Quay truck")
        page = self.page("choose", truck.pk, "R")
        self.assertIn("Measure thickness", page.context["act"].words)
        self.assertIn("would open", page.context["act"].why)

    def test_application_and_command_line_choose_alike(self) -> None:
        data = job_case_data(self.job)
        self.assertEqual(data["shop"], json.loads(json.dumps(shop_to_data(shop_of_workshop()))))
        self.assertIn("wear", data["corners"][0])
        ran = subprocess.run(
            [sys.executable, "-m", "compass", "diagnose", "-"],
            input=json.dumps(data).encode(), capture_output=True, check=True,
        )  # fmt: skip
        told = json.loads(ran.stdout)
        self.assertEqual(told, json.loads(json.dumps(job_verdict_data(self.job))))
        first = {
            corner["position"]: corner["remedies"][0]["remedy"] for corner in told["corners"] if corner["remedies"]
        }
        self.assertEqual(first, weigh_axle(self.job, "F").plan.remedies)
        before = job_verdict_data(self.job)
        self.assertEqual(job_verdict_data(import_case(self.user, json.dumps(data).encode())), before)


class Plates(DemoShop):
    """One a side, always a new one, off the stock."""

    def stock(self) -> int:
        return PlateKind.objects.get(correction_mm=self.setting()["plate_mm"], studs=5).stock

    def setting(self) -> dict[str, float]:
        return Decision.objects.filter(job=self.van).last().settings["FL"]

    def test_a_plate_is_fitted_once_and_never_stacked(self) -> None:
        before = self.stock()
        fit_plate(self.user, self.van, "FL")
        self.assertEqual(self.stock(), before - 1)
        self.assertEqual(PlateKind.history.filter(stock=before - 1).first().history_user, self.user)
        with self.assertRaises(NoPlateError):
            fit_plate(self.user, self.van, "FL")
        with self.assertRaises(NoPlateError):
            fit_plate(self.user, self.van, "FR")
        self.assertContains(self.page("vehicle", self.van.vehicle_id), "Correction plates")
        van = Job.objects.for_choosing().get(pk=self.van.pk)
        self.assertEqual(weigh_axle(van, "F").lane("plate").blocked, (("FL", "plate_stacked"),))
        fitted = FittedPlate.objects.get()
        with self.assertRaises(IntegrityError), transaction.atomic():
            FittedPlate.objects.create(
                vehicle=van.vehicle, job=van, position="FL", plate=fitted.plate, thin_deg=0, created_by=self.user
            )
        take_out(self.user, van, fitted)
        self.assertEqual(self.stock(), before - 1)

    def test_none_is_fitted_when_none_is_left(self) -> None:
        PlateKind.objects.update(stock=0)
        with self.assertRaises(NoPlateError):
            fit_plate(self.user, self.van, "FL")
        answer = self.client.post(reverse("jobs:fit-plate", args=[self.van.pk, "FL"]), follow=True)
        self.assertContains(answer, "No such plate is left")
        with self.assertRaises(IntegrityError), transaction.atomic():
            PlateKind.objects.update(stock=-1)

    def test_a_setting_by_hand_is_worked_out_and_a_worse_one_wants_a_reason(self) -> None:
        address = reverse("jobs:turn-rotor", args=[self.van.pk, "FL"])
        shown = self.client.get(
            address, {"index_deg": 72, "plate_mm": 0.1, "plate_deg": 108}, headers={"HX-Request": "true"}
        )
        self.assertContains(shown, "between studs 2 and 3")
        self.assertNotContains(shown, "<html")
        self.assertEqual(shown.context["odds"], "99 in 100")
        for query in ({"index_deg": 30}, {"index_deg": 0, "plate_mm": 0.3, "plate_deg": 0}, {"index_deg": "x"}):
            self.assertEqual(self.client.get(address, query).status_code, 404, query)
        bad = {"remedy": "plate", "position": "FL", "index_deg": 0, "plate_mm": 0.1, "plate_deg": 288}
        decide_at = reverse("jobs:decide", args=[self.van.pk, "F"])
        count = Decision.objects.count()
        self.assertContains(self.client.post(decide_at, bad), "Write why", status_code=422)
        self.assertEqual(Decision.objects.count(), count)
        good = bad | {"index_deg": 72, "plate_deg": 108}
        self.assertEqual(self.client.post(decide_at, good).status_code, 302)
        self.assertEqual(self.setting(), {"index_deg": 72.0, "plate_mm": 0.1, "plate_deg": 108.0})
        with self.assertRaises(WhyNeededError):
            decide(
                self.user,
                self.van,
                "F",
                code="plate",
                setting={"position": "FL", "index_deg": 0.0, "plate_mm": 0.1, "plate_deg": 288.0},
            )

    def test_the_side_that_does_not_lead_keeps_the_other_sides_plan(self) -> None:
        fair = {"remedy": "index", "position": "FR", "index_deg": 72}
        answer = self.client.post(reverse("jobs:decide", args=[self.van.pk, "F"]), fair | {"reason": "match marks"})
        self.assertContains(answer, "Nothing is over its limit here", status_code=422)
        limits = self.van.corners.get(position="FR").limits
        type(limits).objects.filter(pk=limits.pk).update(max_runout_mm=0.015)
        decide(
            self.user, self.van, "F", code="index", reason="match marks", setting={"position": "FR", "index_deg": 72.0}
        )  # fmt: skip
        decided = Decision.objects.filter(job=self.van).last()
        self.assertEqual(decided.remedies["FR"], "index")
        self.assertEqual(decided.settings["FR"], {"index_deg": 72.0})
        with self.assertRaises(ForbiddenRemedyError):  # a plate that is none
            decide(self.user, self.van, "F", code="plate", setting={"position": "FL", "index_deg": 72.0})


class Cutting(DemoShop):
    """The cut plan, from the scratch to the last reading."""

    def step(self, **sent):
        address = reverse("jobs:cut-step", args=[self.job.pk, "FL"])
        return self.client.post(address, {"lathe": self.lathe.pk, **sent})

    def corner(self) -> Corner:
        return self.job.corners.get(position="FL")

    def test_passes_are_recorded_in_turn_and_the_plan_follows_the_reading(self) -> None:
        plan = self.page("cut", self.job.pk, "FL").context["plan"]
        first = plan.passes[0]
        self.assertEqual(self.step(step="scratch", scratch="comes_and_goes").status_code, 302)
        self.assertEqual(self.step(step="check", read="0.02", arm="276").status_code, 302)
        page = self.page("cut", self.job.pk, "FL")
        self.assertContains(page, "as swept. Go on with the plan")
        self.assertContains(page, "0.010 mm to the cut")
        answer = self.step(step="pass", number=1, reading="26,2x")
        self.assertContains(answer, "26,2x", status_code=422)
        self.assertContains(answer, "is no unit", status_code=422)
        self.assertEqual(CutPass.objects.count(), 0)
        self.assertEqual(self.step(step="pass", number=1, reading=f"{first.reading_mm[1]:.3f}").status_code, 302)
        again = self.step(step="pass", number=1, reading="26.2")  # Enter twice
        self.assertContains(again, "on record already", status_code=422)
        self.assertContains(self.step(step="pass", number=2, reading="2.61"), "More than 1 mm", status_code=422)
        made = CutPass.objects.get()
        self.assertEqual((made.number, made.out_mm, made.graduation_mm), (1, first.out_mm, 0.001))
        page = self.page("cut", self.job.pk, "FL")
        self.assertEqual([step["number"] for step in page.context["steps"]], [2])
        strike_pass(self.user, self.corner(), self.lathe)
        self.assertTrue(CutPass.objects.get().withdrawn)
        self.assertEqual(self.page("cut", self.job.pk, "FL").context["plan"].passes[0].number, 1)

    def test_a_reading_that_leaves_too_little_stops_the_lathe(self) -> None:
        record_pass(self.user, self.job, self.corner(), self.lathe, number=1, typed="25.85", unit=Unit.MM)
        page = self.page("cut", self.job.pk, "FL")
        self.assertContains(page, "No tip touches this disc")
        self.assertAlmostEqual(CutPass.objects.get().graduation_mm, 0.01)
        with self.assertRaises(CutRefusedError):
            record_pass(self.user, self.job, self.corner(), self.lathe, number=2, typed="25.84", unit=Unit.MM)

    def test_no_tip_touches_what_the_rules_forbid(self) -> None:
        limits = self.corner().limits
        type(limits).objects.filter(pk=limits.pk).update(machine_to_thickness_mm=26.3)
        page = self.page("cut", self.job.pk, "FL")
        self.assertContains(page, "Less than 19 in 20 odds")
        self.assertNotContains(page, "Pass made")
        self.assertContains(self.step(step="pass", number=1, reading="26.2"), "19 in 20", status_code=422)
        self.assertEqual(CutPass.objects.count(), 0)
        self.assertEqual(self.step(step="nonsense").status_code, 422)


class Figures(DemoShop):
    """The workshop's own figures decide what is advised."""

    def test_policy_and_prices_reach_the_lanes(self) -> None:
        self.assertEqual(weigh_axle(self.job, "F").advised.code, "on_vehicle_cut")
        ShopFigures.objects.update(policy="replace_pairs", labour_per_hour=1200)
        dear = weigh_axle(self.job, "F")
        self.assertEqual(dear.advised.code, "new_rotors+on_vehicle_cut")
        self.assertEqual(dear.lane("on_vehicle_cut").price, 2 * 50 / 60 * 1200)
        Lathe.objects.update(retired=True)
        self.assertIn(("FL", "no_lathe"), weigh_axle(self.job, "F").lane("on_vehicle_cut").blocked)
        self.assertEqual(replace(shop_of_workshop(), plates=()).lathes, ())
