"""What holds of any corner: turned frames, swapped sides, more evidence, whatever the numbers are."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.cause.corner import measure_corner
from compass.choose.policies import POLICIES
from compass.evidence.records import OverLips, ThicknessRound
from compass.ground.angles import difference_deg, equal_stations_deg, vector
from compass.ground.positions import BY_KIND, LAYOUTS, POSITIONS, axle_of, end_of, positions_of
from compass.measure.separation import VectorEvidence, separate
from compass.measure.thickness import analyse_thickness
from compass.measure.wear_pattern import MadeBy, wear_pattern
from compass.measure.wear_rate import Metal, falls, life
from compass.simulate.corner import SimulatedCorner
from compass.tests.corners import HUB_OVER, QUIET, SHOP, SPEC, chosen, measured

SIZES = st.floats(0.005, 0.2)
ANGLES = st.floats(0.0, 359.9)
COVARIANCE = np.eye(2) * 1e-6


def seen(hub: complex, rotor: complex, index_deg: float) -> VectorEvidence:
    total = hub + rotor * np.exp(1j * math.radians(index_deg))
    return VectorEvidence(True, True, index_deg, total, COVARIANCE)


class Separation(TestCase):
    """Hub and rotor, told apart."""

    @settings(max_examples=40, deadline=None)
    @given(hub=SIZES, hub_at=ANGLES, rotor=SIZES, rotor_at=ANGLES, turned=st.floats(60.0, 300.0), by=ANGLES)
    def test_the_frame_turns_with_the_readings(self, hub, hub_at, rotor, rotor_at, turned, by) -> None:
        def both(at: float) -> list[VectorEvidence]:
            first, second = vector(hub, hub_at + at), vector(rotor, rotor_at + at)
            return [seen(first, second, 0.0), seen(first, second, turned)]

        here, there = separate(both(0.0)), separate(both(by))
        self.assertAlmostEqual(here.hub.tir_mm, hub, delta=1e-6)
        self.assertAlmostEqual(there.hub.tir_mm, here.hub.tir_mm, delta=1e-6)
        self.assertAlmostEqual(difference_deg(there.rotor.high_deg, here.rotor.high_deg + by), 0.0, delta=1e-3)
        self.assertAlmostEqual(there.rotor.expanded_mm / here.rotor.expanded_mm, 1.0, delta=0.3)  # drawn: by 6 %

    @settings(max_examples=25, deadline=None)
    @given(
        hub=SIZES,
        rotor=SIZES,
        rotor_at=ANGLES,
        indices=st.sets(st.sampled_from([72.0, 144.0, 216.0, 288.0]), min_size=1),
    )
    def test_each_further_index_leaves_less_doubt(self, hub, rotor, rotor_at, indices) -> None:
        first, second = vector(hub, 0.0), vector(rotor, rotor_at)
        evidence = [seen(first, second, 0.0)]
        doubts = []
        for index in sorted(indices):
            evidence.append(seen(first, second, index))
            doubts.append(separate(evidence).hub.expanded_mm)
        self.assertEqual(doubts, sorted(doubts, reverse=True))


class Thickness(TestCase):
    """Rounds, pooled, over lips."""

    def round_of(self, rows: np.ndarray, **options) -> ThicknessRound:
        stations = equal_stations_deg(rows.shape[1])
        return ThicknessRound(stations, np.array([140.0]), rows, 0.001, **options)

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000), st.floats(20.0, 30.0), st.integers(8, 16))
    def test_a_thicker_disc_is_as_uneven_and_its_place_turns_with_it(self, seed, thicker, stations) -> None:
        g = np.random.default_rng(seed)
        angles = equal_stations_deg(stations)
        rows = 26.0 + 0.02 * np.cos(np.radians(angles - 90.0))[None] + g.normal(0, 0.001, (1, stations))
        here = analyse_thickness(self.round_of(rows), spec=SPEC)
        there = analyse_thickness(self.round_of(rows + thicker - 26.0), spec=SPEC)
        turned = analyse_thickness(self.round_of(np.roll(rows, 2, axis=1)), spec=SPEC)
        self.assertAlmostEqual(here.variation.value_mm, there.variation.value_mm, delta=1e-6)
        self.assertAlmostEqual(there.minimum.value_mm - here.minimum.value_mm, thicker - 26.0, delta=1e-6)
        self.assertAlmostEqual(turned.variation.value_mm, here.variation.value_mm, delta=1e-6)
        moved = difference_deg(turned.minimum_deg, here.minimum_deg + 2 * 360.0 / stations)
        self.assertLessEqual(abs(moved), 5.0)

    def test_more_rounds_leave_less_doubt_and_a_truer_variation(self) -> None:
        g = np.random.default_rng(12)
        truth = 26.0 + 0.01 * np.cos(np.radians(equal_stations_deg(12)))
        doubt: dict[int, float] = {}
        off: dict[int, float] = {}
        for rounds in (1, 4):
            variations = []
            for _ in range(25):
                read = np.round(truth + g.normal(0, 0.003, (rounds, 12)), 3).mean(axis=0)[None]
                variations.append(analyse_thickness(self.round_of(read, rounds=rounds), spec=SPEC).variation)
            doubt[rounds] = float(np.mean([v.expanded_mm for v in variations]))
            off[rounds] = float(np.mean([abs(v.value_mm - 0.02) for v in variations]))
        self.assertLess(doubt[4], 0.75 * doubt[1])
        self.assertLess(off[4], off[1])

    @given(st.one_of(st.none(), st.floats(0.0, 1.4)), st.one_of(st.none(), st.floats(0.0, 1.4)))
    def test_lips_are_as_close_as_the_one_known_less(self, outboard, inboard) -> None:
        lips = OverLips.measured(outboard, inboard, within_mm=0.05)
        self.assertEqual(lips.is_measured, outboard is not None and inboard is not None)
        for told, taken in ((outboard, lips.outboard_mm), (inboard, lips.inboard_mm)):
            self.assertLessEqual(abs(taken - (0.0 if told is None else told)), lips.within_mm + 1e-12)


class Wear(TestCase):
    """How long the metal lasts, and what wore it."""

    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.005, 0.1), st.floats(25.5, 30.0), st.floats(5_000, 120_000))
    def test_a_steady_rate_is_found_and_what_is_left_falls_with_it(self, rate, now_mm, driven_km) -> None:
        metal = [Metal(0.0, now_mm + rate * driven_km / 1000, 0.002), Metal(driven_km, now_mm, 0.002)]
        found = life(metal, {"discard": 25.0, "sooner": 25.2})
        self.assertAlmostEqual(found.rate_mm, rate, delta=1e-6)
        left = found.to["discard"]
        self.assertLessEqual(left.low_km, left.middle_km)
        self.assertLessEqual(left.middle_km, left.high_km)
        self.assertLessEqual(found.to["sooner"].middle_km, left.middle_km)
        self.assertAlmostEqual(left.middle_km, (now_mm - 25.0) / rate * 1000, delta=0.25 * left.middle_km + 50)
        self.assertTrue(falls(metal))
        self.assertFalse(falls([replace(metal[0], thickness_mm=now_mm - 0.5), metal[1]]))
        self.assertIsNone(life(metal[:1], {"discard": 25.0}))

    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.04, 0.15), ANGLES, st.floats(0.3, 0.6))
    def test_a_disc_thin_where_its_runout_rubs_is_never_called_a_patch(self, tir, at, share) -> None:
        angles = equal_stations_deg(12)
        runout = tir / 2 * np.cos(np.radians(angles - at))
        thickness = 26.0 - share * np.abs(runout)
        pattern = wear_pattern(angles, thickness, runout, u_mm=0.0008)
        self.assertTrue(pattern is None or pattern.made_by is not MadeBy.PATCH)


class Pairs(TestCase):
    """Both sides of an axle."""

    @settings(max_examples=12, deadline=None)
    @given(policy=st.sampled_from(sorted(POLICIES)), left=st.floats(0.0, 0.15), right=st.floats(0.0, 0.15))
    def test_the_plan_of_an_axle_does_not_know_left_from_right(self, policy, left, right) -> None:
        def side(position: str, hub_mm: float):
            return measured(replace(HUB_OVER, hub=vector(hub_mm, 60)), position=position)

        shop = replace(SHOP, policy=policy)
        _corners, here = chosen(side("FL", left), side("FR", right), shop=shop)
        _corners, there = chosen(side("FR", left), side("FL", right), shop=shop)
        swap = {"FL": "FR", "FR": "FL"}
        self.assertEqual(here, {swap[p]: code for p, code in there.items()})
        renewed = {(code or "").startswith("new_rotors") for code in here.values()}
        self.assertEqual(len(renewed), 1)  # rotors are renewed in pairs

    def test_a_quiet_axle_is_left_alone_under_every_policy(self) -> None:
        for policy in POLICIES:
            _corners, plan = chosen(
                measured(QUIET, position="FL"), measured(QUIET, position="FR"), shop=replace(SHOP, policy=policy)
            )
            self.assertLessEqual(set(plan.values()), {"none"})


class Positions(TestCase):
    """Who has which wheels."""

    def test_every_vehicle_has_its_own_wheels_and_every_wheel_an_axle_and_an_end(self) -> None:
        self.assertEqual({p for positions in (*BY_KIND.values(), *LAYOUTS.values()) for p in positions}, set(POSITIONS))
        for kind, positions in BY_KIND.items():
            self.assertEqual(positions_of([], kind), positions)
            for k in range(1, len(positions) + 1):
                self.assertEqual(positions_of(positions[:k], kind), positions)
        self.assertEqual(positions_of(["FL", "FR"], "motorcycle"), LAYOUTS["two_front_discs"])
        self.assertEqual(positions_of(["A3L"], None), (*BY_KIND["trailer"], "A3L"))
        self.assertEqual([axle_of(p) for p in ("FL", "F", "RR", "R", "A3R")], ["F", "F", "R", "R", "A3"])
        self.assertEqual({end_of(p) for p in LAYOUTS["three_axles"]}, {"rear"})

    def test_a_corner_measured_at_any_position_says_the_same(self) -> None:
        truth = SimulatedCorner(
            radius_mm=140, nominal_mm=26.4, hub=vector(0.06, 40), rotor=vector(0.03, 100), noise_mm=0.0
        )
        said = {
            (m.runout.state, round(m.runout.tir.value_mm, 6), m.thickness.state_variation)
            for m in (measure_corner(measured(truth, position=p)) for p in ("FL", "R", "A3R"))
        }
        self.assertEqual(len(said), 1)
