"""The tape over HTTP: every answer says of every edit what became of it."""

import json

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from jobs.models import Sweep
from jobs.prove.actions import close_job
from jobs.tests.base import READINGS, Workshop, fill
from jobs.tests.test_pages import MOST_QUERIES


def edit(slot: int = 0, text: str = "5", **fields) -> dict[str, object]:
    """Return one edit as a page sends it."""
    return {
        "id": f"e{slot}",
        "slot": slot,
        "text": text,
        "was": "",
        "client": "tab",
        "number": 1,
        "final": True,
    } | fields


class Tape(Workshop):
    """What the reading tape sends and gets."""

    def post(self, *edits, kind: str = "sweep", pk: int | None = None, client=None, show: str = ""):
        data = {"edits": json.dumps(edits), "show": show or f"s{self.sweep.pk}", "at": "1"}
        address = reverse("jobs:readings", args=[kind, pk or self.sweep.pk])
        return (client or self.client).post(address, data, headers={"Accept": "application/json"})

    def test_a_reading_redraws_rose_trace_verdict_and_next(self) -> None:
        fill(self.user, self.sweep, READINGS[:9])
        with CaptureQueriesContext(connection) as queries:
            answer = self.post(edit(9, "4.5"))
        self.assertLessEqual(len(queries), MOST_QUERIES + 1)  # and one that releases its savepoint
        body = answer.json()
        for place in ("rose", "trace", "verdict", "next", "corners", "note"):
            self.assertIn(f'hx-swap-oob="innerHTML:#{place}"', body["html"])
        self.assertLess(len(answer.content), 30_000)
        self.assertEqual((body["state"]["typed"][9], body["outcomes"]["e9"]["kind"]), ("4.5", "stored"))

    def test_many_edits_at_once_are_judged_once_and_another_tape_is_not_drawn(self) -> None:
        edits = [edit(slot, text) for slot, text in enumerate(READINGS)]
        body = self.post(*edits, show="t999").json()
        self.assertEqual({outcome["kind"] for outcome in body["outcomes"].values()}, {"stored"})
        self.assertNotIn("html", body)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed, READINGS)
        shown = self.post(edit(0, "2", number=2), show=f"t{self.round.pk}").json()
        self.assertIn("hx-swap-oob", shown["html"])  # another tape of the same corner: its verdict moves

    def test_bad_text_is_stored_as_typed_and_said_beside_its_cell(self) -> None:
        body = self.post(edit(0, "1.2.3"), edit(1, "4")).json()
        self.assertEqual(list(body["state"]["wrong"]), ["0"])
        self.assertIn("two decimal signs", body["state"]["wrong"]["0"])
        self.assertEqual(self.post(edit(0, "-", final=False, number=2)).json()["state"]["wrong"], {})  # still typing
        self.assertEqual(self.post(edit(0, "3", number=3)).json()["state"]["wrong"], {})

    def test_a_station_that_stands_alone_is_flagged_live_and_unflagged_when_it_is_read_again(self) -> None:
        smooth = ["5", "4.5", "3", "1.5", "0.5", "0", "0.5", "1.5", "3", "4.5", "5"]
        fill(self.user, self.sweep, [*smooth[:3], "19", *smooth[4:]])
        self.assertEqual(self.post(edit(10, "5", was="5", number=50)).json()["flagged"], [3])
        self.assertEqual(self.post(edit(3, "1.5", was="19", number=51)).json()["flagged"], [])

    def test_turns_that_were_typed_are_no_doubt(self) -> None:
        self.assertIn("Turns of the small hand", self.post(edit(0, "105")).json()["html"])
        self.assertNotIn("Turns of the small hand", self.post(edit(0, "1t 5", number=2)).json()["html"])

    def test_a_conflict_stores_nothing_of_that_cell_and_all_of_the_others(self) -> None:
        self.post(edit())
        body = self.post(edit(0, "7", client="other"), edit(1, "8", client="other")).json()
        self.assertEqual(body["outcomes"]["e0"], {"kind": "conflict", "theirs": "5"})
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:2], ["5", "8"])

    def test_what_does_not_fit_is_refused_and_never_called_stored(self) -> None:
        self.assertEqual(self.post(edit(11)).json()["outcomes"]["e11"]["kind"], "unfit")
        for unfit in ([edit(0, "9" * 41)], [{"slot": 0}], ["x"], [edit()] * 201):
            with self.subTest(unfit=str(unfit)[:40]):
                self.assertEqual(self.post(*unfit).status_code, 400)
        self.assertEqual(self.post(edit(), kind="sweeps").status_code, 404)
        self.assertEqual(self.post(edit(), pk=10**6).status_code, 404)
        self.assertEqual(self.post(edit(), client=self.client_class()).status_code, 401)  # signed out
        close_job(self.user, self.job, reason="Sold")
        answer = self.post(edit())
        self.assertEqual((answer.status_code, answer.json()["outcomes"]["e0"]["kind"]), (409, "closed"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "")

    def test_zero_and_undo_answer_with_the_tape(self) -> None:
        fill(self.user, self.sweep, ["3", "1", "4"])
        zero = self.client.post(reverse("jobs:zero", args=["sweep", self.sweep.pk]))
        self.assertEqual(zero.json()["state"]["typed"][:3], ["2", "0", "3"])
        back = self.client.post(reverse("jobs:undo", args=["sweep", self.sweep.pk]))
        self.assertEqual(back.json()["state"]["typed"][:3], ["3", "1", "4"])

    def test_a_form_without_scripts_writes_what_was_changed_in_it(self) -> None:
        fill(self.user, self.sweep, ["3", "1"])
        page = reverse("jobs:measure", args=[self.job.pk, "FL"]) + f"?tape=s{self.sweep.pk}"
        sent = {"slot-0": "4", "was-0": "3", "slot-1": "9", "was-1": "", "slot-2": "7", "was-2": "", "slot-3": ""}
        answer = self.client.post(reverse("jobs:plain", args=["sweep", self.sweep.pk]), sent, follow=True)
        self.assertRedirects(answer, page)
        self.assertContains(answer, "theirs stands")  # station 2 was written meanwhile
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:4], ["4", "1", "7", ""])
        self.assertRedirects(self.client.get(reverse("jobs:plain", args=["sweep", self.sweep.pk])), page)
