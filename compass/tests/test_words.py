"""Figures and words: no more decimals than U supports, every code has its sentence, in both systems."""

import json
from importlib import resources
from unittest import TestCase

from compass.cause.measured import Reason
from compass.ground.units import Unit
from compass.words.codes import CHECKS, REMEDIES, STATES
from compass.words.figures import length_text, plain_text
from compass.words.places import place_text
from compass.words.reasons import FLAGS, SENTENCES, sentence

FIGURES = {
    "at": " · FL",
    "tir_mm": 0.1094,
    "min_mm": 26.4105,
    "variation_mm": 0.0317,
    "play_mm": 0.06,
    "limit_mm": 0.05,
    "expanded_mm": 0.0062,
    "state": "over",
    "high_deg": 230.0,
    "studs": 5,
    "finding": "cracked",
    "positions": ("FL", "RR"),
    "position": "FL",
    "check": "sweep_rotor",
    "minutes": 4,
    "remedy": "index",
    "remedies": ("index", None),
    "direct_mm": 0.05,
    "turned_mm": 0.09,
    "expected_mm": 0.004,
    "turned": 2.0,
    "seen": "blue_spots",
    "cause": "lug_torque",
    "odds": 0.71,
}


class Figures(TestCase):
    """Lengths as shown."""

    def test_decimals_follow_the_uncertainty_and_the_system(self) -> None:
        cases = [
            (0.10942, 0.0062, Unit.MM, ("0.109", "0.006", "mm")),
            (0.10942, 0.0123, Unit.MM, ("0.11", "0.01", "mm")),
            (0.10942, 0.0062, Unit.THOU, ("4.3", "0.2", "thou")),
            (0.0317, 0.0012, Unit.THOU, ("1.25", "0.05", "thou")),
            (26.4105, 0.0025, Unit.THOU, ("1.0398", "0.0001", "in")),
            (-0.0001, 0.0062, Unit.MM, ("0.000", "0.006", "mm")),
        ]
        for length_mm, expanded_mm, unit, expected in cases:
            with self.subTest(expected=expected):
                shown = length_text(length_mm, unit=unit, expanded_mm=expanded_mm)
                self.assertEqual((shown.figure, shown.plus_minus, shown.unit), expected)

    def test_limits_are_said_as_the_trade_says_them(self) -> None:
        cases = [
            (0.05, Unit.MM, "0.05 mm"),
            (0.012, Unit.MM, "0.012 mm"),
            (25.4, Unit.MM, "25.40 mm"),
            (138.0, Unit.MM, "138 mm"),
            (0.05, Unit.THOU, "2.0 thou"),
            (0.012, Unit.THOU, "0.47 thou"),
            (138.0, Unit.THOU, "5.4331 in"),
        ]
        for length_mm, unit, expected in cases:
            with self.subTest(expected=expected):
                shown = plain_text(length_mm, unit=unit)
                self.assertEqual(f"{shown.figure} {shown.unit}", expected)


class Words(TestCase):
    """Codes into sentences."""

    def test_every_code_makes_a_whole_sentence_in_both_systems(self) -> None:
        for code in set(SENTENCES) - {"flag_elsewhere"}:
            for unit in (Unit.MM, Unit.THOU):
                with self.subTest(code=code, unit=unit):
                    text = sentence(Reason(code, FIGURES), unit=unit)
                    self.assertNotIn("{", text)
                    self.assertRegex(text, r"[.:]")
        for flag in FLAGS:
            with self.subTest(flag=flag):
                self.assertNotIn("{", sentence(Reason("flag_of_a_round", {"flag": flag, "at": "135"})))
                self.assertNotIn("{", sentence(Reason("flag", {"flag": flag, "at": "135"})))
                elsewhere = {"flag": flag, "at": "135", "surface": "hub_face"}
                self.assertTrue(sentence(Reason("flag_elsewhere", elsewhere)).startswith("Hub face: "))

    def test_the_sentence_says_number_unit_and_limit(self) -> None:
        text = sentence(Reason("runout_stands", FIGURES))
        self.assertEqual(
            text, "Lateral runout is 0.109 ± 0.006 mm, over (limit 0.05 mm); its high spot is at stud 4 +14°."
        )
        self.assertIn("4.3 ± 0.2 thou", sentence(Reason("runout_stands", FIGURES), unit=Unit.THOU))

    def test_the_tables_speak_the_words_of_the_published_format(self) -> None:
        text = resources.files("compass.files").joinpath("schemas", "verdict-1.schema.json").read_text(encoding="utf-8")
        corner = json.loads(text)["properties"]["corners"]["items"]["properties"]
        self.assertEqual(set(CHECKS), {check for check in corner["next_check"]["enum"] if check})
        self.assertLessEqual(set(REMEDIES), set(corner["recommended"]["anyOf"][0]["enum"]))
        pattern = corner["runout"]["properties"]["flags"]["items"]["pattern"]
        self.assertTrue(all(flag in pattern for flag in FLAGS))
        for name in ("state_discard", "state_variation"):
            self.assertLessEqual(set(corner["thickness"]["properties"][name]["enum"]), set(STATES))

    def test_translation_is_asked_for_every_text(self) -> None:
        asked: list[str] = []

        def translate(text: str) -> str:
            asked.append(text)
            return text

        sentence(Reason("runout_stands", FIGURES), translate=translate)
        self.assertIn(SENTENCES["runout_stands"], asked)
        self.assertIn(STATES["over"], asked)
        self.assertEqual(place_text(0.0, 5, translate=lambda text: "bolt " + text[5:]), "bolt 1")
