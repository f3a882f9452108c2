"""What lies in the store, vehicles in plan, sizes against limits, speeds: figures stand where they are."""

import math
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from compass.ground.positions import BY_KIND
from drawing.against import WIDTH, draw_against
from drawing.speeds import draw_speeds
from drawing.tests.test_more_drawings import classed, points
from drawing.tooling import SIZE, draw_face, draw_knob, draw_plate, draw_thimble
from drawing.vehicle import draw_vehicle


class Against(TestCase):
    """A size against its limit."""

    @given(st.floats(0.0, 0.4), st.floats(0.0005, 0.05), st.floats(0.02, 0.1))
    def test_the_bar_passes_the_limit_just_where_the_size_does(self, value, expanded, limit) -> None:
        svg = draw_against(value, expanded, limit, state="over", title="runout")
        bar, line = classed(svg, "against-value")[0], points(classed(svg, "against-limit")[0])[0, 0]
        if abs(value - limit) > 0.01 * limit:
            self.assertEqual(float(bar.get("width")) > line, value > limit and value > 1.3 * limit / 120)
        for doubt in classed(svg, "against-doubt"):
            self.assertLessEqual(points(doubt)[:, 0].max(), WIDTH)

    def test_what_lies_far_beyond_is_cut_off_and_marked(self) -> None:
        self.assertEqual(len(classed(draw_against(0.5, 0.01, 0.05, state="over", title="t"), "against-doubt")), 2)
        self.assertEqual(len(classed(draw_against(0.1, 0.01, 0.05, state="over", title="t"), "against-doubt")), 1)


class Plates(TestCase):
    """A plate's ring."""

    def test_a_ring_is_thinner_below_and_the_more_the_more_it_takes(self) -> None:
        def below(correction: float) -> float:
            ring = points(classed(draw_plate(correction, studs=5, positions=10, title="plate"), "store-metal")[0])
            radii = np.hypot(*(ring - SIZE / 2).T)
            outer, inner = radii[:72], radii[72:][::-1]
            self.assertAlmostEqual(outer[0] - inner[-1], 28, delta=2)  # thick at the top
            return float(outer[36] - inner[36])

        widths = [below(c) for c in (0.05, 0.1, 0.15)]
        self.assertEqual(widths, sorted(widths, reverse=True))

    def test_a_hole_a_position_and_a_larger_one_a_stud(self) -> None:
        holes = classed(draw_plate(0.1, studs=5, positions=10, title="plate"), "store-hole")
        self.assertEqual(len(holes), 10)
        self.assertEqual(sum(float(hole.get("r")) > 4 for hole in holes), 5)


class Instruments(TestCase):
    """Knobs and faces."""

    def test_a_knob_without_lines_has_none(self) -> None:
        self.assertEqual(classed(draw_knob(None, line="", title="knob"), "store-line"), [])
        self.assertIn("0.02 mm", draw_knob(0.02, line="0.02 mm", title="knob"))

    def test_a_balanced_face_counts_both_ways_and_a_continuous_one_once_round(self) -> None:
        def numbers(*, balanced: bool) -> list[str]:
            svg = draw_face(balanced=balanced, divisions=100, graduation="0.01 mm", title="dial")
            return [number.text for number in classed(svg, "store-number")]

        self.assertEqual(numbers(balanced=True), ["0", "10", "20", "30", "40", "50", "40", "30", "20", "10"])
        self.assertEqual(numbers(balanced=False), [f"{10 * k}" for k in range(10)])

    def test_a_caliper_is_no_micrometer(self) -> None:
        bodies = {draw_thimble("0.02 mm", caliper=kind, title="t") for kind in (True, False)}
        self.assertEqual(len(bodies), 2)


class Vehicles(TestCase):
    """In plan, front at the top."""

    def test_every_kind_has_a_plan_of_its_own_that_stays_on_its_sheet(self) -> None:
        plans = {kind: draw_vehicle(kind, title=kind) for kind in BY_KIND}
        self.assertEqual(len({plan.partition("</title>")[2] for plan in plans.values()}), len(BY_KIND))
        for plan in plans.values():
            for part in classed(plan, "vehicle-body"):
                reach = points(part)
                self.assertTrue((reach >= 0).all() and (reach[:, 0] <= 200).all() and (reach[:, 1] <= 460).all())


class Speeds(TestCase):
    """A band on a scale."""

    def test_the_band_stands_between_its_speeds(self) -> None:
        def band(low: float, high: float) -> tuple[float, float]:
            (drawn,) = classed(draw_speeds(low, high, per_step=20, steps=8, unit="km/h", title="speeds"), "speed-band")
            left = float(drawn.get("x"))
            return left, left + float(drawn.get("width"))

        first, second = band(40, 80), band(80, 120)
        self.assertAlmostEqual(first[1], second[0], delta=0.2)
        self.assertAlmostEqual(first[1] - first[0], second[1] - second[0], delta=0.2)
        self.assertGreater(band(60, 60)[1] - band(60, 60)[0], 4)  # a single speed is seen, too
        self.assertTrue(math.isclose(band(100, 900)[1], band(100, 160)[1], abs_tol=0.2))  # cut off at the scale's end
