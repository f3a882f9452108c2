"""What a dial's face says, and what the plunger moved."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from compass.ground.errors import EvidenceError
from compass.measure.dial import Dial, DialReading, Doubt, Face, doubt_of, unwrap

ROUND = Dial(0.01, Face.CONTINUOUS, 100)


def read(*divisions, certain=()):
    return [DialReading(None if d is None else d / 100, k in certain) for k, d in enumerate(divisions)]


class Unwrapping(TestCase):
    """A continuous dial wraps."""

    def test_the_smallest_step_is_taken_and_told(self) -> None:
        done = unwrap(read(97, 2, 5, 96, None, 3), dial=ROUND)
        self.assertEqual(
            [None if z is None else round(z * 100) for z in done.readings_mm], [97, 102, 105, 96, None, 103]
        )
        self.assertEqual(done.unwrapped, (1, 2, 5))

    def test_turns_told_and_balanced_dials_are_left_alone(self) -> None:
        told = unwrap(read(10, 160, 60, certain={1}), dial=ROUND)
        self.assertEqual([round(z * 100) for z in told.readings_mm], [10, 160, 160])
        plain = unwrap(read(97, 2), dial=Dial(0.01))
        self.assertEqual((plain.readings_mm, plain.unwrapped), ((0.97, 0.02), ()))

    @given(st.lists(st.floats(-0.45, 0.45), min_size=1, max_size=24), st.floats(0, 0.99))
    def test_any_slow_path_comes_back(self, steps, start) -> None:
        path = [start]
        for step in steps:
            path.append(path[-1] + step)
        done = unwrap([DialReading(z % 1.0) for z in path], dial=ROUND)
        for found, true in zip(done.readings_mm, path, strict=True):
            self.assertAlmostEqual(found, true, places=6)

    def test_a_dial_needs_divisions(self) -> None:
        with self.assertRaises(EvidenceError):
            Dial(0.01, divisions=1)


class Doubts(TestCase):
    """A value that looks like the wrong unit or the wrong dial."""

    def test_each_doubt_and_none(self) -> None:
        fellows = [0.02, 0.05, 0.08]
        cases = [
            (0.0005, fellows, True, Doubt.FINER_THAN_READ),  # 0.05 typed in divisions
            (1.2, [], True, Doubt.BEYOND_FACE),
            (0.9, fellows, False, Doubt.LARGE),
            (2.5, [], False, Doubt.LARGE),  # 2.5 thou typed as mm
            (0.1, fellows, True, None),
            (0.0, fellows, True, None),
            (0.2, [], False, None),
        ]
        for mm, others, in_divisions, expected in cases:
            with self.subTest(mm=mm):
                doubt = doubt_of(mm, others, dial=Dial(0.01), read_to=0.5, in_divisions=in_divisions, limit_mm=0.05)
                self.assertEqual(doubt, expected)
