"""A small workshop for tests of jobs."""

from typing import Any

from django.test import TestCase
from django.urls import reverse

from demo.tests.made import put_demo
from jobs.floor.actions import open_job
from jobs.measure.actions import Entry, Outcome, type_readings
from jobs.models import Corner, Job, Sweep, Tape, ThicknessRound
from jobs.prepare.actions import start_round, start_sweep, use_limits
from workshop.models import Lathe, User
from workshop.tests.base import FIGURES, client_of, person
from workshop.vehicles import add_vehicle, set_limits

SET_UP: dict[str, Any] = {
    "cleaned": True,
    "nuts_torqued": True,
    "graduation_mm": 0.01,
    "read_to": 0.5,
    "entry_unit": "div",
    "radius_mm": 138.0,
}
READINGS = ["1.5", "0", "0.5", "2", "5", "9", "11", "10.5", "7.5", "4.5", "2"]
THICKNESS = [f"{26.4 + k / 1000:.3f}" for k in (41, 40, 38, 30, 20, 12, 11, 18, 30, 40)]


class Workshop(TestCase):
    """A van with limits in front, a job, and a laid-out front left corner."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.user = person()
        cls.trainee = person("trainee")
        cls.vehicle = add_vehicle(cls.user, label="Minibus 9", kind="van")
        set_limits(cls.user, cls.vehicle, "F", **FIGURES)
        cls.job = open_job(cls.user, cls.vehicle, complaint="Shakes", odometer_km=84_210)
        for rows in (Job.objects, cls.job.history):  # put on it from the beginning
            rows.update(with_trainee=cls.trainee)
        cls.job.refresh_from_db()
        cls.corner = cls.job.corners.get(position="FL")
        cls.sweep = start_sweep(cls.user, cls.corner, stations=10, **SET_UP)
        cls.round = start_round(
            cls.user, cls.corner, stations=10, radius_mm=138.0, graduation_mm=0.001, entry_unit="mm"
        )

    def setUp(self) -> None:
        self.client = client_of(self.user)


def entry(slot: int, text: str, *, was: str = "", number: int = 1, client: str = "tab", final: bool = True) -> Entry:
    """Make one edit."""
    return Entry(slot=slot, text=text, client=client, number=number, was=was, final=final)


def type_reading(user: User, tape: Tape, *entries: Entry) -> tuple[Tape, Outcome]:
    """Type edits into a tape; return it and what became of the last of them."""
    typed = type_readings(user, tape, entries)
    return typed.tape, typed.outcomes[-1]


def fill(user: User, tape: Tape, texts: list[str]) -> None:
    """Type a whole tape."""
    type_readings(user, tape, [entry(slot, text, number=slot) for slot, text in enumerate(texts)])


def measure_in_order(user: User, job: Job) -> None:
    """Measure every corner of a job, those behind with limits of their own: true and even, clean and torqued."""
    rear = set_limits(user, job.vehicle, "R", **FIGURES)
    for corner in job.corners.all():
        if corner.axle == "R":
            use_limits(user, corner, rear)
        fill(user, start_sweep(user, corner, stations=10, **SET_UP), ["0", "0.5", "1", "0.5"] + ["0"] * 7)
        tape = start_round(user, corner, stations=10, radius_mm=138.0, graduation_mm=0.001, entry_unit="mm")
        fill(user, tape, ["26.500", "26.501"] * 5)


__all__ = [
    "READINGS",
    "THICKNESS",
    "Corner",
    "Job",
    "Sweep",
    "ThicknessRound",
    "User",
    "Workshop",
    "entry",
    "fill",
    "measure_in_order",
    "type_reading",
]


class DemoShop(TestCase):
    """The demo's jobs: Minibus 6 wants a cut, Meal van 1 a plate."""

    @classmethod
    def setUpTestData(cls) -> None:
        put_demo()
        cls.user = User.objects.get(username="brandt")
        cls.trainee = User.objects.get(username="ness")
        cls.job = Job.objects.for_choosing().get(vehicle__label="Minibus 6")
        cls.van = Job.objects.for_choosing().get(vehicle__label="Meal van 1", state="open")
        cls.lathe = Lathe.objects.get(kind="on_vehicle")

    def setUp(self) -> None:
        self.client = client_of(self.user)

    def page(self, name: str, *args, client=None):
        return (client or self.client).get(reverse(f"jobs:{name}", args=args))
