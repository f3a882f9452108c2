"""A round of thickness."""

from unittest import TestCase

import numpy as np

from compass.cause.corner import diagnose_corner
from compass.evidence.records import Corner, OverLips, ThicknessRound
from compass.ground.angles import difference_deg, equal_stations_deg
from compass.measure.thickness import analyse_thickness
from compass.simulate.corner import random_corner
from compass.tests.test_sweep import SPEC


def round_of(rows, *, graduation=0.001, radii=(140.0,), **options) -> ThicknessRound:
    rows = np.atleast_2d(np.asarray(rows, dtype=float))
    return ThicknessRound(
        stations_deg=equal_stations_deg(rows.shape[1]),
        radii_mm=np.array(radii),
        readings_mm=rows,
        graduation_mm=graduation,
        **options,
    )


class Rounds(TestCase):
    """Minimum, variation, taper."""

    def test_a_hand_checked_round(self) -> None:
        angles = equal_stations_deg(12)
        rows = [26.40 + 0.010 * np.cos(np.radians(angles - 40)), 26.46 + 0.002 * np.cos(np.radians(angles))]
        result = analyse_thickness(round_of(rows, radii=(145.0, 100.0)), spec=SPEC)
        self.assertAlmostEqual(result.minimum.value_mm, 26.390, delta=0.001)
        self.assertAlmostEqual(result.variation.value_mm, 0.020, delta=0.001)
        self.assertAlmostEqual(result.taper_mm, 0.06, places=6)
        self.assertLess(abs(difference_deg(result.minimum_deg, 220)), 6)

    def test_over_lips_takes_both_off_and_widens_the_minimum_only(self) -> None:
        readings = np.full(10, 27.70)
        plain = analyse_thickness(round_of(readings - 1.3), spec=SPEC)
        lips = analyse_thickness(round_of(readings, over_lips=OverLips(0.6, 0.7)), spec=SPEC)
        self.assertAlmostEqual(lips.minimum.value_mm, plain.minimum.value_mm, delta=0.002)
        self.assertGreater(lips.minimum.expanded_mm, 0.06)
        self.assertAlmostEqual(lips.variation.expanded_mm, plain.variation.expanded_mm)

    def test_an_error_limit_is_an_offset(self) -> None:
        readings = 26.4 + 0.01 * np.cos(np.radians(equal_stations_deg(10)))
        sure = analyse_thickness(round_of(readings), spec=SPEC)
        doubtful = analyse_thickness(round_of(readings, instrument_error_mm=0.02), spec=SPEC)
        self.assertGreater(doubtful.minimum.expanded_mm, 0.015)
        self.assertEqual(doubtful.variation, sure.variation)

    def test_a_coarse_micrometer_is_flagged_and_never_calls_a_perfect_disc_uneven(self) -> None:
        generator = np.random.default_rng(5)
        over = 0
        for _ in range(40):
            read = np.round((26.404 + generator.normal(0, 0.002, 12)) / 0.01) * 0.01
            result = analyse_thickness(round_of(read, graduation=0.01), spec=SPEC)
            self.assertIn("micrometer_too_coarse", result.flags)
            over += result.variation.value_mm - result.variation.expanded_mm > SPEC.max_thickness_variation_mm
        self.assertEqual(over, 0)

    def test_few_stations_leave_the_variation_open_but_not_the_minimum(self) -> None:
        result = analyse_thickness(round_of([26.4, 26.41, 26.39]), spec=SPEC)
        self.assertIsNone(result.variation)
        self.assertIn("too_few_stations", result.flags)
        self.assertLess(result.minimum.value_mm, 26.395)

    def test_a_reading_that_can_hardly_be_of_this_disc_neither_condemns_nor_clears_it(self) -> None:
        good = 26.4 + 0.003 * np.cos(np.radians(equal_stations_deg(10)))
        low, uneven = good - 1.5, good + 0.03 * np.cos(np.radians(equal_stations_deg(10)))  # discard is 25.4
        for name, readings, slip, flag, states in (
            ("a digit missed", good, {3: 2.64}, "lone_jump:108", ("unknown", "unknown")),
            ("another digit", good, {3: 22.4}, "lone_jump:108", ("unknown", "unknown")),
            ("two of them", good, {3: 22.4, 8: 27.4}, "lone_jump:288", ("unknown", "unknown")),
            ("worn beside it", low, {3: 2.49}, "lone_jump:108", ("below", "unknown")),
            ("uneven beside it", uneven, {3: 2.64}, "lone_jump:108", ("unknown", "over")),
            ("in inches", good / 25.4, {}, "unit_slip", ("unknown", "unknown")),
            ("ten times", good * 10, {}, "unit_slip", ("unknown", "unknown")),
            ("two discs", np.where(np.arange(10) < 5, good, good - 4), {}, "unit_slip", ("unknown", "unknown")),
            ("a tenth more", good, {3: 26.5}, "", ("above", "over")),
            ("a patch", good, {3: 26.3, 4: 26.3}, "", ("above", "over")),
            ("ground down to the vents", good - 14, {}, "", ("below", "within")),
        ):
            with self.subTest(name=name):
                rows = readings.copy()
                rows[list(slip)] = list(slip.values())
                corner = diagnose_corner(Corner("FL", SPEC, thickness=round_of(rows)))
                thickness = corner.measured.thickness
                self.assertEqual((thickness.state_discard.value, thickness.state_variation.value), states)
                self.assertEqual([f for f in thickness.flags if f == flag], [flag] * bool(flag))
                self.assertEqual(thickness.is_doubted, bool(flag))
                self.assertEqual(corner.do_not_drive, states[0] == "below")
                told = [reason.figures["at"] for reason in corner.because if reason.code == "stands_alone"]
                self.assertEqual(told, ["108"] if name == "a tenth more" else [])

    def test_u_covers(self) -> None:
        generator = np.random.default_rng(99)
        low, uneven = [], []
        for k in range(300):
            corner = random_corner(generator)
            measured = corner.micrometer_round(generator, stations=(8, 10, 12, 16)[k % 4])
            result = analyse_thickness(measured, spec=SPEC)
            low.append(abs(result.minimum.value_mm - corner.true_minimum_mm()) <= result.minimum.expanded_mm)
            uneven.append(abs(result.variation.value_mm - corner.true_variation_mm()) <= result.variation.expanded_mm)
        for name, inside in (("minimum", low), ("variation", uneven)):
            with self.subTest(name=name):
                self.assertGreater(np.mean(inside), 0.915)
                self.assertLess(np.mean(inside), 0.995)
