"""The house itself: counts of tests, pages of our own when the server is at a loss, migrations that stay."""

import hashlib
import io
import json
import re
import tomllib
import unittest
from importlib import import_module
from pathlib import Path
from unittest import mock

from django.apps import apps
from django.conf import settings
from django.db import OperationalError, connection
from django.template.loader import get_template
from django.test import Client, SimpleTestCase, TestCase
from django.urls import reverse

from compass import __version__
from docs.tools.audit_packages import known
from ironcompass.testing import CountingResult, as_owner, counts_of
from workshop.models.door import Behind

ROOT = Path(settings.BASE_DIR)
# A committed migration is never edited: a database that has run it would not notice. Add another one, and its digest.
FROZEN = {
    "workshop/migrations/0001_initial.py": "ade7310456c2c868",
    "workshop/migrations/0002_measuring.py": "64fcb1e963aa0a94",
    "workshop/migrations/0003_tooling.py": "e06ad70b4fd91ea8",
    "workshop/migrations/0004_sent.py": "51f4c5b48b127f94",
    "workshop/migrations/0005_layouts.py": "9532aa8ba21d21fa",
    "workshop/migrations/0006_work_at_hand.py": "d96c0c99e395fafd",
    "workshop/migrations/0007_episodes.py": "e7c36bdf77546be8",
    "workshop/migrations/0008_learning.py": "a1368b71083cdc2e",
    "workshop/migrations/0009_times_of_parts.py": "80be5bba9edbefb6",
    "workshop/migrations/0010_devices.py": "113902af0497f5be",
    "workshop/migrations/0011_workshops.py": "281a1c5dbc59b7e2",
    "workshop/migrations/0012_rows_of_workshops.py": "a0780a39191f8488",
    "workshop/migrations/0013_walls.py": "8e131beb23db2d14",
    "workshop/migrations/0014_first_words.py": "b4c719a53ff7be34",
    "workshop/migrations/0015_asked.py": "e5ed08ab36c0514d",
    "workshop/migrations/0016_pin.py": "b53cc9ed612a6904",
    "workshop/migrations/0017_language.py": "d1ae782a855ab4d6",
    "workshop/migrations/0018_long_work.py": "e53959521449b70b",
    "workshop/migrations/0019_keys_carry_the_workshop.py": "2347827fb1972d8d",
    "workshop/migrations/0020_about_what.py": "647fc84a4521af2e",
    "workshop/migrations/0021_first_passwords.py": "1dbed71551042943",
    "workshop/migrations/0022_shop_version.py": "3985d9d7504564eb",
    "workshop/migrations/0023_check_struck_out.py": "52df2a7cd9330513",
    "jobs/migrations/0029_fitting_struck_out.py": "1f16a68c8386df1c",
    "jobs/migrations/0001_initial.py": "09a96cc78e2a6fec",
    "jobs/migrations/0002_initial.py": "4760f083f21ee31c",
    "jobs/migrations/0003_measuring.py": "cc13e51dbf75f1e9",
    "jobs/migrations/0004_story.py": "79b89bcf438182a6",
    "jobs/migrations/0005_bookings.py": "8eca64bddd2960ef",
    "jobs/migrations/0006_remedies.py": "65f77ebb677124e3",
    "jobs/migrations/0007_every_earlier_state.py": "368ab130045e3f18",
    "jobs/migrations/0008_judgement.py": "412ae143751f0376",
    "jobs/migrations/0009_struck_tapes.py": "e21c5e8631462a66",
    "jobs/migrations/0010_axle_three.py": "38ada86826befa88",
    "jobs/migrations/0011_rounds.py": "dc3ac533498d9792",
    "jobs/migrations/0012_work_at_hand.py": "1c86d833392b5d0f",
    "jobs/migrations/0013_day_order.py": "47b46a07a00fdfc5",
    "jobs/migrations/0014_episodes.py": "f34311eacba58422",
    "jobs/migrations/0015_closings.py": "3e76344433b9771f",
    "jobs/migrations/0016_times_of_parts.py": "6390c028d0adbb99",
    "jobs/migrations/0017_works_repeat_the_vehicle.py": "78572b47ecb08306",
    "jobs/migrations/0018_devices.py": "ddde01920c795b7b",
    "jobs/migrations/0019_months_counted.py": "019e0eb87f7b653e",
    "jobs/migrations/0020_rows_of_workshops.py": "163bd93e4173c145",
    "jobs/migrations/0021_walls.py": "ad5e218c233579db",
    "jobs/migrations/0022_trainee_at_it.py": "c5370563945fbf02",
    "jobs/migrations/0023_works_of_a_lathe.py": "4ecdc805d349821f",
    "jobs/migrations/0024_keys_carry_the_workshop.py": "6696f2bc81b1c96a",
    "jobs/migrations/0025_kept_refits.py": "dcd1a68c320ac9eb",
    "jobs/migrations/0026_decided_in.py": "fba5201ba6c2a7f7",
    "jobs/migrations/0027_works.py": "e624afb0c3e0cb67",
    "jobs/migrations/0028_remedy_of_a_corner.py": "ab02a7621bf3e89f",
    "practice/migrations/0001_bench.py": "d96fe86d53b5b45a",
    "practice/migrations/0002_rows_of_workshops.py": "a603815d0cb8e390",
    "practice/migrations/0003_walls.py": "409c9cac212716eb",
    "practice/migrations/0004_keys_carry_the_workshop.py": "62a6c9290093cd52",
    "workshop/migrations/0001_squashed_0022_shop_version.py": "66655054ef89d80a",
    "jobs/migrations/0001_squashed_0028_remedy_of_a_corner.py": "c746bc79605b14ca",
    "practice/migrations/0001_squashed_0004_keys_carry_the_workshop.py": "4ddce9a4ae322b07",
}


class Audit(SimpleTestCase):
    """What is known against packages fails the build; what could not be asked is never called sound."""

    def test_what_the_registries_say(self) -> None:
        sound = {"dependencies": [{"name": "a", "version": "1", "vulns": []}]}
        faulty = {"dependencies": [{"name": "a", "version": "1", "vulns": [{"id": "X-1", "fix_versions": ["2"]}]}]}
        unasked = {"dependencies": [{"name": "a", "skip_reason": "not found"}]}
        node = {"auditReportVersion": 2, "vulnerabilities": {}}
        self.assertEqual(known(sound, node), ([], True))
        self.assertEqual(known(faulty, node), (["a 1: X-1, mended in 2"], True))
        for python, of_node in ((unasked, node), ({}, node), (sound, {}), (sound, {"error": {"code": "E405"}})):
            self.assertEqual(known(python, of_node), ([], False))
        bad = node | {"vulnerabilities": {"b": {"severity": "high", "range": "<2"}}}
        self.assertEqual(known(sound, bad), (["b (npm): high, <2"], True))


class Counts(SimpleTestCase):
    """What bin/test says last is counted, not guessed."""

    def test_a_class_that_fails_to_set_up_and_a_test_that_fails_in_many_subtests(self) -> None:
        class Broken(unittest.TestCase):
            @classmethod
            def setUpClass(cls) -> None:
                raise RuntimeError

            def test_one(self) -> None: ...

            def test_two(self) -> None: ...

        class Mixed(unittest.TestCase):
            def test_passes(self) -> None: ...

            def test_fails_thrice(self) -> None:
                for k in range(3):
                    with self.subTest(k=k):
                        self.fail()

            def test_skipped(self) -> None:
                self.skipTest("not here")

        suite = unittest.TestSuite(unittest.defaultTestLoader.loadTestsFromTestCase(c) for c in (Broken, Mixed))
        result = unittest.TextTestRunner(stream=io.StringIO(), resultclass=CountingResult).run(suite)
        self.assertEqual(counts_of(result), {"passed": 1, "failed": 2, "skipped": 1})


class AtALoss(SimpleTestCase):
    """A dead database and a broken page have a page of our own, which asks neither."""

    def test_a_database_that_does_not_answer(self) -> None:
        client = Client(raise_request_exception=False)
        for error, status, words in (
            (OperationalError(), 503, "database is silent"),
            (ValueError(), 500, "wrong"),
        ):
            with (
                mock.patch("workshop.people.views.SignInView.get", side_effect=error),
                self.assertLogs("django.request"),
            ):
                answer = client.get(reverse("workshop:sign-in"))
            self.assertContains(answer, words, status_code=status)


class Templates(SimpleTestCase):
    """A part that is drawn once in a hundred jobs is as whole as the rest."""

    def test_each_can_be_read(self) -> None:
        rooms = [ROOT / "templates", *ROOT.glob("*/templates")]
        names = [str(path.relative_to(room)) for room in rooms for path in room.rglob("*.*") if path.is_file()]
        self.assertGreater(len(names), 150)
        for name in names:
            with self.subTest(name=name):
                source = get_template(name).template.source
                # One that runs over its line is no comment: it is drawn.
                self.assertEqual([line for line in source.splitlines() if "{#" in line and "#}" not in line], [])


class Migrations(TestCase):
    """Every database of every earlier commit can come along."""

    def test_committed_ones_are_as_they_were(self) -> None:
        here = {
            str(path.relative_to(ROOT)): hashlib.sha256(path.read_bytes()).hexdigest()[:16]
            for app in ("workshop", "jobs", "practice")
            for path in sorted((ROOT / app / "migrations").glob("0*.py"))
        }
        self.assertEqual(here, FROZEN)

    def test_a_database_made_while_two_of_them_were_still_changing_is_brought_right(self) -> None:
        lacking = import_module("jobs.migrations.0007_every_earlier_state").LACKING
        with as_owner(), connection.cursor() as cursor:
            for table, column in (("job", "decided"), ("historicaljob", "decided"), ("cutpass", "graduation_mm")):
                cursor.execute(f"alter table jobs_{table} drop column {column}")
            cursor.execute("drop index job_of_vehicle")
            for statement in (*lacking, *lacking):
                cursor.execute(statement)
            cursor.execute("select decided from jobs_job union all select decided from jobs_historicaljob")
            cursor.execute("select graduation_mm from jobs_cutpass")
            cursor.execute("select count(*) from pg_indexes where indexname in ('job_of_vehicle', 'job_by_cause')")
            self.assertEqual(cursor.fetchone(), (2,))


class Doors(SimpleTestCase):
    """Rows are reached through their model's door, which takes the person."""

    def test_nobody_goes_round_it(self) -> None:
        round_it = re.compile(r"\b[A-Z]\w+\.(objects|_default_manager|_base_manager)\b")
        apart = ("tests", "migrations", "models", "management")
        found = [
            f"{path.relative_to(ROOT)}: {line.strip()}"
            for app in ("workshop", "jobs", "practice")
            for path in sorted((ROOT / app).rglob("*.py"))
            if not set(path.relative_to(ROOT).parts) & set(apart)
            for line in path.read_text(encoding="utf-8").splitlines()
            if round_it.search(line) and not re.search(r"\.objects\.none\(\)|\bAccess\w+\.objects", line)
        ]
        self.assertEqual(found, [])

    def test_every_model_has_one(self) -> None:
        own = [m for app in ("workshop", "jobs", "practice") for m in apps.get_app_config(app).get_models()]
        without = {m.__name__ for m in own if not issubclass(m, Behind) and not m.__name__.startswith("Historical")}
        self.assertEqual(without, {"Workshop", "Membership"})  # what the doors themselves ask


class Versions(SimpleTestCase):
    """One version number everywhere."""

    def test_they_agree(self) -> None:
        project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
        package = json.loads((ROOT / "package.json").read_text())["version"]
        changes = re.search(r"^## (\S+)", (ROOT / "CHANGELOG.md").read_text(), re.MULTILINE)
        self.assertEqual({project, package, changes and changes[1]}, {__version__})
