"""What whoever runs this relies on: health, one line a request, headers, settings that hold up."""

import os
import subprocess
import sys
from unittest import mock

from django.conf import settings
from django.db import OperationalError, connection
from django.test import Client, TestCase, override_settings
from django.urls import reverse

from ironcompass import health
from ironcompass.testing import ROLE
from workshop.tests.base import client_of, person


class Health(TestCase):
    """A process that lives and one that can work are two things."""

    def test_a_process_lives_without_its_database_and_is_ready_with_it(self) -> None:
        health._made_for.clear()
        self.assertEqual(Client().get("/health/ready/").json()["ready"], True)
        with mock.patch.object(health, "connection") as gone:
            gone.cursor.side_effect = OperationalError
            answer = Client(raise_request_exception=False).get("/health/ready/")
        self.assertEqual(answer.status_code, 503)
        with self.assertNumQueries(0):
            self.assertEqual(Client().get("/health/live/").json()["alive"], True)

    def test_a_database_that_is_to_be_migrated_keeps_people_away(self) -> None:
        health._made_for.clear()
        with mock.patch("ironcompass.health.MigrationExecutor") as executor:
            executor.return_value.migration_plan.return_value = ["one"]
            self.assertEqual(Client().get("/health/ready/").status_code, 503)

    @override_settings(ALLOWED_HOSTS=["bay.example"])
    def test_whoever_watches_asks_the_machine_and_not_its_name(self) -> None:
        asked = Client(headers={"host": "10.1.2.3"})
        self.assertEqual([asked.get(f"/health/{what}/").status_code for what in ("live", "ready")], [200, 200])
        self.assertEqual(asked.get("/sign-in/").status_code, 400)

    def test_nobody_waits_for_ever(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "select setconfig from pg_db_role_setting s join pg_roles r on r.oid = setrole where rolname = %s",
                [ROLE],
            )
            (told,) = cursor.fetchone()
        self.assertEqual({"statement_timeout=10s", "lock_timeout=5s"} - set(told), set())


class Lines(TestCase):
    """One a request, with its number and without anybody's name."""

    def test_a_line_says_which_page_and_how_it_went_and_nothing_of_the_person(self) -> None:
        client = client_of(person("lead", username="nobody-else"))
        with self.assertLogs("ironcompass.requests", "INFO") as lines:
            answer = client.get(reverse("jobs:floor"), {"q": "a-secret-word"})
        (line,) = lines.records
        self.assertEqual((line.request_id, line.page, line.status), (answer["X-Request-Id"], "jobs:floor", 200))
        self.assertEqual(line.workshop, 1)
        said = str(vars(line))
        self.assertFalse([word for word in ("nobody-else", "a-secret-word") if word in said])

    def test_a_page_may_use_nothing_of_the_browser_but_a_cable(self) -> None:
        policy = Client().get(reverse("workshop:sign-in"))["Permissions-Policy"]
        self.assertIn("camera=()", policy)
        self.assertIn("serial=(self)", policy)


class Production(TestCase):
    """Behind HTTPS nothing is left that Django would warn of."""

    def test_the_deployment_check_is_clean(self) -> None:
        told = {
            "IC_HTTPS": "1",
            "IC_ALLOWED_HOSTS": "bay.example",
            "IC_SECRET_KEY": "k" * 30 + "abcdefghijklmnopqrstuvwxyz",
        }
        done = subprocess.run(
            [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"],
            cwd=settings.BASE_DIR, env=os.environ | told, capture_output=True, text=True, check=False,
        )  # fmt: skip
        self.assertEqual((done.returncode, done.stderr), (0, ""))
