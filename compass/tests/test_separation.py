"""Whose runout: two sweeps at two indices, or one and a bare hub, give hub and rotor back."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.evidence.records import Corner, Drum, HighSpot, Pads, Surface, ThicknessRound
from compass.ground.angles import difference_deg, equal_stations_deg, tir_and_high, vector
from compass.measure.separation import VectorEvidence, expected_sds_mm, separate
from compass.simulate.corner import random_corner
from compass.tests.test_sweep import SPEC, sweep_of, wave

FINE = np.eye(2) * 1e-8


def seen(hub: complex, rotor: complex, index_deg: float, *, whose: str = "both") -> VectorEvidence:
    turned = rotor * np.exp(1j * np.radians(index_deg))
    total = {"both": hub + turned, "hub": hub, "rotor": rotor}[whose]
    return VectorEvidence(whose != "rotor", whose != "hub", index_deg if whose == "both" else 0.0, total, FINE)


class Separating(TestCase):
    """What stays belongs to the hub, what turns to the rotor."""

    hub, rotor = vector(0.092, 240.0), vector(0.026, 196.0)

    def check(self, *evidence: VectorEvidence) -> None:
        result = separate(evidence)
        for part, truth in ((result.hub, self.hub), (result.rotor, self.rotor)):
            tir, high = tir_and_high(truth)
            self.assertAlmostEqual(part.tir_mm, tir, places=6)
            self.assertAlmostEqual(difference_deg(part.high_deg, high), 0, places=4)
        self.assertAlmostEqual(result.hub.share + result.rotor.share, 1.0)

    def test_every_way_that_separates(self) -> None:
        first = seen(self.hub, self.rotor, 0.0)
        self.check(first, seen(self.hub, self.rotor, 180.0))
        self.check(first, seen(self.hub, self.rotor, 72.0), seen(self.hub, self.rotor, 216.0))
        self.check(first, seen(self.hub, self.rotor, 0.0, whose="hub"))
        self.check(first, seen(self.hub, self.rotor, 0.0, whose="rotor"))

    def test_one_index_alone_separates_nothing(self) -> None:
        first = seen(self.hub, self.rotor, 0.0)
        for evidence in ((), (first,), (first, first)):
            result = separate(evidence)
            self.assertEqual((result.hub, result.rotor), (None, None))
        self.assertIsNotNone(separate((seen(self.hub, self.rotor, 0.0, whose="hub"),)).hub)

    def test_evidence_that_contradicts_itself_shows(self) -> None:
        agreeing = [seen(self.hub, self.rotor, index) for index in (0.0, 144.0, 216.0)]
        self.assertLess(separate(agreeing).misfit, 0.01)
        self.assertFalse(separate(agreeing).disagrees)
        wrong = replace(agreeing[2], vector=agreeing[2].vector + 0.03)
        found = separate([*agreeing[:2], wrong])
        self.assertTrue(found.disagrees)
        self.assertGreater(found.misfit, 10)
        self.assertGreater(found.seating_mm, separate(agreeing).seating_mm)
        self.assertGreater(found.hub.expanded_mm, 3 * separate(agreeing).hub.expanded_mm)

    def test_the_direct_way_is_held_against_turning(self) -> None:
        turned = [seen(self.hub, self.rotor, index) for index in (0.0, 180.0)]
        face = seen(self.hub * 0.5, self.rotor, 0.0, whose="hub")
        self.assertEqual(separate([*turned, face]).disagreement.part, "hub")
        self.assertAlmostEqual(separate([*turned, face]).disagreement.direct_mm, 0.046)
        arbor = seen(self.hub, self.rotor * 3, 0.0, whose="rotor")
        self.assertEqual(separate([*turned, arbor]).disagreement.part, "rotor")

    def test_the_joint_needs_no_separation_and_gives_none(self) -> None:
        dirt = vector(0.05, 90.0)
        after = replace(seen(self.hub, self.rotor, 0.0), mounting="a")
        before = replace(after, vector=after.vector + dirt, before="dirt", mounting="b")
        found = separate([before, after])
        self.assertEqual((found.hub, found.rotor, found.joint_of), (None, None, "dirt"))
        self.assertAlmostEqual(found.joint.tir_mm, 0.05)
        self.assertAlmostEqual(found.joint.share, (dirt * before.vector.conjugate()).real / abs(before.vector) ** 2)
        self.assertIsNone(separate([before]).joint)
        # dirt lies anew at every mounting: two dirty sweeps never tell hub from rotor
        other = replace(seen(self.hub, self.rotor, 180.0), before="dirt", mounting="c")
        self.assertIsNone(separate([before, other]).rotor)

    def test_readings_of_one_mounting_share_its_seating(self) -> None:
        apart = [replace(seen(self.hub, self.rotor, 0.0), mounting=name) for name in "ab"]
        together = [replace(e, mounting="a") for e in apart]
        arbor = seen(self.hub, self.rotor, 0.0, whose="rotor")
        self.assertGreater(
            separate([*together, arbor]).hub.expanded_mm, separate([*apart, arbor]).hub.expanded_mm * 1.05
        )

    def test_what_a_further_sweep_is_worth(self) -> None:
        first = seen(self.hub, self.rotor, 0.0)
        half, third, same = expected_sds_mm([first], [seen(0j, 0j, index) for index in (180.0, 72.0, 0.0)])
        self.assertLess(half, third)
        self.assertEqual(same, np.inf)


def corner_of(*sweeps, spec=SPEC, position="FL", **evidence) -> Corner:
    return Corner(position=position, spec=spec, sweeps=sweeps, **evidence)


def verdict_on(*sweeps, **evidence):
    return diagnose_corner(corner_of(*sweeps, **evidence))


FIRST = sweep_of(wave(10, (0.10, 230.0)))
TURNED = sweep_of(wave(10, (0.06, 240.0)), index_deg=180.0)
EVEN = ThicknessRound(equal_stations_deg(8), np.array([140.0]), np.full((1, 8), 26.0), 0.001)


class OnACorner(TestCase):
    """From sweeps and quick readings to what is to blame and what to measure next."""

    def test_a_corner_says_it_in_words_and_asks_no_further(self) -> None:
        verdict = verdict_on(FIRST, TURNED)
        self.assertEqual([r.code for r in verdict.because][1:3], ["hub_carries", "rotor_carries"])
        self.assertEqual((verdict.separating, verdict.root_cause), (None, "hub_face_runout"))
        bare = sweep_of(wave(10, (0.03, 230.0)), radius=70.0, surface=Surface.HUB_FACE)
        self.assertAlmostEqual(verdict_on(FIRST, bare).measured.whose.hub.tir_mm, 0.06, delta=0.002)
        limited = replace(SPEC, max_hub_runout_mm=0.02, hub_runout_radius_mm=70.0)
        self.assertEqual(verdict_on(FIRST, bare, spec=limited).measured.hub_state.value, "over")

    def test_dirty_or_loose_sweeps_are_the_joint_only(self) -> None:
        for fault, of in (({"cleaned": False}, "dirt"), ({"nuts_torqued": False}, "nuts")):
            dirty = sweep_of(wave(10, (0.10, 230.0)), **fault)
            clean = sweep_of(wave(10, (0.03, 240.0)))
            verdict = verdict_on(dirty, clean, thickness=EVEN)
            self.assertEqual((verdict.measured.whose.hub, verdict.measured.whose.joint_of), (None, of))
            self.assertEqual(verdict.measured.runout.tir.value_mm.__round__(3), 0.03)
            self.assertEqual(verdict.root_cause, {"dirt": "joint_contamination", "nuts": "lug_torque"}[of])
            other = sweep_of(wave(10, (0.06, 240.0)), index_deg=180.0, **fault)
            self.assertIsNone(verdict_on(FIRST, other).measured.whose.hub)

    def test_quick_readings_take_part_and_are_wider(self) -> None:
        spots = tuple(
            HighSpot(Surface.ROTOR_OUTBOARD, 140.0, tir, high, 0.01, index_deg=index)
            for tir, high, index in ((0.10, 230.0, 0.0), (0.06, 240.0, 180.0))
        )
        quick, swept = verdict_on(high_spots=spots), verdict_on(FIRST, TURNED)
        self.assertAlmostEqual(
            quick.measured.whose.hub.tir_mm, swept.measured.whose.hub.tir_mm, delta=quick.measured.whose.hub.expanded_mm
        )
        self.assertGreater(quick.measured.whose.hub.expanded_mm, 2 * swept.measured.whose.hub.expanded_mm)
        self.assertTrue(verdict_on(FIRST, high_spots=spots[1:]).measured.whose.told_apart)

    def test_an_inboard_sweep_is_brought_to_the_outboard_face(self) -> None:
        runout, uneven = wave(12, (0.08, 200.0)), wave(12, (0.03, 20.0))
        inboard = sweep_of(-(runout - uneven), surface=Surface.ROTOR_INBOARD)
        miked = ThicknessRound(equal_stations_deg(12), np.array([140.0]), 26 + uneven[None, :], 0.001)
        measured, blind = verdict_on(inboard, thickness=miked), verdict_on(inboard)
        self.assertAlmostEqual(measured.measured.runout.tir.value_mm, 0.08, delta=0.002)
        self.assertAlmostEqual(measured.measured.runout.high_deg, 200, delta=1)
        self.assertAlmostEqual(blind.measured.runout.tir.value_mm, np.ptp(wave(360, (0.11, 200.0))), delta=0.004)
        self.assertGreater(blind.measured.runout.tir.expanded_mm, 2 * measured.measured.runout.tir.expanded_mm)
        turned = sweep_of(-(runout - np.roll(uneven, 4)), surface=Surface.ROTOR_INBOARD, index_deg=120.0)
        self.assertAlmostEqual(verdict_on(turned, thickness=miked).measured.runout.tir.value_mm, 0.08, delta=0.002)

    def test_the_best_separating_check_is_worked_out(self) -> None:
        checks = {
            "five studs": (SPEC, "turn_rotor_and_sweep", (144.0, 216.0)),
            "one way round": (replace(SPEC, index_positions=(0.0,)), "sweep_hub_face", (None,)),
            "small hub face": (
                replace(SPEC, index_positions=(0.0,), hub_runout_radius_mm=8.0),
                "arbor_sweep",
                (None,),
            ),
            "captive": (replace(SPEC, features=frozenset({"captive"})), None, (None,)),
        }
        for name, (spec, check, indices) in checks.items():
            with self.subTest(name):
                verdict = verdict_on(FIRST, thickness=EVEN, spec=spec)
                self.assertEqual(verdict.separating.check if verdict.separating else None, check)
                self.assertIn(verdict.separating.index_deg if verdict.separating else None, indices)

    def test_flagged_evidence_makes_the_verdict_provisional(self) -> None:
        self.assertEqual(verdict_on(FIRST, thickness=EVEN).provisional, ())
        for fault in ({"cleaned": False}, {"closing_mm": 0.2}, {"radius": 100.0}):
            self.assertTrue(verdict_on(sweep_of(wave(10, (0.10, 230.0)), **fault), thickness=EVEN).provisional)
        loose = replace(SPEC, max_bearing_play_mm=0.05)
        verdict = verdict_on(FIRST, spec=loose, bearing_play_mm=0.2)
        self.assertEqual((verdict.root_cause, verdict.provisional), ("wheel_bearing", ("bearing_over",)))

    def test_what_is_seen_beside_the_disc_is_said(self) -> None:
        spec = replace(SPEC, min_pad_mm=3.0, max_drum_diameter_mm=190.0, min_lining_mm=1.0)
        verdict = verdict_on(
            sweep_of(wave(10, (0.01, 0.0))),
            spec=spec,
            thickness=EVEN,
            pads=Pads(inner=(2.5, 2.6), outer=(6.0,)),
            drum=Drum(diameters_mm=(190.4,), linings_mm=(0.8,)),
            seen=frozenset({"rust_at_joint"}),
        )
        codes = [r.code for r in verdict.because]
        self.assertLessEqual({"pads_uneven", "pads_worn", "drum_over", "linings_worn", "seen"}, set(codes))

    def test_a_saddle_is_the_rotors_own(self) -> None:
        verdict = verdict_on(sweep_of(wave(16, (0.01, 0.0), (0.09, 30.0))), thickness=EVEN)
        self.assertEqual(verdict.root_cause, "rotor_runout")


class Accuracy(TestCase):
    """Over random corners U of hub, rotor and joint covers the truth about as often as it says."""

    def test_coverage_and_vectors(self) -> None:
        generator = np.random.default_rng(12)
        inside, off = [], []
        for k in range(150):
            truth = replace(random_corner(generator), joint=vector(abs(generator.normal(0, 0.04)), 33.0 * k))
            stations, dial = (8, 10, 12, 16)[k % 4], truth.dial(0.01, (0.5, 1.0)[k % 2])
            sweeps = [
                truth.sweep(generator, stations=stations, instrument=dial, tilt=truth.seat(generator), **how)
                for how in ({"cleaned": False}, {}, {"index_deg": 180.0})
            ]
            whose = verdict_on(*sweeps).measured.whose
            for part, true in ((whose.hub, truth.hub), (whose.rotor, truth.rotor), (whose.joint, truth.joint)):
                inside.append(abs(part.tir_mm - 2 * abs(true)) <= part.expanded_mm)
            off += [abs(whose.hub.vector - truth.hub), abs(whose.rotor.vector - truth.rotor)]
        self.assertGreater(np.mean(inside), 0.93)
        self.assertLess(np.mean(inside), 0.995)
        self.assertLess(np.mean(off), 0.002)
