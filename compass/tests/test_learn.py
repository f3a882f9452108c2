"""Learning from a workshop's own jobs: refits recover what made the data, a handful of jobs does not throw them."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.cause.corner import measure_corner
from compass.evidence.records import Corner, Spec, WearRate
from compass.evidence.shop import GROWTH_MM, Shop
from compass.ground.errors import EvidenceError
from compass.ground.uncertainty import Estimate
from compass.learn.came_true import held, share_of
from compass.learn.refits import (
    Grown,
    refit_growth,
    refit_lathe,
    refit_minutes,
    refit_new_rotors,
    refit_seating,
    seating_grid_mm,
    seating_likelihood,
)
from compass.learn.study import drift, study
from compass.measure.analysed import analyse_all, vectors
from compass.measure.separation import SEATING
from compass.prove.check_back import LATEST_KM, After, check_back
from compass.simulate.corner import SimulatedCorner, worn_by_runout

SPEC = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=20,
    max_runout_mm=0.08,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=130,
)


def _seats(g: np.random.Generator, *, times: float, discs: int) -> list[np.ndarray]:
    """Sweep simulated discs at three indices, each mounting moved by the mixture, ``times`` the usual amount."""
    told = []
    weights = np.array([w for _s, w in SEATING])
    for _ in range(discs):
        disc = SimulatedCorner(
            radius_mm=130,
            nominal_mm=24,
            hub=complex(*g.normal(0, 0.01, 2)),
            rotor=complex(*g.normal(0, 0.01, 2)),
            noise_mm=0.0008,
        )
        usual = times * SEATING[g.choice(len(SEATING), p=weights)][0]
        sweeps = tuple(
            disc.sweep(
                g,
                stations=10,
                instrument=disc.dial(0.002, 0.5),
                index_deg=72.0 * k,
                tilt=complex(*g.normal(0, usual / 2 / 2**0.5, 2)),
            )
            for k in range(3)
        )
        corner = Corner("FL", SPEC, sweeps)
        told.append(seating_likelihood(vectors(tuple(analyse_all(corner, None)), spec=SPEC)))
    return told


def _read(g: np.random.Generator, disc: SimulatedCorner) -> tuple[Estimate, Estimate]:
    """Sweep and mike a simulated disc: its runout and its variation as the core finds them."""
    swept = disc.sweep(g, stations=10, instrument=disc.dial(0.01, 0.5))
    miked = replace(disc, noise_mm=0.0007).micrometer_round(g, stations=10)
    measured = measure_corner(Corner("FL", SPEC, (swept,), thickness=miked))
    return measured.runout.tir, measured.thickness.result.variation


class Refits(unittest.TestCase):
    def test_seating_is_recovered_from_300_simulated_discs(self) -> None:
        for times, discs in ((2.0, 300), (0.7, 60)):
            refit = refit_seating(_seats(np.random.default_rng(14), times=times, discs=discs))
            self.assertEqual(refit.pairs, discs)
            self.assertLess(refit.low, 0.002 * times)
            self.assertGreater(refit.high, 0.002 * times)
            self.assertLess(refit.high / refit.low, 1.8 if discs == 300 else 2.5, "so many discs say much")

    def test_a_corner_without_redundancy_says_nothing_of_seating(self) -> None:
        self.assertFalse(seating_likelihood([]).any())
        self.assertEqual(len(seating_grid_mm()), len(seating_likelihood([])))

    def test_growth_and_quiet_runout_are_recovered_from_300_discs_met_again(self) -> None:
        """Each interval is to hold its truth nine times of ten: of twelve at least nine."""
        holds = 0
        for seed, (growth, quiet) in enumerate([(0.04, 0.03), (0.07, 0.02), (0.025, 0.045)] * 2):
            g = np.random.default_rng(seed)
            grown = []
            for _ in range(300):
                runout, then, km = g.uniform(0.0, 0.11), g.uniform(0, 0.006), g.uniform(2_000, 18_000)
                driven = g.lognormal(-0.02, 0.2)
                now = then + growth * max(0.0, runout - quiet) * km / 1000 * driven
                read = runout + g.normal(0, 0.003), then + g.normal(0, 0.001), now + g.normal(0, 0.001)
                grown.append(Grown(read[0], 0.003, read[1], 0.001, read[2], 0.001, km))
            of_growth, of_quiet = refit_growth(grown)
            holds += (of_growth.low < growth < of_growth.high) + (of_quiet.low < quiet < of_quiet.high)
            self.assertLess(of_growth.high / of_growth.low, 1.5)
            self.assertAlmostEqual(of_growth.now, growth, delta=0.15 * growth)
        self.assertGreaterEqual(holds, 9)

    def test_growth_is_recovered_from_300_simulated_discs_that_were_swept_and_miked(self) -> None:
        """The whole way: hidden discs, read after the work, worn where they rub, read again by dial and micrometer."""
        g, growth, quiet = np.random.default_rng(8), 0.06, 0.025
        grown = []
        for _ in range(300):
            disc = SimulatedCorner(
                radius_mm=130,
                nominal_mm=24,
                rotor=complex(*g.normal(0, 0.018, 2)),
                noise_mm=0.0012,
            )
            km = float(g.uniform(3_000, 15_000))
            depth = growth * max(0.0, disc.true_tir_mm() - quiet) * km / 1000 * float(g.lognormal(-0.02, 0.2))
            # What is worn where it rubs is a quarter deeper in the middle of the patch (compass.simulate.corner).
            later = worn_by_runout(disc, depth_mm=0.8 * depth)
            tir, then = _read(g, disc)
            _tir, now = _read(g, later)
            u = (estimate.expanded_mm / 2 for estimate in (tir, then, now))
            grown.append(Grown(tir.value_mm, next(u), then.value_mm, next(u), now.value_mm, next(u), km))
        of_growth, of_quiet = refit_growth(grown)
        self.assertTrue(of_growth.low < growth < of_growth.high, of_growth)
        self.assertTrue(of_quiet.low < quiet < of_quiet.high, of_quiet)

    def test_a_handful_of_jobs_does_not_throw_a_figure(self) -> None:
        wild = [Grown(0.09, 0.002, 0.0, 0.001, 0.2, 0.001, 5_000)] * 2  # seventeen times our growth
        refit, _quiet = refit_growth(wild)
        self.assertLess(refit.now, 6 * GROWTH_MM)
        self.assertLess(refit_minutes(40, [400.0]).now, 120)
        self.assertEqual(refit_minutes(40, []).data, None)
        alike = refit_minutes(12, [10.0] * 36)
        self.assertAlmostEqual(alike.data, 10.0, delta=0.01)  # and no step of a grid beside it
        self.assertTrue(alike.data < alike.now < alike.prior)
        self.assertAlmostEqual(refit_minutes(40, []).now, 40, delta=0.5)

    def test_lathe_minutes_and_new_rotors_are_recovered(self) -> None:
        g = np.random.default_rng(3)
        left = refit_lathe(0.008, list(0.016 * (1 + g.uniform(-0.3, 0.3, 60))), [0.001] * 60)
        self.assertTrue(left.low < 0.016 < left.high, left)
        minutes = refit_minutes(35, list(50 * g.lognormal(0, 0.3, 40)))
        self.assertTrue(minutes.low < 50 < minutes.high, minutes)
        rotors = refit_new_rotors(0.03, list(g.uniform(0, 0.055, 80) + g.normal(0, 0.001, 80)), [0.001] * 80)
        self.assertTrue(rotors.low < 0.055 < rotors.high, rotors)


class CameTrue(unittest.TestCase):
    def test_the_ones_not_yet_back_count(self) -> None:
        # By hand: at 4,000 of 5 followed 1 returns (0.8); one leaves at 6,000; at 8,000 of 3 one returns (0.8 × 2/3).
        told = held([4_000, 8_000], [6_000, 10_000, 12_000])
        self.assertAlmostEqual(told.at(3_999), 1.0)
        self.assertAlmostEqual(told.at(5_000), 0.8)
        self.assertAlmostEqual(told.at(9_000), 0.8 * 2 / 3)
        self.assertIsNone(held([], [5_000]))

    def test_a_share_of_nothing_claims_nothing(self) -> None:
        self.assertEqual((share_of(0, 0).share, share_of(0, 0).low, share_of(0, 0).high), (None, 0.0, 1.0))
        few, many = share_of(3, 4), share_of(300, 400)
        self.assertGreater(few.high - few.low, 5 * (many.high - many.low))


class Studies(unittest.TestCase):
    def test_a_study_by_hand(self) -> None:
        """Two persons, two parts, two turns: the second reads 2 more, the second part is 10 thicker, turns ±1."""
        readings = np.array([[[0.0, 2.0], [10.0, 12.0]], [[2.0, 4.0], [12.0, 14.0]]])
        told = study(readings)
        # No interaction: error pooled = 8/5 (ss 8, dof 4 + 1). person: (8 − 1.6)/4, part: (200 − 1.6)/4.
        self.assertAlmostEqual(told.dial_mm**2, 1.6)
        self.assertAlmostEqual(told.person_mm**2, (8 - 1.6) / 4)
        self.assertAlmostEqual(told.part_mm**2, (200 - 1.6) / 4)

    @given(st.integers(0, 10_000))
    @settings(max_examples=25, deadline=None)
    def test_what_made_the_spread_is_named(self, seed: int) -> None:
        g = np.random.default_rng(seed)
        persons, parts = np.array([-0.004, 0.0, 0.004]), g.normal(0, 0.02, 10)
        readings = persons[:, None, None] + parts[None, :, None] + g.normal(0, 0.001, (3, 10, 3))
        told = study(readings)
        self.assertAlmostEqual(told.dial_mm, 0.001, delta=0.0005)
        self.assertAlmostEqual(told.person_mm, 0.004, delta=0.0008)
        self.assertAlmostEqual(sum(told.shares.values()), 1.0)

    def test_an_incomplete_study_is_refused(self) -> None:
        for shape in ((1, 3, 2), (2, 2, 1)):
            with self.assertRaises(EvidenceError):
                study(np.zeros(shape))

    def test_drift_is_told_from_noise(self) -> None:
        days = np.array([0.0, 180, 365, 540, 730])
        steady = drift(days, np.array([0.001, -0.001, 0.0, 0.001, -0.001]), limit_mm=0.01)
        self.assertFalse(steady.drifts)
        self.assertIsNone(steady.days_left)
        moving = drift(days, days / 365 * 0.003 + np.array([1, -1, 1, -1, 1]) * 1e-4, limit_mm=0.01)
        self.assertAlmostEqual(moving.per_year_mm, 0.003, delta=0.0003)
        self.assertAlmostEqual(moving.days_left, (0.01 - 0.006) / 0.003 * 365, delta=40)
        self.assertIsNone(drift(days[:2], days[:2], limit_mm=0.01))


class CheckBack(unittest.TestCase):
    def test_a_disc_that_runs_out_is_looked_at_before_it_is_felt(self) -> None:
        """By hand: 0.08 runs 0.05 over, grows 0.002 a 1,000 km, from 0.004 to 0.020 in 8,000 km."""
        after = After(Estimate(0.08, 1e-6), Estimate(0.004, 1e-6))
        told = check_back([after], shop=Shop(), daily_km=80)
        self.assertEqual((told.km, told.why, told.days), (7_900.0, "felt", 98))
        unsure = check_back([After(Estimate(0.08, 0.02), Estimate(0.004, 0.004))], shop=Shop())
        self.assertLess(unsure.km, told.km)
        self.assertLessEqual(unsure.chance, 0.1)

    def test_a_true_disc_is_looked_at_once_in_a_while_and_while_there_is_metal(self) -> None:
        true = After(Estimate(0.01, 0.004), Estimate(0.002, 0.001))
        self.assertEqual(check_back([true], shop=Shop()).why, "latest")
        # By hand: 0.10 − 0.01 over discard, lost at 0.014 a 1,000 km at the most: 6,428 km.
        worn = After(true.runout, true.variation, Estimate(20.1, 0.01), WearRate(0.012, 0.002), 20.0)
        self.assertEqual(check_back([true, worn], shop=Shop()).km, 6_400)
        self.assertEqual(check_back([], shop=Shop()).km, LATEST_KM)
        self.assertEqual(check_back([true, After(None, None)], shop=Shop()), check_back([true], shop=Shop()))

    def test_what_this_workshop_has_learnt_counts(self) -> None:
        after = After(Estimate(0.08, 1e-6), Estimate(0.004, 1e-6))
        self.assertEqual(check_back([after], shop=Shop(growth_mm=0.08)).km, 3_900.0)
