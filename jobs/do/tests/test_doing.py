"""Plates and passes, through actions and pages."""

from django.db import IntegrityError, transaction
from django.urls import reverse

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit
from jobs.choose.actions import WhyNeededError, decide
from jobs.choose.axle import ForbiddenRemedyError, weigh_axle
from jobs.do.actions import (
    CutRefusedError,
    FarReadingError,
    NoPlateError,
    PassConflictError,
    fit_plate,
    keep_compensation,
    keep_scratch,
    record_pass,
    strike_pass,
    take_out,
)
from jobs.models import Corner, CutPass, Decision, FittedPlate, Job
from jobs.tests.base import DemoShop
from workshop.models import PlateKind


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
        self.assertEqual(weigh_axle(self.user, van, "F").lane("plate").blocked, (("FL", "plate_stacked"),))
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
    """The cut plan follows the readings of its passes."""

    def corner(self) -> Corner:
        return self.job.corners.get(position="FL")

    def read(self, number: int, typed: str) -> CutPass:
        return record_pass(self.user, self.job, self.corner(), self.lathe, number=number, typed=typed, unit=Unit.MM)

    def test_passes_are_recorded_in_turn_and_the_plan_follows_the_reading(self) -> None:
        first = self.page("cut", self.job.pk, "FL").context["plan"].passes[0]
        keep_scratch(self.user, self.corner(), self.lathe, scratch="comes_and_goes")
        keep_compensation(self.user, self.corner(), self.lathe, read="0.02", arm="276", unit=Unit.MM)
        page = self.page("cut", self.job.pk, "FL")
        self.assertContains(page, "as swept. Go on with the plan")
        self.assertContains(page, "0.010 mm to the cut")
        self.read(1, f"{first.reading_mm[1]:.3f}")
        with self.assertRaises(PassConflictError):
            self.read(1, "26.2")  # Enter twice
        with self.assertRaises(FarReadingError):
            self.read(2, "2.61")
        made = CutPass.objects.get()
        self.assertEqual((made.number, made.out_mm, made.graduation_mm), (1, first.out_mm, 0.001))
        page = self.page("cut", self.job.pk, "FL")
        self.assertEqual([step["number"] for step in page.context["steps"]], [2])
        strike_pass(self.user, self.corner(), self.lathe)
        self.assertTrue(CutPass.objects.get().withdrawn)
        self.assertEqual(self.page("cut", self.job.pk, "FL").context["plan"].passes[0].number, 1)

    def test_a_failed_compensation_check_lets_no_pass_be_made_and_an_arm_of_nothing_is_refused(self) -> None:
        def check(read: str, arm: str = "276"):
            keep_compensation(self.user, self.corner(), self.lathe, read=read, arm=arm, unit=Unit.MM)

        with self.assertRaises(UnreadableNumberError):
            check("0.02", arm="0")
        check("0.2")
        reading = f"{self.page('cut', self.job.pk, 'FL').context['plan'].passes[0].reading_mm[1]:.3f}"
        with self.assertRaises(CutRefusedError):
            self.read(1, reading)
        self.assertEqual(CutPass.objects.count(), 0)
        check("0.02")
        self.read(1, reading)

    def test_too_little_off_is_never_called_clean_and_no_lines_are_shown_for_a_disc_not_to_be_cut(self) -> None:
        for ahead in self.page("cut", self.job.pk, "FL").context["plan"].passes:
            self.read(ahead.number, f"{ahead.reading_mm[1] + 0.08:.3f}")
        page = self.page("cut", self.job.pk, "FL")
        self.assertContains(page, "less came off than was fed")
        self.assertTrue(page.context["steps"])
        self.assertNotContains(page, "Both faces are clean")
        limits = self.corner().limits
        type(limits).objects.filter(pk=limits.pk).update(machine_to_thickness_mm=26.6)
        self.assertEqual(self.page("cut", self.job.pk, "FL").context["steps"], [])

    def test_a_reading_that_leaves_too_little_stops_the_lathe(self) -> None:
        self.read(1, "25.78")
        self.assertContains(self.page("cut", self.job.pk, "FL"), "No tip touches this disc")
        self.assertAlmostEqual(CutPass.objects.get().graduation_mm, 0.01)
        with self.assertRaises(CutRefusedError):
            self.read(2, "25.77")

    def test_no_tip_touches_what_the_rules_forbid(self) -> None:
        limits = self.corner().limits
        type(limits).objects.filter(pk=limits.pk).update(machine_to_thickness_mm=26.3)
        self.assertContains(self.page("cut", self.job.pk, "FL"), "Less than 19 in 20 odds")
        with self.assertRaises(CutRefusedError):
            self.read(1, "26.2")
        self.assertEqual(CutPass.objects.count(), 0)
