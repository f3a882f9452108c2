"""The simulated lathe cuts what its set-up lets it: every mistake shows on the disc, and nothing is cut back on."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.evidence.records import Spec
from compass.ground.angles import vector
from compass.simulate.corner import SimulatedCorner
from compass.simulate.lathe import (
    LEFT_MM,
    LINE_MM,
    MOST_MM,
    LatheStand,
    compensated,
    cut,
    disc_of,
    faces_of,
    half_turn,
    lathe_marks,
    plan_of,
    set_up_mm,
    sound_of,
    touched,
)

SPEC = Spec(
    studs=5,
    rotor="vented",
    discard_thickness_mm=23.5,
    machine_to_thickness_mm=24.2,
    max_runout_mm=0.05,
    max_thickness_variation_mm=0.015,
    measuring_radius_mm=140,
)
DISC = SimulatedCorner(radius_mm=140, nominal_mm=25.5, hub=vector(0.04, 20), rotor=vector(0.07, 50))
WELL = LatheStand(clean=True, by_hand=True, flush=True, damper=True, scratched=True, zeroed=True)


def whole(stand: LatheStand, disc: SimulatedCorner = DISC, *, feed: str = "finish") -> LatheStand:
    """Cut by the plan until both faces are whole."""
    for _pass in range(6):
        plan = plan_of(disc, SPEC, stand, seed=1)
        stand = cut(disc, stand, out_lines=plan.out_lines, in_lines=plan.in_lines, feed=feed, seed=1)
        left = disc_of(disc, stand, seed=1)
        if max(left.dark_out, left.dark_in) < 0.03:
            break
    return stand


class Lathe(unittest.TestCase):
    """One disc, set up well and badly."""

    def test_set_up_well_and_cut_by_the_plan_it_is_even_true_and_keeps_what_was_foretold(self) -> None:
        stand, needle = compensated(WELL, seed=1)
        self.assertEqual(stand.left_mm, LEFT_MM)
        self.assertLess(np.ptp(needle[-80:]), 0.6 * np.ptp(needle[:80]))  # it calms down
        plan = plan_of(DISC, SPEC, stand, seed=1)
        # By hand: the whole wobble of both faces alike, and a clean-up each.
        self.assertAlmostEqual(plan.out_mm, abs(2 * (DISC.hub + DISC.rotor)) + 0.05, delta=0.014)
        self.assertAlmostEqual(plan.left_mm, 25.5 - (plan.out_mm - 0.05) - 2 * 0.05, delta=0.015)
        done = whole(stand)
        disc = disc_of(DISC, done, seed=1)
        self.assertLess(disc.variation_mm, 0.002)
        self.assertLess(disc.runout_mm, 0.016)
        self.assertEqual((disc.finish, done.cuts[-1].sound), ("smooth", "steady"))
        self.assertAlmostEqual(disc.thinnest_mm, plan.left_mm, delta=0.04)  # whole lines are a little more
        self.assertTrue(all(held for _code, held in lathe_marks(DISC, SPEC, done, seed=1)))

    def test_a_bad_set_up_does_not_calm_down_and_is_cut_into_the_disc(self) -> None:
        bad = replace(WELL, clean=False, by_hand=False)
        stand, needle = compensated(bad, seed=1)
        self.assertGreater(stand.left_mm, 5 * LEFT_MM)
        self.assertGreater(np.ptp(needle[-80:]), 0.05)
        disc = disc_of(DISC, whole(stand), seed=1)
        self.assertLess(disc.variation_mm, 0.01)  # it cuts evenly
        self.assertGreater(disc.runout_mm, SPEC.max_runout_mm)  # and askew
        self.assertLess(set_up_mm(WELL), set_up_mm(replace(WELL, flush=False)))

    def test_too_light_too_deep_without_damper_or_zero_each_shows(self) -> None:
        stand = compensated(WELL, seed=1)[0]

        def sound(**told: object) -> str:
            lines = {"out_lines": 5.0, "in_lines": 5.0, "feed": "finish"} | told
            return cut(DISC, stand, seed=1, **lines).cuts[-1].sound

        self.assertEqual(sound(), "steady")
        self.assertEqual(sound(out_lines=2.0), "rubs")
        self.assertEqual(sound(in_lines=MOST_MM / LINE_MM + 1), "chatters")
        silent = replace(stand, damper=False)
        self.assertEqual(cut(DISC, silent, out_lines=5, in_lines=5, feed="finish", seed=1).cuts[-1].sound, "rings")
        self.assertEqual(disc_of(DISC, whole(stand, feed="rough"), seed=1).finish, "spiral")
        blind = cut(DISC, replace(stand, zeroed=False), out_lines=5, in_lines=5, feed="finish", seed=1)
        self.assertNotAlmostEqual(blind.cuts[0].out_mm, 5 * LINE_MM, delta=0.001)

    def test_a_scratch_comes_and_goes_where_the_disc_stands_proud_and_the_sound_with_it(self) -> None:
        stand = compensated(WELL, seed=1)[0]
        out, inn = faces_of(DISC, stand, seed=1)
        band = touched(out, 0.01)
        self.assertTrue(0.05 < band.mean() < 0.5)
        self.assertEqual(int(touched(inn, 0.01, inboard=True) @ band), 0)  # the other face, half a turn away
        first = cut(DISC, stand, out_lines=3, in_lines=3, feed="finish", seed=1)
        quiet = np.abs(sound_of(first, seed=1)) < 1e-9
        self.assertTrue(0.2 < quiet.mean() < 0.9)
        done = whole(stand)
        self.assertEqual(touched(faces_of(DISC, done, seed=1)[0], 0.01).mean(), 1.0)

    def test_on_the_bench_the_hub_remains_and_half_a_turn_tells_whose_the_mark_is(self) -> None:
        bench = replace(WELL, kind="bench")
        disc = disc_of(DISC, whole(bench), seed=1)
        self.assertAlmostEqual(disc.runout_mm, 2 * abs(DISC.hub), delta=0.015)
        self.assertEqual(half_turn(DISC, bench, seed=1), "rotors")
        self.assertEqual(half_turn(DISC, replace(bench, clean=False), seed=1), "mountings")
        self.assertEqual(compensated(bench, seed=1)[0].left_mm, set_up_mm(bench))

    def test_who_sees_that_there_is_no_metal_and_does_not_cut_has_done_all(self) -> None:
        thin = replace(DISC, nominal_mm=24.25)
        stand = compensated(WELL, seed=1)[0]
        self.assertFalse(plan_of(thin, SPEC, stand, seed=1).allowed)
        self.assertTrue(dict(lathe_marks(thin, SPEC, stand, seed=1))["metal_left"])
        cut_it = whole(stand, thin)
        self.assertFalse(dict(lathe_marks(thin, SPEC, cut_it, seed=1))["metal_left"])
        self.assertFalse(dict(lathe_marks(DISC, SPEC, stand, seed=1))["metal_left"])  # there is metal, and nothing done

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.tuples(st.floats(0, 20), st.floats(0, 20)), min_size=1, max_size=5), st.booleans())
    def test_no_pass_puts_metal_back(self, passes: list[tuple[float, float]], zeroed: bool) -> None:
        stand = compensated(replace(WELL, zeroed=zeroed), seed=1)[0]
        for out_lines, in_lines in passes:
            before = faces_of(DISC, stand, seed=1)
            stand = cut(DISC, stand, out_lines=out_lines, in_lines=in_lines, feed="rough", seed=1)
            after = faces_of(DISC, stand, seed=1)
            self.assertTrue((after[0] <= before[0] + 2e-5).all())
            self.assertTrue((after[1] >= before[1] - 2e-5).all())
