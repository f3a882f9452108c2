"""A job opened for the wrong vehicle is given to the right one; a name is put right."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from compass.cause.causes import Cause
from jobs.cause.actions import put_right_beside
from jobs.floor.actions import open_job
from jobs.models import Closing, Job, Sweep
from jobs.prepare.actions import start_sweep
from jobs.tests.base import READINGS, SET_UP, Workshop, fill
from jobs.vehicle.moving import HeldError, held, move_job
from workshop.models import Vehicle
from workshop.tests.base import FIGURES, client_of
from workshop.vehicles import add_vehicle, set_limits


class Moved(Workshop):
    """The job of Minibus 9 is that of Minibus 4, whose limit is wider; Minibus 4 had been here before."""

    def setUp(self) -> None:
        super().setUp()
        self.other = add_vehicle(self.user, label="Minibus 4", kind="van", odometer_km=50_000)
        self.wide = set_limits(self.user, self.other, "F", **FIGURES | {"max_runout_mm": 0.2})
        fill(self.user, self.sweep, READINGS)

    def closed_before(self, vehicle: Vehicle) -> Closing:
        """Return a closing of an earlier visit of a vehicle."""
        visit = Job.objects.create(vehicle=vehicle, created_by=self.user, created_at=timezone.now(), odometer_km=50_000)
        visit.history.update(history_date=timezone.now())
        Job.objects.filter(pk=visit.pk).update(created_at=self.job.created_at - timedelta(days=90))
        at = self.job.created_at - timedelta(days=89)
        return Closing.objects.create(job=visit, vehicle=vehicle, at=at, by=self.user, proven=True, odometer_km=50_000)

    def given(self, label: str, **more: str) -> int:
        address = reverse("jobs:other-vehicle", args=[self.job.pk])
        return self.client.post(address, {"label": label, "odometer_km": "", **more}).status_code

    def test_what_was_read_goes_along_and_is_judged_by_the_limits_of_the_right_one(self) -> None:
        self.assertEqual(Job.objects.get(pk=self.job.pk).corners.get(position="FL").kept.runout, "over")
        theirs = self.closed_before(self.other)
        ours = self.closed_before(self.vehicle)
        ours.said(seen_again=self.job, seen_km=84_210, comeback=True, comeback_by=self.user)
        self.assertEqual(self.given("minibus 4", odometer_km="50,300"), 302)
        job = Job.objects.get(pk=self.job.pk)
        front = job.corners.get(position="FL")
        self.assertEqual((job.vehicle, job.odometer_km, front.limits), (self.other, 50_300, self.wide))
        self.assertEqual((front.kept.runout, front.sweeps.get().typed), ("within", READINGS))
        for closing, seen in ((theirs, (job, 50_300, None)), (ours, (None, None, None))):
            closing.refresh_from_db()
            self.assertEqual((closing.seen_again, closing.seen_km, closing.comeback), seen)
        stands = {str(vehicle): vehicle.odometer_km for vehicle in Vehicle.objects.all()}
        self.assertEqual(stands, {"Minibus 9": 50_000, "Minibus 4": 50_300})
        self.assertContains(self.client.get(reverse("jobs:changes", args=[job.pk])), "Minibus 9 → Minibus 4")
        self.assertEqual(self.given("minibus 9", odometer_km="84,210"), 302)  # and back: all is as it was
        for closing, seen in ((theirs, (None, None)), (ours, (job, 84_210))):
            closing.refresh_from_db()
            self.assertEqual((closing.seen_again, closing.seen_km), seen)
        stands = {str(vehicle): vehicle.odometer_km for vehicle in Vehicle.objects.all()}
        self.assertEqual(stands, {"Minibus 9": 84_210, "Minibus 4": 50_000})
        self.assertEqual(Job.objects.get(pk=self.job.pk).corners.get(position="FL").kept.runout, "over")

    def test_limits_come_along_where_the_right_one_has_none_for_what_is_laid_out(self) -> None:
        bare = add_vehicle(self.user, label="Minibus 5", kind="van")
        start_sweep(self.user, self.job.corners.get(position="FR"), stations=10, **SET_UP)  # laid out, not read
        moved = move_job(self.user, self.job, bare, odometer_km=None)
        self.assertEqual(moved.brought, ("F",))
        self.assertEqual(bare.limits.get().figures(), self.vehicle.limits.get().figures())
        for name in ("measure", "prepare"):
            for position in ("FL", "FR", "RL"):
                page = self.client.get(reverse(f"jobs:{name}", args=[self.job.pk, position]))
                self.assertLess(page.status_code, 400, (name, position))

    def test_an_odometer_that_is_not_the_right_ones_is_asked_back(self) -> None:
        self.closed_before(self.other)
        self.assertEqual(self.given("Minibus 4", odometer_km="12"), 422)
        self.assertEqual(self.given("Minibus 4", odometer_km="12", odometer_meant="on"), 302)

    def test_a_vehicle_that_was_a_slip_goes_with_it(self) -> None:
        slip = add_vehicle(self.user, label="courier", kind="van")
        bike = add_vehicle(self.user, label="Courier motorcycle", kind="motorcycle")
        self.job = open_job(self.user, slip, complaint="Wobbles")
        self.assertEqual(self.given("courier moto", take_out="on"), 422)  # asked which is meant
        self.assertEqual(self.given("courier moto", take_out="on", which=str(bike.pk)), 302)
        job = Job.objects.get(pk=self.job.pk)
        self.assertEqual([corner.position for corner in job.corners.all()], list(bike.positions))
        self.assertEqual((job.complaint, Vehicle.objects.filter(label="courier").exists()), ("Wobbles", False))
        self.assertContains(self.client.get(reverse("jobs:changes", args=[job.pk])), "courier → Courier motorcycle")
        self.assertEqual(self.client.get(reverse("jobs:complaint", args=[job.pk])).status_code, 200)
        self.job = Job.objects.get(vehicle=self.vehicle)
        self.closed_before(self.vehicle)
        self.assertEqual(self.given("Minibus 4", take_out="on"), 302)  # it had been here: no slip
        self.assertTrue(Vehicle.objects.filter(pk=self.vehicle.pk).exists())

    def test_what_is_bound_to_its_vehicle_stays(self) -> None:
        bike = add_vehicle(self.user, label="Bike", kind="motorcycle")
        for vehicle, why in ((self.vehicle, "same"), (bike, "read")):
            with self.assertRaisesMessage(HeldError, why):
                move_job(self.user, self.job, vehicle, odometer_km=None)
        self.assertEqual(self.given("Bike"), 422)
        self.assertEqual(self.given("Nobody"), 422)
        Job.objects.filter(pk=self.job.pk).update(decided=["F"])
        with self.assertRaisesMessage(HeldError, "decided"):
            move_job(self.user, self.job, self.other, odometer_km=None)
        Job.objects.filter(pk=self.job.pk).update(state=Job.State.CLOSED, closed_by=self.user)
        self.assertEqual(self.given("Minibus 4"), 422)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).corner.job.vehicle, self.vehicle)
        self.assertEqual(
            client_of(self.trainee).get(reverse("jobs:other-vehicle", args=[self.job.pk])).status_code, 403
        )

    def test_a_name_is_put_right_and_is_no_others(self) -> None:
        page = reverse("jobs:vehicle", args=[self.vehicle.pk])
        address, seen = (
            reverse("jobs:rename", args=[self.vehicle.pk]),
            self.client.get(page).context["name_form"]["seen"].initial,
        )
        sent = {
            "label": "Minibus 9",
            "registration": "IS 11 209",
            "model": "Varda Combina",
            "kind": "van",
            "seen": seen,
        }
        self.assertEqual(self.client.post(address, sent | {"label": "minibus-4"}).status_code, 422)
        self.assertEqual(self.client.post(address, sent | {"label": "Minibus 5"}).status_code, 302)
        self.vehicle.refresh_from_db()
        self.assertEqual((str(self.vehicle), self.vehicle.registration), ("Minibus 5", "IS 11 209"))
        self.assertEqual(self.vehicle.history.first().history_user, self.user)
        self.assertEqual(self.client.post(address, sent).status_code, 422)  # somebody was faster

    def test_a_trailer_that_was_put_in_as_a_van_is_made_one_before_anything_is_read(self) -> None:
        slip = add_vehicle(self.user, label="Trailer 2", kind="van")
        job = open_job(self.user, slip, complaint="Drags")
        start_sweep(self.user, job.corners.get(position="FL"), stations=10, **SET_UP)

        def made(vehicle: Vehicle, kind: str) -> int:
            form = self.client.get(reverse("jobs:vehicle", args=[vehicle.pk])).context["name_form"]
            sent = {name: form[name].value() or "" for name in form.fields} | {"kind": kind}
            return self.client.post(reverse("jobs:rename", args=[vehicle.pk]), sent).status_code

        self.assertEqual(made(slip, "trailer/three_axles"), 302)
        slip.refresh_from_db()
        self.assertEqual((slip.label, slip.kind, slip.layout), ("Trailer 2", "trailer", "three_axles"))
        self.assertEqual([corner.position for corner in Job.objects.get(pk=job.pk).corners.all()], list(slip.positions))
        for address in (reverse("jobs:complaint", args=[job.pk]), reverse("jobs:prepare", args=[job.pk, "A3L"])):
            self.assertEqual(self.client.get(address).status_code, 200)
        self.assertEqual(made(self.vehicle, "trailer"), 422)  # read at its front
        self.assertEqual(made(self.vehicle, "light_truck/twin_rear"), 302)  # as many wheels to be read
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed, READINGS)
        put_right_beside(self.user, job, Cause.CALIPER, "A1L")
        self.assertEqual(made(slip, "van"), 422)
        self.assertEqual(held(self.user, Job.objects.get(pk=job.pk), self.other), "worked")
        put_right_beside(self.user, job, Cause.CALIPER, "A1L", back=True)
        self.closed_before(slip)
        self.assertEqual(made(slip, "trailer"), 422)
