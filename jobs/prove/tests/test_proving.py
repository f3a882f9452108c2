"""Readings after the work stand by themselves, and a job closes when its work is proven or somebody says why not."""

from typing import ClassVar
from unittest import mock

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.diagnose import diagnose
from compass.do.ladder import rung, steps_of
from compass.do.order import order_work
from compass.files.write_verdict import verdict_to_data
from compass.judge.vehicle import Judgement
from compass.measure.sweep import SweepResult
from jobs.choose.actions import decide, withdraw
from jobs.choose.axle import weigh_axle, worst_axle
from jobs.do.running import (
    HoldError,
    StepDoneError,
    UnknownStepError,
    WorkChangedError,
    follow_advice,
    go_on,
    next_episode,
    sign_off,
    take_back,
)
from jobs.do.tests.test_running import Work
from jobs.frame import job_context
from jobs.judging import case_of, judge, judge_job, verdict_of
from jobs.measure.actions import add_quick
from jobs.measure.looking import write_look
from jobs.models import Corner, Cut, CutPass, Decision, Job, Look, RunStep
from jobs.next_act import next_act
from jobs.prepare.actions import add_turn, start_round, start_sweep, use_limits
from jobs.prove.actions import ReasonNeededError, close_job
from jobs.prove.page import reasons
from jobs.prove.proving import Proving, proving_of
from jobs.tests.base import SET_UP, fill
from jobs.vehicle.past import past_of
from workshop.models import ShopFigures, User
from workshop.tests.base import FIGURES, client_of
from workshop.vehicles import set_limits

MOST_QUERIES = 15
BESIDE = {"bearing_play", "inspect_pads_and_slides"}
TRUE = ["1", "1.5", "2", "2.5", "2", "1.5", "1", "0.5", "0.5", "0.5", "1"]
OVER = ["1", "5", "8", "10", "9", "6", "3", "1", "0", "0.5", "1"]


class AfterWork(Work):
    """Shared: what is read after the work."""

    def corner(self, position: str = "FL") -> Corner:
        return Job.objects.for_page().get(pk=self.van.pk).corners.get(position=position)

    def judgement(self) -> dict[str, object]:
        """What is kept of the vehicle as it came in."""
        return Job.objects.get(pk=self.van.pk).judgement | {"evidence": ""}

    def proving(self, job: Job | None = None) -> Proving:
        return proving_of(self.user, Job.objects.for_doing().get(pk=(job or self.van).pk))

    def sweep(self, readings: list[str]) -> SweepResult:
        setting = self.doing(self.van).sides["FL"].decision.settings.get("FL", {})
        set_up = SET_UP | {"index_deg": setting.get("index_deg", 0.0)}
        fill(self.user, start_sweep(self.user, self.corner(), stations=10, **set_up), readings)
        return judge(self.corner()).verdict.measured.runout.sweep

    def behind(self, job: Job | None = None) -> list[int]:
        """Return the legs that the ribbon shows as done."""
        job = Job.objects.for_page().get(pk=(job or self.van).pk)
        return [leg.number for leg in job_context(job, leg="complaint")["legs"] if leg.done]

    def worked(self) -> None:
        self.assertIsNone(self.until("", self.van))


class Proven(AfterWork):
    """A van that got its plate."""

    def test_what_is_read_after_the_work_never_joins_what_was_read_before(self) -> None:
        before, cause = self.corner().verdict, self.judgement()
        self.assertEqual((self.corner().episode, self.behind()), (0, [1, 2, 3, 4, 5]))
        self.worked()
        self.assertEqual(self.behind(), [1, 2, 3, 4, 5, 6])
        self.assertEqual(self.corner().episode, 1)
        self.assertIsNone(self.corner().stands)  # as it stands now nobody knows yet
        page = self.page("floor")
        self.assertContains(page, "Sweep, after")
        result = self.sweep(TRUE)
        self.assertEqual((result.turns, round(result.tir.value_mm, 2)), (1, 0.02))
        self.assertEqual(self.corner().verdict, before)
        self.assertEqual(self.judgement(), cause)
        stands = self.corner().stands
        self.assertEqual((stands.runout, stands.variation), ("within", "within"))  # a plate leaves the disc as thick
        turn = add_turn(self.user, self.corner().sweeps.last())
        self.assertEqual(turn.episode, 1)
        set_up = {name: SET_UP[name] for name in ("cleaned", "nuts_torqued", "graduation_mm", "radius_mm")}
        quick = add_quick(
            self.user, self.corner(), typed="2", unit=self.user.unit, high_deg=10.0, within_deg=15.0, **set_up
        )
        self.assertEqual(quick.episode, 1)
        measure = self.page("measure", self.van.pk, "FL")
        self.assertContains(measure, "as it came in")
        back = self.client.get(reverse("jobs:measure", args=[self.van.pk, "FL"]), {"tape": "e0"})
        self.assertEqual(back.context["tape"].episode, 0)

    def test_a_job_closes_when_its_work_is_proven_and_says_what_is_open_till_then(self) -> None:
        with self.assertRaises(ReasonNeededError) as refused:
            close_job(self.user, self.van, reason="")
        self.assertIn("Front left: after-readings", reasons(refused.exception.open))
        sent = {"reason": "", "found_cause": "lug_torque"}
        answer = self.client.post(reverse("jobs:close", args=[self.van.pk]), sent)
        self.assertContains(answer, "Brake pumped", status_code=422)
        self.assertContains(answer, '<option value="lug_torque" selected>', status_code=422)  # nothing chosen is lost
        self.worked()
        self.sweep(TRUE)
        others = {(c.code, c.position) for c in self.proving().open}
        self.assertEqual(others, {("not_looked_at", "RL"), ("not_looked_at", "RR")})
        behind = self.corner("RL")
        use_limits(self.user, behind, set_limits(self.user, self.van.vehicle, "R", **FIGURES))
        fill(self.user, start_sweep(self.user, behind, stations=10, **SET_UP), TRUE)
        half = next(c for c in self.proving().open if c.position == "RL")
        self.assertEqual((half.code, half.detail), ("not_looked_at", "thickness"))  # swept true: nothing is over there
        page = self.page("prove-first", self.van.pk)
        self.assertEqual([figure["came"] for figure in page.context["figures"]], ["as foretold"])
        Corner.objects.filter(job=self.van, position__in=("RL", "RR")).delete()
        self.assertEqual(close_job(self.user, self.van, reason="").state, "closed")

    def test_what_is_still_felt_on_the_road_keeps_it_open_and_leads_to_what_was_not_looked_at(self) -> None:
        causes = {c.position: c.kept.root_cause for c in Job.objects.get(pk=self.van.pk).corners.all() if c.kept}
        self.until("road_test", self.van)
        self.step(self.van, finding="less")
        self.sweep(TRUE)
        mended = [self.corner(p) for p in causes]
        for corner in mended[1:]:
            fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), TRUE)
        self.assertIn("road_test", {condition.code for condition in self.proving().open})
        job = Job.objects.for_page().get(pk=self.van.pk)
        self.assertEqual(job.story["after_work"], "less")
        self.assertEqual({p: self.corner(p).kept.root_cause for p in causes}, causes)
        self.assertIn(job.kept.step.position, ("RL", "RR"))
        page = self.page("prove-first", self.van.pk)
        self.assertEqual(page.context["act"].position, job.kept.step.position)
        verdict = diagnose(case_of(self.user, job))  # the file says the same
        self.assertEqual(verdict.judged.next, job.kept.step)
        self.and_the_other_axle_is_worked_on()

    def test_a_bearing_that_nobody_rocked_stays_suspect_where_the_disc_is_mended(self) -> None:
        figures = self.corner().limits.figures() | {"max_bearing_play_mm": 0.05}
        for axle in "FR":
            limits = set_limits(self.user, self.van.vehicle, axle, **figures)
            for corner in Corner.objects.filter(job=self.van, position__startswith=axle):
                use_limits(self.user, corner, limits)
        for position in ("RL", "RR"):
            fill(self.user, start_sweep(self.user, self.corner(position), stations=10, **SET_UP), TRUE)
            set_up = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
            tape = start_round(self.user, self.corner(position), stations=10, **set_up)
            fill(self.user, tape, ["26.800", "26.801"] * 5)
        look = reverse("jobs:look", args=[self.van.pk, "FL"])
        was = Look.objects.get(corner=self.corner()).typed["bearing_play"]
        self.client.post(look, {"bearing_play": "", "was-bearing_play": was})
        self.until("road_test", self.van)
        self.step(self.van, finding="same")
        self.sweep(TRUE)

        def judged() -> Judgement:
            return judge_job(self.user, Job.objects.for_page().get(pk=self.van.pk)).judged

        asked = {(check.check, check.position) for check in judged().weighed.checks if check.worth > 0}
        self.assertIn(("bearing_play", "FL"), asked)
        self.assertNotIn("FL", {position for check, position in asked if check not in BESIDE})

        def filed() -> set[str]:
            """Return the corners that forbid driving by the verdict as a file."""
            job = Job.objects.for_page().get(pk=self.van.pk)
            told = verdict_to_data(verdict_of(self.user, job, past_of(job)))
            return {corner["position"] for corner in told["corners"] if corner["do_not_drive"]}

        self.client.post(look, {"bearing_play": "0.2", "was-bearing_play": ""})
        self.assertEqual((judged().root_causes["FL"], judged().stopped), ("wheel_bearing", ("FL",)))
        page = self.page("prove-first", self.van.pk)
        self.assertContains(page, "Do not drive")
        self.assertEqual(page.context["act"].words, "Choose the remedy")
        self.assertContains(self.page("floor"), "Do not drive")
        self.assertIn(("do_not_drive", "FL"), {(c.code, c.position) for c in self.proving().open})
        decide(self.user, self.van, "F", code="hub_unit")
        go_on(self.user, self.van)
        self.assertNotEqual(self.page("floor").context["strips"][0].act.words, "Choose the remedy")
        self.assertContains(self.page("cause", self.van.pk), "Do not drive")  # it is decided, not done
        self.assertEqual(filed(), {"FL"})
        self.until("hub_play", self.van)
        self.step(self.van, typed="0.01")
        self.assertNotContains(self.page("cause", self.van.pk), "Do not drive")
        self.assertEqual(filed(), set())
        self.assertNotIn("do_not_drive", {c.code for c in self.proving().open})
        row = self.doing(self.van).rows[-1]
        take_back(self.user, self.van, row.position, row.key, why="the other wheel")
        self.assertContains(self.page("cause", self.van.pk), "Do not drive")
        self.step(self.van, placed=self.until("hub_play", self.van), typed="0.01")
        self.sweep(OVER)
        decide(self.user, self.van, "F", code="index", setting={"position": "FL", "index_deg": 72.0}, reason="marks")
        go_on(self.user, self.van)
        self.sweep(OVER)  # what is typed judges anew
        self.assertNotContains(self.page("cause", self.van.pk), "Do not drive")  # what was renewed stays renewed

    def test_a_cracked_disc_is_driven_again_once_a_pair_of_new_ones_was_laid_out(self) -> None:
        write_look(self.user, self.corner(), seen={"cracked": True})
        decide(self.user, self.van, "F", code="new_rotors", reason="no lathe is free")

        placed = self.until("in_pairs", self.van, position="FL")
        self.assertContains(self.page("floor"), "Do not drive")
        self.step(self.van, placed=placed)
        self.assertEqual(self.corner().episode, 1)
        self.assertNotContains(self.page("floor"), "Do not drive")
        self.assertEqual(judge_job(self.user, Job.objects.for_page().get(pk=self.van.pk)).still_stopped, ())

    def test_a_disc_that_was_miked_since_the_work_says_itself_how_thick_it_is(self) -> None:
        def mike(*texts: str) -> tuple[str, ...]:
            set_up = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
            fill(self.user, start_round(self.user, self.corner(), stations=10, **set_up), list(texts) * 5)
            return judge_job(self.user, Job.objects.for_page().get(pk=self.van.pk)).still_stopped

        mike("22.300", "22.301")
        next_episode(self.user, self.corner())
        self.assertEqual(judge_job(self.user, Job.objects.for_page().get(pk=self.van.pk)).still_stopped, ("FL",))
        self.assertEqual(mike("24.100", "24.101"), ())

    def and_the_other_axle_is_worked_on(self) -> None:
        """What is done in front stands: the vehicle is lifted anew, and the rear alone is opened."""
        rear = self.corner("RL")
        use_limits(self.user, rear, set_limits(self.user, self.van.vehicle, "R", **self.corner().limits.figures()))
        fill(self.user, start_sweep(self.user, self.corner("RL"), stations=10, **SET_UP | {"cleaned": False}), OVER)
        decide(self.user, self.van, "R", code="clean_and_torque", reason="the flange was rusty")
        go_on(self.user, self.van)
        done = self.doing(self.van).done
        left = {(p.position, p.part) for p in steps_of(self.doing(self.van).parts) if rung(p) not in done}
        self.assertEqual({position for position, _part in left}, {"", "RL"})
        self.assertEqual(self.doing(self.van).current.step.code, "chock")

    def test_the_axle_whose_work_did_not_hold_is_opened_first(self) -> None:
        self.worked()
        self.sweep(TRUE)
        self.and_the_other_axle_is_worked_on()
        next_episode(self.user, self.corner("RL"), "clean_and_torque")
        self.assertEqual(worst_axle(Job.objects.for_page().get(pk=self.van.pk)), "F")
        fill(self.user, start_sweep(self.user, self.corner("RL"), stations=10, **SET_UP), OVER)
        self.assertEqual(worst_axle(Job.objects.for_page().get(pk=self.van.pk)), "R")

    def test_a_reading_that_did_not_pass_does_not_plan_the_rest_anew(self) -> None:
        placed = self.until("sweep_again", self.van)
        with mock.patch("jobs.do.running.order_work", side_effect=order_work) as planned:
            self.assertFalse(self.step(self.van, placed=placed, typed="0.3").row.passed)
            planned.assert_not_called()
            self.assertTrue(self.step(self.van, placed=placed, reason="read twice").row.passed)
            planned.assert_called()

    def test_a_drive_that_is_taken_back_is_forgotten(self) -> None:
        self.until("road_test", self.van)
        self.step(self.van, finding="same")
        row = self.doing(self.van).rows[-1]
        take_back(self.user, self.van, row.position, row.key, why="the wrong van")
        self.assertNotIn("after_work", Job.objects.get(pk=self.van.pk).story)

    def test_a_sweep_at_another_index_than_was_decided_proves_nothing(self) -> None:
        setting = {"position": "FL", "index_deg": 72.0}
        decide(self.user, self.van, "F", code="index", setting=setting, reason="marks say so")
        self.assertIn("/do/", self.page("choose", self.van.pk, "F").context["act"].url)  # that work is still to be done
        next_episode(self.user, self.corner())
        fill(self.user, start_sweep(self.user, self.corner(), stations=10, **SET_UP), TRUE)
        self.assertEqual(self.proving().sides["FL"].proof.advice, "wrong_index")
        self.assertContains(self.page("prove", self.van.pk, "FL"), "another place than was decided")
        self.assertEqual(self.page("prepare", self.van.pk, "FL").context["set_up_form"].initial["turned"], 1)
        self.sweep(TRUE)
        self.assertTrue(self.proving().sides["FL"].proof.proven)


class Read(AfterWork):
    """A van that got its plate: what is read then, and what is advised."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls("setUp").worked()

    def test_over_its_limit_it_is_advised_anew_each_time_and_what_is_read_then_stands_by_itself(self) -> None:
        self.sweep(OVER)
        told = []
        while (advice := self.proving().sides["FL"].proof.advice) != "tell_apart":
            told.append(advice)
            follow_advice(self.user, self.van, "FL", advice)
            self.assertEqual(self.proving().sides["FL"].proof.wants, ("sweep",))
            self.assertEqual(self.sweep(OVER).turns, 1)
        self.assertEqual(told, ["torque_again", "see_the_mark", "clean_again"])
        self.assertEqual(self.corner().episode, 4)
        # Whose the runout is nobody knows by now: it is told before anything is chosen.
        act = self.page("prove", self.van.pk, "FL").context["act"]
        self.assertEqual((act.check, act.position), ("turn_rotor_and_sweep", "FL"))
        at = self.doing(self.van).sides["FL"].decision.settings.get("FL", {}).get("index_deg", 0.0)
        turned = SET_UP | {"index_deg": (at + 144.0) % 360}
        fill(self.user, start_sweep(self.user, self.corner(), stations=10, **turned), OVER[5:10] + OVER[:6])
        self.assertEqual(self.proving().sides["FL"].proof.advice, "choose_anew")
        self.assertContains(
            self.page("prove", self.van.pk, "FL"), f'{reverse("jobs:choose", args=[self.van.pk, "F"])}"'
        )
        self.assertIsNone(self.page("choose", self.van.pk, "F").context["act"])  # its lanes are: not the work once more
        self.assertContains(self.page("changes", self.van.pk), "loosen all nuts")
        with self.assertRaises(UnknownStepError):
            follow_advice(self.user, self.van, "FL", "nonsense")
        setting = {"position": "FL", "index_deg": 72.0}
        decide(self.user, self.van, "F", code="index", setting=setting, reason="marks say so")
        self.assertIn("/do/", self.page("choose", self.van.pk, "F").context["act"].url)  # that work is still to be done
        go_on(self.user, self.van)
        self.assertEqual(self.doing(self.van).told("FL"), [])  # another choice, another beginning

    def test_what_is_still_to_be_done_is_chosen_as_it_stands_and_the_work_as_it_was_decided(self) -> None:
        self.sweep(TRUE)
        job = Job.objects.for_choosing().get(pk=self.van.pk)
        now, then = (weigh_axle(self.user, job, "F", as_decided=as_decided) for as_decided in (False, True))
        self.assertEqual((now.plan.remedies["FL"], then.plan.remedies["FL"]), ("none", "plate"))
        case = case_of(self.user, job)
        self.assertEqual(next(c for c in case.corners if c.position == "FL").after[0].work, "plate")
        for verdict in (verdict_of(self.user, job, past_of(job)), diagnose(case)):
            told = next(corner for corner in verdict.corners if corner.position == "FL")
            self.assertEqual((told.recommended, told.measured.runout.state.value), ("none", "over"))

    def test_a_disc_that_was_uneven_is_proven_by_what_is_known_of_it_since(self) -> None:
        uneven = ["24.00", "24.01", "24.03", "24.05", "24.06", "24.05", "24.03", "24.01", "24.00", "24.00"]
        self.sweep(TRUE)
        rounds = self.corner().rounds.filter(episode=0)
        rounds.update(typed=uneven, readings_mm=[float(figure) for figure in uneven])
        self.assertEqual(self.proving().sides["FL"].proof.advice, "still_uneven")
        self.assertContains(self.page("prove", self.van.pk, "FL"), "Choose anew")
        # Cut first, and miked, and then given a hub: it is no longer what it was.
        Decision.objects.filter(job=self.van, axle="F").update(remedies={"FL": "on_vehicle_cut", "FR": "none"})
        miked = start_round(
            self.user, self.corner(), stations=10, radius_mm=138.0, graduation_mm=0.001, entry_unit="mm"
        )
        fill(self.user, miked, ["24.00"] * 10)
        cut = Decision.objects.filter(job=self.van, axle="F").latest("pk")
        next_episode(self.user, self.corner())
        Decision.objects.create(
            job=self.van, axle="F", policy="plate", remedies={"FL": "hub_unit", "FR": "none"}, advised={}, price=0,
            minutes=0, decided_by=cut.decided_by,
        )  # fmt: skip
        fill(self.user, start_sweep(self.user, self.corner(), stations=10, **SET_UP), TRUE)
        self.assertEqual(self.proving().sides["FL"].proof.advice, "")

    def test_limits_that_changed_since_are_both_shown_and_it_is_said_which_judges(self) -> None:
        self.sweep(TRUE)
        figures = self.corner().limits.figures() | {"max_runout_mm": 0.01}
        use_limits(self.user, self.corner(), set_limits(self.user, self.van.vehicle, "F", **figures))
        page = self.page("prove", self.van.pk, "FL")
        self.assertContains(page, "limit when it was decided: 0.05 mm")
        self.assertContains(page, "judged by the one in force now: 0.01 mm")
        self.assertEqual(self.proving().sides["FL"].proof.figures[0].state, "over")

    def test_other_work_decided_before_it_was_read_is_done_first_whatever_is_swept_meanwhile(self) -> None:
        do = reverse("jobs:do", args=[self.van.pk])
        decide(self.user, self.van, "F", code="hub_unit", reason="the bearing hums")
        for swept in (False, True):
            if swept:
                self.sweep(OVER)
            self.assertEqual(next_act(Job.objects.for_page().get(pk=self.van.pk)).url, do)
            page = self.page("prove", self.van.pk, "FL").context
            self.assertEqual((page["act"].url, page["advice"]), (do, ""))
        with self.assertRaises(WorkChangedError):
            follow_advice(self.user, self.van, "FL", "torque_again")
        go_on(self.user, self.van)
        self.worked()
        self.assertEqual(self.corner().works, ["plate", "hub_unit"])
        self.assertIn("Sweep, after", next_act(Job.objects.for_page().get(pk=self.van.pk)).words)

    def test_another_place_decided_before_it_was_read_is_set_first(self) -> None:
        for index_deg in (72.0, 144.0):
            setting = {"position": "FL", "index_deg": index_deg}
            decide(self.user, self.van, "F", code="index", setting=setting, reason="marks say so")
            if index_deg == 72.0:
                go_on(self.user, self.van)
                self.step(self.van, placed=self.until("sweep_again", self.van), typed="0.03")
                self.worked()
        page = self.page("prove", self.van.pk, "FL").context
        self.assertEqual((page["act"].url, page["advice"]), (reverse("jobs:do", args=[self.van.pk]), ""))

    def test_what_stays_too_close_to_call_is_not_read_again_for_ever(self) -> None:
        near = ["1", "2.5", "4.5", "5.5", "5", "3", "1.5", "0.5", "0", "0.5", "1"]
        self.worked()
        # Far more than was foretold: what may have caused it is looked for first, step by step.
        for expected in ("torque_again", "see_the_mark", "clean_again", "close_to_limit"):
            self.sweep(near)
            asked = 0
            while (advice := self.proving().sides["FL"].proof.advice) == "measure_again" and asked < 9:
                asked += 1
                row = self.corner()
                fill(self.user, add_turn(self.user, row.sweeps.filter(episode=row.episode).last()), near)
            self.assertEqual((advice, asked), (expected, 3))
            if advice != "close_to_limit":
                follow_advice(self.user, self.van, "FL", advice)
        page = self.page("prove", self.van.pk, "FL")
        self.assertEqual(page.context["act"].deed, "close_job")
        self.assertContains(page, reverse("jobs:choose", args=[self.van.pk, "F"]))
        self.assertContains(self.page("choose", self.van.pk, "F"), "too close to call: Front left")

    def test_half_a_tape_proves_nothing_until_it_is_read_to_its_end(self) -> None:
        setting = self.doing(self.van).sides["FL"].decision.settings.get("FL", {})
        set_up = SET_UP | {"index_deg": setting.get("index_deg", 0.0)}
        tape = start_sweep(self.user, self.corner(), stations=10, **set_up)
        fill(self.user, tape, TRUE[:6])
        proof = self.proving().sides["FL"].proof
        self.assertEqual((proof.proven, proof.wants), (False, ("sweep",)))
        wanted = reverse("jobs:measure", args=[self.van.pk, "FL"]) + f"?tape={tape.name}"
        self.assertEqual(next_act(Job.objects.for_page().get(pk=self.van.pk)).url, wanted)
        self.assertEqual(self.page("prove", self.van.pk, "FL").context["act"].url, wanted)
        fill(self.user, tape, TRUE)
        self.assertTrue(self.proving().sides["FL"].proof.proven)

    def test_a_work_that_holds_is_not_chosen_again_because_its_decision_was_withdrawn(self) -> None:
        self.sweep(OVER)
        withdraw(self.user, self.van, "F", reason="it may hold after all")
        self.assertIn("/choose/F/", next_act(Job.objects.for_page().get(pk=self.van.pk)).url)
        fill(self.user, start_sweep(self.user, self.corner(), stations=10, index_deg=0.0, **SET_UP), TRUE)
        self.assertEqual(next_act(Job.objects.for_page().get(pk=self.van.pk)).deed, "close_job")

    def test_limits_that_changed_since_do_not_keep_an_advice_from_being_followed(self) -> None:
        self.sweep(OVER)
        figures = self.corner().limits.figures() | {"max_runout_mm": 0.045}
        use_limits(self.user, self.corner(), set_limits(self.user, self.van.vehicle, "F", **figures))
        self.assertTrue(self.doing(self.van).changes)
        follow_advice(self.user, self.van, "FL", self.proving().sides["FL"].proof.advice)
        self.assertEqual(self.doing(self.van).told("FL"), ["torque_again"])

    def test_an_advice_pressed_twice_is_followed_once(self) -> None:
        self.sweep(OVER)
        follow_advice(self.user, self.van, "FL", "torque_again")
        episode = self.corner().episode
        with self.assertRaises(StepDoneError):
            follow_advice(User.objects.get(username="holm"), self.van, "FL", "torque_again")
        self.assertEqual(
            (self.corner().episode, RunStep.objects.filter(key__startswith="prove:").count()), (episode, 1)
        )

    def test_a_tape_laid_out_and_not_read_keeps_nothing_apart(self) -> None:
        start_sweep(self.user, self.corner(), stations=10, **SET_UP)
        next_episode(self.user, self.corner())
        self.assertEqual(self.corner().episode, 1)
        self.sweep(TRUE)
        next_episode(self.user, self.corner())
        self.assertEqual(self.corner().episode, 2)

    def test_everybody_looks_within_the_queries(self) -> None:
        self.sweep(TRUE)
        trainee = client_of(self.trainee)
        with CaptureQueriesContext(connection) as queries:
            page = trainee.get(reverse("jobs:prove", args=[self.van.pk, "FL"]))
        self.assertEqual(page.status_code, 200)
        self.assertLessEqual(len(queries), MOST_QUERIES)
        self.assertContains(page, "foretold")
        self.assertContains(trainee.get(reverse("jobs:prove-again", args=[self.van.pk])), "whichever is first")
        for name, args in (("prove-advice", ["FL"]), ("sign-off", [])):
            answer = client_of(self.trainee).post(reverse(f"jobs:{name}", args=[self.van.pk, *args]))
            self.assertEqual(answer.status_code, 403, name)
        self.assertContains(self.page("prove-first", self.job.pk), "No work is decided")


class ACutProven(AfterWork):
    """Minibus 6, matched on its hub."""

    def setUp(self) -> None:
        super().setUp()
        decide(self.user, self.job, "F", code="on_vehicle_cut")

    def test_metal_wants_thickness_a_mark_and_by_policy_a_second_signature(self) -> None:
        at = self.until("dark_patch")
        ShopFigures.objects.update_or_create(workshop_id=1, defaults={"second_signs": True})
        corner = Job.objects.for_page().get(pk=self.job.pk).corners.get(position=at.position)
        fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), TRUE)
        self.assertEqual(self.proving(self.job).sides[at.position].proof.wants, ("thickness",))
        measured = start_round(self.user, corner, stations=10, radius_mm=138.0, graduation_mm=0.001, entry_unit="mm")
        self.assertEqual(measured.episode, 1)
        fill(self.user, measured, ["26.140", "26.141"] * 5)
        proof = self.proving(self.job).sides[at.position].proof
        self.assertTrue(proof.proven)
        self.assertEqual({f.name: f.limit_mm for f in proof.figures}["thinnest"], corner.limits.machine_to_thickness_mm)
        open_yet = {condition.code for condition in self.proving(self.job).open}
        self.assertLessEqual({"match_mark", "torques", "second_signs"}, open_yet)
        self.assertFalse(self.page("prove", self.job.pk, at.position).context["signs"])
        with self.assertRaises(HoldError):
            sign_off(self.user, self.job)  # whoever cut it does not sign it off
        sign_off(User.objects.get(username="holm"), self.job)
        self.assertNotIn("second_signs", {condition.code for condition in self.proving(self.job).open})

    def test_its_pages_stay_within_their_queries_with_a_stop_and_both_axles_decided(self) -> None:
        at = self.until("dark_patch")
        corner = Job.objects.for_page().get(pk=self.job.pk).corners.get(position=at.position)
        fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), TRUE)
        write_look(self.user, corner, seen={"cracked": True})
        rear = Job.objects.for_page().get(pk=self.job.pk).corners.get(position="RL")
        use_limits(self.user, rear, set_limits(self.user, self.job.vehicle, "R", **corner.limits.figures()))
        fill(self.user, start_sweep(self.user, rear, stations=10, **SET_UP | {"cleaned": False}), OVER)
        decide(self.user, self.job, "R", code="clean_and_torque", reason="the flange was rusty")
        for name in ("prove-first", "prove-again", "owner", "sheet", "do"):
            self.page(name, self.job.pk)
            with CaptureQueriesContext(connection) as queries:
                self.page(name, self.job.pk)
            past = (
                5 if name in ("prove-again", "owner") else 0
            )  # when to look again asks for the vehicle's past beside it
            self.assertLessEqual(len(queries), MOST_QUERIES + past, name)


class OnceMore(AfterWork):
    """A disc that was cut and is over its limit still: the same cut once more, by what the first one left."""

    READ: ClassVar = [f"{26.2 + k / 1000:.3f}" for k in (31, 30, 28, 20, 10, 2, 1, 8, 20, 30)]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        hand = cls("setUp")
        decide(cls.user, cls.job, "F", code="on_vehicle_cut")
        hand.assertIsNone(hand.until("", cls.job))

    def read_after(self) -> Corner:
        mm = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
        for position in ("FR", "FL"):
            corner = self.job.corners.get(position=position)
            fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), OVER)
            fill(self.user, start_round(self.user, corner, stations=10, **mm), self.READ)
        return corner

    def test_a_second_cut_is_planned_from_what_the_first_left_and_made_pass_by_pass(self) -> None:
        sent = {"code": "on_vehicle_cut", "reason": "once more"}
        corner = self.read_after()
        first = {row.pk for row in CutPass.objects.all()}
        decide(self.user, self.job, "F", **sent)
        pressed_twice = decide(self.user, self.job, "F", **sent)
        self.assertEqual(Decision.objects.filter(job=self.job, axle="F").latest("pk"), pressed_twice)
        doing = self.doing()
        self.assertEqual(
            {(change.position, change.what) for change in doing.changes}, {("FL", "once_more"), ("FR", "once_more")}
        )
        self.assertAlmostEqual(doing.sides["FL"].chosen.measured.thickness.result.minimum.value_mm, 26.2, places=2)
        self.assertLess(doing.sides["FL"].plan.least_mm[1], 26.2)
        self.assertContains(self.page("do", self.job.pk), "once more")
        read = RunStep.objects.filter(run__job=self.job, position="FL", key__contains=":read_pass:").latest("pk")
        take_back(self.user, self.job, "FL", read.key, why="before it is gone on with")
        self.assertFalse(CutPass.objects.filter(withdrawn=True).exists())  # what the work before cut stays cut
        go_on(self.user, self.job)
        placed = self.until("read_pass", position="FL")
        self.assertEqual(placed.pass_number, 1)
        self.step()
        made = CutPass.objects.exclude(pk__in=first).get()
        self.assertEqual((made.number, made.cut.episode), (1, corner.episode))
        self.assertLess(made.reading_mm, 26.2)
        self.assertEqual(Cut.objects.filter(corner=corner).count(), 2)

    def test_a_work_that_is_given_up_is_measured_before_anything_is_chosen(self) -> None:
        withdraw(self.user, self.job, "F", reason="the owner calls")
        self.assertContains(self.page("choose", self.job.pk, "F"), "rests on what was read before")
        for position in ("FL", "FR"):
            act = next_act(Job.objects.for_page().get(pk=self.job.pk))
            self.assertEqual(act.url, reverse("jobs:prepare", args=[self.job.pk, position]))
            corner = self.job.corners.get(position=position)
            fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), OVER)
            act = next_act(Job.objects.for_page().get(pk=self.job.pk))
            self.assertEqual(act.url, reverse("jobs:measure", args=[self.job.pk, position]) + "?tape=thickness")
            mm = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
            fill(self.user, start_round(self.user, corner, stations=10, **mm), self.READ)
        self.assertIn("/choose/F/", next_act(Job.objects.for_page().get(pk=self.job.pk)).url)

    def test_new_rotors_decided_before_the_cut_was_read_are_cut_by_a_plan_of_their_own(self) -> None:
        decide(self.user, self.job, "F", code="new_rotors+on_vehicle_cut", reason="deep grooves")
        go_on(self.user, self.job)
        position = self.until("pass", self.job).position
        corner = self.job.corners.get(position=position)
        self.assertEqual(corner.works, ["on_vehicle_cut", "new_rotors+on_vehicle_cut"])
        fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), OVER)
        mm = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
        fill(self.user, start_round(self.user, corner, stations=10, **mm), ["28.000", "28.002"] * 5)
        self.assertEqual(self.until("read_pass", self.job).pass_number, 1)
        self.step()
        self.assertGreater(CutPass.objects.latest("pk").reading_mm, 27.5)

    def test_a_corner_that_was_cut_is_swept_and_miked_before_the_next_as_its_steps_confirmed_it(self) -> None:
        address = reverse("jobs:prepare", args=[self.job.pk, "FL"])
        for query, ticked in (({}, True), ({"turned": "2"}, False)):  # turned on it comes off once more
            form = self.client.get(address, query).context["set_up_form"]
            self.assertEqual({bool(form[name].value()) for name in ("cleaned", "nuts_torqued")}, {ticked})
        corner = self.job.corners.get(position="FL")
        fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), TRUE)
        wanted = reverse("jobs:measure", args=[self.job.pk, "FL"]) + "?tape=thickness"
        self.assertEqual(next_act(Job.objects.for_page().get(pk=self.job.pk)).url, wanted)
        self.assertEqual(self.page("prove", self.job.pk, "FL").context["act"].url, wanted)

    def test_a_disc_that_was_miked_after_its_cut_is_not_miked_again_for_nuts_and_joint(self) -> None:
        corner = self.read_after()
        for code, wants in (("torque_again", []), ("compensate_again", ["thickness"])):
            follow_advice(self.user, self.job, "FL", code)
            corner = self.job.corners.get(position="FL")
            fill(self.user, start_sweep(self.user, corner, stations=10, **SET_UP), OVER)
            page = self.page("prove", self.job.pk, "FL")
            self.assertEqual(page.context["wants"], wants)
            self.assertEqual(len(page.context["figures"]), 1 if wants else 3)
            act = next_act(Job.objects.for_page().get(pk=self.job.pk))
            self.assertEqual("?tape=thickness" in act.url, bool(wants))

    def test_what_is_decided_anew_and_not_done_is_to_be_done_and_proves_nothing_yet(self) -> None:
        self.read_after()
        self.assertIn("/prove/", next_act(Job.objects.for_page().get(pk=self.job.pk)).url)
        self.assertIn(6, self.behind(self.job))
        decide(self.user, self.job, "F", code="on_vehicle_cut", reason="once more")
        job = Job.objects.for_page().get(pk=self.job.pk)
        self.assertEqual(next_act(job).url, reverse("jobs:do", args=[job.pk]))
        self.assertNotIn(6, self.behind(self.job))
        page = self.page("prove", self.job.pk, "FL")
        self.assertEqual((page.context["advice"], page.context["wants"]), ("", ["sweep", "thickness"]))
        self.assertIn("/do/", page.context["act"].url)
