"""Beside the tapes: quick readings, looking, surfaces, continuous dials, case files; what each changes and refuses."""

import csv
import io
import json
from datetime import timedelta
from unittest import mock

from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from compass.__main__ import main
from compass.files.write_verdict import corner_to_data
from compass.ground.units import Unit
from compass.tests.test_casefile import CASE, run
from jobs.actions import close_job, judge, start_round, start_sweep, zero_on_lowest
from jobs.adapters import moved_mm
from jobs.case_actions import import_case, job_case_data, job_verdict_data
from jobs.demo.build import build_demo
from jobs.history import vehicle_history
from jobs.looking import read_look
from jobs.models import Job, QuickReading, RotorFitting
from jobs.record_actions import add_quick, fit_rotor, keep_look, withdraw_quick
from jobs.tests.base import READINGS, SET_UP, THICKNESS, Corner, Workshop, fill
from workshop.models import Instrument, User, Vehicle
from workshop.tests.test_workshop import client_of

RING = {"face": "continuous", "divisions": 100, "graduation_mm": 0.01}


class Surfaces(Workshop):
    """Each way of sweeping is laid out by itself and tells its own part."""

    def prepare(self, **changes: str):
        form = {
            "dial": "mm10", "read_to": "0.5", "entry_unit": "div", "stations": "10", "radius_mm": "138",
            "micrometer": "mm1", "micrometer_unit": "mm", "cleaned": "on", "nuts_torqued": "on", "tip": "on",
        }  # fmt: skip
        self.client = client_of(self.trainee)  # who sets up need not set limits
        return self.client.post(reverse("jobs:prepare", args=[self.job.pk, "FL"]), form | changes)

    def test_the_hub_face_bared_tells_hub_from_rotor(self) -> None:
        fill(self.user, self.sweep, READINGS)
        self.assertEqual(self.prepare(surface="hub_face", radius_mm="69", turned="2").status_code, 302)
        face = self.corner.sweeps.last()
        self.assertEqual((face.surface, face.radius_mm, face.index_deg), ("hub_face", 69.0, 0.0))
        self.assertEqual(face.confirmed, ["cleaned", "nuts_torqued", "tip"])
        fill(self.user, face, [str(float(text) / 2) for text in READINGS])
        verdict = judge(self.corner).verdict
        self.assertAlmostEqual(verdict.whose.hub.tir_mm, 0.108, delta=0.012)
        self.assertLess(verdict.whose.rotor.tir_mm, 0.012)

    def test_thickness_at_three_radii(self) -> None:
        for radii in ("138 122 106 90", "138 138", "138 x"):
            self.assertContains(self.prepare(radii=radii), "id_radii_error", status_code=422)
        self.prepare(radii="138; 122 106")
        measured = self.corner.rounds.last()
        self.assertEqual((measured.radii_mm, measured.slots), ([138.0, 122.0, 106.0], 30))
        values = [f"{26.4 + 0.01 * row:.3f}" for row in range(3) for _ in range(10)]
        fill(self.user, measured, values)
        self.assertAlmostEqual(judge(self.corner).verdict.thickness.result.taper_mm, 0.02)
        page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]) + "?tape=thickness&view=thickness")
        self.assertContains(page, "r 122 mm")

    def test_an_instrument_brings_its_graduation_and_error_and_says_when_it_is_due(self) -> None:
        own = Instrument.objects.create(name="Lever", graduation_mm=0.002, error_limit_mm=0.003)
        self.prepare(dial=f"i{own.pk}")
        sweep = self.corner.sweeps.last()
        self.assertEqual((sweep.instrument, sweep.graduation_mm, sweep.instrument_error_mm), (own, 0.002, 0.003))
        today = timezone.localdate()
        self.assertTrue(own.is_due(today))
        own.checked_on = today - timedelta(days=365)
        self.assertFalse(own.is_due(today))
        self.assertTrue(own.is_due(today + timedelta(days=1)))


class Continuous(Workshop):
    """A dial that wraps is brought round, and says so."""

    def setUp(self) -> None:
        super().setUp()
        self.dial = Instrument.objects.create(name="Round", **RING)
        self.sweep.instrument = self.dial
        self.sweep.save()

    def test_wrapped_readings_are_brought_round_and_units_win(self) -> None:
        fill(self.user, self.sweep, ["97", "2", "1t 5", "0.98 mm", "95"])
        moved = moved_mm(self.sweep.__class__.objects.get(pk=self.sweep.pk))
        self.assertEqual([round(z * 100, 6) for z in moved.readings_mm[:5]], [97, 102, 105, 98, 95])
        self.assertEqual(moved.unwrapped, (1,))
        page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]))
        self.assertContains(page, "brought round at 2")
        done = zero_on_lowest(self.user, self.sweep)
        self.assertEqual(done.tape.typed[:5], ["2", "7", "10", "3", "0"])

    def test_a_reading_of_the_wrong_unit_is_doubted_as_it_is_typed(self) -> None:
        address = reverse("jobs:reading", args=["sweep", self.sweep.pk])
        for text, doubt in (("0.05", "finer than"), ("140", "more than one turn"), ("5", None), ("1t 5", "more than")):
            body = {"slot": 0, "text": text, "was": "", "client": text, "number": 1, "final": "1", "at": 0}
            body["was"] = self.sweep.__class__.objects.get(pk=self.sweep.pk).typed[0]
            answer = self.client.post(address, body, headers={"hx-request": "true"})
            with self.subTest(text=text):
                self.assertEqual(answer.status_code, 200)
                if doubt is None:
                    self.assertNotContains(answer, 'class="doubt"')
                else:
                    self.assertContains(answer, doubt)


class Quick(Workshop):
    """The high spot and the amount, in one line."""

    def take(self, client=None, **changes: str):
        form = {"stud": "4", "offset": "12", "amount": "9", "within": "15"} | changes
        return (client or self.client).post(reverse("jobs:quick", args=[self.job.pk, "FL"]), form)

    def test_is_stored_as_typed_and_judged(self) -> None:
        self.assertEqual(self.take().status_code, 302)
        quick = QuickReading.objects.get()
        self.assertEqual((quick.typed, round(quick.tir_mm, 9), quick.high_deg), ("9", 0.09, 228.0))
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).verdict["runout"]["state"], "over")
        self.client.post(reverse("jobs:strike", args=[quick.pk]))
        self.assertTrue(QuickReading.objects.get().withdrawn)
        self.assertEqual(Corner.objects.get(pk=self.corner.pk).verdict, {})

    def test_two_at_two_indices_tell_hub_from_rotor(self) -> None:
        self.take()
        start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        self.take(amount="0.09 mm")
        whose = judge(self.corner).verdict.whose
        self.assertGreater(whose.hub.tir_mm, 0.07)
        self.assertLess(whose.rotor.tir_mm, whose.rotor.u_mm)

    def test_bad_ones_are_refused_beside_their_field(self) -> None:
        for field, text in (("stud", "6"), ("amount", "nine"), ("amount", "-9"), ("within", "0"), ("offset", "x")):
            with self.subTest(field=field, text=text):
                answer = self.take(**{field: text})
                self.assertContains(answer, f"id_{field}_error", status_code=422)
                self.assertContains(answer, f'value="{text}"', status_code=422)
        self.assertFalse(QuickReading.objects.exists())

    def test_a_closed_job_takes_none(self) -> None:
        self.take()
        close_job(self.user, self.job, reason="Sold")
        self.assertEqual(self.take().status_code, 422)
        self.client.post(reverse("jobs:strike", args=[QuickReading.objects.get().pk]))
        self.assertFalse(QuickReading.objects.get().withdrawn)


class Looking(Workshop):
    """Play, pads, drum, lips, findings: kept as typed, read where they can be."""

    def look(self, **typed):
        address = reverse("jobs:look", args=[self.job.pk, "FL"])
        return self.client.post(address, typed, headers={"hx-request": "true"})

    def test_fields_are_read_as_people_type_them(self) -> None:
        looked = read_look({"pad_inner": "6,0 6.1 mm; 5.5", "bearing_play": "2 thou", "edge": "1.1 in"}, Unit.MM)
        self.assertEqual(looked.mm["pad_inner"], (6.0, 6.1, 5.5))
        self.assertAlmostEqual(looked.one("bearing_play"), 0.0508)
        self.assertAlmostEqual(looked.one("edge"), 27.94)
        self.assertEqual(set(read_look({"pad_inner": "6 x", "edge": "999"}, Unit.MM).errors), {"pad_inner", "edge"})

    def test_what_cannot_be_read_stays_typed_with_its_error(self) -> None:
        answer = self.look(bearing_play="loose", pad_inner="6.0 2.5", findings=["cracked", "no such word"])
        self.assertContains(answer, "loose", status_code=422)
        look = Corner.objects.get(pk=self.corner.pk).look
        self.assertEqual((look.typed["bearing_play"], look.findings), ("loose", ["cracked"]))
        self.assertEqual(look.history.count(), 1)
        verdict = Corner.objects.get(pk=self.corner.pk).verdict
        self.assertTrue(verdict["do_not_drive"])
        self.assertIn("The pads differ by 3.50 mm: look at slides and piston.", verdict["because"])
        page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]) + "?tape=look")
        self.assertContains(page, 'value="loose"')

    def test_lips_come_off_a_plain_caliper_only(self) -> None:
        caliper = Instrument.objects.create(name="Caliper", kind="caliper", graduation_mm=0.02)
        over = start_round(
            self.user,
            self.corner,
            stations=10,
            radius_mm=138.0,
            graduation_mm=0.02,
            entry_unit="mm",
            instrument=caliper,
        )
        fill(self.user, over, ["27.60"] * 10)
        keep_look(
            self.user, self.corner, typed={"lip_outboard": "0.6", "lip_inboard": "0.7"}, findings=[], unit=Unit.MM
        )
        result = judge(Corner.objects.select_related("look").get(pk=self.corner.pk)).verdict.thickness.result
        self.assertAlmostEqual(result.minimum.value_mm, 26.3, delta=0.01)
        self.assertGreater(result.minimum.u_mm, 0.05)


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

    def test_recording_a_rotor_is_for_the_trained(self) -> None:
        form = {"position": "FL", "odometer_km": "40000", "thickness_mm": "28", "source": "measured"}
        address = reverse("jobs:vehicle", args=[self.vehicle.pk])
        self.assertEqual(client_of(self.trainee).post(address, form).status_code, 403)
        self.assertContains(self.client.post(address, form | {"thickness_mm": "0"}), "_error", status_code=422)
        self.assertEqual(self.client.post(address, form).status_code, 302)
        self.assertEqual(RotorFitting.objects.get().history.get().history_user, self.user)


DECIDED_WITH_THE_AXLE = {"remedies", "recommended", "because"}


class Files(Workshop):
    """Cases out and in; the readings as a table."""

    def test_the_application_and_the_command_line_agree_to_the_last_digit(self) -> None:
        build_demo()
        checked = 0
        for job in Job.objects.filter(pk__gt=self.job.pk).select_related("vehicle"):
            code, out, err = run("diagnose", "-", stdin=json.dumps(job_case_data(job)).encode())
            self.assertEqual((code, err), (0, ""))
            told = json.loads(out)
            self.assertEqual(told, json.loads(json.dumps(job_verdict_data(job))))
            for corner in job.corners.exclude(verdict={}):
                checked += 1
                whole = next(c for c in told["corners"] if c["position"] == corner.position)
                # What a corner gets is decided with its axle; beside the corner stands what it says by itself.
                own = {name: value for name, value in whole.items() if name not in DECIDED_WITH_THE_AXLE}
                self.assertEqual({name: corner.verdict[name] for name in own}, own)
        self.assertGreater(checked, 20)

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
                    "bearing_play_mm": 0.0123,
                    "pads_mm": {"inner": [6.0, 6.1], "outer": [7.5]},
                    "drum_mm": {"diameters": [190.1], "linings": [1.2]},
                    "findings": ["rust_at_joint"],
                },
                corner | {"position": "RR", "sweeps": []},
            ],
        }  # fmt: skip
        code, out, _ = run("diagnose", "-", stdin=json.dumps(full).encode())
        self.assertEqual(code, 0)
        job = import_case(self.user, json.dumps(full).encode())
        self.assertEqual(json.loads(out), json.loads(json.dumps(job_verdict_data(job))))
        self.assertEqual(job.vehicle.label, "Minibus 6")
        self.assertEqual(job_case_data(job)["complaint"], full["complaint"])

    def test_a_bad_file_is_refused_whole_with_every_fault(self) -> None:
        jobs, vehicles = Job.objects.count(), Vehicle.objects.count()
        bad = {
            "fault": (CASE | {"colour": "red"}, "colour: unknown key"),
            "position": (CASE | {"vehicle": {"label": "Bike", "kind": "motorcycle"}}, "corners: positions of Bike"),
        }
        for name, (data, words) in bad.items():
            with self.subTest(name):
                upload = SimpleUploadedFile("case.json", json.dumps(data).encode())
                answer = self.client.post(reverse("jobs:import"), {"case": upload})
                self.assertContains(answer, words, status_code=422)
        self.assertEqual((Job.objects.count(), Vehicle.objects.count()), (jobs, vehicles))
        with self.assertRaises(PermissionDenied):
            import_case(self.trainee, json.dumps(CASE).encode())

    def test_files_of_a_job_are_handed_out(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        add_quick(
            self.user, self.corner, typed="9", unit=Unit.DIVISION, surface="rotor_outboard", radius_mm=138.0,
            index_deg=0.0, cleaned=True, nuts_torqued=True, graduation_mm=0.01, high_deg=228.0, within_deg=15.0,
        )  # fmt: skip
        withdraw_quick(self.user, QuickReading.objects.get(), withdrawn=True)
        rows = list(
            csv.DictReader(io.StringIO(self.client.get(reverse("jobs:readings", args=[self.job.pk])).content.decode()))
        )
        self.assertEqual(len(rows), 21)
        self.assertEqual((rows[0]["typed"], rows[0]["reading_mm"], rows[10]["station"]), ("1.5", "0.015", "closing"))
        case = self.client.get(reverse("jobs:case", args=[self.job.pk])).json()
        self.assertNotIn("high_spots", case["corners"][0])
        with mock.patch("sys.stdout", io.StringIO()):
            self.assertEqual(main(["schema", "case-1"]), 0)
        verdict = self.client.get(reverse("jobs:verdict", args=[self.job.pk])).json()
        alone = json.loads(json.dumps(corner_to_data(judge(self.corner).verdict)))
        for name in set(alone) - DECIDED_WITH_THE_AXLE:
            self.assertEqual(verdict["corners"][0][name], alone[name])


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
