"""Drawings: right place, right way round, nothing a strict page would refuse."""

import re
from unittest import TestCase
from xml.etree import ElementTree as Tree

import numpy as np

from compass.evidence.records import OverLips
from compass.ground.angles import equal_stations_deg
from compass.measure.sweep import analyse_sweep
from compass.measure.thickness import analyse_thickness
from compass.tests.test_sweep import SPEC, sweep_of, wave
from compass.tests.test_thickness import round_of
from drawing.curves import runout_curve, thickness_curve
from drawing.glance import Glance, draw_mini
from drawing.rose import SIZE, Rose, draw_rose
from drawing.svg import on_circle, runs_beyond
from drawing.trace import draw_trace
from drawing.wanted import draw_wanted


def drawn(tir: float = 0.11, high: float = 90.0, at_deg: float = 0.0, state: str = "over"):
    swept = sweep_of(wave(10, (tir, high)))
    result = analyse_sweep([swept], spec=SPEC)
    pairs = list(zip(swept.stations_deg.tolist(), swept.readings_mm.tolist(), strict=True))
    curve = runout_curve(result, [pairs], spec=SPEC, state=state)
    rose = Rose(
        spec=SPEC,
        stations_deg=tuple(equal_stations_deg(10)),
        runout=curve,
        thickness=thickness_curve(None, {}, spec=SPEC, state="unknown"),
        at_deg=at_deg,
        current=0,
    )
    svg, factor = draw_rose(rose, title="a <rose> & more")
    return svg, factor, curve


class Dots(TestCase):
    """Readings stand on the curve that was made from them, and none of them hides the others."""

    def thickness(self, rows, radii=(140.0,), **options):
        measured = round_of(rows, radii=radii, **options)
        readings = {
            radius: list(zip(measured.stations_deg.tolist(), row.tolist(), strict=True))
            for radius, row in zip(radii, measured.readings_mm, strict=True)
        }
        result = analyse_thickness(measured, spec=SPEC)
        return thickness_curve(result, readings, spec=SPEC, state="over")

    def test_over_lips_and_at_several_radii_they_are_the_drawn_radiuss_own(self) -> None:
        uneven = wave(10, (0.03, 40.0))
        for name, curve in (
            ("over lips", self.thickness(27.7 + uneven, over_lips=OverLips(0.6, 0.7))),
            ("tapered", self.thickness([26.9 + 0.2 * uneven, 26.4 + uneven], radii=(145.0, 100.0))),
        ):
            with self.subTest(name):
                off = [d.value_mm - np.interp(d.angle_deg, curve.angles_deg, curve.values_mm) for d in curve.dots]
                self.assertEqual(len(off), 10)
                self.assertLess(np.abs(off).max(), 0.004)

    def test_a_slip_is_drawn_at_the_edge_and_the_rest_stays_legible(self) -> None:
        clean, slipped = sweep_of(wave(10, (0.11, 90.0))), wave(10, (0.11, 90.0))
        slipped[6] = 1.1  # for 11 divisions 110 were typed
        one = sweep_of(slipped)
        first, turn = (list(zip(s.stations_deg.tolist(), s.readings_mm.tolist(), strict=True)) for s in (clean, one))
        runout = runout_curve(analyse_sweep([one], spec=SPEC), [turn], spec=SPEC, state="over")
        missed = 26.4 + wave(10, (0.03, 40.0))
        missed[3] = 2.64
        for name, curve in (("runout", runout), ("thickness", self.thickness(missed))):
            with self.subTest(name):
                self.assertEqual(sum(dot.jump for dot in curve.dots), 1)
                self.assertLess(curve.reach_mm, 1.3 * max(np.abs(curve.values_mm).max(), curve.limit_mm))
        dots = runout_curve(None, [first, turn], spec=SPEC, state="unknown").dots
        apart = [abs(a.value_mm - b.value_mm) for a, b in zip(dots[:10], dots[10:], strict=True)]
        self.assertLess(sorted(apart)[-2], 1e-9)  # nor does it move its own turn off the other


class WantedLimits(TestCase):
    """A disc before its limits are known."""

    def test_each_limit_is_named_and_discard_is_the_least_of_three(self) -> None:
        labels = {name: f"<{name}>" for name in ("studs", "radius", "nominal", "machine_to", "discard")}
        drawn = Tree.fromstring(draw_wanted(labels, title="t"))
        self.assertEqual({part.text for part in drawn.iter("text")}, set(labels.values()))
        wide = {part.get("class").split()[1]: float(part.get("width")) for part in drawn.iter("rect")}
        self.assertLess(wide["discard"], wide["machine_to"])
        self.assertLess(wide["machine_to"], wide["nominal"])


class RoseDrawing(TestCase):
    """The disc as the wheel stands."""

    def test_angles_run_clockwise_from_the_top(self) -> None:
        centre = SIZE / 2
        self.assertEqual([round(v) for v in on_circle(0, 100, centre=centre)], [260, 160])
        self.assertEqual([round(v) for v in on_circle(90, 100, centre=centre)], [360, 260])

    def test_the_needle_points_at_the_high_spot(self) -> None:
        svg, _, _ = drawn(high=90.0)
        tip = re.search(r'class="needle-tip"', svg)
        self.assertIsNotNone(tip)
        path = next(p for p in Tree.fromstring(svg).iter("path") if p.get("class") == "needle-tip")
        x, y = map(float, re.findall(r"[\d.]+", path.get("d"))[:2])
        self.assertGreater(x, 400)
        self.assertAlmostEqual(y, 260, delta=4)

    def test_the_wheel_is_turned_so_that_the_station_stands_at_the_top(self) -> None:
        wheel = next(g for g in Tree.fromstring(drawn(at_deg=72.0)[0]).iter("g") if g.get("class") == "wheel")
        self.assertTrue(wheel.get("transform").startswith("rotate(-72"))

    def test_the_stated_exaggeration_is_the_drawn_one(self) -> None:
        svg, factor, _ = drawn(tir=0.10)
        path = next(p for p in Tree.fromstring(svg).iter("path") if p.get("class") == "runout")
        points = np.array(re.findall(r"[ML]([\d.]+) ([\d.]+)", path.get("d")), dtype=float) - SIZE / 2
        reach = np.ptp(np.hypot(*points.T))
        scale = 200.0 / (SPEC.measuring_radius_mm * 1.06)
        self.assertAlmostEqual(reach / scale, 0.10 * factor, delta=0.10 * factor * 0.03)

    def test_over_is_hatched_too_close_stippled_within_neither(self) -> None:
        self.assertIn('class="beyond"', drawn(tir=0.11)[0])
        self.assertIn("stippled", drawn(tir=0.05, state="too_close")[0])
        within = drawn(tir=0.03, state="within")[0]
        self.assertNotIn('class="beyond"', within)
        self.assertNotIn("stippled", within)

    def test_nothing_a_strict_page_would_refuse_and_titles_are_escaped(self) -> None:
        svg, _, curve = drawn()
        trace = draw_trace(curve, studs=5, stations=10, title="<script>", mark_label="high")
        for picture in (svg, trace, draw_mini(Glance("over", "within", 40.0, True), title="FL")):
            Tree.fromstring(picture)
            self.assertNotIn("style=", picture)
            self.assertNotIn("<script", picture)
        self.assertIn("a &lt;rose&gt; &amp; more", svg)
        self.assertLess(len(svg), 30_000)


class Curves(TestCase):
    """What lies beyond the band."""

    def test_runs(self) -> None:
        curve = np.array([0, 2, 2, 0, -3, 0.5, 2])
        self.assertEqual(runs_beyond(curve, 1.0), [(1, 2, 1.0), (6, 6, 1.0), (4, 4, -1.0)])

    def test_a_second_turn_is_brought_to_the_level_of_the_first(self) -> None:
        first = [(0.0, 0.01), (90.0, 0.02), (180.0, 0.03), (270.0, 0.02)]
        second = [(angle, z + 0.5) for angle, z in first]
        curve = runout_curve(None, [first, second], spec=SPEC, state="unknown")
        values = [dot.value_mm for dot in curve.dots]
        np.testing.assert_allclose(values[:4], values[4:], atol=1e-12)
        self.assertEqual([dot.faint for dot in curve.dots], [True] * 4 + [False] * 4)
