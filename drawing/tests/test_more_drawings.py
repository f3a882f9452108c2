"""Star order, thickness map, overlaid indices, wear over distance, orders of a road test, the day."""

import math
import re
from itertools import pairwise
from unittest import TestCase
from xml.etree import ElementTree as Tree

import numpy as np

from compass.do.star_order import star_order
from compass.tests.test_sweep import SPEC
from drawing.day import Block, draw_day
from drawing.indices import Swept, draw_overlay
from drawing.orders import draw_orders
from drawing.star import draw_star
from drawing.thickness_map import ThicknessMap, draw_thickness_map
from drawing.wear_line import WearLine, draw_life

GRID = np.arange(0.0, 360.1, 2.5)


def classed(svg: str, name: str) -> list[Tree.Element]:
    """Return the elements that carry a class, after the picture has been parsed and found to have a title."""
    root = Tree.fromstring(svg)
    assert root.find("title") is not None
    assert root.get("role") in ("img", "group")
    return [e for e in root.iter() if name in (e.get("class") or "").split()]


def points(element: Tree.Element) -> np.ndarray:
    numbers = [float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", element.get("d") or "")]
    return np.array(numbers).reshape(-1, 2)


class StarOrder(TestCase):
    """Across and across, never round."""

    def test_every_stud_once_and_no_neighbour_follows_another(self) -> None:
        for studs in range(3, 13):
            order = star_order(studs)
            with self.subTest(studs=studs):
                self.assertEqual(sorted(order), list(range(1, studs + 1)))
                self.assertEqual(order[0], 1)
                if studs > 4:
                    steps = [min((b - a) % studs, (a - b) % studs) for a, b in pairwise(order)]
                    self.assertGreaterEqual(min(steps), 2)

    def test_the_turns_stand_beside_their_studs(self) -> None:
        svg = draw_star(5, title="order")
        self.assertEqual([e.text for e in classed(svg, "stud-label")], [str(s) for s in star_order(5)])
        self.assertEqual([e.text for e in classed(svg, "star-turn")], ["1.", "2.", "3.", "4.", "5."])


class Maps(TestCase):
    """Thickness over angle and radius."""

    def test_the_thin_place_is_marked_where_it_is(self) -> None:
        thin = 26 - 0.03 * np.exp(-0.5 * ((GRID - 90) / 20) ** 2)
        drawn = ThicknessMap(SPEC, GRID, np.array([140.0, 110.0]), np.stack([thin, 26 + 0 * GRID]), 90.0, ((0.0, 0),))
        svg = draw_thickness_map(drawn, title="map", labels=("25.97", "26.00"))
        tip = points(classed(svg, "needle-tip")[0])[0]
        self.assertGreater(tip[0], 440)  # to the right: 90° clockwise from the top
        self.assertAlmostEqual(tip[1], 260, delta=2)
        thin_parts = [e for e in classed(svg, "thin") if e.tag == "path"]
        self.assertTrue(thin_parts)
        self.assertTrue(all(points(e)[:, 0].mean() > 300 for e in thin_parts))
        self.assertEqual([e.text for e in classed(svg, "map-radius")], ["r 110", "r 140"])


class Overlays(TestCase):
    """What stayed and what turned."""

    def test_a_rotors_own_runout_lies_together_when_turned_back(self) -> None:
        swept = [Swept(f"{i}", i, GRID, 0.05 * np.cos(np.radians(GRID - i))) for i in (0.0, 144.0)]
        svg = draw_overlay(swept, studs=5, captions=("hub", "rotor"), title="t")
        curves = [points(e) for e in classed(svg, "overlay") if "Z" in (e.get("d") or "")]
        on_hub, on_rotor = ([curve.mean(axis=0) for curve in pair] for pair in (curves[:2], curves[2:]))
        self.assertGreater(np.linalg.norm(on_hub[0] - on_hub[1]), 10)
        self.assertLess(np.linalg.norm(on_rotor[0] - on_rotor[1]), 2.0)


class Wear(TestCase):
    """Millimetres over distance."""

    line = WearLine(((0.0, 28.0), (40_000.0, 26.4)), 0.04, 18_000.0, 32_000.0, 25.4, 25.8, 28.0)
    labels = {"discard": "discard", "machine_to": "machine-to", "nominal": "new", "here": "40,000 km"}

    def test_metal_falls_and_the_way_ahead_is_dashed_toward_discard(self) -> None:
        svg = draw_life(self.line, labels=self.labels, title="wear")
        worn, ahead = points(classed(svg, "life-line")[0]), points(classed(svg, "life-ahead")[0])
        self.assertGreater(worn[1][1], worn[0][1])  # down is thinner
        np.testing.assert_allclose(ahead[0], worn[1], atol=0.2)
        slopes = [(p[1][1] - p[0][1]) / (p[1][0] - p[0][0]) for p in (worn, ahead)]
        self.assertAlmostEqual(slopes[0], slopes[1], delta=0.01)
        self.assertEqual(len(classed(svg, "discard")), 2)  # a limit is a double line
        self.assertTrue(classed(svg, "life-band"))

    def test_without_a_rate_nothing_is_foretold(self) -> None:
        unknown = WearLine(((0.0, 28.0),), None, None, None, 25.4, None, None)
        svg = draw_life(unknown, labels=self.labels, title="wear")
        self.assertEqual((classed(svg, "life-ahead"), classed(svg, "life-band")), ([], []))
        endless = WearLine(self.line.points, 0.04, math.inf, math.inf, 25.4, None, None)
        self.assertEqual(classed(draw_life(endless, labels=self.labels, title="wear"), "life-band"), [])


class Orders(TestCase):
    """A road test's spectrum."""

    def test_the_peak_stands_over_its_order(self) -> None:
        orders = np.arange(0, 5, 1 / 16)
        braked = 0.05 + 0.5 * np.exp(-0.5 * ((orders - 2) / 0.05) ** 2)
        svg = draw_orders(orders, braked, None, labels=("braked", "free", "turns"), title="orders")
        line = next(points(e) for e in classed(svg, "braked") if len(points(e)) > 2)
        peak = line[np.argmin(line[:, 1])][0]
        mark = points(classed(svg, "wheel")[1])[0][0]
        self.assertAlmostEqual(peak, mark, delta=3)


class Day(TestCase):
    """Places along the hours."""

    def test_blocks_stand_at_their_hours_in_their_rows(self) -> None:
        rows = [("bay_1", "bay 1"), ("lathe", "lathe")]
        blocks = [Block("bay_1", 8.0, 10.0, "Minibus 1", "A. B", "/a"), Block("lathe", 9.0, 9.5, "Van", "", "/b")]
        svg = draw_day(blocks, rows, now_hour=12.0, title="today")
        first, second = classed(svg, "day-block")
        self.assertAlmostEqual(float(first.get("width")) / float(second.get("width")), 4.0, delta=0.25)
        self.assertLess(float(first.get("y")), float(second.get("y")))
        self.assertLess(float(first.get("x")), float(second.get("x")))
        self.assertTrue(classed(svg, "day-now"))
        late = draw_day([Block("bay_1", 5.0, 20.0, "Long", "", "/c")], rows, now_hour=None, title="today")
        self.assertEqual(classed(late, "day-now"), [])
        hours = [e.text for e in classed(late, "day-label")]
        self.assertEqual((hours[0], hours[-1]), ("5", "20"))
