"""A job as files, a file as a job."""

import csv
import io
import json
from unittest import mock

from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from compass.__main__ import main
from compass.diagnose import diagnose
from compass.files.read_case import case_from_data
from compass.files.write_case import case_to_data
from compass.files.write_verdict import verdict_to_data
from compass.ground.units import Unit
from compass.tests.test_casefile import CASE, run
from jobs.measure.actions import add_quick, another_round, withdraw_quick
from jobs.models import Job, QuickReading
from jobs.record.case_in import import_case
from jobs.record.case_out import job_case_data, job_verdict_data
from jobs.tests.base import READINGS, THICKNESS, Workshop, fill
from workshop.long_work.asking import ask_for, named_from
from workshop.models import Vehicle
from workshop.tests.base import client_of, person, work_done


class Files(Workshop):
    """Cases out and in; the readings as a table."""

    def test_a_case_file_comes_in_and_goes_out_the_same(self) -> None:
        corner = CASE["corners"][0]
        spec = corner["spec"] | {"features": ["drum_in_hat"], "index_positions": [0, 144], "min_pad_mm": 3.0}
        full = CASE | {
            "complaint": {"felt_in": ["seat"], "speed_kmh": [60, 90]},
            "corners": [
                corner
                | {
                    "spec": spec,
                    "high_spots": [
                        {"surface": "rotor_outboard", "radius_mm": 138, "index_deg": 144, "cleaned": True,
                         "nuts_torqued": True, "tir_mm": 0.09, "high_deg": 210.5, "graduation_mm": 0.01}
                    ],
                    "thickness": corner["thickness"] | {"over_lips": {"outboard_mm": 0.31, "inboard_mm": 0.2}},
                    "bearing_play_mm": 0.0000123,
                    "pads_mm": {"inner": [6.0, 6.1], "outer": [7.5], "renewed": [11.0]},
                    "drum_mm": {"diameters": [190.1], "linings": [1.2], "renewed": [4.5]},
                    "findings": ["rust_at_joint"],
                },
                corner | {"position": "RR", "sweeps": [], "after": [{}, {"sweeps": corner["sweeps"]}]},
            ],
        }  # fmt: skip
        code, out, _ = run("diagnose", "-", stdin=json.dumps(full).encode())
        self.assertEqual(code, 0)
        job = import_case(self.user, json.dumps(full).encode())
        self.assertEqual(json.loads(out), json.loads(json.dumps(job_verdict_data(self.user, job))))
        self.assertEqual(job.vehicle.label, "Minibus 6")
        out_again = job_case_data(self.user, job)
        self.assertEqual(out_again["complaint"], full["complaint"])
        self.assertEqual(
            case_to_data(case_from_data(out_again))["corners"][1]["after"],
            case_to_data(case_from_data(full))["corners"][1]["after"],
        )
        self.assertEqual(job.corners.get(position="RR").episode, 2)

    def test_a_sweep_without_a_reading_says_nothing(self) -> None:
        corner = CASE["corners"][0]
        bare = [sweep | {"readings_mm": [], "stations_deg": []} for sweep in corner["sweeps"][:1]]
        data = CASE | {"corners": [corner, corner | {"position": "FR", "sweeps": bare}]}
        code, out, _ = run("diagnose", "-", stdin=json.dumps(data).encode())
        job = import_case(self.user, json.dumps(data).encode())
        self.assertEqual((code, json.loads(out)), (0, json.loads(json.dumps(job_verdict_data(self.user, job)))))
        self.assertEqual(self.client.get(reverse("jobs:measure", args=[job.pk, "FR"])).status_code, 200)

    def test_a_bad_file_is_refused_whole_with_every_fault(self) -> None:
        jobs, vehicles = Job.objects.count(), Vehicle.objects.count()
        bad = {
            "fault": (CASE | {"colour": "red"}, "colour: unknown key"),
            "position": (CASE | {"vehicle": {"label": "Cart", "kind": "trailer"}}, "corners: positions of Cart"),
        }
        for name, (data, words) in bad.items():
            with self.subTest(name):
                upload = SimpleUploadedFile("case.json", json.dumps(data).encode())
                asked = self.client.post(reverse("jobs:import"), {"case": upload})
                self.assertEqual(work_done().state, "failed")
                self.assertContains(self.client.get(asked["Location"]), words)
        self.assertEqual((Job.objects.count(), Vehicle.objects.count()), (jobs, vehicles))
        self.assertContains(self.client.post(reverse("jobs:import"), {"case": ""}), "id_case_error", status_code=422)
        strange = client_of(person("lead", username="another"))
        self.assertNotContains(strange.get(asked["Location"]), words)  # nobody else's business
        with self.assertRaises(PermissionDenied):
            import_case(self.trainee, json.dumps(CASE).encode())

    def test_a_file_leads_to_its_job_and_is_opened_once_though_its_worker_is_killed(self) -> None:
        jobs = Job.objects.count()
        upload = SimpleUploadedFile("case.json", json.dumps(CASE).encode())
        asked = self.client.post(reverse("jobs:import"), {"case": upload})
        self.assertContains(self.client.get(asked["Location"]), "waits its turn")
        with mock.patch("workshop.long_work.carrying._end", side_effect=SystemExit), self.assertRaises(SystemExit):
            work_done()
        self.assertContains(self.client.get(asked["Location"]), "is being done")
        work = work_done()
        job = Job.objects.latest("pk")
        self.assertEqual((work.state, work.about, Job.objects.count()), ("done", job.pk, jobs + 1))
        self.assertRedirects(self.client.get(asked["Location"]), reverse("jobs:complaint", args=[job.pk]))
        other = ask_for(self.user, "cases-out")
        work_done()
        self.assertEqual(self.client.get(named_from("jobs:import", other)).status_code, 200)  # not led round in a ring

    def test_files_of_a_job_are_handed_out(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        add_quick(
            self.user, self.corner, typed="9", unit=Unit.DIVISION, surface="rotor_outboard", radius_mm=138.0,
            index_deg=0.0, cleaned=True, nuts_torqued=True, graduation_mm=0.01, high_deg=228.0, within_deg=15.0,
        )  # fmt: skip
        withdraw_quick(self.user, QuickReading.objects.get(), withdrawn=True)
        rows = list(
            csv.DictReader(
                io.StringIO(self.client.get(reverse("jobs:readings-csv", args=[self.job.pk])).content.decode())
            )
        )
        self.assertEqual(len(rows), 21)
        self.assertEqual((rows[0]["typed"], rows[0]["reading_mm"], rows[10]["station"]), ("1.5", "0.015", "closing"))
        case = self.client.get(reverse("jobs:case", args=[self.job.pk])).json()
        self.assertNotIn("high_spots", case["corners"][0])
        with mock.patch("sys.stdout", io.StringIO()):
            self.assertEqual(main(["schema", "case-1"]), 0)
        verdict = self.client.get(reverse("jobs:verdict", args=[self.job.pk])).json()
        # As an outsider would: the exported case through the command line's own way.
        self.assertEqual(verdict, json.loads(json.dumps(verdict_to_data(diagnose(case_from_data(case))))))

    def test_rounds_taken_alike_go_out_as_their_mean_and_the_command_line_says_the_same(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        again = another_round(self.user, self.round, graduation_mm=0.001, entry_unit="mm")
        fill(self.user, again, [f"{float(text) + 0.002:.3f}" for text in THICKNESS])
        data = job_case_data(self.user, self.job)
        (corner,) = (c for c in data["corners"] if c["position"] == "FL")
        self.assertEqual(corner["thickness"]["rounds"], 2)
        self.assertAlmostEqual(corner["thickness"]["readings_mm"][0][0], float(THICKNESS[0]) + 0.001)
        code, out, _ = run("diagnose", "-", stdin=json.dumps(data).encode())
        self.assertEqual(code, 0)
        self.assertEqual(json.loads(out), json.loads(json.dumps(job_verdict_data(self.user, self.job))))
        copied = import_case(self.user, json.dumps(data).encode())
        self.assertEqual(job_case_data(self.user, copied)["corners"][0]["thickness"]["rounds"], 2)
