"""The tape over HTTP."""

import json

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from jobs.models import Sweep
from jobs.prove.actions import close_job
from jobs.tests.base import READINGS, Workshop, fill
from jobs.tests.test_pages import MOST_QUERIES


class Tape(Workshop):
    """What the reading tape sends and gets."""

    def post(self, kind: str = "sweep", pk: int | None = None, **data):
        data = {"slot": 0, "text": "5", "was": "", "client": "tab", "number": 1, "final": "1"} | data
        address = reverse("jobs:reading", args=[kind, pk or self.sweep.pk])
        return self.client.post(address, data, headers={"HX-Request": "true"})

    def test_a_reading_redraws_rose_trace_verdict_and_next(self) -> None:
        fill(self.user, self.sweep, READINGS[:9])
        with CaptureQueriesContext(connection) as queries:
            answer = self.post(slot=9, text="4.5")
        self.assertLessEqual(len(queries), MOST_QUERIES)
        for place in ("rose", "trace", "verdict", "next", "corners", "note"):
            self.assertContains(answer, f'hx-swap-oob="innerHTML:#{place}"')
        self.assertLess(len(answer.content), 30_000)
        state = json.loads(answer["HX-Trigger"])["tape-state"]
        self.assertEqual((state["typed"][9], state["stored"]), ("4.5", True))

    def test_bad_text_is_422_with_what_to_do(self) -> None:
        answer = self.post(text="1.2.3")
        self.assertContains(answer, "two decimal signs", status_code=422)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "1.2.3")
        self.assertEqual(self.post(text="-", final="", number=2).status_code, 200)  # still typing

    def test_a_conflict_is_409_and_stores_nothing(self) -> None:
        self.post()
        answer = self.post(text="7", client="other")
        self.assertEqual(answer.status_code, 409)
        state = json.loads(answer["HX-Trigger"])["tape-state"]
        self.assertEqual((state["conflict"], state["stored"]), ("5", False))

    def test_what_does_not_fit_is_refused(self) -> None:
        self.assertEqual(self.post(slot=11).status_code, 400)
        self.assertEqual(self.post(text="9" * 41).status_code, 400)
        self.assertEqual(self.post(kind="sweeps").status_code, 404)
        self.assertEqual(self.post(pk=10**6).status_code, 404)
        close_job(self.user, self.job, reason="Sold")
        self.assertContains(self.post(), "closed", status_code=422)

    def test_zero_and_undo_answer_with_the_tape(self) -> None:
        fill(self.user, self.sweep, ["3", "1", "4"])
        zero = self.client.post(reverse("jobs:zero", args=["sweep", self.sweep.pk]))
        self.assertEqual(json.loads(zero["HX-Trigger"])["tape-state"]["typed"][:3], ["2", "0", "3"])
        back = self.client.post(reverse("jobs:undo", args=["sweep", self.sweep.pk]))
        self.assertEqual(json.loads(back["HX-Trigger"])["tape-state"]["typed"][:3], ["3", "1", "4"])
