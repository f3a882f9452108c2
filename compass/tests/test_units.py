"""What people type, and what it means."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit, from_mm, parse_length


class TypedLengths(TestCase):
    """Numbers as typed at a dial."""

    def test_reads_what_people_type(self) -> None:
        cases = {
            ("5", Unit.DIVISION): 0.05,
            ("5.5", Unit.DIVISION): 0.055,
            ("5½", Unit.DIVISION): 0.055,
            ("−2", Unit.DIVISION): -0.02,
            ("0,05", Unit.MM): 0.05,
            (".05", Unit.MM): 0.05,
            ("2 thou", Unit.MM): 0.0508,
            ("50µm", Unit.DIVISION): 0.05,
            ("1.0394", Unit.INCH): 26.40076,
            ('0.001"', Unit.MM): 0.0254,
            ("3 div", Unit.MM): 0.03,
        }
        for (text, unit), mm in cases.items():
            with self.subTest(text=text):
                self.assertAlmostEqual(parse_length(text, unit=unit, division_mm=0.01).mm, mm, places=9)

    def test_refuses_by_name(self) -> None:
        cases = {
            "": "empty",
            "  ": "empty",
            "abc": "letters",
            "1.2.3": "two_points",
            "1,2,3": "two_points",
            "1,234.5": "mixed_points",
            "-": "no_digits",
            ".": "no_digits",
            "5 furlongs": "unknown_unit",
            "1000": "too_large",
            "1e3": "unknown_unit",
            "9" * 41: "letters",
        }
        for text, code in cases.items():
            with self.subTest(text=text), self.assertRaises(UnreadableNumberError) as refused:
                parse_length(text, unit=Unit.MM, most_mm=10)
            self.assertEqual(refused.exception.code, code)
        for text, options, code in (
            ("-1", {"signed": False}, "negative"),
            ("1 div", {}, "no_divisions"),
        ):
            with self.subTest(text=text), self.assertRaises(UnreadableNumberError) as refused:
                parse_length(text, unit=Unit.MM, **options)
            self.assertEqual(refused.exception.code, code)

    @given(
        st.floats(-9, 9).map(lambda mm: round(mm, 6)), st.sampled_from([Unit.MM, Unit.THOU, Unit.INCH, Unit.DIVISION])
    )
    def test_every_unit_leads_back_to_the_same_length(self, mm: float, unit: Unit) -> None:
        text = f"{from_mm(mm, unit, division_mm=0.002):.9f}"
        self.assertAlmostEqual(parse_length(text, unit=unit, division_mm=0.002).mm, mm, places=6)
