"""The cut plan: whole lines, no pass too deep, readings that correct it, refused before the tip touches."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.cause.corner import measure_corner
from compass.choose.offers import predict
from compass.choose.rules import METAL_ODDS
from compass.do.cut_plan import SCRATCH_MEANS, CutPlan, DonePass, Scratch, carried_mm, plan_cut, section
from compass.evidence.shop import Lathe
from compass.ground.angles import vector
from compass.ground.errors import EvidenceError
from compass.tests.corners import HUB_OVER, LATHES, SHOP, SPEC, measured
from compass.words.codes import SCRATCH

BENT = replace(HUB_OVER, hub=vector(0.2, 60), nominal_mm=26.6)
FOUND = measure_corner(measured(BENT))
LATHE = LATHES[0]


class Plan(TestCase):
    """Passes ahead."""

    def test_feeds_are_whole_lines_within_the_lathes_depths_and_finish_last(self) -> None:
        plan = plan_cut(FOUND, LATHE, SHOP)
        self.assertIsNone(plan.refused)
        self.assertTrue(plan.passes[-1].finish)
        for ahead in plan.passes:
            self.assertAlmostEqual(ahead.out_mm, ahead.out_lines * 0.02)
            self.assertAlmostEqual(ahead.in_mm, ahead.in_lines * 0.02)
            self.assertLessEqual(ahead.out_mm, LATHE.max_depth_mm["vented"])
        # Each face gives its wobble at the edge and the clean-up, rounded up to lines: 0.185 × 150/140 + 0.05 mm.
        wobble = 2 * abs(BENT.hub + BENT.rotor) * 150 / 140
        self.assertAlmostEqual(plan.out_mm, wobble + 0.05, delta=0.04)
        self.assertAlmostEqual(plan.passes[-1].reading_mm[1], 26.6 - plan.out_mm - plan.in_mm + wobble, delta=0.015)
        self.assertAlmostEqual(plan.passes[0].stop_mm, 25.6 + plan.passes[-1].out_mm + plan.passes[-1].in_mm)

    def test_a_thin_solid_disc_takes_more_and_shallower_passes(self) -> None:
        solid = measure_corner(measured(BENT, spec=replace(SPEC, rotor="solid")))
        plan = plan_cut(solid, LATHE, SHOP)
        self.assertGreater(len(plan.passes), len(plan_cut(FOUND, replace(LATHE, finish_depth_mm=None), SHOP).passes))
        self.assertLessEqual(max(p.out_mm for p in plan.passes), 0.1 + 0.02)

    def test_is_refused_before_the_tip_touches(self) -> None:
        short = measure_corner(measured(BENT, spec=replace(SPEC, machine_to_thickness_mm=26.5)))
        plan = plan_cut(short, LATHE, SHOP)
        self.assertEqual(plan.refused, "metal_short")
        self.assertLess(plan.odds_metal, 0.05)
        self.assertIsNone(plan_cut(measure_corner(measured(thickness=False)), LATHE, SHOP))

    def test_what_may_be_chosen_its_plan_does_not_refuse(self) -> None:
        ideal, both = 0, set()
        for lathe in (LATHE, replace(LATHE, mm_per_line=None), replace(LATHE, finish_depth_mm=None), LATHES[1]):
            least = plan_cut(FOUND, lathe, SHOP).least_mm[0]
            for step in range(-8, 9):
                spec = replace(SPEC, machine_to_thickness_mm=least + step * 0.006)
                found = replace(FOUND, corner=replace(FOUND.corner, spec=spec))
                remedies = predict(found, replace(SHOP, lathes=(lathe,)))
                cut = next(remedy for remedy in remedies if remedy.code == f"{lathe.kind}_cut")
                plan = plan_cut(found, lathe, SHOP)
                refused = "metal_short" in cut.blocked_by
                self.assertEqual(refused, plan.refused is not None, (lathe, step))
                self.assertEqual(refused, cut.odds_metal < METAL_ODDS)
                both.add(refused)
                ideal += refused and cut.thickness_mm[0] > spec.machine_to_thickness_mm
        self.assertEqual(both, {True, False})
        self.assertGreater(ideal, 0)  # a cut just as deep as it must be would have left enough

    def test_the_section_starts_at_the_faces_and_ends_at_the_planes(self) -> None:
        plan = plan_cut(FOUND, LATHE, SHOP)
        seen = section(FOUND, LATHE, plan)
        self.assertEqual((len(seen.out_mm), len(seen.in_mm)), (len(plan.passes), len(plan.passes)))
        self.assertLess(seen.out_mm[-1], seen.outboard_mm.min())
        self.assertGreater(seen.in_mm[-1], seen.inboard_mm.max())
        self.assertAlmostEqual(seen.out_mm[-1] - seen.in_mm[-1], plan.least_mm[1], delta=0.02)


class Anywhere(TestCase):
    """Whatever lathe and disc: what the plan promises of itself."""

    @settings(max_examples=40, deadline=None)
    @given(
        least=st.floats(0.02, 0.1),
        deepest=st.floats(0.1, 0.5),
        finish=st.one_of(st.none(), st.floats(0.1, 0.15)),
        line=st.one_of(st.none(), st.sampled_from([0.01, 0.02, 0.0254])),
        machine_to=st.floats(25.1, 26.5),
    )
    def test_feeds_stops_and_refusals_agree(self, least, deepest, finish, line, machine_to) -> None:
        lathe = Lathe("on_vehicle", 0.01, least, {"vented": deepest}, finish_depth_mm=finish, mm_per_line=line)
        found = replace(FOUND, corner=replace(FOUND.corner, spec=replace(SPEC, machine_to_thickness_mm=machine_to)))
        plan = plan_cut(found, lathe, SHOP)
        room = line or 0.0
        for ahead in plan.passes:
            self.assertLessEqual(max(ahead.out_mm, ahead.in_mm), max(deepest, finish or 0.0) + room + 1e-9)
            self.assertLessEqual(ahead.reading_mm[0], ahead.reading_mm[2])
        readings = [ahead.reading_mm[1] for ahead in plan.passes]
        self.assertEqual(readings, sorted(readings, reverse=True))
        self.assertAlmostEqual(plan.out_mm, sum(p.out_mm for p in plan.passes))
        self.assertAlmostEqual(plan.passes[-1].stop_mm, machine_to)
        self.assertEqual(plan.refused is None, plan.odds_metal >= 0.95)
        if plan.refused is None:
            self.assertGreater(plan.least_mm[1], machine_to)
        again = plan_cut(found, lathe, SHOP, done=[DonePass(p.out_mm, p.in_mm, p.reading_mm[1]) for p in plan.passes])
        self.assertEqual((again.finished, again.disagrees), (True, False))


TIPS = ((0.15, 0.15), (0.3, 0.3), (-0.1, -0.1), (-0.05, -0.05), (0.2, 0.0), (0.0, 0.2), (0.1, -0.05), (-0.2, 0.0))


class Readings(TestCase):
    """The micrometer after a pass makes the plan anew."""

    def test_a_reading_narrows_what_is_left(self) -> None:
        before = plan_cut(FOUND, LATHE, SHOP)
        first = before.passes[0]
        done = DonePass(first.out_mm, first.in_mm, first.reading_mm[1])
        after = plan_cut(FOUND, LATHE, SHOP, done=[done])
        self.assertFalse(after.disagrees)
        self.assertEqual(after.passes[0].number, 2)
        self.assertLess(after.least_mm[2] - after.least_mm[0], before.least_mm[2] - before.least_mm[0])

    def test_a_reading_that_does_not_fit_moves_the_plan_and_may_stop_it(self) -> None:
        first = plan_cut(FOUND, LATHE, SHOP).passes[0]
        odd = plan_cut(FOUND, LATHE, SHOP, done=[DonePass(first.out_mm, first.in_mm, first.reading_mm[1] - 0.2)])
        self.assertTrue(odd.disagrees)
        planned = plan_cut(FOUND, LATHE, SHOP)
        self.assertLess(odd.out_mm + odd.in_mm, planned.out_mm + planned.in_mm + 0.03)  # more came off than was fed
        self.assertAlmostEqual(odd.off_mm, -0.2, delta=0.02)
        deep = plan_cut(FOUND, LATHE, SHOP, done=[DonePass(first.out_mm, first.in_mm, 25.55)])
        self.assertEqual(deep.refused, "metal_short")

    def cut_through(self, off_out: float, off_in: float) -> tuple[CutPlan, float, float]:
        """Cut a true disc with tips that stand off their zeros by so much; return the last plan and both faces' rest.

        By plain trigonometry: a disc of one thickness that wobbles, planes that cut it, a micrometer at its thinnest.
        """
        angle = np.radians(np.arange(0, 360, 1.0))
        wobble = abs(BENT.hub + BENT.rotor) * 150 / 140  # at the swept band's edge
        outboard = wobble * np.cos(angle)
        inboard = outboard - BENT.nominal_mm
        tip_out, tip_in = outboard.max() + off_out, inboard.min() - off_in
        done: list[DonePass] = []
        for _ in range(12):
            plan = plan_cut(FOUND, LATHE, SHOP, done=done)
            if not plan.passes:
                break
            ahead = plan.passes[0]
            tip_out, tip_in = tip_out - ahead.out_mm, tip_in + ahead.in_mm
            least = float((np.minimum(outboard, tip_out) - np.maximum(inboard, tip_in)).min())
            done.append(DonePass(ahead.out_mm, ahead.in_mm, round(least, 3)))
        self.assertTrue(plan.finished)
        return plan, float(tip_out - outboard.min()), float(inboard.max() - tip_in)

    def test_tips_that_take_too_little_too_much_or_unevenly_end_clean_and_waste_little(self) -> None:
        true, rest_out, rest_in = self.cut_through(0.0, 0.0)
        self.assertLess(max(rest_out, rest_in), 0.0)
        self.assertGreater(true.odds_clean, 0.9)
        least = true.done[-1].reading_mm
        for off in TIPS:
            with self.subTest(off=off):
                plan, rest_out, rest_in = self.cut_through(*off)
                self.assertLess(rest_out + rest_in, 0.0)  # as much is off as must be
                # Which tip stands off nobody can tell from the sum: an unclean face is never called clean unlooked.
                self.assertTrue(max(rest_out, rest_in) < 0 or plan.odds_clean < 0.9)
                self.assertGreater(plan.done[-1].reading_mm, least - 0.1 - 0.5 * sum(abs(o) for o in off))

    def test_too_little_came_off_is_not_clean(self) -> None:
        made = [DonePass(p.out_mm, p.in_mm, p.reading_mm[1] + 0.2) for p in plan_cut(FOUND, LATHE, SHOP).passes]
        short = plan_cut(FOUND, LATHE, SHOP, done=made)
        self.assertTrue(short.disagrees)
        self.assertFalse(short.finished)
        self.assertGreater(sum(p.out_mm + p.in_mm for p in short.passes), 0.1)

    def test_ends_when_both_faces_are_clean(self) -> None:
        plan = plan_cut(FOUND, LATHE, SHOP)
        made = [DonePass(p.out_mm, p.in_mm, p.reading_mm[1]) for p in plan.passes]
        end = plan_cut(FOUND, LATHE, SHOP, done=made)
        self.assertTrue(end.finished)
        self.assertEqual(end.passes, ())
        with self.assertRaises(EvidenceError):
            DonePass(-0.1, 0.0)

    def test_scratch_and_compensation(self) -> None:
        self.assertEqual(set(SCRATCH_MEANS), {(lathe, s) for lathe in ("on_vehicle", "bench") for s in Scratch})
        self.assertEqual(set(SCRATCH_MEANS.values()), set(SCRATCH))
        self.assertAlmostEqual(carried_mm(0.04, arm_mm=280.0, cut_radius_mm=140.0), 0.02)
