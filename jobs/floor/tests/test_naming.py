"""A vehicle named in a hurry is asked about, not put into the fleet once more."""

from types import SimpleNamespace

from django.test import TestCase
from django.urls import reverse

from jobs.models import Job
from workshop.models import Vehicle
from workshop.tests.base import client_of, person
from workshop.vehicles import add_vehicle, meant


class Named(TestCase):
    """A motorcycle and two minibuses."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.user = person("technician")
        cls.courier = add_vehicle(cls.user, label="Courier motorcycle", kind="motorcycle", registration="IS 50 009")
        for n in (1, 7):
            add_vehicle(cls.user, label=f"Minibus {n}", kind="van", registration=f"IS 11 20{n}")

    def setUp(self) -> None:
        self.client = client_of(self.user)

    def opened(self, label: str, **more: str) -> tuple[int, str]:
        """Open a job by its form; return the status and whose job is the newest then."""
        sent = {"label": label, "kind": "van", **more}
        answer = self.client.post(reverse("jobs:new"), sent)
        self.asked = answer.context["form"] if answer.status_code == 422 else None
        newest = Job.objects.order_by("-pk").first()
        return answer.status_code, str(newest.vehicle) if newest else ""

    def test_a_part_and_a_slip_are_meant_and_figures_tell_apart(self) -> None:
        fleet = list(Vehicle.objects.all())
        for words, likely in (
            ("courier", ["Courier motorcycle"]),
            ("courrier moto", ["Courier motorcycle"]),
            ("50-009", ["Courier motorcycle"]),
            ("minbus 7", ["Minibus 7"]),
            ("bus 7", ["Minibus 7"]),
            ("Minibus", ["Minibus 1", "Minibus 7"]),
            ("Minibus 8", []),
            ("Mail van 7", []),
            ("mo", []),
        ):
            with self.subTest(words=words):
                self.assertEqual([str(vehicle) for vehicle in meant(fleet, words)], likely)
        self.assertEqual(meant([SimpleNamespace(label="–", registration="")], "van"), [])

    def test_one_that_may_be_meant_is_asked_and_taken_by_enter(self) -> None:
        self.assertEqual(self.opened("courier"), (422, ""))
        self.assertEqual(self.asked["which"].value(), str(self.courier.pk))
        self.assertEqual(self.opened("courier", which=str(self.courier.pk)), (302, "Courier motorcycle"))
        self.assertEqual(self.opened("Minibus"), (422, "Courier motorcycle"))
        self.assertIsNone(self.asked["which"].value())  # two may be: none is taken by a press too many
        self.assertEqual(Vehicle.objects.count(), 3)

    def test_a_new_one_is_said_to_be_new_and_only_by_its_own_name(self) -> None:
        self.assertEqual(self.opened("Minibus 8"), (302, "Minibus 8"))
        self.assertEqual(self.opened("bus", which="new courier")[0], 422)
        self.assertEqual(self.opened("bus", which="new bus"), (302, "bus"))
        self.assertEqual(self.opened("Van", registration="is11-207")[0], 422)
        self.assertEqual(self.asked["which"].field.choices[0][0], str(Vehicle.objects.get(label="Minibus 7").pk))

    def test_the_floor_finds_a_registration_however_it_is_spaced(self) -> None:
        self.opened("Minibus 7")
        self.opened("Minibus 1")
        for words in ("is11207", "11-207", "IS 11 207", "minibus 7"):
            page = self.client.get(reverse("jobs:floor"), {"q": words})
            self.assertEqual([strip.label for strip in page.context["strips"]], ["Minibus 7"], words)
