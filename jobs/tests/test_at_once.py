"""At the very same moment: two hands, two tabs, one form."""

import threading
from collections.abc import Callable

from django.db import connection
from django.test import TransactionTestCase
from django.urls import reverse

from jobs.floor.actions import open_job
from jobs.models import Decision, Job, Look, QuickReading, Run, RunStep
from jobs.prepare.actions import start_sweep
from jobs.tests.base import SET_UP
from workshop.models import Vehicle
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

    threads = [threading.Thread(target=run, args=(act,)) for act in acts]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


class AtOnce(TransactionTestCase):
    """Nothing is made twice, nothing is lost."""

    def setUp(self) -> None:
        self.user, self.other = person("lead"), person("technician")
        vehicle = add_vehicle(self.user, label="Minibus 9", kind="van")
        set_limits(self.user, vehicle, "F", **FIGURES)
        self.job = open_job(self.user, vehicle)
        self.corner = self.job.corners.get(position="FL")
        start_sweep(self.user, self.corner, stations=10, **SET_UP)

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
