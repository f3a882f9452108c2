"""Lanes, gauge, section under the lathe, setting on the rose, money over distance: figures stand where they are."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from compass.tests.corners import SPEC
from drawing.curves import Curve
from drawing.cut_section import CutSection, draw_section
from drawing.gauge import GAUGE_WIDTH, Gauge, draw_gauge
from drawing.lane import TRACE_HEIGHT, LaneTrace, draw_lane_trace
from drawing.outlay import OutlayLine, draw_outlay
from drawing.rose import SIZE, Rose, draw_rose
from drawing.setting import Setting
from drawing.tests.test_more_drawings import classed, points

ANGLES = np.radians(np.arange(0.0, 360.0, 5.0))
WOBBLE = 0.04 * np.cos(ANGLES)
LABELS = {"after": "26.16", "least": "machine-to 25.80", "new": "new 28.00"}


class Lanes(TestCase):
    """Before and after on one axis."""

    def trace(self, **changed):
        trace = LaneTrace(WOBBLE, WOBBLE / 4, (0.015, 0.02, 0.03), 0.05)
        return draw_lane_trace(replace(trace, **changed), reach_mm=0.05, title="trace")

    def test_both_traces_share_one_scale_with_the_band(self) -> None:
        svg = self.trace()
        before, after = (points(classed(svg, name)[0])[:, 1] for name in ("before", "after"))
        self.assertAlmostEqual(np.ptp(before) / np.ptp(after), 4, delta=0.1)
        band = float(classed(svg, "band")[0].get("height"))
        self.assertAlmostEqual(np.ptp(before) / band, 0.08 / 0.05, delta=0.02)
        self.assertEqual(len(classed(svg, "limit-line")), 4)
        self.assertAlmostEqual(float(np.mean(before)), TRACE_HEIGHT / 2, delta=0.6)

    def test_a_runout_at_an_unknown_angle_is_a_fan_not_a_line(self) -> None:
        svg = self.trace(after_mm=None)
        self.assertEqual(classed(svg, "after"), [])
        tall = float(classed(svg, "anywhere")[0].get("height"))
        band = float(classed(svg, "band")[0].get("height"))
        self.assertAlmostEqual(tall / band, 0.03 / 0.05, delta=0.02)
        flat = points(classed(self.trace(after_mm=np.zeros(0)), "after")[0])
        self.assertEqual(np.ptp(flat[:, 1]), 0)


class Gauges(TestCase):
    """Metal, from discard to new."""

    GAUGE = Gauge(nominal=28.0, now=26.4, after=(26.1, 26.16, 26.2), machine_to=25.8, discard=25.4)

    def test_lengths_are_true_to_the_metal(self) -> None:
        svg = draw_gauge(self.GAUGE, labels=LABELS, title="metal")
        widths = {name: float(classed(svg, name)[0].get("width")) for name in ("reserve", "metal-left", "taken")}
        per_mm = widths["reserve"] / 0.4
        self.assertAlmostEqual(widths["metal-left"] / per_mm, 0.36, delta=0.01)
        self.assertAlmostEqual(widths["taken"] / per_mm, 0.24, delta=0.01)
        now, new = (points(classed(svg, name)[0])[0, 0] for name in ("now", "new"))
        self.assertAlmostEqual((new - now) / per_mm, 1.6, delta=0.01)
        self.assertLessEqual(new, GAUGE_WIDTH)

    def test_what_is_not_told_is_not_drawn(self) -> None:
        bare = draw_gauge(replace(self.GAUGE, machine_to=None, after=None), labels=LABELS, title="metal")
        self.assertEqual(classed(bare, "taken") + classed(bare, "spread-line"), [])
        gone = draw_gauge(replace(self.GAUGE, now=None), labels=LABELS, title="metal")
        self.assertEqual(classed(gone, "now"), [])
        under = draw_gauge(replace(self.GAUGE, after=(25.0, 25.1, 25.2)), labels=LABELS, title="metal")
        self.assertEqual(classed(under, "metal-left"), [])


class Sections(TestCase):
    """The rotor unrolled under the lathe."""

    CUT = CutSection(
        outboard_mm=WOBBLE, inboard_mm=WOBBLE - 26.4, out_mm=(-0.02, -0.09), in_mm=(-26.42, -26.31), done=1,
        studs=5, radius_mm=138.0,
    )  # fmt: skip
    LABELS = {"pass": "pass {number}", "outboard": "o", "inboard": "i"}

    def drawn(self, **changed):
        return draw_section(replace(self.CUT, **changed), labels=self.LABELS, title="section")

    def test_planes_and_faces_stand_in_order_from_out_to_in_and_no_limit_crosses_the_disc(self) -> None:
        svg, factor = self.drawn()
        planes = [points(e)[0, 1] for e in classed(svg, "plane")]
        self.assertEqual(len(planes), 4)
        self.assertEqual(len(classed(svg, "done")), 2)
        outer, inner = (points(e)[:, 1] for e in classed(svg, "face"))
        self.assertGreater(planes[2], outer.max())  # y grows inward: the last outboard plane is under the whole face
        self.assertLess(planes[3], inner.min())
        self.assertLess(planes[2], planes[3])
        self.assertEqual(classed(svg, "limit"), [])
        self.assertGreater(factor, 50)

    def test_nothing_planned_takes_nothing(self) -> None:
        svg, _ = self.drawn(out_mm=(), in_mm=(), done=0)
        self.assertEqual(classed(svg, "taken"), [])


class Settings(TestCase):
    """Rotor and plate on the rose."""

    def test_mark_and_thin_side_stand_at_their_angles(self) -> None:
        angles = np.degrees(np.append(ANGLES, 2 * np.pi))
        curve = Curve(angles, np.append(WOBBLE, WOBBLE[0]), (), 0.05, "over", 0.0)
        rose = Rose(SPEC, (), curve, None, 0.0, None, hub=0.02 + 0j, rotor=0.01j, setting=Setting(72.0, 108.0, -0.01j))
        svg, _ = draw_rose(rose, title="set")
        for name, angle in (("rotor-mark", 72.0), ("plate-thin", 108.0)):
            x, y = points(classed(svg, name)[0])[0] - SIZE / 2
            self.assertAlmostEqual(math.degrees(math.atan2(x, -y)), angle, delta=1)
        ring = np.hypot(*(points(classed(svg, "plate-ring")[0])[:73] - SIZE / 2).T)
        self.assertEqual(5 * int(ring.argmin()), 110)  # thinnest at 108°, drawn every 5°
        self.assertEqual(len(classed(svg, "vector-plate")), 1)
        bare, _ = draw_rose(replace(rose, setting=Setting(0.0, None)), title="set")
        self.assertEqual(classed(bare, "plate-ring") + classed(bare, "rotor-way"), [])


class Outlays(TestCase):
    """Money over distance."""

    def test_steps_rise_where_the_money_is_spent(self) -> None:
        lines = (
            OutlayLine("cut", ((0.0, 100.0), (20_000.0, 400.0))),
            OutlayLine("new", ((0.0, 300.0),)),
        )
        svg = draw_outlay(lines, over_km=60_000.0, ends=("today", "later"), title="money")
        cut, new = (points(classed(svg, f"outlay-{k}")[0]) for k in (0, 1))
        zero = points(classed(svg, "outlay-axis")[0])[0, 1]
        self.assertAlmostEqual((zero - cut[-1, 1]) / (zero - new[-1, 1]), 4 / 3, delta=0.01)
        step = cut[np.flatnonzero(np.diff(cut[:, 1]))[-1], 0]
        self.assertAlmostEqual((step - cut[0, 0]) / (cut[-1, 0] - cut[0, 0]), 1 / 3, delta=0.01)
