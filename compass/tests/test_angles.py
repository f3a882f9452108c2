"""Angles and studs."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from compass.ground.angles import difference_deg, nearest_stud, stud_deg, tir_and_high, vector, wrap_deg
from compass.words.places import place_text

ANGLES = st.floats(-1e4, 1e4)


class Angles(TestCase):
    """Conventions that files and tests depend on."""

    def test_studs_stand_clockwise_from_the_first(self) -> None:
        self.assertEqual([stud_deg(s, 5) for s in range(1, 6)], [0, 72, 144, 216, 288])
        self.assertEqual(place_text(230.0, 5), "stud 4 +14°")
        self.assertEqual(place_text(355.0, 5), "stud 1 −5°")
        self.assertEqual(place_text(216.2, 5), "stud 4")

    @given(ANGLES, st.integers(1, 12))
    def test_a_place_named_by_studs_is_the_angle(self, angle: float, studs: int) -> None:
        place = nearest_stud(angle, studs)
        self.assertLessEqual(abs(place.offset_deg), 180 / studs + 1e-6)
        back = stud_deg(place.stud, studs) + place.offset_deg
        self.assertAlmostEqual(difference_deg(back, angle), 0, places=6)

    @given(ANGLES)
    def test_wrapping(self, angle: float) -> None:
        self.assertTrue(0 <= wrap_deg(angle) < 360)
        self.assertAlmostEqual(abs(difference_deg(angle, wrap_deg(angle))), 0, places=6)

    @given(st.floats(0.001, 1), st.floats(0, 359.9))
    def test_a_vector_keeps_amount_and_high_spot(self, tir: float, high: float) -> None:
        amount, angle = tir_and_high(vector(tir, high))
        self.assertAlmostEqual(amount, tir)
        self.assertAlmostEqual(difference_deg(angle, high), 0, places=6)
