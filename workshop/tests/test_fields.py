"""Numbers as people type them: one parser for all fields, a refusal says what was understood."""

from django.core.exceptions import ValidationError
from django.test import SimpleTestCase
from django.utils.translation import override
from hypothesis import given
from hypothesis import strategies as st

from compass.ground.units import KM_PER_MILE, Unit
from workshop.fields import NumberField, distance_field, torque_field


class Numbers(SimpleTestCase):
    """The field of every number that is no length."""

    def refused(self, field: NumberField, text: str) -> tuple[str, str]:
        with self.assertRaises(ValidationError) as refusal:
            field.clean(text)
        return refusal.exception.code, refusal.exception.messages[0]

    def test_comma_and_point_are_the_same_and_nothing_is_dropped(self) -> None:
        offset = NumberField(least=-90, most=90)
        for text, read in (("1,5", 1.5), ("-12.5", -12.5), ("−3", -3.0), ("4½", 4.5), (" 7 ", 7.0)):
            self.assertEqual(offset.clean(text), read)
        self.assertEqual(NumberField(unit="Hz", most=200).clean("12,5 Hz"), 12.5)

    def test_a_refusal_says_what_was_understood(self) -> None:
        whole = NumberField(least=10, most=600, whole=True)
        self.assertEqual(
            self.refused(whole, "12,5"), ("not_whole", "“12,5” was read as 12.5; this is counted in whole ones.")
        )
        self.assertIn("read as 900; from 10 to 600", self.refused(whole, "900")[1])
        code, words = self.refused(whole, "20 lines")
        self.assertEqual((code, "read as 20, but “lines”" in words), ("unknown_rest", True))
        self.assertEqual(
            self.refused(NumberField(), "1,250"),
            ("thousands", "“1,250” may be 1250 or 1.25. Type it without a thousands sign."),
        )
        for text, code in (("1.2.3", "two_points"), ("1,2.3", "mixed_points"), ("ten", "letters"), ("-", "no_digits")):
            self.assertEqual(self.refused(whole, text)[0], code)

    @given(st.integers(0, 9_999_999), st.sampled_from(",. '\u00a0\u202f"))
    def test_an_odometer_is_read_as_it_is_written_here_and_elsewhere(self, km: int, sign: str) -> None:
        self.assertEqual(distance_field(label="Odometer").clean(f"{km:,} km".replace(",", sign)), km)

    def test_thousands_of_a_price_are_read_where_they_can_be_nothing_else(self) -> None:
        price = NumberField()
        for text, read in (
            ("1 250", 1250.0), ("1 250,50", 1250.5), ("1,250.5", 1250.5), ("1.250.000", 1250000.0), ("0,125", 0.125),
            ("12,5", 12.5), ("1250", 1250.0),
        ):  # fmt: skip
            self.assertEqual(price.clean(text), read, text)
        self.assertEqual(price.clean("99.572"), 99.572)  # the reader's own decimal sign, as it is shown here
        with override("de"):
            self.assertEqual(price.clean("99,572"), 99.572)
            self.assertEqual(self.refused(price, "1.250")[0], "thousands")
        for text in ("1 25", "1 2500", "12 34 56", "1,250,5"):
            with self.assertRaises(ValidationError, msg=text):
                price.clean(text)

    @given(st.integers(0, 9_999_999))
    def test_kilometres_shown_in_miles_come_back_within_half_a_mile(self, km: int) -> None:
        field = distance_field(label="Odometer")
        field.speak(Unit.THOU)
        self.assertLessEqual(abs(field.clean(field.prepare_value(km)) - km), KM_PER_MILE / 2 + 0.5)

    def test_a_torque_is_in_the_persons_system(self) -> None:
        field = torque_field(label="Wheel torque")
        field.speak(Unit.THOU)
        self.assertAlmostEqual(field.clean("100 lbft"), 135.58, places=2)
        self.assertEqual(field.label, "Wheel torque (lb·ft)")
        self.assertEqual(field.clean("120 N·m"), 120.0)  # a unit typed behind wins
