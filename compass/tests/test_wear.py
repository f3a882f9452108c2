"""What made the variation, and how long the metal lasts."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.evidence.records import Corner
from compass.ground.angles import equal_stations_deg, vector
from compass.ground.errors import EvidenceError
from compass.measure.wear_pattern import MadeBy, wear_pattern
from compass.measure.wear_rate import Metal, falls, life, unswept_edge
from compass.simulate.corner import Patch, SimulatedCorner, Wave, worn_by_runout
from compass.tests.test_sweep import SPEC

ANGLES = equal_stations_deg(12)
RUNOUT = 0.05 * np.cos(np.radians(ANGLES - 60))
MILKED = SimulatedCorner(radius_mm=140.0, nominal_mm=24.0, hub=vector(0.1, 80.0), thickness=(Wave(2, 0.0005, 20.0),))


class Patterns(TestCase):
    """Thin where a face rubs, or in one patch."""

    def test_rubbing_on_either_face_or_both(self) -> None:
        out, inward = np.maximum(0, RUNOUT), np.maximum(0, -RUNOUT)
        for worn, outboard, inboard in ((out, 0.02, 0), (inward, 0, 0.02), (out + inward, 0.02, 0.02)):
            pattern = wear_pattern(ANGLES, 24 - 0.4 * worn, RUNOUT, u_mm=0.0005)
            self.assertIs(pattern.made_by, MadeBy.RUNOUT)
            self.assertAlmostEqual(pattern.outboard_mm, outboard, delta=0.003)
            self.assertAlmostEqual(pattern.inboard_mm, inboard, delta=0.003)
        # two thin places a turn: order 1 alone would have seen nothing
        self.assertLess(abs(np.sum((out + inward) * np.exp(1j * np.radians(ANGLES)))), 1e-6)

    def test_one_patch_is_a_patch_with_or_without_runout(self) -> None:
        for centre in (150.0, 330.0):
            away = (ANGLES - centre + 180) % 360 - 180
            patched = 24 - 0.02 * np.exp(-0.5 * (away / 22) ** 2)
            for runout in (RUNOUT, 0 * RUNOUT):
                pattern = wear_pattern(ANGLES, patched, runout, u_mm=0.0005)
                self.assertIs(pattern.made_by, MadeBy.PATCH)
                self.assertAlmostEqual(pattern.patch_deg, centre, delta=10)

    def test_a_lobe_as_wide_as_some_runout_rubs_is_no_patch_where_none_stands(self) -> None:
        lobe = 24 - 0.02 * np.maximum(0, np.cos(np.radians(ANGLES - 150)))
        for runout in (0 * RUNOUT, RUNOUT):  # nobody swept; it runs out elsewhere
            pattern = wear_pattern(ANGLES, lobe, runout, u_mm=0.0005)
            self.assertTrue(pattern.like_runout and not pattern.narrow)
            self.assertIs(pattern.made_by, MadeBy.UNCLEAR)
        proud = wear_pattern(ANGLES, 48 - lobe, 0 * RUNOUT, u_mm=0.0005)  # no rubbing makes metal
        self.assertFalse(proud.like_runout)

    def test_noise_and_steps_are_no_pattern(self) -> None:
        generator, patterned = np.random.default_rng(4), 0
        for _ in range(400):
            noise = np.round(generator.normal(24, 0.006, 12) / 0.01) * 0.01
            patterned += wear_pattern(
                ANGLES, noise, 0 * RUNOUT, u_mm=math.hypot(0.006, 0.01 / math.sqrt(12))
            ).beyond_noise
        self.assertLess(patterned, 40)  # one in twenty is meant

    def test_neither_is_said_to_be_unclear(self) -> None:
        saddle = 24 + 0.01 * np.cos(np.radians(2 * ANGLES + 30))
        self.assertIs(wear_pattern(ANGLES, saddle, 0 * RUNOUT, u_mm=0.0005).made_by, MadeBy.UNCLEAR)
        self.assertIs(wear_pattern(ANGLES, np.full(12, 24.0), RUNOUT, u_mm=0.0005).made_by, MadeBy.UNCLEAR)

    def test_the_rotor_may_have_been_turned_before_it_was_miked(self) -> None:
        generator = np.random.default_rng(8)
        worn = worn_by_runout(MILKED, depth_mm=0.03)
        patched = replace(MILKED, thickness_patches=(Patch(-0.03, 170.0, 40.0),))
        for truth, made_by in ((worn, MadeBy.RUNOUT), (patched, MadeBy.PATCH)):
            for index_deg in (0.0, 144.0):
                corner = Corner(
                    position="FL",
                    spec=SPEC,
                    sweeps=(truth.sweep(generator, stations=10, instrument=truth.dial(0.01, 0.5)),),
                    thickness=truth.micrometer_round(generator, stations=10, index_deg=index_deg),
                )
                self.assertIs(diagnose_corner(corner).measured.thickness.made_by, made_by)


class Life(TestCase):
    """Millimetres over distance."""

    def test_two_thicknesses_give_rate_and_distance_left(self) -> None:
        worn = life([Metal(0, 28.0, 0.005), Metal(40_000, 26.4, 0.005)], {"discard": 25.4, "machine_to": 26.4})
        self.assertAlmostEqual(worn.rate_mm, 0.04)
        self.assertAlmostEqual(worn.expanded_rate_mm, 2 * 0.005 * math.sqrt(2) / 40, places=6)
        left = worn.to["discard"]
        self.assertAlmostEqual(left.middle_km, 25_000, delta=100)
        self.assertLess(left.low_km, left.middle_km)
        self.assertLess(worn.to["machine_to"].low_km, 200)

    def test_an_uncertain_original_widens_it(self) -> None:
        edge, u_mm = unswept_edge(28.0)
        sure = life([Metal(0, 28.0, 0.005), Metal(20_000, 27.2, 0.005)], {"discard": 25.4})
        guessed = life([Metal(0, edge, u_mm), Metal(20_000, 27.2, 0.005)], {"discard": 25.4})
        self.assertGreater(guessed.expanded_rate_mm, 4 * sure.expanded_rate_mm)
        spread, least = (life.to["discard"].high_km - life.to["discard"].low_km for life in (guessed, sure))
        self.assertGreater(spread, 1.1 * least)
        # even with both thicknesses known, nobody knows how it will be driven
        self.assertGreater(least, 0.2 * sure.to["discard"].middle_km)

    def test_what_cannot_be_told_is_not_told(self) -> None:
        self.assertIsNone(life([Metal(0, 28.0, 0.01)], {"discard": 25.4}))
        none_worn = life([Metal(0, 28.0, 0.001), Metal(9000, 28.0, 0.001)], {"discard": 25.4}).to["discard"]
        self.assertEqual(none_worn.high_km, math.inf)
        under = life([Metal(0, 28.0, 0.001), Metal(9000, 25.0, 0.001)], {"discard": 25.4}).to["discard"]
        self.assertEqual(under.middle_km, 0.0)
        self.assertTrue(falls([Metal(0, 28.0, 0.01), Metal(9, 27.0, 0.01)]))
        self.assertFalse(falls([Metal(0, 26.0, 0.01), Metal(9, 28.0, 0.01)]))
        with self.assertRaises(EvidenceError):
            Metal(-1, 28.0, 0.01)
