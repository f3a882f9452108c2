"""The simulated corner: truth behaves as the conventions say, instruments as instruments do."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.evidence.records import Corner
from compass.ground.angles import difference_deg, equal_stations_deg, tir_and_high, vector
from compass.measure.sweep import analyse_sweep
from compass.simulate.corner import Patch, SimulatedCorner, Wave, random_corner, worn_by_runout
from compass.tests.test_sweep import SPEC

STILL = SimulatedCorner(radius_mm=140, nominal_mm=26.0, hub=vector(0.08, 30), rotor=vector(0.05, 200), noise_mm=0.0)


class Truth(TestCase):
    """What turns with the rotor and what stays."""

    def test_the_hub_stays_and_the_rotor_turns(self) -> None:
        for index in (0.0, 72.0, 180.0):
            swept = STILL.sweep(np.random.default_rng(1), stations=12, instrument=STILL.dial(0.0001), index_deg=index)
            result = analyse_sweep([swept], spec=SPEC)
            turned = STILL.rotor * np.exp(1j * np.radians(index))
            tir, high = tir_and_high(complex(STILL.hub + turned))
            self.assertAlmostEqual(result.wobble_mm, tir, delta=0.0003)
            self.assertLess(abs(difference_deg(result.high_deg, high)), 0.5)

    def test_dirt_and_nuts_are_gone_when_cleaned_and_torqued(self) -> None:
        dirty = replace(STILL, joint=vector(0.06, 100), nuts=vector(0.03, 300))
        angles = equal_stations_deg(36)
        np.testing.assert_allclose(dirty.runout_mm(angles), STILL.runout_mm(angles))
        self.assertGreater(np.abs(dirty.runout_mm(angles, cleaned=False) - STILL.runout_mm(angles)).max(), 0.02)

    def test_wear_stands_where_the_runout_rubs(self) -> None:
        worn = worn_by_runout(replace(STILL, rotor=0j), depth_mm=0.03)
        angles = equal_stations_deg(360)
        thinnest = angles[int(np.argmin(worn.thickness_mm(angles)))]
        self.assertLess(abs(difference_deg(float(thinnest), 30)), 5)
        self.assertAlmostEqual(worn.true_variation_mm(), 0.0375, delta=0.004)

    def test_readings_are_rounded_to_what_the_eye_reads(self) -> None:
        swept = STILL.sweep(np.random.default_rng(1), stations=10, instrument=STILL.dial(0.01, 0.5))
        steps = swept.readings_mm / 0.005
        np.testing.assert_allclose(steps, np.round(steps), atol=1e-9)

    def test_the_same_seed_gives_the_same_corner(self) -> None:
        self.assertEqual(random_corner(np.random.default_rng(9)), random_corner(np.random.default_rng(9)))


class Calls(TestCase):
    """Over random corners: hardly a wrong call, and the rules are never broken."""

    def test_wrong_calls_are_rare_and_rules_hold(self) -> None:
        generator = np.random.default_rng(77)
        wrong = 0
        for k in range(250):
            truth = random_corner(generator)
            worn = k % 10 == 0
            spec = replace(SPEC, discard_thickness_mm=truth.nominal_mm + 1 if worn else 20.0)
            corner = Corner(
                position="FL",
                spec=spec,
                sweeps=(truth.sweep(generator, stations=10, instrument=truth.dial(0.01, 0.5), cleaned=k % 4 > 0),),
                thickness=truth.micrometer_round(generator, stations=10),
            )
            verdict = diagnose_corner(corner)
            over = truth.true_tir_mm(cleaned=k % 4 > 0) > spec.max_runout_mm
            state = verdict.measured.runout.state.value
            wrong += (state == "over" and not over) or (state == "within" and over)
            self.assertEqual(verdict.do_not_drive, worn)
            if worn:
                self.assertEqual(verdict.recommended, "new_rotors")
            elif k % 4 == 0 and state != "within":
                self.assertEqual(verdict.recommended, "clean_and_torque")
            if verdict.root_cause == "none_found":
                self.assertEqual((state, verdict.measured.thickness.state_variation.value), ("within", "within"))
        self.assertLessEqual(wrong, 3)

    def test_a_patch_is_thickness_variation_not_noise(self) -> None:
        truth = replace(
            STILL, hub=0j, rotor=0j, thickness=(Wave(2, 0.001, 0.0),), thickness_patches=(Patch(-0.025, 180, 40),)
        )
        measured = truth.micrometer_round(np.random.default_rng(3), stations=12)
        verdict = diagnose_corner(Corner(position="FL", spec=SPEC, thickness=measured))
        self.assertEqual(verdict.measured.thickness.state_variation.value, "over")
