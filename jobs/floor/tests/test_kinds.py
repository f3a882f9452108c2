"""Kinds of vehicle."""

import json

from django.urls import reverse

from compass.files.read_case import case_from_data
from compass.words.codes import remedy_name
from demo.build import build_demo
from jobs.models import Job
from jobs.record.case_in import import_case
from jobs.record.case_out import job_case_data
from jobs.tests.base import Workshop
from workshop.models import User, Vehicle
from workshop.store.limits import put_into_library
from workshop.tests.base import FIGURES, client_of


class Kinds(Workshop):
    """Motorcycles and trailers throughout."""

    def test_prepare_measure_and_vehicle_pages_of_every_kind(self) -> None:
        build_demo()
        lead = client_of(User.objects.get(username="holm"))
        for kind in Vehicle.Kind.values:
            job = Job.objects.filter(vehicle__kind=kind, corners__verdict__runout__isnull=False).first()
            with self.subTest(kind=kind):
                for corner in job.corners.all():
                    self.assertEqual(lead.get(reverse("jobs:prepare", args=[job.pk, corner.position])).status_code, 200)
                    address = reverse("jobs:measure", args=[job.pk, corner.position])
                    for view in ("runout", "thickness", "indices", "joint", "wear"):
                        self.assertLess(lead.get(f"{address}?view={view}").status_code, 400)
                self.assertContains(lead.get(reverse("jobs:vehicle", args=[job.vehicle_id])), job.vehicle.label)
        bike = Job.objects.filter(vehicle__kind="motorcycle").first()
        self.assertContains(lead.get(reverse("jobs:prepare", args=[bike.pk, "F"])), "No wheel-nut plate fits here")

    def test_every_shape_opens_with_its_own_corners_and_its_file_says_so(self) -> None:
        put_into_library(self.user, [{"model": "Myrra 250 Post", "axle": "F", **FIGURES}])
        for number, (shape, corners) in enumerate(
            {
                "motorcycle/two_front_discs": ["FL", "FR", "R"],
                "motorcycle": ["F", "R"],
                "trailer/one_axle": ["A1L", "A1R"],
                "trailer/three_axles": ["A1L", "A1R", "A2L", "A2R", "A3L", "A3R"],
                "light_truck/twin_rear": ["FL", "FR", "RL", "RR"],
            }.items()
        ):
            with self.subTest(shape=shape):
                sent = {"label": f"New {number}", "kind": shape, "model": "Myrra 250 Post", "complaint": "pulses"}
                self.client.post(reverse("jobs:new"), sent)
                job = Job.objects.for_page().latest("pk")
                self.assertEqual([corner.position for corner in job.corners.all()], corners)
                data = job_case_data(self.user, job)
                self.assertEqual(list(case_from_data({**data, "corners": []}).positions), corners)
                copied = import_case(
                    self.user, json.dumps({**data, "vehicle": {**data["vehicle"], "label": "C"}}).encode()
                )
                self.assertEqual(copied.vehicle.positions, job.vehicle.positions)
                Vehicle.objects.filter(pk=copied.vehicle_id).update(label=f"Copy {number}")
        two = Job.objects.get(vehicle__label="New 0").corners.get(position="FL")
        self.assertEqual(two.limits.max_runout_mm, FIGURES["max_runout_mm"])  # from the library, by the model
        page = self.client.get(reverse("jobs:new"))
        self.assertContains(page, '<option value="Myrra 250 Post">')

    def test_a_single_disc_has_no_other_side_in_any_word(self) -> None:
        build_demo()
        lead = client_of(User.objects.get(username="holm"))
        bike = Job.objects.filter(vehicle__kind="motorcycle").first()
        page = lead.get(reverse("jobs:choose", args=[bike.pk, "F"]))
        self.assertContains(page, "Front wheel")
        self.assertNotContains(page, "both sides")
        self.assertEqual(
            (remedy_name("new_rotors", "F"), remedy_name("new_rotors", "FL")[-10:]), ("Replace the rotor", "both sides")
        )
