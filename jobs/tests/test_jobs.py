"""Opening, editing and closing jobs."""

from django.core.exceptions import PermissionDenied

from jobs.complaint.actions import StaleJobError, edit_job
from jobs.floor.actions import open_job
from jobs.measure.actions import undo
from jobs.models import Job, Sweep
from jobs.prepare.actions import add_turn, start_sweep, use_limits
from jobs.prove.actions import ReasonNeededError, close_job
from jobs.tests.base import READINGS, SET_UP, Workshop, entry, fill, type_reading
from jobs.writing import JobClosedError
from workshop.tests.base import FIGURES
from workshop.vehicles import set_limits


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
        with self.assertRaises(StaleJobError):
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
