"""The closed profile: held against the textbook's own formulas worked out another way, and against its symmetries."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.ground.angles import equal_stations_deg
from compass.ground.uncertainty import even_draws, normal_draws
from compass.measure.plain_fit import fit_orders, order_count, order_of
from compass.measure.profile import ORDERS, Prior, Readings, estimate_profile, harmonics
from compass.measure.sweep import FACE
from compass.tests.test_sweep import wave

ONE = Prior(first=(0.03,), shapes=(((0.01,) * 7, 1.0),), noise=((0.002, 1.0),))
NOISY = np.random.default_rng(8).normal(0, 0.001, 40)


def readings(values, *, turns=None, progress=None, step_mm=0.001) -> Readings:
    values = np.asarray(values, dtype=float)
    return Readings(
        angles_deg=equal_stations_deg(values.size),
        values_mm=values,
        turns=np.ones(values.size) if turns is None else np.asarray(turns, dtype=float),
        progress=progress,
        step_mm=step_mm,
    )


def textbook(read: Readings, prior: Prior) -> tuple[np.ndarray, np.ndarray]:
    """Return posterior mean and covariance of constant and orders in the hub's frame, by the precision form."""
    design = np.vstack([np.ones(read.values_mm.size), harmonics(read.angles_deg, ORDERS)]).T
    sd = np.concatenate([[1.0], np.repeat([prior.first[0], *prior.shapes[0][0]], 2)])
    noise_var = prior.noise[0][0] ** 2 / read.turns + read.step_mm**2 / 12
    covariance = np.linalg.inv(design.T @ (design / noise_var[:, None]) + np.diag(sd**-2.0))
    centred = read.values_mm - read.values_mm.mean()
    return covariance @ design.T @ (centred / noise_var), covariance


class Posterior(TestCase):
    """One alternative alone is a linear Gaussian model: its answer is known."""

    def agrees(self, read: Readings) -> None:
        mean, covariance = textbook(read, ONE)
        drawn = estimate_profile(read, prior=ONE)
        both = np.column_stack([drawn.constant_mm - read.values_mm.mean(), drawn.orders_mm()])
        np.testing.assert_allclose(both.mean(axis=0), mean, atol=2e-5)
        spread = np.sqrt(np.diag(covariance))
        np.testing.assert_allclose(both.std(axis=0), spread, rtol=0.12)
        np.testing.assert_allclose(
            np.cov(both.T) / np.outer(spread, spread), covariance / np.outer(spread, spread), atol=0.12
        )

    def test_alike_turns_and_unlike_ones_give_the_textbooks_posterior(self) -> None:
        values = wave(12, (0.08, 230.0), (0.02, 40.0)) + NOISY[:12]
        self.agrees(readings(values))
        self.agrees(readings(values, turns=[3] * 12))
        self.agrees(readings(values, turns=[2] * 5 + [1] * 7))
        self.agrees(readings(wave(24, (0.08, 230.0)) + NOISY[:24]))  # more readings than unknowns

    def test_unlike_turns_that_are_alike_after_all_change_nothing(self) -> None:
        values = wave(10, (0.1, 200.0)) + NOISY[:10]
        alike = estimate_profile(readings(values), prior=FACE)
        nearly = estimate_profile(readings(values, turns=[1 + 1e-9] + [1] * 9), prior=FACE)
        np.testing.assert_allclose(alike.mean_coefficients_mm(), nearly.mean_coefficients_mm(), atol=2e-5)
        self.assertAlmostEqual(alike.noise_mm, nearly.noise_mm, places=6)

    @settings(max_examples=15)
    @given(st.floats(0, 360), st.floats(0.01, 0.2))
    def test_turning_the_readings_turns_the_answer(self, by_deg: float, tir_mm: float) -> None:
        read = readings(wave(10, (tir_mm, 30.0), (0.01, 80.0)) + NOISY[:10])
        turned = Readings(read.angles_deg + by_deg, read.values_mm, read.turns, None, read.step_mm)
        here, there = (estimate_profile(r, prior=FACE) for r in (read, turned))
        places = np.arange(0, 360, 15.0)
        # The roots are turned in single precision: a tenth of a nanometre, where a verdict says whole ones.
        np.testing.assert_allclose(here.mean_at_mm(places), there.mean_at_mm(places + by_deg), atol=1e-7)
        low, high = (np.subtract(*reversed(p.extremes_mm())) for p in (here, there))
        np.testing.assert_allclose(np.median(low), np.median(high), atol=1e-6)

    def test_profiles_add_scale_and_turn(self) -> None:
        one, two = (
            estimate_profile(readings(wave(12, (t, c))), prior=FACE, stream=s)
            for t, c, s in ((0.1, 20, 0), (0.04, 200, 3))
        )
        places = np.arange(0, 360, 10.0)
        both = one.plus(two)
        np.testing.assert_allclose(both.mean_at_mm(places), one.mean_at_mm(places) + two.mean_at_mm(places), atol=1e-12)
        np.testing.assert_allclose(one.turned(90).mean_at_mm(places + 90), one.mean_at_mm(places), atol=1e-12)
        np.testing.assert_allclose(one.scaled(2.0).orders_mm(2)[:, :2], 4 * one.orders_mm(2)[:, :2], atol=1e-12)
        low, high = one.extremes_mm()
        curves = one.curves_at_mm(np.arange(0, 360, 0.5))
        np.testing.assert_allclose(high - low, np.ptp(curves, axis=1), atol=2e-4)

    def test_several_lone_jumps_do_not_hide_each_other(self) -> None:
        values = wave(16, (0.06, 100.0)) + NOISY[:16]
        values[[3, 9]] += (0.09, -0.08)
        spoilt = estimate_profile(readings(values), prior=FACE).spoilt
        self.assertEqual(set(np.flatnonzero(spoilt > 0.5)), {3, 9})
        self.assertLess(estimate_profile(readings(wave(16, (0.06, 100.0)) + NOISY[:16]), prior=FACE).spoilt.max(), 0.5)


class Draws(TestCase):
    """The numbers everything is drawn with."""

    def test_columns_are_standard_normal_independent_and_the_same_every_time(self) -> None:
        z = normal_draws(12, stream=5)
        np.testing.assert_allclose(z.mean(axis=0), 0, atol=1e-12)
        np.testing.assert_allclose(z.std(axis=0), 1, atol=0.01)
        np.testing.assert_allclose(np.corrcoef(z.T), np.eye(12), atol=0.15)
        np.testing.assert_allclose(np.quantile(z, 0.975, axis=0), 1.96, atol=0.03)
        self.assertIs(z, normal_draws(12, stream=5))
        self.assertFalse(z.flags.writeable)
        even = even_draws(stream=5)
        self.assertAlmostEqual(even.mean(), 0)
        self.assertAlmostEqual(even.std(), 1 / np.sqrt(3), places=3)


class PlainFit(TestCase):
    """Least squares with a few orders."""

    @settings(max_examples=25)
    @given(st.integers(8, 24), st.floats(0.01, 0.2), st.floats(0, 359), st.floats(0.001, 0.05), st.floats(0, 179))
    def test_known_waves_come_back(self, stations: int, tir: float, crest: float, saddle: float, ridge: float) -> None:
        fit = fit_orders(readings(wave(stations, (tir, crest), (saddle, ridge))), orders=order_count(stations))
        for order, (amount, place) in enumerate(((tir, crest), (saddle, ridge)), 1):
            told, at = order_of(fit.coefficients_mm, order, 1.0)
            self.assertAlmostEqual(told, amount, places=9)
            self.assertAlmostEqual(np.cos(np.radians(order * (at - place))), 1.0, places=6)
        self.assertLess(np.abs(fit.residuals_mm).max(), 1e-9)
        self.assertAlmostEqual(order_of(fit.coefficients_mm, 2, 1.5)[0], saddle * 2.25, places=9)

    def test_a_creep_is_told_from_the_wobble_where_the_turn_was_closed(self) -> None:
        passed = np.append(np.arange(12) / 12, 1.0)
        angles = np.append(equal_stations_deg(12), 0.0)
        values = np.append(wave(12, (0.08, 50.0)), wave(12, (0.08, 50.0))[0]) + 0.012 * passed
        fit = fit_orders(Readings(angles, values, np.ones(13), passed, 0.001), orders=1)
        self.assertAlmostEqual(fit.drift_mm, 0.012, delta=0.001)
        self.assertAlmostEqual(order_of(fit.coefficients_mm, 1, 1.0)[0], 0.08, delta=0.001)
        self.assertEqual([order_count(n) for n in (4, 7, 8, 11, 12, 24)], [1, 1, 2, 2, 3, 3])
