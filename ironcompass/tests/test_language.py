"""A second language: whole, the person's own choice, and never in a file that others read."""

import json
import re
from string import Formatter

from django.conf import settings
from django.test import Client, SimpleTestCase
from django.urls import reverse
from django.utils import translation

from compass.files.read_case import read_case
from compass.ground.errors import FaultyFileError
from compass.ground.units import Unit
from compass.tests.test_casefile import CASE, changed
from compass.words.figures import length_text, odds_text, plain_text
from jobs.tests.base import READINGS, THICKNESS, Workshop, fill
from workshop.store.limits_forms import LimitsForm
from workshop.tests.base import FIGURES, client_of

NAMED = re.compile(r"%\((\w+)\)")


def named_in(text: str) -> set[str]:
    """Return the figures a sentence names, in either way of naming them."""
    if "{" in text:
        return {name for _words, name, *_rest in Formatter().parse(text) if name}
    return set(NAMED.findall(text))


class Words(SimpleTestCase):
    """The catalogue. That it is whole, and that the sources have no word beside it, ``bin/test`` checks."""

    def test_no_sentence_loses_a_figure_on_its_way(self) -> None:
        text = (settings.BASE_DIR / "locale/de/LC_MESSAGES/django.po").read_text(encoding="utf-8")
        pairs = re.findall(r'^msgid "(.+)"\nmsgstr "(.+)"$', text, re.MULTILINE)
        self.assertGreater(len(pairs), 2000)
        self.assertEqual([msgid for msgid, said in pairs if named_in(msgid) != named_in(said)], [])

    def test_what_is_wrong_with_a_file_is_told_in_the_readers_language(self) -> None:
        thickness = "corners__0__thickness__readings_mm"
        files = [
            json.dumps(data)
            for data in (
                changed(colour="red"), changed(id=7), changed(format="x"), changed(corners__0__spec__studs=None),
                changed(corners__0__spec__max_runout_mm=0), changed(corners=7), changed(vehicle__label="x" * 201),
                changed(corners=[CASE["corners"][0]] * 2), changed(**{thickness: [[26.4], [26.3]]}),
                changed(corners__0__findings=["bent"]), changed(vehicle=[]), changed(id=10**16),
            )
        ]  # fmt: skip
        files += ["", "{", '{"x"}', '{"x": 1,, "y": 2}', "[1] 2", '"', '{"x": 1, "x": 2}', "NaN", "[" * 100_000]
        files.append("9" * 5000)
        for file in files:
            told = []
            for language in ("en-gb", "de"):
                with translation.override(language):
                    with self.assertRaises(FaultyFileError) as refused:
                        read_case(file)
                    told.append([str(fault) for fault in refused.exception.faults])
            for english, german in zip(*told, strict=True):
                self.assertNotEqual(english, german)
                self.assertIsNone(re.search(r"\b(not|an?|the|at|missing|once)\b", german), german)

    def test_figures_take_the_readers_decimal_sign(self) -> None:
        for language, sign, odds in (("en-gb", ".", "15 in 20"), ("de", ",", "15 von 20")):
            with self.subTest(language), translation.override(language):
                said = length_text(0.0512, expanded_mm=0.004)
                self.assertEqual((said.figure, said.plus_minus), (f"0{sign}051", f"0{sign}004"))
                self.assertEqual(plain_text(25.4).figure, f"25{sign}40")
                self.assertEqual(odds_text(0.75), odds)


class Pages(Workshop):
    """Who reads what."""

    def setUp(self) -> None:
        super().setUp()
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)

    def choose(self, language: str) -> None:
        self.client.post(reverse("workshop:preferences"), {"language": language})

    def test_a_person_chooses_and_keeps_it_at_every_browser(self) -> None:
        cause = reverse("jobs:cause", args=[self.job.pk])
        self.assertContains(self.client.get(cause), "Most likely")
        self.choose("de")
        self.assertContains(self.client.get(cause), "Am wahrscheinlichsten")
        self.assertContains(client_of(self.user).get(cause, headers={"Accept-Language": "fr"}), "Am wahrscheinlichsten")
        self.choose("xx")
        self.assertContains(self.client.get(cause), "Am wahrscheinlichsten")
        self.choose("en-gb")
        self.assertContains(self.client.get(cause, headers={"Accept-Language": "de"}), "Most likely")

    def test_at_the_door_the_browser_is_asked(self) -> None:
        door = reverse("workshop:sign-in")
        self.assertContains(Client().get(door, headers={"Accept-Language": "de-AT"}), "Anmelden")
        self.assertContains(Client().get(door, headers={"Accept-Language": "da, fr"}), "Sign in")
        client = Client()
        client.post(reverse("set_language"), {"language": "de", "next": door})
        self.assertContains(client.get(door), "Anmelden")

    def test_a_measured_corner_is_told_with_a_comma_and_edited_with_one(self) -> None:
        self.choose("de")
        bench = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]))
        self.assertContains(bench, "0,110")
        self.assertNotContains(bench, "0.110")
        # What a form shows it takes back, and what is left alone stays as it is stored.
        stored = {name: value for name, value in FIGURES.items() if isinstance(value, float)}
        with translation.override("de"):
            drawn = LimitsForm(unit=Unit.MM, initial=stored)
            data = {name: drawn[name].value() for name in stored} | {"discard_thickness_mm": "25,35"}
            form = LimitsForm(data, unit=Unit.MM, initial=stored)
            form.is_valid()
        self.assertEqual(data["max_runout_mm"], "0,05")
        self.assertEqual({name: form.cleaned_data[name] for name in stored}, stored | {"discard_thickness_mm": 25.35})

    def test_files_are_the_same_whoever_fetches_them(self) -> None:
        names = ("jobs:case", "jobs:verdict", "jobs:readings-csv")
        addresses = [reverse(name, args=[self.job.pk]) for name in names]
        english = [self.client.get(address).content for address in addresses]
        self.choose("de")
        self.assertEqual([self.client.get(address).content for address in addresses], english)
