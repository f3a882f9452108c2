"""Addresses that take a form, and what a person reads when a number cannot be used."""

from django.contrib.auth.models import AnonymousUser
from django.http import HttpResponse, HttpResponseRedirect
from django.test import RequestFactory, SimpleTestCase, TestCase

from compass.ground.errors import UnreadableNumberError
from compass.ground.units import Unit
from workshop.models import Sent
from workshop.numbers_in_addresses import named
from workshop.posting import counts_once, posted_from
from workshop.tests.base import person
from workshop.words import about_km, distance_text, speed_in, unreadable

CODES = {
    "empty": {},
    "letters": {},
    "two_points": {},
    "mixed_points": {},
    "no_digits": {},
    "unknown_unit": {"unit": "ells"},
    "unknown_rest": {"rest": "ells", "read": 12.5},
    "thousands": {"whole": 1250.0, "part": 1.25},
    "no_divisions": {},
    "negative": {},
    "zero": {},
    "too_large": {"most_mm": 10.0, "mm": 12.0},
}


class Words(SimpleTestCase):
    """Refused numbers and distances."""

    def test_every_refusal_says_what_was_typed_or_what_to_do_and_each_says_something_else(self) -> None:
        said = {code: unreadable(UnreadableNumberError(code, "12,x", **details)) for code, details in CODES.items()}
        self.assertEqual(len(set(said.values())), len(CODES))
        for code, words in said.items():
            self.assertTrue("12,x" in words or code in ("empty", "no_divisions"), words)
        self.assertIn("ells", said["unknown_rest"])
        self.assertIn("10", said["too_large"])

    def test_distances_and_speeds_are_the_readers(self) -> None:
        self.assertEqual(distance_text(84_210, Unit.MM), "84,210 km")
        self.assertEqual(distance_text(84_210, Unit.THOU), "52,326 mi")
        self.assertEqual(about_km(84_210, Unit.MM), 84_000)
        self.assertEqual(distance_text(about_km(84_210, Unit.THOU), Unit.THOU), "52,000 mi")
        self.assertEqual(speed_in(160.9344, Unit.THOU), (100.0, "mph"))


class Posted(TestCase):
    """Opened again, and sent twice."""

    def test_only_a_form_is_taken_and_anything_else_is_led_to_its_page_or_refused(self) -> None:
        view = posted_from("jobs:complaint", "pk", query="#close")(lambda _request, pk: HttpResponse(str(pk)))
        request = RequestFactory()
        self.assertEqual(view(request.post("/"), pk=7).content, b"7")
        self.assertEqual(view(request.get("/"), pk=7)["Location"], f"/jobs/{named('job', 7)}/#close")
        self.assertEqual(view(request.put("/"), pk=7).status_code, 405)

    def test_a_form_counts_once_for_its_person_and_content(self) -> None:
        done: list[str] = []

        @counts_once
        def view(request):
            done.append(request.POST["text"])
            return HttpResponseRedirect(f"/made/{len(done)}/")

        def send(user, **fields):
            request = RequestFactory().post("/make/", fields)
            request.user, request._messages = user, _Messages()
            return view(request)

        lead, other = person("lead"), person("technician")
        self.assertEqual(send(lead, once="k", text="5")["Location"], "/made/1/")
        self.assertEqual(send(lead, once="k", text="5", csrfmiddlewaretoken="another")["Location"], "/made/1/")
        self.assertEqual(send(lead, once="k", text="6")["Location"], "/made/2/")  # typed anew: another one
        self.assertEqual(send(other, once="k", text="5")["Location"], "/made/3/")
        send(lead, text="5")  # no key: a form from elsewhere is taken as it comes
        send(AnonymousUser(), once="k", text="5")
        self.assertEqual(done, ["5", "6", "5", "5", "5"])
        self.assertEqual(Sent.objects.count(), 3)


class _Messages:
    """Messages nobody reads."""

    def add(self, *_what) -> None:
        """Take one."""
