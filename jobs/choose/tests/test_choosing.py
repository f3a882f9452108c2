"""The Choose leg: lanes, one decision on record, plates off the stock, the cut plan pass by pass."""

import json
import subprocess
import sys
from dataclasses import replace

from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.files.write_case import shop_to_data
from jobs.adapters import shop_of
from jobs.choose.actions import WhyNeededError, decide
from jobs.choose.axle import ForbiddenRemedyError, decisions_of, weigh_axle
from jobs.floor.actions import open_job
from jobs.models import Decision, Job
from jobs.next_act import next_act
from jobs.prove.actions import close_job
from jobs.record.case_in import import_case
from jobs.record.case_out import job_case_data, job_verdict_data
from jobs.record.trail import changes_of
from jobs.tests.base import DemoShop
from jobs.writing import JobClosedError
from workshop.adapters import shop_of_workshop
from workshop.models import Lathe, ShopFigures
from workshop.tests.base import client_of
from workshop.vehicles import add_vehicle

MOST_QUERIES = 15


class Deciding(DemoShop):
    """What may be decided, by whom, and what stays on record."""

    def test_the_advice_needs_no_reason_and_stands_on_record(self) -> None:
        advice = weigh_axle(self.user, self.job, "F").advised
        self.assertEqual(next_act(self.job).words, "Choose the remedy")
        decision = decide(self.user, self.job, "F", code=advice.code)
        self.assertEqual(decision.remedies, {"FL": "on_vehicle_cut", "FR": "on_vehicle_cut"})
        self.assertEqual((decision.decided_by, decision.against, decision.policy), (self.user, False, "least_cost"))
        self.assertEqual(decision.predicted["FL"]["odds_within"], 1.0)
        self.assertEqual(decide(self.user, self.job, "F", code=advice.code), decision)  # sent twice
        page = self.page("choose", self.job.pk, "F")
        self.assertContains(page, "A. Brandt")
        self.assertContains(page, "Do it, step by step")
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
        page = self.client.get(reverse("jobs:choose", args=[self.job.pk, "F"])).context
        lanes = {lane["code"]: lane for lane in (*page["lanes"], *page["more_lanes"])}
        self.assertEqual([code for code, lane in lanes.items() if lane["picked"]], ["bench_cut+plate"])
        self.assertTrue(lanes["bench_cut+plate"]["decided"])  # not the advised one: a press would decide that
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
        for name, args in (("decide", ["F"]), ("fit-plate", ["FL"]), ("do-step", [])):
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

    def test_an_axle_without_limits_names_what_could_be_done_there(self) -> None:
        for kind, axle, named in (("van", "F", 7), ("motorcycle", "F", 6)):  # no plate fits a motorcycle
            vehicle = add_vehicle(self.user, label=f"New {kind}", kind=kind)
            job = open_job(self.user, vehicle, complaint="Shakes")
            empty = self.page("choose", job.pk, axle).context["empty"]
            with self.subTest(kind=kind):
                self.assertEqual(len(empty["teaches"]), named)
                self.assertIn("/prepare/", empty["url"])

    def test_a_check_worth_more_than_acting_comes_before_every_lane(self) -> None:
        truck = Job.objects.get(vehicle__label="Quay truck")
        page = self.page("choose", truck.pk, "R")
        self.assertEqual(page.context["act"].words, "Sweep another turn · Rear left")
        self.assertContains(page, f"saves {page.context['waits']['saves']} on average")
        self.assertContains(page, "data-next", count=1)  # the brass act is that check, and there is one
        self.assertFalse(any(lane["advised"] for lane in page.context["lanes"]))
        choice = weigh_axle(self.user, Job.objects.for_choosing().get(pk=truck.pk), "R")
        self.assertIsNone(choice.advised)
        self.assertGreater(choice.first.worth, 0)
        with self.assertRaises(WhyNeededError):  # no lane is advised: who chooses now says why
            decide(self.user, truck, "R", code=page.context["lanes"][0]["code"])
        told = next(c for c in job_verdict_data(self.user, truck)["corners"] if c["position"] == "RL")
        self.assertEqual((told["recommended"], told["next_check"]), (None, "repeat_sweep"))
        self.assertEqual(told["next_check_saves"], round(choice.first.saves, 2))

    def test_a_bent_hub_is_left_as_it_is_by_all_but_a_new_one(self) -> None:
        job = Job.objects.get(vehicle__label="Minibus 1", state=Job.State.WAITING)
        page = self.page("choose", job.pk, "F").context
        says = {lane["code"]: "stays bent" in lane["note"] for lane in (*page["lanes"], *page["more_lanes"])}
        self.assertEqual([code for code, stays in says.items() if not stays], ["hub_unit"])

    def test_application_and_command_line_choose_alike(self) -> None:
        data = job_case_data(self.user, self.job)
        self.assertEqual(data["shop"], json.loads(json.dumps(shop_to_data(shop_of(self.user, self.job)))))
        self.assertIn("wear", data["corners"][0])
        ran = subprocess.run(
            [sys.executable, "-m", "compass", "diagnose", "-"],
            input=json.dumps(data).encode(), capture_output=True, check=True,
        )  # fmt: skip
        told = json.loads(ran.stdout)
        self.assertEqual(told, json.loads(json.dumps(job_verdict_data(self.user, self.job))))
        first = {
            corner["position"]: corner["remedies"][0]["remedy"] for corner in told["corners"] if corner["remedies"]
        }
        self.assertEqual(first, weigh_axle(self.user, self.job, "F").plan.remedies)
        before = job_verdict_data(self.user, self.job)
        self.assertEqual(job_verdict_data(self.user, import_case(self.user, json.dumps(data).encode())), before)


class Figures(DemoShop):
    """The workshop's own figures decide what is advised."""

    def test_policy_and_prices_reach_the_lanes(self) -> None:
        self.assertEqual(weigh_axle(self.user, self.job, "F").advised.code, "on_vehicle_cut")
        ShopFigures.objects.update(policy="replace_pairs", labour_per_hour=1200)
        dear = weigh_axle(self.user, self.job, "F")
        self.assertEqual(dear.advised.code, "new_rotors+on_vehicle_cut")
        self.assertEqual(dear.lane("on_vehicle_cut").price, 2 * 50 / 60 * 1200)
        Lathe.objects.update(retired=True)
        self.assertIn(("FL", "no_lathe"), weigh_axle(self.user, self.job, "F").lane("on_vehicle_cut").blocked)
        self.assertEqual(replace(shop_of_workshop(self.user), plates=()).lathes, ())

    def test_a_decision_is_withdrawn_with_a_reason_and_stays_on_the_record(self) -> None:
        advised = weigh_axle(self.user, self.van, "F").advised.code
        decide(self.user, self.van, "F", code=advised)
        withdraw = reverse("jobs:withdraw", args=[self.van.pk, "F"])
        self.client.post(withdraw, {"reason": ""})
        self.assertIn("F", Job.objects.get(pk=self.van.pk).decided)
        self.client.post(withdraw, {"reason": "plate was damaged"})
        job = Job.objects.for_choosing().get(pk=self.van.pk)
        self.assertEqual((job.decided, decisions_of(job)), ([], {}))
        self.assertIn("plate was damaged", changes_of(job)[0]["typed"])
        decide(self.user, job, "F", code=advised)
        self.assertIn("F", Job.objects.get(pk=self.van.pk).decided)
