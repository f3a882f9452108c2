"""The work being carried out: step by step, held, out of order, taken back, stopped by another choice."""

from unittest import mock

from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.urls import reverse
from django.utils import timezone

from compass.do.ladder import next_step, rung, steps_of
from compass.do.order import order_work
from compass.do.reading import Outcome
from compass.ground.errors import UnreadableNumberError
from jobs.choose.actions import decide, withdraw
from jobs.do.actions import CutRefusedError
from jobs.do.doing import Doing, doing_of
from jobs.do.running import (
    HoldError,
    NothingDecidedError,
    OutOfOrderError,
    Sent,
    StepDoneError,
    Stepped,
    TorqueWantedError,
    UnknownStepError,
    WorkChangedError,
    break_off,
    do_part,
    do_step,
    go_on,
    set_people,
    take_back,
)
from jobs.do.tests.hands import answer
from jobs.measure.looking import write_look
from jobs.models import Cut, CutPass, Decision, FittedPlate, Job, Run, RunStep
from jobs.prepare.actions import start_round, start_sweep, use_limits
from jobs.prove.actions import close_job
from jobs.tests.base import READINGS, SET_UP, DemoShop, fill
from jobs.writing import JobClosedError
from workshop.models import ShopFigures, User
from workshop.tests.base import client_of
from workshop.vehicles import set_limits


class Work(DemoShop):
    """Shared: Minibus 6 is matched on the vehicle, Meal van 1 gets a plate."""

    def doing(self, job: Job | None = None) -> Doing:
        return doing_of(self.user, Job.objects.for_doing().get(pk=(job or self.job).pk))

    def step(
        self, job: Job | None = None, *, placed=None, by: User | None = None, second: User | None = None, **also
    ) -> Stepped:
        """Do the step that is next, or the one given."""
        job = job or self.job
        return do_step(by or self.user, job, answer(placed or self.doing(job).current, **also), second=second)

    def until(self, code: str, job: Job | None = None, *, position: str | None = None):
        """Do everything up to a step and return it. Plain steps go straight onto the record: they need no hearing."""
        if not Run.objects.filter(job=job or self.job).exists():
            self.step(job)
        for _ in range(60):
            doing, plain = self.doing(job), []
            for placed in steps_of(doing.parts, doing.order):
                there = placed.step.code == code and position in (None, placed.position)
                asks = placed.step.expects or placed.step.findings or placed.step.torque or placed.step.changes
                if rung(placed) not in doing.done:
                    if there or asks:
                        break
                    plain.append(placed)
            RunStep.objects.bulk_create(
                RunStep(run=doing.run, position=p.position, key=p.key, done_by=self.user, done_at=timezone.now())
                for p in plain
            )
            placed = next_step(doing.parts, {*doing.done, *map(rung, plain)}, doing.order)
            if placed is None or (placed.step.code == code and position in (None, placed.position)):
                return placed
            self.step(job, placed=placed)
        raise AssertionError(f"never came to {code}")


class APlate(Work):
    """From the chocks to the road test, on a van that gets one plate."""

    def test_every_step_is_kept_with_who_and_when_and_the_plate_leaves_the_stock_at_its_step(self) -> None:
        while (placed := self.doing(self.van).current) is not None:
            self.assertEqual(FittedPlate.objects.exists(), placed.number > self.number("plate_place"))
            self.step(self.van)
        self.assertEqual(FittedPlate.objects.get().position, "FL")
        rows = RunStep.objects.filter(run__job=self.van)
        self.assertEqual(rows.count(), sum(len(part.steps) for part in self.doing(self.van).parts))
        self.assertEqual({row.done_by for row in rows}, {self.user})
        self.assertEqual(rows.get(key__contains=":plate_place").said["plate"], self.setting()["plate_mm"])

    def number(self, code: str) -> int:
        return self.doing(self.van).step("FL", f"plate:1:{code}").number

    def setting(self) -> dict[str, float]:
        return self.doing(self.van).sides["FL"].decision.settings["FL"]

    def test_a_hold_wants_a_second_person_or_a_reason_and_a_trainee_the_second(self) -> None:
        self.until("lift", self.van)
        with self.assertRaisesMessage(HoldError, "passing"):
            self.step(self.van, reason="  ")
        with self.assertRaisesMessage(HoldError, "second"):
            self.step(self.van, reason="", second=self.user)  # oneself is no second person
        with self.assertRaisesMessage(HoldError, "second"):
            self.step(self.van, reason="", second=self.trainee)
        with self.assertRaises(PermissionDenied):
            self.step(self.van, by=self.trainee)
        ShopFigures.objects.update_or_create(workshop_id=1, defaults={"trainees_work": True})
        with self.assertRaisesMessage(PermissionDenied, "not_put_on"):
            self.step(self.van, by=self.trainee)
        Job.objects.filter(pk=self.van.pk).update(with_trainee=self.trainee)
        with self.assertRaisesMessage(HoldError, "second"):
            self.step(self.van, by=self.trainee)  # a reason of a trainee's own passes nothing
        self.step(self.van, by=self.trainee, reason="", second=self.user)
        row = RunStep.objects.last()
        self.assertEqual((row.done_by, row.second, row.reason), (self.trainee, self.user, ""))

    def test_the_second_person_signs_in_and_a_wrong_word_counts(self) -> None:
        placed = self.until("lift", self.van)
        sent = {"position": "", "key": placed.key, "second": "holm"}
        with mock.patch("jobs.do.run_views.authenticate", return_value=None) as asked:
            refused = self.client.post(reverse("jobs:do-step", args=[self.van.pk]), sent | {"second_password": "guess"})
        self.assertContains(refused, "do not fit", status_code=422)
        self.assertEqual(asked.call_args.kwargs["password"], "guess")
        passed = self.client.post(
            reverse("jobs:do-step", args=[self.van.pk]), sent | {"second_password": "salt-and-iron"}
        )
        self.assertEqual(passed.status_code, 302)
        self.assertEqual(RunStep.objects.last().second.username, "holm")

    def test_the_same_step_twice_and_by_two_hands_counts_once(self) -> None:
        sent = answer(self.doing(self.van).current)
        do_step(self.user, self.van, sent)
        with self.assertRaises(StepDoneError) as done:
            do_step(User.objects.get(username="holm"), self.van, sent)
        self.assertEqual(done.exception.row.done_by, self.user)
        row = RunStep.objects.get()
        with self.assertRaises(IntegrityError), transaction.atomic():
            RunStep.objects.create(run=row.run, position="", key=row.key, done_by=self.user)
        page = self.client.post(
            reverse("jobs:do-step", args=[self.van.pk]), {"position": "", "key": row.key}, follow=True
        )
        self.assertContains(page, "Done already by A. Brandt")

    def test_a_step_out_of_its_order_is_asked_about(self) -> None:
        wash = self.doing(self.van).step("FL", "closing:1:wash")
        with self.assertRaises(OutOfOrderError) as asked:
            do_step(self.user, self.van, answer(wash))
        self.assertEqual(asked.exception.skipped[0].step.code, "chock")
        do_step(self.user, self.van, answer(wash, out_of_order=True))
        self.assertTrue(RunStep.objects.get().out_of_order)
        self.assertEqual(self.doing(self.van).current.step.code, "chock")
        with self.assertRaises(UnknownStepError):
            do_step(self.user, self.van, Sent("FL", "closing:1:nonsense"))

    def test_an_unknown_torque_is_looked_up_at_its_step_and_kept_with_its_source(self) -> None:
        limits = self.van.corners.get(position="FL").limits
        type(limits).objects.filter(pk=limits.pk).update(bracket_torque_nm=None)
        self.until("bracket", self.van)
        for missing, field in (({"torque_nm": None}, "torque"), ({"source": " "}, "source")):
            with self.assertRaisesMessage(TorqueWantedError, field):
                self.step(self.van, **missing)
        self.step(self.van)
        self.assertEqual(RunStep.objects.last().source, "maker's book, page 12")
        corner = self.van.corners.get(position="FL")
        self.assertEqual((corner.limits.bracket_torque_nm, corner.limits.entered_by), (41.0, self.user))
        self.assertEqual(self.doing(self.van).changes, ())  # a torque is no limit: the work goes on
        self.assertEqual(self.doing(self.van).step("FL", "closing:1:bracket").asks, ())

    def test_a_whole_part_at_once_stops_at_what_asks_and_is_not_for_a_trainee(self) -> None:
        self.until("wheel_off", self.van)
        self.assertEqual(do_part(self.user, self.van, "FL", "opening:1:wheel_off"), 4)
        self.assertEqual(self.doing(self.van).current.step.code, "bulk_rust")
        do_part(self.user, self.van, "FL", "cleaning:1:bulk_rust")
        self.assertEqual(
            do_part(self.user, self.van, "FL", "plate:1:rotor_true"), 1
        )  # the plate leaves the stock by itself
        self.assertFalse(FittedPlate.objects.exists())
        self.assertEqual(do_part(self.user, self.van, "FL", "plate:1:plate_place"), 0)
        ShopFigures.objects.update_or_create(workshop_id=1, defaults={"trainees_work": True})
        Job.objects.filter(pk=self.van.pk).update(with_trainee=self.trainee)
        with self.assertRaises(PermissionDenied):
            do_part(self.trainee, self.van, "FL", "plate:1:plate_place")

    def test_taken_back_stays_on_the_record(self) -> None:
        self.until("caliper_off", self.van)
        at = {"at": "FL|opening:1:wheel_off"}
        done = self.client.get(reverse("jobs:do", args=[self.van.pk]), at)  # a step that is done, looked at again
        self.assertContains(done, reverse("jobs:do-back", args=[self.van.pk]))
        self.assertEqual(done.context["done"].done_by, self.user)
        take_back(self.user, self.van, "FL", "opening:1:wheel_off", why="not yet")
        self.assertEqual(self.doing(self.van).current.step.code, "wheel_off")
        row = RunStep.objects.get(key="opening:1:wheel_off")
        self.assertEqual((row.taken_back, row.taken_by, row.taken_why), (True, self.user, "not yet"))
        with self.assertRaises(UnknownStepError):
            take_back(self.user, self.van, "FL", "opening:1:wheel_off", why="again")
        self.step(self.van)
        self.assertEqual(RunStep.objects.filter(key="opening:1:wheel_off").count(), 2)

    def test_new_pads_are_typed_at_their_step_for_the_whole_axle_and_taken_back_with_it(self) -> None:
        limits = self.van.corners.get(position="FL").limits
        fresh = set_limits(self.user, self.van.vehicle, "F", **limits.figures() | {"min_pad_mm": 3.0})
        for place in ("FL", "FR"):
            use_limits(self.user, self.van.corners.get(position=place), fresh)
        write_look(self.user, self.van.corners.get(position="FR"), figures={"pad_inner": ("", "2.5")})
        placed = self.until("pads_new", self.van)
        self.assertFalse(self.step(self.van, placed=placed, typed="2.9", reason="they will do").row.passed)
        with self.assertRaises(UnreadableNumberError):
            self.step(self.van, placed=placed, typed="31")  # no pad is as thick, here as in the look
        self.user.units = "thou"
        self.assertAlmostEqual(self.step(self.van, placed=placed, typed="0.43").row.reading_mm, 10.922)
        self.user.units = "mm"
        worn = {corner.position: corner.kept.linings for corner in self.van.corners.filter(position__in=("FL", "FR"))}
        self.assertEqual(worn, {"FL": (), "FR": ()})  # nothing is worked on at the right: its pads go with the left's
        self.assertIn(rung(placed), self.doing(self.van).done)  # it stays a step of the work
        take_back(self.user, self.van, "FL", placed.key, why="not yet")
        self.assertEqual(self.van.corners.get(position="FR").kept.linings[0].left_mm, 2.5)
        self.assertEqual(self.doing(self.van).current.step.code, "pads_new")

    def test_another_choice_or_limit_stops_the_work_until_somebody_goes_on_by_it(self) -> None:
        self.until("plate_place", self.van)
        setting = {"position": "FL", "index_deg": 72.0, "plate_mm": 0.05, "plate_deg": 36.0}
        decide(self.user, self.van, "F", code="plate", setting=setting, reason="marks say so")
        with self.assertRaises(WorkChangedError):
            self.step(self.van)
        page = self.client.get(reverse("jobs:do", args=[self.van.pk]))
        self.assertContains(page, "what was decided has changed")
        self.assertEqual([change["what"] for change in page.context["changes"]], ["setting"])
        self.assertEqual(go_on(self.user, self.van), 0)
        self.assertEqual(self.doing(self.van).current.figures["plate_place"], 36.0)
        limits = self.van.corners.get(position="FL").limits
        type(limits).objects.filter(pk=limits.pk).update(max_runout_mm=0.04)
        self.assertEqual([change.what for change in self.doing(self.van).changes], ["max_runout_mm"])
        withdraw(self.user, self.van, "F", reason="not after all")
        with self.assertRaises(NothingDecidedError):
            go_on(self.user, self.van)

    def test_nothing_is_done_on_a_closed_job(self) -> None:
        sent = answer(self.doing(self.van).current)
        close_job(self.user, self.van, reason="sold")
        with self.assertRaises(JobClosedError):
            do_step(self.user, self.van, sent)
        page = self.client.get(reverse("jobs:do", args=[self.van.pk]))
        self.assertContains(page, "the job is closed")
        self.assertNotContains(page, "data-space")

    def test_another_device_notices_and_everybody_may_look(self) -> None:
        pulse = reverse("jobs:do-pulse", args=[self.van.pk])
        self.assertNotIn("HX-Refresh", self.client.get(pulse, {"seen": 0}).headers)
        self.step(self.van)
        self.assertIn("HX-Refresh", self.client.get(pulse, {"seen": 0}).headers)
        page = client_of(self.trainee).get(reverse("jobs:do", args=[self.van.pk]))
        self.assertContains(page, "a technician or the lead does this")


class ACut(Work):
    """An axle matched on the vehicle, with a bad reading, a broken pass, a dark patch."""

    def setUp(self) -> None:
        super().setUp()
        decide(self.user, self.job, "F", code="on_vehicle_cut")

    def test_cleaning_that_cured_it_keeps_the_tip_away(self) -> None:
        self.until("sweep_first")
        stepped = self.step(typed="0.01")
        self.assertEqual((stepped.outcome, stepped.row.passed), (Outcome.BELOW, False))
        self.assertEqual(self.doing().current.step.code, "sweep_first")
        page = self.client.get(reverse("jobs:do", args=[self.job.pk]))
        self.assertContains(page, "it was the joint")
        self.step(typed="0.01", reason="measured wrong spot, swept twice since")  # a name stands for it
        self.assertNotEqual(self.doing().current.step.code, "sweep_first")

    def test_a_compensation_that_carries_too_much_is_passed_by_no_word(self) -> None:
        self.until("compensate")
        for also in ({}, {"reason": "it never gets better"}):
            stepped = self.step(typed="0.2", **also)
            self.assertEqual((stepped.outcome, stepped.row.passed), (Outcome.OVER_LIMIT, False))
        with self.assertRaises(UnreadableNumberError):
            self.step(typed="two")
        self.step()
        self.assertEqual(self.doing().current.step.code, "scratch")
        self.assertAlmostEqual(
            RunStep.objects.filter(passed=True).last().reading_mm, 0.0035
        )  # half as far out as the arm

    def test_a_scratch_all_round_leads_back_to_the_nuts(self) -> None:
        self.until("scratch")
        stepped = self.step(finding="all_round")
        self.assertFalse(stepped.row.passed)
        self.assertEqual(self.doing().current.step.code, "clamp")
        self.assertEqual(Cut.objects.get().scratch, "all_round")

    def test_a_reading_that_does_not_fit_has_both_faces_touched_anew(self) -> None:
        read = self.until("read_pass")
        stepped = self.step(typed=f"{read.figures['after_pass'][1] + 0.08:.3f}")
        self.assertTrue(stepped.opened)
        now = self.doing().current
        self.assertEqual((now.step.code, now.position), ("zero", read.position))
        self.assertContains(self.client.get(reverse("jobs:do", args=[self.job.pk])), "less came off than was fed")
        ahead = self.until("pass")
        self.assertEqual(ahead.pass_number, 2)  # the pass that was read stays made

    def test_a_pass_under_its_stop_ends_the_cut(self) -> None:
        self.until("read_pass")
        stepped = self.step(typed="25.78")
        self.assertEqual(stepped.outcome, Outcome.UNDER_STOP)
        self.assertContains(
            self.client.get(reverse("jobs:do", args=[self.job.pk])), "no tip touches this disc any more"
        )
        side = next(side for side in self.doing().sides.values() if side.cut is not None)
        self.assertFalse(
            [s for p in self.doing().parts for s in p.steps if s.position == side.position and s.pass_number == 2]
        )

    def test_a_broken_pass_begins_at_the_compensation_and_is_not_on_the_disc(self) -> None:
        at = self.until("stay")
        opened = break_off(self.user, self.job, at.position, at.key)
        self.assertEqual(self.doing().current.step.code, "compensate")
        self.assertIn((at.position, "cut:1:pass:1"), opened)
        self.assertEqual(CutPass.objects.count(), 0)

    def test_a_dark_patch_asks_for_one_more_pass(self) -> None:
        at = self.until("dark_patch")
        made = CutPass.objects.filter(cut__corner__position=at.position).count()
        self.step(finding="patch")
        self.assertEqual(self.doing().current.step.code, "compensate")
        self.until("dark_patch", position=at.position)
        self.assertEqual(CutPass.objects.filter(cut__corner__position=at.position).count(), made + 1)
        self.step()
        self.assertNotEqual(self.doing().current.step.code, "dark_patch")

    def test_a_pass_taken_back_is_struck_out_and_only_the_last(self) -> None:
        at = self.until("read_pass")
        key = at.key
        self.step()
        take_back(self.user, self.job, at.position, key, why="read the wrong side")
        self.assertTrue(CutPass.objects.get().withdrawn)
        self.assertEqual((self.doing().current.step.code, self.doing().current.pass_number), ("read_pass", 1))

    def forbid(self) -> None:
        for corner in self.job.corners.filter(limits__axle="F"):
            type(corner.limits).objects.filter(pk=corner.limits_id).update(machine_to_thickness_mm=26.9)

    def test_a_plan_that_is_refused_is_refused_before_the_tip_touches(self) -> None:
        self.until("motor_off")
        self.forbid()
        go_on(self.user, self.job)
        at = self.until("pass")
        with self.assertRaises(CutRefusedError):
            self.step()
        sent = {"position": at.position, "key": at.key}
        page = self.client.post(reverse("jobs:do-step", args=[self.job.pk]), sent)
        self.assertContains(page, "19 in 20", status_code=422)
        self.assertFalse(RunStep.objects.filter(key=at.key).exists())

    def test_a_new_rotor_is_cut_by_its_own_readings(self) -> None:
        row = Decision.objects.filter(job=self.job).latest("pk")
        row.pk, row.remedies = None, {"FL": "new_rotors+on_vehicle_cut", "FR": "none"}
        row.save()
        self.until("pass")
        with self.assertRaises(CutRefusedError):  # the old one's thickness says nothing of the new one
            self.step()
        corner = Job.objects.for_page().get(pk=self.job.pk).corners.get(position="FL")
        self.assertEqual(corner.episode, 1)
        fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), READINGS)
        new = [f"{28 + k / 1000:.3f}" for k in (1, 2, 3, 2, 1, 0, 1, 2, 1, 0)]
        mm = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
        fill(self.user, start_round(self.user, corner, stations=10, **mm), new)
        self.until("read_pass")
        self.step()
        self.assertGreater(CutPass.objects.get().reading_mm, 27.5)

    def test_limits_that_forbid_it_meanwhile_stop_it_before_the_tip(self) -> None:
        self.until("read_pass")
        self.forbid()
        with self.assertRaises(WorkChangedError):
            self.step()
        go_on(self.user, self.job)
        with self.assertRaises(CutRefusedError):
            self.step(typed="26.4")

    def test_two_people_plan_it_anew_and_shorter(self) -> None:
        self.step()
        alone = self.doing().timetable().finish
        set_people(self.user, self.job, 2)
        self.assertLess(self.doing().timetable().finish, alone)
        with mock.patch("jobs.do.running.order_work", wraps=order_work) as planned:
            self.step()  # the vehicle is lifted: the part is done, however long it took
            self.assertEqual(planned.call_args.kwargs["people"], 2)
            self.step()
            self.assertEqual(planned.call_count, 1)  # within a part nothing is planned anew
        set_people(self.user, self.job, 99)
        self.assertEqual(Run.objects.get().people, 6)
