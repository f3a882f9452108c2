"""The stand-ins play what they say: a road test with its fault, a turn that comes back, lines that are typed."""

import io
from contextlib import redirect_stdout
from unittest import TestCase

from compass.measure.recording import read_recording
from compass.measure.road_test import Shake, analyse_orders
from practice.standin import main, muddled, readings, recording


class StandIn(TestCase):
    """Made-up devices, read by what reads real ones."""

    def test_a_road_test_is_read_and_shows_the_fault_that_was_asked_for(self) -> None:
        for fault, shake in (
            ("disc", Shake.ONLY_BRAKING),
            ("two-thin-places", Shake.ONLY_BRAKING),
            ("wheel", Shake.ALWAYS),
            ("nothing", Shake.NONE),
        ):
            read = read_recording(recording(fault, seed=4, circumference_mm=2050.0).encode())
            self.assertIs(analyse_orders(read, circumference_mm=2050.0).shake, shake, fault)

    def test_a_turn_comes_back_and_a_round_is_a_thickness(self) -> None:
        sent = readings("dial", seed=3, stations=10, run="r")
        self.assertEqual([one.station for one in sent], list(range(1, 12)))
        self.assertAlmostEqual(sent[-1].value_mm, sent[0].value_mm, delta=0.015)
        self.assertEqual(sent, readings("dial", seed=3, stations=10, run="r"))
        miked = readings("micrometer", seed=3, stations=8, run="r")
        self.assertTrue(len(miked) == 8 and all(15 < one.value_mm < 40 for one in miked))

    def test_a_muddled_line_loses_nothing(self) -> None:
        sent = readings("dial", seed=5, stations=12, run="r")
        muddle = muddled(sent, seed=1, twice=True, shuffle=True)
        self.assertGreater(len(muddle), len(sent))
        self.assertNotEqual([one.station for one in muddle[:13]], [one.station for one in sent])
        self.assertEqual({one.name for one in muddle}, {one.name for one in sent})

    def test_it_types_lines_and_wants_a_key_to_send(self) -> None:
        out = io.StringIO()
        with redirect_stdout(out):
            self.assertEqual(main(["micrometer", "--type", "--pause", "0", "--stations", "6"]), 0)
        self.assertEqual(len([float(line) for line in out.getvalue().split()]), 6)
        with self.assertRaises(SystemExit), redirect_stdout(out):
            main(["dial"])
