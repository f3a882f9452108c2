"""Opening, editing and closing jobs."""

from datetime import timedelta

from django.core.exceptions import PermissionDenied
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone

from jobs.bays.actions import book
from jobs.bays.day import day_drawing
from jobs.complaint.actions import edit_job
from jobs.floor.actions import open_job
from jobs.measure.actions import undo
from jobs.models import Job, Sweep
from jobs.next_act import act_for
from jobs.prepare.actions import add_turn, start_sweep, use_limits
from jobs.prove.actions import ReasonNeededError, close_job
from jobs.record.trail import changes_of
from jobs.tests.base import READINGS, SET_UP, Workshop, entry, fill, type_reading
from jobs.writing import JobClosedError
from workshop.tests.base import FIGURES, client_of
from workshop.vehicles import set_limits
from workshop.versions import StaleError


class Jobs(Workshop):
    """Opening, editing, closing."""

    def test_corners_follow_the_vehicle_and_its_limits(self) -> None:
        limits = {corner.position: corner.limits_id is not None for corner in self.job.corners.all()}
        self.assertEqual(limits, {"FL": True, "FR": True, "RL": False, "RR": False})

    def test_new_limits_judge_the_axle_anew_and_leave_other_jobs_alone(self) -> None:
        fill(self.user, self.sweep, READINGS)
        other = open_job(self.user, self.vehicle)
        wide = set_limits(self.user, self.vehicle, "F", **FIGURES | {"max_runout_mm": 0.3})
        use_limits(self.user, self.corner, wide)
        self.corner.refresh_from_db()
        self.assertEqual(self.corner.verdict["runout"]["state"], "within")
        self.assertEqual(other.corners.get(position="FL").limits.max_runout_mm, 0.05)

    def test_the_slower_of_two_is_told(self) -> None:
        edit_job(self.user, self.job, version=1, complaint="One")
        with self.assertRaises(StaleError):
            edit_job(self.user, self.job, version=1, complaint="Two")
        self.assertEqual(Job.objects.get(pk=self.job.pk).complaint, "One")

    def test_closing_needs_proof_or_a_reason_and_then_nothing_is_written(self) -> None:
        with self.assertRaises(ReasonNeededError):
            close_job(self.user, self.job, reason="  ")
        close_job(self.user, self.job, reason="Sold")
        for write in (
            lambda: type_reading(self.user, self.sweep, entry(0, "5")),
            lambda: start_sweep(self.user, self.corner, stations=10, **SET_UP),
            lambda: add_turn(self.user, self.sweep),
            lambda: undo(self.user, self.sweep),
            lambda: edit_job(self.user, self.job, version=2, complaint="x"),
        ):
            with self.assertRaises(JobClosedError):
                write()
        self.assertTrue(Sweep.objects.get(pk=self.sweep.pk).is_empty)

    def test_a_trainee_measures_and_no_more(self) -> None:
        Job.objects.update(with_trainee=None)
        with self.assertRaisesMessage(PermissionDenied, "not_put_on"):
            type_reading(self.trainee, self.sweep, entry(0, "5"))
        page = reverse("jobs:measure", args=[self.job.pk, "FL"])
        self.assertContains(client_of(self.trainee).get(page), "You may look")
        look = reverse("jobs:look", args=[self.job.pk, "FL"])
        self.assertContains(client_of(self.trainee).post(look, {"pad_inner": "6"}), "Not your job", status_code=403)
        Job.objects.update(with_trainee=self.trainee)
        self.assertNotContains(client_of(self.trainee).get(page), "You may look")
        type_reading(self.trainee, self.sweep, entry(0, "5"))
        for write in (
            lambda: open_job(self.trainee, self.vehicle),
            lambda: edit_job(self.trainee, self.job, version=1, complaint="x"),
            lambda: close_job(self.trainee, self.job, reason="x"),
            lambda: use_limits(self.trainee, self.corner, self.corner.limits),
        ):
            with self.assertRaises(PermissionDenied):
                write()
        self.assertEqual(Job.objects.get().complaint, "Shakes")


class BackAndForth(Workshop):
    """What was done by mistake is taken back, with a reason, and stands on the record."""

    def test_a_cause_is_not_named_by_default_and_a_closed_job_shows_its_own_and_opens_again(self) -> None:
        page = reverse("jobs:complaint", args=[self.job.pk])
        self.assertContains(self.client.get(page), '<option value="">not known</option>')
        close = {"found_cause": "rotor_runout", "reason": "Sold on"}
        self.client.post(reverse("jobs:close", args=[self.job.pk]), close)
        self.assertContains(self.client.get(page), "Sold on")
        self.assertEqual(Job.objects.get(pk=self.job.pk).found_cause, "rotor_runout")
        reopen = reverse("jobs:reopen", args=[self.job.pk])
        self.assertEqual(client_of(self.trainee).post(reopen, {"reason": "x"}).status_code, 403)
        self.client.post(reopen, {"reason": " "})
        self.assertTrue(Job.objects.get(pk=self.job.pk).is_closed)
        self.client.post(reopen, {"reason": "not sold after all"})
        job = Job.objects.get(pk=self.job.pk)
        self.assertEqual((job.state, job.found_cause, job.closing_reason), ("open", "", ""))
        told = [f"{change['what']} {change['typed']}" for change in changes_of(job)]
        self.assertIn("not sold after all", told[0])
        self.assertIn("Sold on", told[1])

    def test_words_are_kept_as_they_are_left_and_a_slower_hand_sees_theirs(self) -> None:
        page = reverse("jobs:complaint", args=[self.job.pk])
        words = {"complaint": "Shakes at 80", "odometer_km": "84 210 km".replace(" ", "", 1), "state": "open"}
        kept = self.client.post(page, words | {"version": "1"}, headers={"HX-Request": "true"})
        self.assertContains(kept, "Kept.")
        self.assertContains(kept, 'value="2"')
        late = self.client.post(page, words | {"version": "1", "complaint": "Squeals"}, headers={"HX-Request": "true"})
        self.assertContains(late, "Theirs: “Shakes at 80”", status_code=422)
        whole = self.client.post(page, words | {"version": "1", "complaint": "Squeals"})
        self.assertContains(whole, "Theirs: “Shakes at 80”", status_code=422)
        self.assertContains(whole, ">\nSqueals</textarea>", status_code=422)  # nothing typed is lost

    def test_a_trainee_sees_what_it_may_not_do_before_pressing(self) -> None:
        rear = self.job.corners.get(position="RL")
        Job.objects.filter(pk=self.job.pk).update(judgement={})
        page = client_of(self.trainee).get(reverse("jobs:cause", args=[self.job.pk]))
        self.assertEqual(page.status_code, 200)
        act = act_for(rear, "sweep_rotor", why="sweep_rotor")
        self.assertEqual(act.deed, "set_limits")
        html = render_to_string("jobs/_next.html", {"act": act, "request": page.wsgi_request})
        self.assertIn("a technician or the lead does this", html)
        self.assertNotIn("<a ", html)

    def test_a_booking_that_runs_over_midnight_stands_on_both_days(self) -> None:
        late = timezone.localtime().replace(hour=22, minute=0, second=0, microsecond=0)
        book(self.user, self.job, place="bay_1", starts_at=late, minutes=240)
        today, tomorrow = late.date(), late.date() + timedelta(days=1)
        self.assertIn("Minibus 9 …", day_drawing(self.user, today))
        self.assertIn("… Minibus 9", day_drawing(self.user, tomorrow))
