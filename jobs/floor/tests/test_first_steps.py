"""An empty workshop is led to its first verdict."""

from django.test import TestCase
from django.urls import reverse

from jobs.floor.actions import open_job
from workshop.models import Instrument
from workshop.tests.base import client_of, person
from workshop.vehicles import add_vehicle


class FirstSteps(TestCase):
    """Nobody has measured anything here yet."""

    def test_the_floor_leads_until_there_is_a_job(self) -> None:
        lead = person("lead")
        client, floor = client_of(lead), reverse("jobs:floor")
        page = client.get(floor)
        self.assertEqual([step.get("next", False) for step in page.context["steps"]], [True, False, False])
        for name in ("workshop:instruments", "workshop:library", "jobs:new", "practice:home"):
            self.assertContains(page, reverse(name))
        Instrument.objects.create(name="Dial", graduation_mm=0.01)
        steps = client.get(floor).context["steps"]
        self.assertEqual(
            [(step["done"], step.get("next", False)) for step in steps][:2], [(True, False), (False, True)]
        )
        trainee = client_of(person("trainee")).get(floor)
        self.assertFalse(any(step["may"] for step in trainee.context["steps"]))
        self.assertContains(trainee, reverse("practice:home"))
        self.assertEqual(client.get(floor, {"q": "nothing"}).context["steps"], [])
        open_job(lead, add_vehicle(lead, label="Van", kind="van"))
        self.assertEqual(client.get(floor).context["steps"], [])
