"""The work drawn: knobs with their lines, where a rotor and a plate go, the order in time, where a reading falls."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from compass.ground.positions import BY_KIND
from drawing.expected import Expected, draw_expected
from drawing.feed import Feed, draw_feed
from drawing.placing import draw_placing
from drawing.setting import Setting
from drawing.strip import Bar, draw_strip
from drawing.tests.test_more_drawings import classed, points
from drawing.vehicle import draw_wheels


class Knobs(TestCase):
    """As many lines stand out as the knob is turned on."""

    def test_lines_on_are_those_fed_and_zero_itself(self) -> None:
        feeds = (Feed("outboard", "4", "lines", 4.0, "0.08 mm"), Feed("inboard", "0.12", "mm", None, "0.12 mm"))
        svg = draw_feed(feeds, title="pass 1")
        self.assertEqual(len(classed(svg, "on")), 5)
        self.assertEqual(len(classed(svg, "feed-way")), 1)  # a knob without lines has no way to show

    def test_more_than_a_turn_stays_on_the_knob(self) -> None:
        one = Feed("outboard", "55", "lines", 55.0, "")
        self.assertEqual(len(classed(draw_feed((one, one), title="t"), "on")), 80)


class Places(TestCase):
    """Rotor, plate and wheels stand where they are said to."""

    def test_the_mark_and_the_thin_side(self) -> None:
        svg = draw_placing(Setting(90.0, 180.0), studs=5, title="t")
        mark = points(classed(svg, "rotor-mark")[0])[0]
        self.assertGreater(mark[0], 170 + 100)  # a quarter on, clockwise: to the right
        thin = points(classed(svg, "plate-thin")[0])[0]
        self.assertGreater(thin[1], 170 + 60)  # half round: below
        self.assertEqual(len(classed(svg, "stud")), 5)
        self.assertFalse(classed(draw_placing(Setting(0.0, None), studs=4, title="t"), "plate-thin"))

    def test_every_wheel_of_every_vehicle_is_inside_and_its_own(self) -> None:
        for kind, positions in BY_KIND.items():
            svg = draw_wheels(kind, positions, at=positions[:1], title="t")
            wheels = classed(svg, "vehicle-wheel")
            self.assertEqual(len({(w.get("x"), w.get("y")) for w in wheels}), len(positions), kind)
            self.assertEqual(len(classed(svg, "here")), 1)
            self.assertTrue(all(float(w.get("x")) >= 0 and float(w.get("y")) + 68 <= 462 for w in wheels), kind)
        twin = classed(
            draw_wheels("light_truck", ["FL", "RL", "RR"], at=["RL"], twins=["RL", "RR"], title="t"), "vehicle-wheel"
        )
        lefts = [float(w.get("x")) for w in twin]
        self.assertEqual(
            (len(twin), lefts[2] > lefts[1], lefts[4] < lefts[3]), (5, True, True)
        )  # inward, on either side


class InTime(TestCase):
    """Blocks stand at their minutes."""

    @given(st.floats(0, 300), st.floats(1, 200), st.floats(0, 500))
    def test_a_block_begins_at_now_just_where_its_minute_is_now(self, start, length, now) -> None:
        bar = Bar("left", start, start + length, "cut", "ahead")
        svg = draw_strip([bar], ["left"], hours=[(0.0, "10:00")], now=now, late="now", title="t")
        block, line = classed(svg, "order-bar")[0], points(classed(svg, "order-now")[0])[0]
        if abs(start - now) > 1:
            self.assertEqual(float(block.get("x")) < line[0], start < now)
        self.assertLessEqual(float(block.get("x")) + float(block.get("width")), 1243)

    def test_a_label_that_does_not_fit_is_left_to_the_title(self) -> None:
        bars = [Bar("left", 0, 1, "machine off", "done"), Bar("left", 1, 300, "cut", "now")]
        svg = draw_strip(bars, ["left"], hours=[], now=1, late="now", title="t")
        self.assertEqual([name.text for name in classed(svg, "order-name")], ["cut"])


class WhereItShouldFall(TestCase):
    """Range, stop and reading on one line."""

    @given(st.floats(20, 30), st.floats(0.001, 0.5), st.floats(19, 31), st.floats(19, 31))
    def test_the_reading_stands_in_the_range_just_where_it_is_in_it(self, low, wide, stop, read) -> None:
        labels = {"range": "expect", "stop": "stop", "before": ""}
        svg = draw_expected(Expected(low, low + wide, stop, None, read), labels=labels, title="t")
        band, mark = classed(svg, "expected-range")[0], points(classed(svg, "expected-read")[0])[0, 0]
        left, right = float(band.get("x")), float(band.get("x")) + float(band.get("width"))
        if read < low - 0.2 or read > low + wide + 0.2:
            self.assertFalse(left - 0.1 <= mark <= right + 0.1 and right - left > 6)
        self.assertTrue(0 <= mark <= 360)
