"""What the ledger counts, against counts made by hand."""

import csv
from datetime import timedelta
from typing import Any
from unittest.mock import patch
from urllib.parse import urlencode

from django.db import connection
from django.http import QueryDict
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from jobs.models import ClosedMonth, CornerWorked
from ledger.facts import KINDS, RowByRow, comeback_tenths, followed, grouped, hub_shares, tenths, whole
from ledger.forms import LedgerForm
from ledger.page import comebacks
from ledger.tests.base import Record
from workshop.tests.base import client_of

MOST_QUERIES = 15
PAGES = ("overview", "comebacks", "odds", "hubs", "lathes", "learning")
GOOD = {"within": True, "came": "inside", "runout_mm": 0.02, "runout_before_mm": 0.1, "spared": True}
BAD = {"within": False, "came": "worse", "runout_mm": 0.06, "runout_before_mm": 0.1}


class Facts(Record):
    def form(self, **address: str) -> LedgerForm:
        return LedgerForm(QueryDict(urlencode(address)), user=self.lead, today=timezone.localdate())

    def works(self, **address: str):
        return self.form(**address).works()

    def counts(self, **address: str):
        return self.form(**address).counts()

    def setUp(self) -> None:
        super().setUp()
        cut = {"remedy": "on_vehicle_cut", "lathe": self.lathe, "root_cause": "rotor_runout"}
        self.first = self.closed(GOOD | cut, GOOD | cut | {"root_cause": "none_found"})
        self.second = self.closed(BAD | {"root_cause": "hub_face_runout", "hub_share": 0.8, "hub_mm": 0.08}, van=1)
        self.third = self.closed(GOOD | {"root_cause": "hub_face_runout", "needless": True}, days=10, km=50_000)

    def test_jobs_are_counted_once_and_corners_each(self) -> None:
        rows = {row["key"]: row for row in grouped(self.counts(), "remedy")}
        self.assertEqual(
            {key: (row["jobs"], row["corners"]) for key, row in rows.items()},
            {"on_vehicle_cut": (1, 2), "index": (2, 2)},
        )
        total = whole(self.counts())
        self.assertEqual(total, whole(RowByRow(self.works())))
        self.assertEqual(
            [total[name] for name in ("jobs", "corners", "within_n", "needless_n", "spared_n")],
            [3, 4, 3, 1, 3],
        )
        self.assertAlmostEqual(rows["index"]["after_mm"], 0.04)
        self.assertEqual([row["key"] for row in grouped(self.counts(), "lathe")], [self.lathe.pk])
        self.assertEqual(
            len(grouped(self.counts(), "month")), len({(c.at.year, c.at.month) for c in (self.first, self.third)})
        )

    def test_kept_sums_are_those_of_the_rows_whatever_changes_behind_them(self) -> None:
        def both() -> list[list[str]]:
            form = self.form(since="")
            ways = (form.counts(), RowByRow(form.works()))
            return [sorted(_rounded(row) for kind in KINDS for row in way.of(kind)) for way in ways]

        self.closed(GOOD | {"odds_within": 0.92, "hub_share": 0.25, "hub_mm": 0.02}, days=400)
        changes = (
            lambda: None,
            lambda: self.closed(GOOD, days=10),
            lambda: self.seen_again(self.second, km=5_000, comeback=True),
            lambda: self.first.said(stands=False),
            lambda: CornerWorked.objects.filter(closing=self.third).update(month="2020-01-01", within=None),
            lambda: CornerWorked.objects.filter(closing=self.second).delete(),
        )
        seen = []
        for change in changes:
            change()
            kept, counted = both()
            self.assertEqual(kept, counted)
            seen.append(kept)
        self.assertEqual(len({str(told) for told in seen}), len(changes))  # each of them moved something
        self.assertFalse(ClosedMonth.objects.filter(sums__isnull=True).exists())
        with CaptureQueriesContext(connection) as queries:
            self.counts().of("cause")
        self.assertEqual(len(queries), 1)

    def test_what_changed_while_it_was_counted_is_not_kept(self) -> None:
        def meanwhile(person: Any) -> Any:
            CornerWorked.objects.update(spared=False)
            return CornerWorked.objects.all()

        with patch.object(CornerWorked, "of", meanwhile):
            self.counts(since="").of("axle")
        self.assertTrue(ClosedMonth.objects.filter(sums__isnull=True).exists())
        self.assertEqual(whole(self.counts(since=""))["spared_n"], 0)

    def test_an_address_filters_and_a_wrong_one_is_no_error(self) -> None:
        since = f"{timezone.localdate() - timedelta(days=30):%Y-%m-%d}"
        self.assertEqual(self.works(since=since).count(), 1)
        self.assertEqual(self.works(until=since).count(), 3)
        self.assertEqual(self.works(model="make 2").get().closing, self.second)
        self.assertEqual(self.works(cause="hub_face_runout", remedy="index").count(), 2)
        self.assertEqual(self.works(cause="nonsense", since="never").count(), 4)
        self.closed(GOOD, days=900)
        self.assertEqual((self.works().count(), self.works(since="").count()), (4, 5))  # two years, unless all is asked
        Record.closed(self, GOOD, stands=False)
        self.assertEqual(self.works().count(), 4)  # opened again since

    def test_the_ones_not_yet_back_are_followed_as_far_as_they_have_gone(self) -> None:
        self.seen_again(self.second, km=5_000, comeback=True)
        self.seen_again(self.first, km=12_000, comeback=False)
        rows = followed(self.counts(), self.works())
        # 5,000 km back; 12,000 not back, seen; 60,000 − 50,000 not back, not seen.
        self.assertEqual(
            [(row["gone"], row["is_back"], row["n"]) for row in rows], [(20, 1, 1), (40, 0, 1), (48, 0, 1)]
        )
        table = comebacks(self.lead, self.form())["table"]
        self.assertEqual(table.rows[0][:3], ("all", "3", "1"))
        self.assertEqual(table.rows[0][4].figure, "13 in 20")  # 2 of 3, Kaplan and Meier
        self.assertEqual(table.rows[0][5:], ("–", "–"))  # nobody has gone so far: the curve says nothing there
        self.assertEqual(next(row for row in table.rows if row[0] == "Match on the vehicle")[3], "all 1")

    def test_odds_are_held_against_what_came(self) -> None:
        self.closed(GOOD | {"odds_within": 0.92}, GOOD | {"odds_within": 0.98})
        self.closed(BAD | {"odds_within": 0.94})
        row = tenths(self.counts())[0]
        self.assertEqual((row["tenth"], row["n"], row["came_n"]), (10, 3, 2))
        self.assertAlmostEqual(row["said"], (0.92 + 0.98 + 0.94) / 3)
        # Comebacks: only of vehicles that have gone the whole warranty distance, back or not.
        early = self.closed(BAD | {"comeback_odds": 0.3}, km=35_000)
        self.closed(GOOD | {"comeback_odds": 0.3}, km=35_000)
        self.closed(GOOD | {"comeback_odds": 0.3}, km=59_000)
        self.seen_again(early, km=4_000, comeback=True)
        (row,) = comeback_tenths(self.works(), warranty_km=20_000)
        self.assertEqual((row["tenth"], row["n"], row["came_n"]), (4, 2, 1))

    def test_the_hubs_share_by_model(self) -> None:
        (row,) = hub_shares(self.counts())
        self.assertEqual((row["key"], row["n"], row["mostly_hub"], row["mostly_rotor"]), ("Make 2", 1, 1, 0))

    def test_every_page_stands_with_and_without_rows_for_everybody_in_few_queries(self) -> None:
        for client in (self.client, client_of(self.trainee)):
            for page in PAGES:
                with CaptureQueriesContext(connection) as queries:
                    answer = client.get(reverse(f"ledger:{page}"))
                self.assertEqual(answer.status_code, 200, page)
                self.assertLessEqual(len(queries), MOST_QUERIES, page)
        type(self.first).objects.all().delete()
        for page in PAGES:
            self.assertEqual(self.client.get(reverse(f"ledger:{page}")).status_code, 200, page)
        self.assertContains(self.client.get(reverse("ledger:overview")), "No work is on record yet")

    def test_a_page_hands_its_numbers_out(self) -> None:
        text = self.client.get("/ledger/?by=remedy&as=csv").content.decode()
        rows = list(csv.reader(text.splitlines()))
        self.assertEqual(
            (rows[0][0], {row[0] for row in rows[1:]}),
            ("remedy", {"Match on the vehicle", "Turn the rotor on its studs"}),
        )


def _rounded(row: dict[str, Any]) -> str:
    return str({name: round(told, 9) if isinstance(told, float) else told for name, told in row.items()})
