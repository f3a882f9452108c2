"""Every surface and dial face."""

import json
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from jobs.adapters import moved_mm, thickness_record
from jobs.judging import judge
from jobs.look_fields import Looked
from jobs.measure.actions import zero_on_lowest
from jobs.measure.doubts import doubt_words, doubtful_thicknesses, standing_alone
from jobs.models import ThicknessRound
from jobs.prepare.actions import start_round
from jobs.tests.base import READINGS, THICKNESS, Workshop, entry, fill, type_reading
from workshop.models import Instrument
from workshop.tests.base import client_of

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
        self.assertAlmostEqual(verdict.measured.whose.hub.tir_mm, 0.108, delta=0.012)
        self.assertLess(verdict.measured.whose.rotor.tir_mm, 0.012)

    def test_thickness_at_three_radii(self) -> None:
        for radii in ("138 122 106 90", "138 138", "138 x"):
            self.assertContains(self.prepare(radii=radii), "id_radii_error", status_code=422)
        self.prepare(radii="138; 122 106")
        measured = self.corner.rounds.last()
        self.assertEqual((measured.radii_mm, measured.slots), ([138.0, 122.0, 106.0], 30))
        values = [f"{26.4 + 0.01 * row:.3f}" for row in range(3) for _ in range(10)]
        fill(self.user, measured, values)
        self.assertAlmostEqual(judge(self.corner).verdict.measured.thickness.result.taper_mm, 0.02)
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

    def test_a_thickness_that_is_no_disc_is_doubted_as_it_is_typed_and_stays_marked(self) -> None:
        fill(self.user, self.round, ["26.501", "26.502", "26.5"])
        address = reverse("jobs:readings", args=["thickness", self.round.pk])
        for text, doubted in (("26.3", False), ("25.6", True), ("2.65", True)):
            was = ThicknessRound.objects.get(pk=self.round.pk).typed[3]
            edit = {"id": "e", "slot": 3, "text": text, "was": was, "client": text, "number": 1, "final": True}
            answer = self.client.post(address, {"edits": json.dumps([edit]), "show": f"t{self.round.pk}"}).json()
            with self.subTest(text=text):
                self.assertEqual(answer["flagged"], [3] if doubted else [])
                self.assertEqual("can hardly be this disc" in answer["html"], doubted)
        page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]), {"tape": "thickness"})
        self.assertEqual([cell.slot for cell in page.context["bench"].cells if cell.flagged], [3])

    def test_a_radius_that_is_read_all_round_stands_by_itself(self) -> None:
        made = {"radii_mm": [120.0, 138.0], "graduation_mm": 0.001, "entry_unit": "mm"}
        both = start_round(self.user, self.corner, stations=10, **made)
        fill(self.user, both, THICKNESS)
        nothing_seen = Looked({}, {})
        for more, radii, stations, broken_off in (
            ([], 1, 10, False),
            (["26.4"], 1, 10, True),
            (THICKNESS, 2, 10, False),
        ):
            if more:
                type_reading(self.user, both, *(entry(10 + k, mm, was="") for k, mm in enumerate(more)))
            both = ThicknessRound.objects.get(pk=both.pk)
            record = thickness_record(both, nothing_seen)
            with self.subTest(more=len(more)):
                self.assertEqual(record.readings_mm.shape, (radii, stations))
                self.assertEqual((both.is_broken_off, both.stations_to_go), (broken_off, 10 - len(more)))
                shown = {"tape": f"t{both.pk}", "view": "thickness"}
                page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]), shown)
                self.assertContains(page, 'class="map-radius"', count=radii)

    def test_thicker_than_new_is_doubted_but_where_a_caliper_rests_on_the_lips(self) -> None:
        fill(self.user, self.round, ["28.25", "28.35"])  # new it has 28.00
        thick = ThicknessRound.objects.get(pk=self.round.pk)
        self.assertEqual(doubtful_thicknesses(thick), {1})
        self.assertIn("thicker than new", doubt_words(thick, 1))
        thick.instrument = Instrument(kind=Instrument.Kind.CALIPER)
        self.assertEqual(doubtful_thicknesses(thick), set())

    def test_a_slip_of_a_tenth_is_named_once_the_next_place_is_read(self) -> None:
        read = ["26.900", "26.901", "26.902", "26.901", "26.800", "26.901", "26.900", "26.901", "26.902", "26.901"]
        for since, count, words in ((0, 5, ""), (5, 6, "Station 5"), (6, 10, "Station 5")):
            with self.subTest(count=count):
                tape = ThicknessRound.objects.get(pk=self.round.pk)
                type_reading(self.user, tape, *(entry(k, read[k], number=k, was="") for k in range(since, count)))
                tape, slot = ThicknessRound.objects.get(pk=self.round.pk), count - 1
                self.assertEqual((doubtful_thicknesses(tape), standing_alone(tape)), (set(), {4} if words else set()))
                self.assertEqual(doubt_words(tape, slot)[: len("Station 5")], words)
        type_reading(self.user, tape, entry(4, "2.68", number=20, was="26.800"))
        self.assertIn("can hardly be", doubt_words(ThicknessRound.objects.get(pk=tape.pk), 4))

    def test_a_reading_of_the_wrong_unit_is_doubted_as_it_is_typed(self) -> None:
        address = reverse("jobs:readings", args=["sweep", self.sweep.pk])
        for text, doubt in (("0.05", "finer than"), ("140", "more than one turn"), ("5", None), ("1t 5", None)):
            was = self.sweep.__class__.objects.get(pk=self.sweep.pk).typed[0]
            edit = {"id": "e", "slot": 0, "text": text, "was": was, "client": text, "number": 1, "final": True}
            answer = self.client.post(address, {"edits": json.dumps([edit]), "show": f"s{self.sweep.pk}"})
            with self.subTest(text=text):
                if doubt is None:
                    self.assertNotIn('class="doubt"', answer.json()["html"])
                else:
                    self.assertIn(doubt, answer.json()["html"])
