"""The bench answers as a corner would: clean or not, clamped evenly or not, on bright metal or on rust."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.do.star_order import star_order
from compass.evidence.records import Spec
from compass.ground.angles import vector
from compass.simulate.bench import (
    LIP_MM,
    Stand,
    clamping,
    is_bright,
    is_clamped,
    micrometer_mm,
    true_high_deg,
    true_tir_mm,
    turn_of,
)
from compass.simulate.corner import SimulatedCorner, worn_by_runout
from compass.simulate.corner_data import corner_from_data, corner_to_data
from compass.simulate.hidden import Hidden, hide
from compass.simulate.marking import (
    Answer,
    Noted,
    Truth,
    drive,
    mark,
    mark_minutes,
    par_minutes,
    share_of_marks,
    technique,
    worst,
)
from compass.simulate.visit import WORKSHOP

SPEC = Spec(
    studs=5,
    rotor="vented",
    nominal_thickness_mm=26,
    discard_thickness_mm=23.5,
    machine_to_thickness_mm=24.2,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=140,
    swept_outer_radius_mm=151,
    max_bearing_play_mm=0.05,
)
DISC = SimulatedCorner(radius_mm=140, nominal_mm=25, hub=vector(0.06, 100), noise_mm=0.0005)
STAR = tuple(star_order(5)) * 3
READY = Stand(radius_mm=140, cleaned=True).pressed(STAR)


def seen_mm(corner: SimulatedCorner, stand: Stand, *, seed: int = 3) -> float:
    """Return what lies between the lowest and the highest the needle shows over one turn."""
    return float(np.ptp(turn_of(corner, SPEC, stand, seed=seed).on_mm))


class Corner(unittest.TestCase):
    """What the needle shows."""

    def test_clean_and_clamped_it_shows_the_truth_to_the_noise_and_the_clamps_play(self) -> None:
        turn = turn_of(DISC, SPEC, READY, seed=1)
        self.assertAlmostEqual(float(np.ptp(turn.on_mm)), true_tir_mm(DISC, SPEC, READY), delta=0.01)
        self.assertAlmostEqual(float(turn.on_mm.argmax()), true_high_deg(DISC, SPEC, READY), delta=12)
        self.assertGreater(float(np.abs(turn.on_mm - turn.back_mm).max()), 0.002)  # back, the needle comes later

    def test_the_same_turn_is_the_same_and_another_is_not(self) -> None:
        first, again = (turn_of(DISC, SPEC, READY, seed=1).on_mm for _ in range(2))
        self.assertTrue((first == again).all())
        turn_of.cache_clear()
        self.assertTrue((first == turn_of(DISC, SPEC, READY, seed=1).on_mm).all())
        for other in (replace(READY, turn=1), READY.put_on().pressed(STAR)):
            self.assertFalse((first == turn_of(DISC, SPEC, other, seed=1).on_mm).all())
        self.assertFalse((first == turn_of(DISC, SPEC, READY, seed=2).on_mm).all())

    def test_dirt_nuts_and_nothing_at_all_each_add_their_own(self) -> None:
        dirty = replace(DISC, joint=vector(0.08, 100), nuts=vector(0.05, 100))
        clean = READY.put_on(cleaned=True)
        self.assertGreater(seen_mm(dirty, Stand(radius_mm=140)), 0.17)  # as it came
        self.assertAlmostEqual(seen_mm(dirty, replace(READY, cleaned=False)), 0.14, delta=0.015)  # nuts are put right
        self.assertAlmostEqual(seen_mm(dirty, clean.pressed(STAR)), 0.06, delta=0.015)
        flops = [seen_mm(dirty, clean, seed=k) for k in range(20)]
        self.assertGreater(np.median(flops), 0.1)
        self.assertGreater(np.std(flops), 0.02)  # and never the same

    def test_a_star_in_rounds_clamps_evenly_and_a_circle_in_one_go_does_not(self) -> None:
        circle = tuple(stud for stud in range(1, 6) for _ in range(3))
        self.assertTrue(is_clamped(SPEC, READY))
        for nuts in (circle, STAR[:5], (*STAR[:-1], 1), ()):
            self.assertFalse(is_clamped(SPEC, Stand(radius_mm=140).pressed(nuts)), nuts)
        self.assertFalse(is_clamped(SPEC, Stand(radius_mm=140)))  # somebody else's
        true = replace(DISC, hub=0j)
        self.assertGreater(seen_mm(true, Stand(radius_mm=140, cleaned=True).pressed(circle)), 0.025)
        self.assertLess(seen_mm(true, READY), 0.015)

    @settings(max_examples=60, deadline=None)
    @given(st.integers(3, 8), st.lists(st.integers(1, 9), max_size=40))
    def test_no_order_of_nuts_clamps_more_than_the_torque(self, studs: int, presses: list[int]) -> None:
        clamp = clamping(studs, Stand(radius_mm=140).pressed(presses).nuts)
        self.assertTrue(((clamp >= 0) & (clamp <= 1)).all())

    def test_off_bright_metal_it_climbs_over_rust_and_sits_on_lips(self) -> None:
        self.assertTrue(is_bright(SPEC, 140))
        for radius in (150, 153, 100):
            self.assertFalse(is_bright(SPEC, radius), radius)
        self.assertGreater(seen_mm(DISC, replace(READY, radius_mm=152)), 0.1)
        told = {"angle_deg": 20.0, "seed": 1, "nth": 0}
        inside = micrometer_mm(DISC, SPEC, READY, radius_mm=140, **told)
        self.assertAlmostEqual(inside, 25.0, delta=0.003)
        self.assertGreater(micrometer_mm(DISC, SPEC, READY, radius_mm=152, **told), inside + LIP_MM)

    def test_a_clamp_that_drifts_is_cured_by_clamping_again_and_play_never_repeats(self) -> None:
        drifting = replace(DISC, drift_mm=0.04)
        for stand, off in ((READY, 0.04), (READY.clamped(), 0.004)):
            turn = turn_of(drifting, SPEC, stand, seed=5)
            self.assertAlmostEqual(float(turn.on_mm[-1] - turn.on_mm[0]), off, delta=0.005)
        loose = replace(DISC, play_mm=0.08)
        self.assertGreater(np.std([seen_mm(loose, replace(READY, turn=k)) for k in range(12)]), 0.015)

    def test_what_turned_with_the_rotor_is_the_rotors(self) -> None:
        hub = replace(READY, on="bare")
        self.assertAlmostEqual(seen_mm(DISC, hub), 0.06 * 65 / 140, delta=0.006)
        self.assertLess(seen_mm(DISC, replace(READY, on="arbor")), 0.01)
        rotor = replace(DISC, hub=0j, rotor=vector(0.08, 30))
        turned = READY.put_on(index=2).pressed(STAR)
        self.assertAlmostEqual(true_high_deg(rotor, SPEC, turned) - true_high_deg(rotor, SPEC, READY), 144, delta=1)

    def test_what_is_hidden_lies_within_its_ranges_and_comes_out_of_a_file_as_it_went_in(self) -> None:
        hidden = Hidden(hub=(0.05, 0.09), joint=(0.02, 0.03), patch_mm=(-0.03, -0.02), worn_mm=(0.02, 0.03), slots=6)
        for seed in range(20):
            corner = hide(hidden, SPEC, np.random.default_rng(seed))
            self.assertTrue(0.05 <= 2 * abs(corner.hub) <= 0.09)
            self.assertTrue(0.02 <= 2 * abs(corner.joint) <= 0.03)
            self.assertGreater(corner.true_minimum_mm(), SPEC.discard_thickness_mm)
            self.assertEqual(corner_from_data(corner_to_data(corner)), corner)


class Marks(unittest.TestCase):
    """Marks by hand."""

    truth = Truth(10.0, 0.08, 0.02, 24.0, ("FL",), ("hub_face_runout",))

    def test_near_is_all_far_is_nothing_and_unsaid_is_nothing(self) -> None:
        asks = ("high", "amount", "state", "cause", "thinnest")
        full = Answer(high_deg=355.0, tir_mm=0.085, state="over", cause="hub_face_runout", thinnest_mm=24.003)
        self.assertEqual(share_of_marks(mark(asks, full, self.truth, SPEC, driven=None)), 100)
        wrong = Answer(high_deg=190.0, tir_mm=0.2, state="within", cause="rotor_runout", thinnest_mm=24.6)
        for said in (wrong, Answer()):
            self.assertEqual(share_of_marks(mark(asks, said, self.truth, SPEC, driven=None)), 0)
        half = mark(("high",), Answer(high_deg=40.0), self.truth, SPEC, driven=None)  # 30° off: between 15 and 45
        self.assertAlmostEqual(half[0].got, half[0].of / 2)

    def test_time_is_marked_against_what_the_task_takes(self) -> None:
        par = par_minutes(("high", "amount", "cause"), 2)
        self.assertEqual(par, 12 + 25 + 28)
        got = [mark_minutes(minutes, par).got for minutes in (0, 1.2 * par, 1.6 * par, 2 * par, 9 * par)]
        for one, share in zip(got, (1, 1, 0.5, 0, 0), strict=True):
            self.assertAlmostEqual(one, 8 * share)

    def test_too_close_to_call_is_right_where_the_dial_cannot_tell(self) -> None:
        near = replace(self.truth, tir_mm=0.053)
        got = {
            said: mark(("state",), Answer(state=said), near, SPEC, driven=None)[0].got
            for said in ("too_close", "over", "within")
        }
        self.assertEqual((got["too_close"], got["over"], got["within"]), (15, 7.5, 0))
        self.assertEqual(mark(("state",), Answer(state="too_close"), self.truth, SPEC, driven=None)[0].got, 0)

    def test_technique_is_read_off_the_readings(self) -> None:
        good = [Noted("dial", 36.0 * k % 360, 1, 0, True, True, True) for k in range(11)]
        mikes = [Noted("mike", 60.0 * k, 1, 0, True, True, True) for k in range(6)]
        told = {one.code: one.got > 0 for one in technique([*good, *mikes], asks=("choice",), looked=good[0])}
        self.assertEqual(set(told.values()), {True})
        bad = [replace(one, way=(-1) ** k, clean=False, bright=False) for k, one in enumerate(good[:8])]
        told = {one.code: one.got > 0 for one in technique(bad, asks=(), looked=good[0])}
        self.assertEqual(told, {"clean": False, "clamped": True, "bright": False, "one_way": False, "closed": False})
        unread = {one.code: one.got > 0 for one in technique([], asks=(), looked=good[0])}
        self.assertEqual((unread["clean"], unread["one_way"], unread["closed"]), (True, False, False))
        self.assertEqual(worst(technique(bad, asks=(), looked=good[0])).code, "clean")

    def test_a_remedy_is_driven_on(self) -> None:
        bad = worn_by_runout(replace(DISC, hub=0j, rotor=vector(0.11, 40)), depth_mm=0.03)
        specs = {"FL": SPEC}

        def after(remedy: str, corner: SimulatedCorner = bad) -> object:
            return drive({"FL": corner}, specs, "FL", remedy, {}, shop=WORKSHOP, seed=1)

        self.assertEqual(after("none").km, 0)
        self.assertGreater(after("on_vehicle_cut").km, WORKSHOP.warranty_km)
        self.assertFalse(after("on_vehicle_cut", replace(bad, nominal_mm=24.3)).safe)
        self.assertTrue(after("new_rotors", replace(bad, nominal_mm=24.3)).safe)
        self.assertFalse(after("new_rotors", replace(bad, play_mm=0.1)).safe)
        hub = replace(DISC, hub=vector(0.12, 40))
        self.assertLess(after("new_rotors", hub).km, WORKSHOP.warranty_km)  # new discs on the old hub
