"""A vehicle's past."""

from django.urls import reverse

from compass.ground.units import Unit
from jobs.kept import KeptCorner
from jobs.models import Corner, RotorFitting
from jobs.tests.base import THICKNESS, Workshop, fill
from jobs.vehicle.actions import fit_rotor
from jobs.vehicle.past import vehicle_history
from workshop.tests.base import client_of


class Past(Workshop):
    """What a disc has lost over distance."""

    def test_wear_is_counted_from_the_rotor_fitted(self) -> None:
        fill(self.user, self.round, THICKNESS)
        front_left = vehicle_history(self.vehicle, unit=Unit.MM)[0]
        self.assertIn("estimate", front_left.note)
        fit_rotor(self.user, self.vehicle, position="FL", odometer_km=44_210, thickness_mm=28.0, source="measured")
        worn = vehicle_history(self.vehicle, unit=Unit.MM)[0]
        self.assertAlmostEqual(worn.rate_mm, 10 * (28.0 - 26.411) / 40, delta=0.01)
        self.assertEqual(set(worn.life.to), {"discard", "machine_to"})
        page = self.client.get(reverse("jobs:vehicle", args=[self.vehicle.pk]))
        self.assertContains(page, "9 in 10 between")

    def test_readings_that_put_the_thinnest_place_under_nothing_are_no_metal(self) -> None:
        fill(self.user, self.round, ["10", "12", "0.05", "0.01", "0.001", "7"] + ["0.01"] * 6)
        self.assertLess(KeptCorner.read(Corner.objects.get(pk=self.corner.pk).verdict).min_mm, 0)
        self.assertEqual(vehicle_history(self.vehicle, unit=Unit.MM)[0].past, [])

    def test_a_rotor_recorded_by_a_slip_is_struck_out_and_counts_again(self) -> None:
        fill(self.user, self.round, THICKNESS)
        at_first = vehicle_history(self.vehicle, unit=Unit.MM)[0]
        told = {"position": "FL", "odometer_km": 44_210, "thickness_mm": 28.0, "source": "measured"}
        fitting = fit_rotor(self.user, self.vehicle, **told)
        counted = vehicle_history(self.vehicle, unit=Unit.MM)[0]
        for struck, rate_mm in (("yes", at_first.rate_mm), ("no", counted.rate_mm)):
            for _ in range(2):  # pressed twice
                self.client.post(reverse("jobs:strike-fitting", args=[fitting.pk]), {"struck": struck})
            self.assertEqual(vehicle_history(self.vehicle, unit=Unit.MM)[0].rate_mm, rate_mm)
        self.assertNotEqual(at_first.rate_mm, counted.rate_mm)
        self.assertEqual(fitting.history.count(), 3)

    def test_recording_a_rotor_is_for_the_trained(self) -> None:
        form = {"position": "FL", "odometer_km": "40000", "thickness_mm": "28", "source": "measured"}
        address = reverse("jobs:vehicle", args=[self.vehicle.pk])
        self.assertEqual(client_of(self.trainee).post(address, form).status_code, 403)
        self.assertContains(self.client.post(address, form | {"thickness_mm": "0"}), "_error", status_code=422)
        self.assertEqual(self.client.post(address, form).status_code, 302)
        self.assertEqual(RotorFitting.objects.get().history.get().history_user, self.user)
