"""The limits library, its files and its service; instruments."""

import csv
import io
from unittest import mock

from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import HttpResponse
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from workshop.long_work.asking import stop
from workshop.models import AxleLimits, Instrument, LibraryLimits, LongWork, User, Vehicle
from workshop.store import limits_import
from workshop.store.limits import library_rows, limits_for_axles, put_into_library
from workshop.store.limits_files import COLUMNS, read_file, write_csv, write_json
from workshop.store.limits_service import LimitsUnreachableError, SimulatedLimits
from workshop.tests.base import FIGURES, changing, client_of, person, seen_on, work_done

HEAD = "model,axle,studs,rotor,max_runout_mm,max_thickness_variation_mm,measuring_radius_mm,discard_thickness_mm\n"
GOOD = "Varda Combina,F,5,vented,0.05,0.015,138,25.4\n"
ROW = {"model": "Varda Combina", "axle": "F", **FIGURES}


class Library(TestCase):
    """What is in force for a model, and how it reaches a vehicle."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.user = person()

    def test_a_change_is_a_new_row_and_the_newest_is_in_force(self) -> None:
        self.assertEqual(put_into_library(self.user, [ROW]), 1)
        self.assertEqual(put_into_library(self.user, [ROW]), 0)
        self.assertEqual(put_into_library(self.user, [ROW | {"max_runout_mm": 0.04}]), 1)
        self.assertEqual([row.max_runout_mm for row in library_rows(self.user, "combina")], [0.04])
        self.assertEqual(LibraryLimits.objects.count(), 2)
        with self.assertRaises(PermissionDenied):
            put_into_library(person("trainee"), [ROW])

    def test_a_vehicle_without_limits_takes_those_of_its_model(self) -> None:
        put_into_library(self.user, [ROW])
        vehicle = Vehicle.objects.create(label="Minibus 7", kind="van", model="varda combina")
        in_force = limits_for_axles(self.user, vehicle)
        self.assertEqual(set(in_force), {"F"})
        self.assertEqual(in_force["F"].figures()["discard_thickness_mm"], 25.4)
        own = AxleLimits.objects.create(vehicle=vehicle, axle="F", entered_by=self.user, **FIGURES | {"studs": 4})
        self.assertEqual(limits_for_axles(self.user, vehicle)["F"], own)

    def test_the_page_asks_no_more_with_more_rows(self) -> None:
        client = client_of(self.user)
        counts = []
        for n in (1, 30):
            put_into_library(self.user, [ROW | {"model": f"Make {k}"} for k in range(n)])
            with CaptureQueriesContext(
                connection,
            ) as asked:
                client.get(reverse("workshop:library"))
            counts.append(len(asked))
        self.assertEqual(counts[0], counts[1])
        self.assertContains(client.get(reverse("workshop:library")), "2.0 thou")

    def test_typing_limits_by_hand(self) -> None:
        form = {"model": "Skarv Sled", "axle": "F", "studs": "8", "rotor": "vented", "source": "cast",
                "measuring_radius_mm": "155", "max_runout_mm": "2 thou", "max_thickness_variation_mm": "0.015",
                "discard_thickness_mm": "30.2", "wheel_torque_nm": "210", "features": ["drilled"]}  # fmt: skip
        client = client_of(self.user)
        refused = client.post(reverse("workshop:library"), form | {"max_hub_runout_mm": "0.03"})
        self.assertContains(refused, "id_hub_runout_radius_mm_error", status_code=422)
        self.assertEqual(client.post(reverse("workshop:library"), form).status_code, 302)
        row = LibraryLimits.objects.get()
        self.assertEqual((row.features, row.wheel_torque_nm, row.entered_by), (["drilled"], 210.0, self.user))
        self.assertAlmostEqual(row.max_runout_mm, 0.0508)
        self.assertEqual(client_of(person("trainee")).post(reverse("workshop:library"), form).status_code, 403)


class Files(TestCase):
    """A file is read whole; every bad row and column is named; all or nothing."""

    def faults(self, text: str) -> list[tuple[int | None, str]]:
        return [(bad.row, bad.column) for bad in read_file(text.encode()).bad]

    def test_every_bad_row_and_column_is_named(self) -> None:
        self.assertEqual(self.faults(HEAD + GOOD), [])
        bad = "Klippa,X,0,wood,-1,zero,138,25.4\n"
        self.assertEqual(
            {*self.faults(HEAD + GOOD + bad)},
            {(3, c) for c in ("axle", "studs", "rotor", "max_runout_mm", "max_thickness_variation_mm")},
        )
        cases = {
            "": [(1, "")],
            GOOD + GOOD: [(1, "")],  # no header: one message, not one a cell
            "model,colour\nx,red\n": [(None, "colour")],
            HEAD + GOOD + GOOD: [(3, "model")],  # lines as the file's editor counts them
            HEAD + GOOD.strip() + ",extra\n": [(2, "")],
            HEAD + GOOD.replace(",F,5,", ",F,99999,"): [(2, "studs")],  # more than its column holds
            '{"format": "other/1", "limits": []}': [(None, "")],
            "{broken": [(None, "")],
        }
        for text, expected in cases.items():
            with self.subTest(text=text[:40]):
                self.assertEqual(self.faults(text), expected)
        self.assertEqual(read_file(b"\xff\xfe").bad[0].row, None)

    def test_inches_semicolons_and_decimal_commas_are_read(self) -> None:
        text = HEAD.replace(",", ";").replace("max_runout_mm", "max_runout_in") + "V;F;5;solid;0,002;0,015;138;25,4\n"
        row = read_file(text.encode()).rows[0]
        self.assertAlmostEqual(row["max_runout_mm"], 0.0508)
        self.assertEqual((row["discard_thickness_mm"], row["source"]), (25.4, "workshop"))

    def test_what_goes_out_comes_in_the_same(self) -> None:
        user = person()
        put_into_library(user, [ROW | {"features": ["slotted", "drilled"], "index_positions": [0.0, 72.0]}])
        rows = list(LibraryLimits.objects.in_force())
        self.assertEqual(next(csv.reader(io.StringIO(write_csv(rows)))), list(COLUMNS))
        for text in (write_csv(rows), write_json(rows)):
            read = read_file(text.encode())
            self.assertEqual((read.bad, put_into_library(user, read.rows)), ([], 0))

    def test_the_page_tries_first_and_takes_all_or_nothing(self) -> None:
        client = client_of(person())

        def send(text: str, **also: str) -> HttpResponse:
            file = SimpleUploadedFile("l.csv", text.encode())
            return client.post(reverse("workshop:library-import"), {"file": file, **also})

        def told(text: str, **also: str) -> HttpResponse:
            """Send a file, have a worker read it, and return the page that says what came of it."""
            asked = send(text, **also)
            self.assertContains(client.get(asked["Location"]), "waits its turn")
            work_done()
            return client.get(asked["Location"])

        self.assertContains(told(HEAD + GOOD, dry="1"), "Nothing was written yet")
        odd = told(HEAD + GOOD + GOOD.replace(",F,", ",R,").replace("25.4", "2.54"), dry="1")
        self.assertContains(odd, "row 3 discard_thickness_mm: Hardly any disc")
        self.assertNotContains(odd, "row 2")
        self.assertContains(told(HEAD + GOOD + "Bad,F,x,vented,1,1,1,1\n"), "row 3 studs: ")
        self.assertEqual(LibraryLimits.objects.count(), 0)
        self.assertContains(send("x" * 2_000_001), "id_file_error", status_code=422)
        put = limits_import.put_into_library

        def put_and_stop(user: User, rows: list[dict[str, object]]) -> int:
            stop(LongWork.objects.latest("pk"))  # while it is being written
            return put(user, rows)

        with mock.patch.object(limits_import, "put_into_library", put_and_stop):
            told(HEAD + GOOD)
        self.assertEqual(LibraryLimits.objects.count(), 0)
        self.assertContains(told(HEAD + GOOD), "1 row read, 1 new or changed.")
        self.assertEqual(LibraryLimits.objects.count(), 1)
        self.assertEqual(client_of(person("trainee")).post(reverse("workshop:library-import")).status_code, 403)
        handed_out = client.get(reverse("workshop:library-file", args=["json"])).json()
        self.assertEqual(handed_out["limits"][0]["studs"], 5)


class Service(TestCase):
    """The simulated service, behind the interface of a real one."""

    def test_finds_refuses_and_is_taken(self) -> None:
        self.assertEqual({row["model"] for row in SimulatedLimits().find("combina lift").rows}, {"Varda Combina Lift"})
        self.assertEqual(SimulatedLimits().find("").rows, [])
        with self.assertRaises(LimitsUnreachableError):
            SimulatedLimits().find("down")
        client, address = client_of(person()), reverse("workshop:library-service")
        self.assertContains(client.get(address, {"model": "skarv"}), "Skarv Sled 12")
        self.assertContains(client.get(address, {"model": "down"}), "does not answer", status_code=502)
        self.assertContains(client.get(address, {"model": "unheard of"}), "knows nothing")
        self.assertNotContains(client.get(address, {"model": "skarv"}), "Hardly any disc")
        thin = read_file(write_json([LibraryLimits(**ROW | {"discard_thickness_mm": 2.54})]).encode())
        with mock.patch.object(SimulatedLimits, "find", return_value=thin):
            self.assertContains(client.get(address, {"model": "combina"}), "Hardly any disc has such a limit")
        client.post(address, {"model": "skarv"})
        self.assertEqual(LibraryLimits.objects.filter(model="Skarv Sled 12").count(), 2)


class Instruments(TestCase):
    """Dials, micrometers and their checks."""

    def test_adding_and_changing_is_for_the_trained(self) -> None:
        address = reverse("workshop:instruments")
        form = {"name": "Dial 9", "kind": "dial", "native": "mm", "graduation_mm": "0.01", "face": "continuous",
                "divisions": "100", "error_limit_mm": "0", "check_every_days": "365"}  # fmt: skip
        self.assertEqual(client_of(person("trainee")).post(address, form).status_code, 403)
        client = client_of(person())
        self.assertContains(
            client.post(address, form | {"graduation_mm": "0"}), "id_graduation_mm_error", status_code=422
        )
        self.assertEqual(client.post(address, form).status_code, 302)
        dial = Instrument.objects.get()
        self.assertContains(client.get(address), "never checked")
        change = changing("workshop:instruments", dial)
        client.post(change, form | {"checked_on": "2026-11-20"} | seen_on(client, change))
        self.assertEqual(Instrument.objects.get().history.count(), 2)
