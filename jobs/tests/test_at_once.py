"""At the very same moment: two hands, two tabs, one form."""

import threading
from collections.abc import Callable
from contextvars import copy_context

from django.db import connection
from django.urls import reverse

from ironcompass.testing import Committed
from jobs.floor.actions import open_job
from jobs.measure.actions import type_readings
from jobs.measure.device import Sent, listen, take
from jobs.models import Decision, DeviceReading, Job, Look, QuickReading, Run, RunStep, Sweep, Tape
from jobs.prepare.actions import start_sweep
from jobs.tests.base import SET_UP, entry
from workshop.models import Instrument, User, Vehicle
from workshop.store.actions import make_device_key
from workshop.tests.base import FIGURES, client_of, person
from workshop.vehicles import add_vehicle, set_limits


def at_once(*acts: Callable[[], object]) -> None:
    """Do acts in as many threads, all let go together."""
    gate = threading.Barrier(len(acts))

    def run(act: Callable[[], object]) -> None:
        gate.wait()
        try:
            act()
        finally:
            connection.close()

    # A thread begins in no workshop: each goes on where the test is.
    threads = [threading.Thread(target=copy_context().run, args=(run, act)) for act in acts]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def fill_from(user: User, tape: Tape, first: int, texts: list[str]) -> None:
    """Type texts one after the other, from a slot on."""
    for slot, text in enumerate(texts, start=first):
        type_readings(user, tape, [entry(slot, text, number=slot)])


class AtOnce(Committed):
    """Nothing is made twice, nothing is lost."""

    def setUp(self) -> None:
        self.user, self.other = person("lead"), person("technician")
        vehicle = add_vehicle(self.user, label="Minibus 9", kind="van")
        set_limits(self.user, vehicle, "F", **FIGURES)
        self.job = open_job(self.user, vehicle)
        self.corner = self.job.corners.get(position="FL")
        self.sweep = start_sweep(self.user, self.corner, stations=10, **SET_UP)

    def test_enter_pressed_twice_makes_one(self) -> None:
        new = {"label": "Ferry van", "kind": "van", "once": "k1"}
        quick = {"stud": "4", "offset": "12", "amount": "9", "within": "15", "once": "k2"}
        for address, sent, rows in (
            (reverse("jobs:new"), new, Vehicle.objects.filter(label="Ferry van")),
            (reverse("jobs:quick", args=[self.job.pk, "FL"]), quick, QuickReading.objects.all()),
        ):
            clients = [client_of(self.user) for _ in range(3)]
            at_once(*(lambda c=client, a=address, s=sent: c.post(a, s) for client in clients))
            with self.subTest(address=address):
                self.assertEqual(rows.count(), 1)
        self.assertEqual(Job.objects.count(), 2)

    def test_a_device_that_says_everything_three_times_and_a_person_who_types_share_a_tape(self) -> None:
        key, _secret = make_device_key(self.user, Instrument.objects.create(name="D", graduation_mm=0.01), name="D")
        listen(self.user, self.sweep, key)

        def radio() -> None:
            for k in range(5):
                take(key, Sent(f"r{k}", 0.01 * (k + 1), "mm", station=k + 1))

        at_once(radio, radio, radio, lambda: fill_from(self.other, self.sweep, 5, ["9"] * 5))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:10], ["1", "2", "3", "4", "5", *["9"] * 5])
        self.assertEqual(DeviceReading.objects.filter(outcome="taken").count(), 5)

    def test_two_hands_write_different_figures_of_one_look(self) -> None:
        address = reverse("jobs:look", args=[self.job.pk, "FL"])
        figures = {"bearing_play": "0.02", "pad_inner": "6", "pad_outer": "7", "edge": "28"}
        hands = [client_of(self.user), client_of(self.other)] * 2
        at_once(
            *(
                lambda c=hand, n=name, t=text: c.post(address, {n: t, f"was-{n}": ""})
                for hand, (name, text) in zip(hands, figures.items(), strict=True)
            )
        )
        self.assertEqual(Look.objects.get(corner=self.corner).typed, figures)

    def test_two_hands_tick_one_step_and_begin_one_work(self) -> None:
        told = {"policy": "least_cost", "advised": {}, "price": 0, "minutes": 40, "decided_by": self.user}
        Decision.objects.create(job=self.job, axle="F", remedies={"FL": "clean_and_torque"}, **told)
        address = reverse("jobs:do-step", args=[self.job.pk])
        hands = [client_of(self.user), client_of(self.other)] * 2
        answers: list[int] = []
        sent = {"position": "", "key": "lift:1:chock"}
        at_once(*(lambda c=hand: answers.append(c.post(address, sent).status_code) for hand in hands))
        self.assertEqual(answers, [302] * 4)
        self.assertEqual((Run.objects.count(), RunStep.objects.count()), (1, 1))
