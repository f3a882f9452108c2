"""The next act, what a job's page says, and the forms around it."""

from django.core.management import CommandError, call_command
from django.urls import reverse

from compass.judge.next_step import NextStep
from jobs.adapters import corner_record
from jobs.complaint.actions import keep_story
from jobs.judging import judge, judge_job
from jobs.kept import KeptJob
from jobs.measure.actions import another_round, strike_tape
from jobs.models import Corner, Job, ThicknessRound
from jobs.next_act import act_for, next_act
from jobs.prepare.actions import start_sweep
from jobs.prove.actions import ReasonNeededError, close_job
from jobs.prove.proving import is_settled
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Workshop, entry, fill, measure_in_order, type_reading
from workshop.models import Instrument, User
from workshop.tests.base import FIGURES, client_of, person


class NextAct(Workshop):
    """One act at a time, the most useful first."""

    def act(self, **options):
        job = Job.objects.for_page().get(pk=self.job.pk)
        corner = next(c for c in job.corners.all() if c.position == "FL")
        return next_act(job, corner=corner, **options)

    def settle(self, *troubled: str) -> None:
        """Let nothing be left to be asked of the vehicle as it came in, and nothing be wrong but where it is said."""
        fine = {"root_cause": "none_found", "runout": {"state": "within"}, "thickness": {"state_variation": "within"}}
        Corner.objects.filter(job=self.job).update(verdict=fine)
        settled = KeptJob(step=NextStep(None, None, "nothing_left"), troubled=troubled)
        Job.objects.filter(pk=self.job.pk).update(judgement=settled.data())

    def test_follows_the_work(self) -> None:
        self.assertIn("Sweep the rotor", self.act(tape=self.sweep).words)
        type_reading(self.user, self.sweep, entry(0, "1.5"))
        self.sweep.refresh_from_db()
        self.assertEqual(self.act(tape=self.sweep).why, "9 stations to go")
        fill(self.user, self.sweep, READINGS)
        self.assertIn("Measure thickness", self.act().words)
        fill(self.user, self.round, THICKNESS)
        act = self.act()  # the disc is uneven: it needs metal, and so will the other side
        self.assertEqual(act.words, "Sweep and mike · Front right")
        corner = Corner.objects.get(pk=self.corner.pk)
        turning = act_for(corner, "turn_rotor_and_sweep", why="turn_rotor_and_sweep", index_deg=144.0)
        self.assertIn("on 2 studs", turning.words)
        self.assertEqual(self.client.get(turning.url).context["set_up_form"]["turned"].value(), "2")

    def test_a_tape_that_was_broken_off_is_finished_before_anything_rests_on_it(self) -> None:
        measure_in_order(self.user, self.job)
        self.assertNotIn("Finish", self.act().words)
        again = start_sweep(self.user, self.corner, stations=10, **SET_UP)
        fill(self.user, again, READINGS[:6])
        self.assertTrue(Corner.objects.get(pk=self.corner.pk).kept.broken_off)
        act = self.act()
        self.assertEqual(act.words, "Finish this tape · Front left")
        self.assertTrue(act.url.endswith(f"?tape={again.name}"))
        fill(self.user, start_sweep(self.user, self.corner, stations=10, **SET_UP), READINGS)  # or another one
        self.assertNotIn("Finish", self.act().words)

    def test_too_close_to_call_ends_after_rounds_that_each_leave_less_doubt(self) -> None:
        fill(self.user, self.sweep, ["0", "1", "2", "2", "2", "1", "1", "0", "0", "0", "0"])
        close = ["26.441", "26.441", "26.440", "26.436", "26.430", "26.427", "26.427", "26.430", "26.436", "26.440"]
        fill(self.user, self.round, close)
        doubts, presses = [], 0
        while presses < 8:
            corner = Corner.objects.get(pk=self.corner.pk)
            thickness = judge(corner).verdict.measured.thickness
            doubts.append(thickness.result.variation.expanded_mm)
            best = judge_job(self.user, Job.objects.for_page().get(pk=self.job.pk)).judged.check_at("FL")
            check, last = best.check if best is not None else "", ThicknessRound.objects.latest("pk")
            if check != "repeat_round":
                break
            act = act_for(corner, check, why=check, here=corner, tape=last)
            self.assertTrue(act.post)
            self.assertEqual(self.client.post(act.url).status_code, 302)
            fill(self.user, ThicknessRound.objects.latest("pk"), close)
            presses += 1
        self.assertEqual(presses, 2)
        self.assertEqual(doubts, sorted(doubts, reverse=True))
        self.assertEqual(judge(corner).record.thickness.rounds, 3)

    def test_a_thickness_that_can_hardly_be_of_this_disc_is_read_again_where_it_stands(self) -> None:
        fill(self.user, self.sweep, ["0"] * 10)
        fill(self.user, self.round, ["2.64", *THICKNESS[1:]])
        corner = Corner.objects.get(pk=self.corner.pk)
        self.assertFalse(corner.kept.do_not_drive)
        act = self.act()
        self.assertEqual((act.check, act.url.partition("?")[2]), ("reread_station", "tape=thickness"))
        self.assertContains(self.client.get(act.url), "can hardly be of this disc")
        self.round.refresh_from_db()
        names = ("entry_unit", "instrument", "graduation_mm", "instrument_error_mm")
        alike = {name: getattr(self.round, name) for name in names}
        for again, worn in ((THICKNESS, False), (["2.64", *THICKNESS[1:]], True)):
            with self.subTest(again=again[0]):  # what every round reads is so
                fresh = another_round(self.user, self.round, **alike)
                fill(self.user, fresh, again)
                corner = Corner.objects.get(pk=self.corner.pk)
                self.assertEqual((corner.kept.thickness_doubted, corner.kept.do_not_drive), (False, worn))
                strike_tape(self.user, fresh, struck=True)
        type_reading(self.user, self.round, entry(0, THICKNESS[0], was="2.64"))
        self.assertNotEqual(self.act().check, "reread_station")

    def test_lips_under_a_plain_caliper_are_measured_before_the_disc_is_called_worn(self) -> None:
        self.round.instrument = Instrument.objects.create(name="Caliper", kind="caliper", graduation_mm=0.01)
        self.round.graduation_mm = 0.01
        self.round.save()
        fill(self.user, self.round, ["26.40"] * 10)
        corner = Corner.objects.get(pk=self.corner.pk)
        self.assertEqual((corner.kept.lips_hide_wear, corner.kept.do_not_drive), (True, True))
        self.assertNotEqual(corner.kept.root_cause, "worn_below_limit")
        act = act_for(corner, "finer_micrometer", why="finer_micrometer")
        self.assertEqual(act.url.partition("?")[2], "tape=look")
        look = reverse("jobs:look", args=[self.job.pk, "FL"])
        self.client.post(look, {"lip_outboard": "0.2", "lip_inboard": "0.1"})
        corner.refresh_from_db()
        self.assertEqual((corner.kept.lips_hide_wear, corner.kept.do_not_drive), (False, False))

    def test_asks_for_limits_before_anything_on_an_axle_without(self) -> None:
        keep_story(self.user, self.job, {"felt_in": ["seat"]})
        self.assertIn("Set the limits · Rear", self.act().words)

    def test_what_is_asked_of_the_vehicle_leads_to_where_it_is_answered(self) -> None:
        for check, place, deed in (("road_test", 'id="road"', "measure"), ("ask_driver", 'id="story"', "edit_job")):
            kept = KeptJob(step=NextStep(check, None, "worth_most"), minutes=2)
            Job.objects.filter(pk=self.job.pk).update(judgement=kept.data())
            act = self.act()
            self.assertEqual((act.check, act.deed), (check, deed))
            self.assertContains(self.client.get(act.url), place)

    def test_a_closed_job_asks_for_nothing(self) -> None:
        close_job(self.user, self.job, reason="Sold")
        self.assertIsNone(self.act())

    def test_every_corner_within_leads_to_closing_without_a_reason(self) -> None:
        self.settle()
        self.assertEqual(self.act().words, "Close the job")
        self.assertEqual(close_job(self.user, self.job, reason="").state, Job.State.CLOSED)

    def test_a_disc_that_came_in_true_and_was_cut_with_its_neighbour_is_read_and_not_closed_over(self) -> None:
        Corner.objects.filter(pk=self.corner.pk).update(episode=1, works=["bench_cut"])
        self.settle()
        self.assertIn("/FL/prepare/", self.act().url)
        self.corner.refresh_from_db()
        after = start_sweep(self.user, self.corner, stations=10, **SET_UP)
        fill(self.user, after, [str(3 * float(text)) for text in READINGS])
        self.settle()
        self.assertIn("/choose/F/", self.act().url)
        with self.assertRaises(ReasonNeededError):
            close_job(self.user, self.job, reason="")
        for variation, is_in_order in (("within", True), ("too_close", False), ("unknown", True)):
            read = {"runout": {"state": "within", "mm": 0.01}, "thickness": {"state_variation": variation}}
            Corner.objects.filter(pk=self.corner.pk).update(after=read)
            self.assertEqual(is_settled(self.job, Corner.objects.get(pk=self.corner.pk)), is_in_order, variation)

    def test_the_side_that_waited_is_chosen_for_once_the_other_is_done_and_holds(self) -> None:
        first = self.job.corners.get(position="FR")
        Corner.objects.filter(pk=first.pk).update(episode=1, works=["hub_unit"], remedy="hub_unit", decided_in=0)
        Job.objects.filter(pk=self.job.pk).update(decided=["F"])
        self.settle("FR", "FL")
        self.assertIn("/FR/prepare/", self.act().url)
        first.refresh_from_db()
        fill(self.user, start_sweep(self.user, first, stations=10, **SET_UP), ["0", "0.5", "1", "0.5"] + ["0"] * 7)
        self.settle("FR", "FL")
        self.assertIn("/choose/F/", self.act().url)
        Corner.objects.filter(pk=self.corner.pk).update(remedy="none")  # left as it is, as decided
        self.assertNotIn("/choose/", self.act().url)


class Records(Workshop):
    """Rows into evidence."""

    def test_a_station_not_read_is_left_out_and_the_way_back_needs_a_first(self) -> None:
        fill(self.user, self.sweep, ["", "1", "2", "x", "4", "5", "6", "7", "8", "9", "0.5"])
        fill(self.user, self.round, ["26.4", "", "26.5"])
        record = corner_record(self.corner, sweeps=self.corner.sweeps.all(), rounds=self.corner.rounds.all(), quick=[])
        self.assertEqual(record.sweeps[0].stations_deg.tolist(), [36, 72, 144, 180, 216, 252, 288, 324])
        self.assertIsNone(record.sweeps[0].closing_mm)
        self.assertEqual(record.thickness.readings_mm.tolist(), [[26.4, 26.5]])
        self.assertEqual(record.spec.max_runout_mm, FIGURES["max_runout_mm"])


class JobPages(Workshop):
    """Words, closing, people, as forms."""

    def test_the_slower_of_two_keeps_what_was_typed(self) -> None:
        address = reverse("jobs:complaint", args=[self.job.pk])
        form = {"complaint": "Mine", "odometer_km": "1", "assigned_to": "", "state": "open", "version": "1"}
        self.assertRedirects(self.client.post(address, form | {"complaint": "Theirs"}), address)
        answer = self.client.post(address, form)
        self.assertContains(answer, "Mine", status_code=422)
        self.assertContains(answer, "Theirs", status_code=422)
        self.assertEqual(Job.objects.get(pk=self.job.pk).complaint, "Theirs")
        self.assertRedirects(self.client.post(address, form | {"version": "2"}), address)

    def test_closing_by_the_form(self) -> None:
        address = reverse("jobs:close", args=[self.job.pk])
        self.assertContains(self.client.post(address), "Not every corner", status_code=422)
        self.assertRedirects(self.client.post(address, {"reason": "Sold"}), reverse("jobs:floor"))
        self.assertEqual(Job.objects.get(pk=self.job.pk).closed_by, self.user)
        page = self.client.get(reverse("jobs:complaint", args=[self.job.pk]))
        self.assertContains(page, "Sold")
        self.assertNotContains(page, "Close the job")

    def test_a_name_or_registration_of_the_fleet_opens_on_it_and_another_is_a_new_vehicle(self) -> None:
        words = {"kind": "van", "complaint": "It pulses"}
        self.assertContains(self.client.post(reverse("jobs:new"), words), "It pulses", status_code=422)
        self.vehicle.registration = "IS 9"
        self.vehicle.save()
        for typed in ("minibus 9", " is 9 ", "IS9", "minibus-9"):
            opened = self.client.post(reverse("jobs:new"), words | {"label": typed}, follow=True)
            self.assertEqual(Job.objects.latest("pk").vehicle, self.vehicle)
            self.assertContains(opened, "is open too")
        self.client.post(reverse("jobs:new"), {"kind": "motorcycle", "label": "Moped"})
        self.assertEqual([c.position for c in Job.objects.latest("pk").corners.all()], ["F", "R"])

    def test_a_lead_changes_roles_and_the_last_lead_stays(self) -> None:
        lead = person("lead")
        client = client_of(lead)
        client.post(reverse("workshop:person", args=[self.trainee.pk]), {"role": "technician", "is_active": "on"})
        self.assertEqual(User.objects.get(pk=self.trainee.pk).role, "technician")
        self.assertEqual(User.objects.get(pk=self.trainee.pk).history.first().history_user, lead)
        client.post(reverse("workshop:person", args=[lead.pk]), {"role": "trainee"})
        self.assertEqual(User.objects.get(pk=lead.pk).role, "lead")

    def test_the_demo_is_not_loaded_over_people(self) -> None:
        call_command("load_demo", "--once")
        with self.assertRaises(CommandError):
            call_command("load_demo")
        self.assertEqual(Job.objects.count(), 1)
