"""One sweep: known harmonics in, the same out; faults of a sweep are named; U holds what it says."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from compass.evidence.records import HighSpot, Spec, Surface, Sweep
from compass.ground.angles import difference_deg, equal_stations_deg
from compass.ground.limits import State, against_lower, against_upper
from compass.ground.uncertainty import Budget, Estimate
from compass.measure.quick import quick_tir, quick_vector
from compass.measure.sweep import analyse_sweep
from compass.simulate.corner import random_corner

SPEC = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=25.4,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.012,
    measuring_radius_mm=140.0,
)


def sweep_of(readings, *, graduation=0.001, radius=140.0, **options) -> Sweep:
    readings = np.asarray(readings, dtype=float)
    return Sweep(
        surface=options.pop("surface", Surface.ROTOR_OUTBOARD),
        radius_mm=radius,
        stations_deg=equal_stations_deg(len(readings)),
        readings_mm=readings,
        graduation_mm=graduation,
        **options,
    )


def wave(stations: int, *orders: tuple[float, float]) -> np.ndarray:
    """Readings of orders 1, 2, … given as (TIR, crest)."""
    angles = equal_stations_deg(stations)
    return sum(tir / 2 * np.cos(np.radians(n * (angles - crest))) for n, (tir, crest) in enumerate(orders, 1))


AMOUNTS = st.floats(0.02, 0.3)
CRESTS = st.floats(0, 359.99)


class KnownHarmonics(TestCase):
    """Least squares gives back what went in."""

    @settings(max_examples=40, deadline=None)
    @given(st.integers(8, 24), AMOUNTS, CRESTS, st.floats(0.005, 0.05), CRESTS, st.floats(-1, 1))
    def test_wobble_and_saddle_come_back(self, stations, tir, high, saddle, crest, level) -> None:
        result = analyse_sweep([sweep_of(level + wave(stations, (tir, high), (saddle, crest)))], spec=SPEC)
        self.assertAlmostEqual(result.wobble_mm, tir, places=9)
        self.assertAlmostEqual(difference_deg(result.high_deg, high), 0, places=5)
        self.assertAlmostEqual(result.saddle_mm, saddle, places=9)
        self.assertLess(
            abs(result.tir.value_mm - np.ptp(wave(720, (tir, high), (saddle, crest)))), result.tir.expanded_mm
        )

    @settings(max_examples=25, deadline=None)
    @given(st.sampled_from([5, 8, 10, 12]), st.integers(1, 11), st.integers(0, 2**32 - 1))
    def test_turning_the_readings_turns_the_high_spot_and_nothing_else(self, stations, steps, seed) -> None:
        generator = np.random.default_rng(seed)
        readings = wave(stations, (0.08, 77.0)) + generator.normal(0, 0.002, stations)
        here = analyse_sweep([sweep_of(readings)], spec=SPEC)
        there = analyse_sweep([sweep_of(np.roll(readings, steps))], spec=SPEC)
        turned = difference_deg(there.high_deg, here.high_deg)
        self.assertAlmostEqual(difference_deg(turned, steps * 360 / stations), 0, places=5)
        for name in ("wobble_mm", "station_range_mm"):
            self.assertAlmostEqual(getattr(here, name), getattr(there, name), places=9)
        self.assertAlmostEqual(here.tir.value_mm, there.tir.value_mm, places=6)
        self.assertAlmostEqual(here.tir.expanded_mm, there.tir.expanded_mm, places=6)

    def test_stations_alone_under_read_and_the_tir_does_not(self) -> None:
        # Five stations with the high spot between two of them: 1 − cos 36° is lost on that side.
        readings = wave(5, (0.1, 36.0))
        result = analyse_sweep([sweep_of(readings)], spec=SPEC)
        self.assertLess(np.ptp(readings), 0.0951)
        self.assertAlmostEqual(result.tir.value_mm, 0.1, delta=0.004)

    def test_a_smaller_radius_is_scaled_to_where_the_limit_is_judged(self) -> None:
        result = analyse_sweep([sweep_of(wave(12, (0.06, 30.0)), radius=120.0)], spec=SPEC)
        self.assertAlmostEqual(result.wobble_mm, 0.06 * 140 / 120, places=9)

    def test_the_inboard_face_turns_its_sign(self) -> None:
        readings = wave(12, (0.06, 30.0))
        result = analyse_sweep([sweep_of(readings, surface=Surface.ROTOR_INBOARD)], spec=SPEC)
        self.assertAlmostEqual(difference_deg(result.high_deg, 210.0), 0, places=6)

    def test_drift_seen_by_the_closing_reading_is_taken_off(self) -> None:
        readings = wave(12, (0.08, 120.0))
        drift = 0.012
        swept = sweep_of(readings + drift * np.arange(12) / 12, closing_mm=float(readings[0]) + drift)
        closed = analyse_sweep([swept], spec=SPEC)
        blind = analyse_sweep([replace(swept, closing_mm=None)], spec=SPEC)
        self.assertAlmostEqual(closed.drift_mm, drift, delta=0.001)
        self.assertLess(abs(closed.tir.value_mm - 0.08), abs(blind.tir.value_mm - 0.08))

    def test_more_turns_make_u_smaller(self) -> None:
        generator = np.random.default_rng(3)
        turns = [sweep_of(wave(10, (0.05, 10.0)) + generator.normal(0, 0.003, 10)) for _ in range(5)]
        one = analyse_sweep(turns[:1], spec=SPEC)
        five = analyse_sweep(turns, spec=SPEC)
        self.assertLess(five.tir.expanded_mm, one.tir.expanded_mm)
        self.assertAlmostEqual(five.repeatability_mm, 0.003, delta=0.001)


class Faults(TestCase):
    """Refused or flagged, at the moment it can still be put right."""

    def flags(self, *sweeps: Sweep) -> set[str]:
        return {flag.partition(":")[0] for flag in analyse_sweep(sweeps, spec=SPEC).flags}

    def test_each_flag_at_its_edge(self) -> None:
        clean = wave(10, (0.06, 40.0))
        start = float(clean[0])
        cases = {
            "dial_too_coarse": (sweep_of(clean, graduation=0.013), sweep_of(clean, graduation=0.0125)),
            "tip_too_far_in": (sweep_of(clean, radius=111.9), sweep_of(clean, radius=112.0)),
            "clamp_moved": (sweep_of(clean, closing_mm=start + 0.0101), sweep_of(clean, closing_mm=start + 0.0099)),
            "joint_not_cleaned": (sweep_of(clean, cleaned=False), sweep_of(clean)),
            "nuts_not_torqued": (sweep_of(clean, nuts_torqued=False), sweep_of(clean)),
            "too_few_stations": (sweep_of(clean[:3]), sweep_of(clean[:4])),
        }
        for flag, (bad, good) in cases.items():
            with self.subTest(flag=flag):
                self.assertIn(flag, self.flags(bad))
                self.assertNotIn(flag, self.flags(good))

    def test_turns_that_disagree(self) -> None:
        clean = wave(10, (0.06, 40.0))
        other = wave(10, (0.03, 150.0))
        self.assertIn("turns_disagree", self.flags(sweep_of(clean), sweep_of(other)))
        self.assertNotIn("turns_disagree", self.flags(sweep_of(clean), sweep_of(clean + 0.4)))

    def test_several_slots_cannot_hide_each_other(self) -> None:
        readings = wave(24, (0.06, 40.0))
        readings[[3, 11, 17]] += (0.05, -0.06, 0.05)
        result = analyse_sweep([sweep_of(readings)], spec=SPEC)
        self.assertEqual(result.jumps_deg, (45.0, 165.0, 255.0))
        self.assertAlmostEqual(result.tir.value_mm, 0.06, delta=0.003)
        slotted = replace(SPEC, features=frozenset({"slotted"}))
        self.assertEqual(analyse_sweep([sweep_of(readings)], spec=slotted).flags, ())

    def test_a_pad_wide_patch_is_real_and_counts(self) -> None:
        angles = equal_stations_deg(24)
        patch = 0.03 * np.exp(-0.5 * ((angles - 90) / 15) ** 2)
        result = analyse_sweep([sweep_of(wave(24, (0.02, 270.0)) + patch)], spec=SPEC)
        self.assertEqual(result.jumps_deg, ())
        self.assertAlmostEqual(result.tir.value_mm, np.ptp(wave(720, (0.02, 270.0)) + 0.03 * np.exp(
            -0.5 * ((equal_stations_deg(720) - 90) / 15) ** 2)), delta=result.tir.expanded_mm)  # fmt: skip

    def test_too_few_stations_are_an_answer_not_an_exception(self) -> None:
        for count in (1, 2, 3):
            result = analyse_sweep([sweep_of(np.zeros(count))], spec=SPEC)
            self.assertIsNone(result.tir)

    def test_perfect_readings_of_a_coarse_dial_are_not_certain(self) -> None:
        result = analyse_sweep([sweep_of(np.zeros(8), graduation=0.05)], spec=SPEC)
        self.assertGreater(result.tir.expanded_mm, 0.01)


class States(TestCase):
    """Three states, at their edges."""

    def estimate(self, value: float, u: float) -> Estimate:
        return Estimate(value, u, Budget(0, 0, 0, 0))

    @given(st.floats(0, 1), st.floats(0, 0.5), st.floats(0.01, 1))
    def test_upper_limit(self, value: float, u: float, limit: float) -> None:
        assume(abs(value + u - limit) > 1e-9 and abs(value - u - limit) > 1e-9)
        expected = State.WITHIN if value + u < limit else State.OVER if value - u > limit else State.TOO_CLOSE
        self.assertEqual(against_upper(self.estimate(value, u), limit), expected)

    def test_lower_limit(self) -> None:
        states = [against_lower(self.estimate(value, 0.01), 25.4) for value in (25.41, 25.4, 25.38)]
        self.assertEqual(states, [State.ABOVE, State.TOO_CLOSE, State.BELOW])
        self.assertEqual(against_lower(None, 25.4), State.UNKNOWN)


class QuickReading(TestCase):
    """Amount and place only."""

    def test_is_scaled_and_wider_than_a_sweep(self) -> None:
        spot = HighSpot(Surface.ROTOR_OUTBOARD, radius_mm=120, tir_mm=0.06, high_deg=370, graduation_mm=0.01)
        estimate = quick_tir(spot, spec=SPEC)
        self.assertAlmostEqual(estimate.value_mm, 0.07)
        vector, covariance = quick_vector(spot, spec=SPEC)
        self.assertAlmostEqual(np.degrees(np.angle(vector)), 10)
        self.assertLess(abs(vector), 0.035)
        self.assertGreater(np.sqrt(np.linalg.eigvalsh(covariance).max()), 0.004)
        self.assertGreater(estimate.expanded_mm, 0.008)


class Coverage(TestCase):
    """Over many seeded random corners U covers the truth about as often as it says."""

    def test_u_of_the_tir_covers(self) -> None:
        generator = np.random.default_rng(20_26)
        inside, widths, errors = [], [], []
        for k in range(400):
            corner = random_corner(generator)
            stations = (5, 8, 10, 12, 16, 24)[k % 6]
            graduation, read_to = ((0.01, 0.5), (0.01, 1.0), (0.002, 1.0), (0.001, 1.0))[k % 4]
            swept = corner.sweep(
                generator, stations=stations, instrument=corner.dial(graduation, read_to), closing=k % 3 > 0
            )
            tir = analyse_sweep([swept], spec=SPEC).tir
            truth = corner.true_tir_mm()
            inside.append(abs(tir.value_mm - truth) <= tir.expanded_mm)
            widths.append(tir.expanded_mm)
            errors.append(tir.value_mm - truth)
        # 400 draws of 95 % have a standard deviation of 1.1 %
        self.assertGreater(np.mean(inside), 0.925)
        self.assertLess(np.mean(inside), 0.99)
        self.assertLess(np.mean(widths), 0.0105)
        self.assertLess(abs(np.mean(errors)), 0.001)
