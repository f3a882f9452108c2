"""An odometer that cannot be is asked back, and one that was put right leaves nothing wrong behind."""

from datetime import date, timedelta

from django.urls import reverse
from django.utils import timezone

from compass.ground.units import Unit
from jobs.complaint.actions import edit_job
from jobs.floor.actions import open_job
from jobs.models import Corner, Job, RotorFitting
from jobs.odometer import OdometerRead, doubt
from jobs.tests.base import THICKNESS, Workshop, fill
from jobs.vehicle.past import daily_km, vehicle_history
from workshop.models import Vehicle

_MAY: OdometerRead = OdometerRead(84_210, date(2026, 5, 1))


class Odometer(Workshop):
    """A minibus stood at 84,210 km at its only visit, today."""

    def open_at(self, km: str, **more: str) -> tuple[int, int | None]:
        """Open a job by its form; return the status and where the vehicle stands then."""
        sent = {"label": "Minibus 9", "kind": "van", "odometer_km": km, **more}
        answer = self.client.post(reverse("jobs:new"), sent)
        return answer.status_code, Vehicle.objects.get(pk=self.vehicle.pk).odometer_km

    def words(self, km: str, **more: str) -> int:
        """Change the job's odometer on its Complaint leg."""
        job = Job.objects.get(pk=self.job.pk)
        sent = {"version": job.version, "complaint": job.complaint, "state": job.state, "odometer_km": km, **more}
        return self.client.post(reverse("jobs:complaint", args=[job.pk]), sent).status_code

    def test_it_runs_neither_back_nor_as_far_as_nobody_drives(self) -> None:
        june = date(2026, 6, 1)
        for km, before, after, doubted in (
            (84_205, _MAY, None, False),  # read unlike
            (84_100, _MAY, None, True),
            (94_000, _MAY, None, False),
            (842_100, _MAY, None, True),  # a digit too many
            (84_100, None, _MAY, False),
            (94_000, None, _MAY, True),  # changed at an earlier visit
            (842_100, None, None, False),
        ):
            with self.subTest(km=km):
                self.assertEqual(bool(doubt(km, on=june, before=before, after=after, unit=Unit.MM)), doubted)

    def test_opening_a_job_asks_back_and_takes_what_is_meant(self) -> None:
        for slip in ("8,421", "842,100"):
            self.assertEqual(self.open_at(slip), (422, 84_210))
        self.assertEqual(Job.objects.count(), 1)
        self.assertEqual(self.open_at("12", odometer_meant="on"), (302, 12))  # another clock was put in
        self.assertEqual(self.open_at("70"), (302, 70))

    def test_a_slip_put_right_is_right_wherever_it_is_repeated(self) -> None:
        vehicle = Vehicle.objects.create(label="Van", kind="van")
        slip = open_job(self.user, vehicle, odometer_km=900_000)
        edit_job(self.user, slip, version=slip.version, odometer_km=90_000)
        self.assertEqual(Vehicle.objects.get(pk=vehicle.pk).odometer_km, 90_000)
        later = open_job(self.user, vehicle)  # nobody read it then
        edit_job(self.user, later, version=later.version, odometer_km=12)  # another clock: the form has asked
        self.assertEqual(Vehicle.objects.get(pk=vehicle.pk).odometer_km, 12)

    def test_a_change_is_held_against_the_visits_before_and_after(self) -> None:
        self.assertEqual(self.open_at("84,300"), (302, 84_300))
        self.assertEqual(self.words("84,900"), 422)
        self.assertEqual(self.words("84,900", odometer_meant="on"), 302)
        self.assertEqual(self.words("84,250"), 302)
        self.assertEqual(Vehicle.objects.get(pk=self.vehicle.pk).odometer_km, 84_300, "what was read last")

    def test_nothing_is_reckoned_across_a_clock_that_was_changed(self) -> None:
        fill(self.user, self.round, THICKNESS)
        clear = Job.objects.filter(pk=self.job.pk)
        clear.update(created_at=timezone.now() - timedelta(days=100))
        self.assertIn("estimate", vehicle_history(self.vehicle, unit=Unit.MM)[0].note)
        self.assertEqual(self.open_at("12", odometer_meant="on"), (302, 12))
        again = Job.objects.latest("pk")
        Corner.objects.filter(job=again, position="FL").update(verdict=self.job.corners.get(position="FL").verdict)
        (kept,) = vehicle_history(self.vehicle, unit=Unit.MM)[0].past[1:]
        self.assertEqual((kept.job_id, kept.metal.distance_km), (again.pk, 12))
        self.assertIsNone(daily_km(self.vehicle))

    def test_no_rotor_was_fitted_farther_than_the_vehicle_has_gone(self) -> None:
        sent = {"position": "FL", "odometer_km": "841,000", "thickness_mm": "28", "source": "measured"}
        address = reverse("jobs:vehicle", args=[self.vehicle.pk])
        self.assertContains(self.client.post(address, sent), "odometer_meant", status_code=422)
        self.assertFalse(RotorFitting.objects.exists())
        self.assertEqual(self.client.post(address, sent | {"odometer_km": "40,000"}).status_code, 302)
