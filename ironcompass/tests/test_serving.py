"""How it is served: slow senders, silent databases, who may serve, the first start without a demo."""

import os
import re
import socket
import time
import unittest
from contextlib import ExitStack
from io import StringIO
from unittest import mock

import psycopg
from django.core.management import call_command
from django.db import connection
from django.test import Client, TestCase, override_settings
from django.urls import reverse

from ironcompass import patience
from ironcompass.tests.tiny_app import OfOurWorker
from ironcompass.tests.waiting import PATIENCE_S
from workshop.models import User, Workshop
from workshop.tests.base import client_of, person

SLOW = 16


class Served(OfOurWorker):
    """The worker by itself."""

    def test_those_who_send_slowly_or_not_at_all_keep_nobody_waiting(self) -> None:
        with self.server(IC_SERVE_AS_ROOT="yes"), ExitStack() as held:
            for k in range(SLOW):
                line = held.enter_context(socket.create_connection(("127.0.0.1", self.port)))
                line.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 9999\r\n\r\nx" if k % 2 else b"GET / HT")
            self.assertIn("http", self.get(within=30.0))  # they are sent away after a minute

    def test_what_is_being_worked_at_is_finished_when_it_is_told_to_stop(self) -> None:
        with self.server(IC_SERVE_AS_ROOT="yes") as process:
            self.get()
            with socket.create_connection(("127.0.0.1", self.port)) as line:
                line.sendall(b"GET /?1 HTTP/1.1\r\nHost: x\r\n\r\n")
                time.sleep(0.3)
                process.terminate()
                line.settimeout(PATIENCE_S)
                self.assertTrue(line.recv(100).startswith(b"HTTP/1.1 200"))

    def test_more_than_any_file_of_ours_is_refused_before_it_is_read(self) -> None:
        with self.server(IC_SERVE_AS_ROOT="yes"), socket.create_connection(("127.0.0.1", self.port)) as line:
            line.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 26214401\r\n\r\n")
            line.settimeout(PATIENCE_S)
            self.assertIn(b" 413 ", line.recv(100))

    def test_a_proxy_is_believed_only_where_there_is_to_be_one(self) -> None:
        said = {"X-Forwarded-For": "203.0.113.9", "X-Forwarded-Proto": "https"}
        with self.server(IC_SERVE_AS_ROOT="yes"):
            self.assertEqual(self.get(**said), "127.0.0.1 http")
        with self.server(IC_SERVE_AS_ROOT="yes", IC_HTTPS="1"):
            self.assertEqual(self.get(**said), "203.0.113.9 https")

    @unittest.skipUnless(os.geteuid() == 0, "only root can try to serve as root")
    def test_root_serves_nothing(self) -> None:
        told = {name: text for name, text in os.environ.items() if name != "IC_SERVE_AS_ROOT"}
        with mock.patch.dict(os.environ, told, clear=True), self.server() as process:
            self.assertNotEqual(process.wait(PATIENCE_S), 0)


class Patience(TestCase):
    """A database that has fallen silent keeps nobody waiting for ever."""

    def tearDown(self) -> None:
        patience._silent.clear()

    def test_a_wait_ends_and_gives_its_connection_up(self) -> None:
        told = connection.settings_dict
        address = {"user": told["USER"], "password": told["PASSWORD"], "host": told["HOST"], "port": told["PORT"]}
        with psycopg.connect(**address, dbname="postgres", autocommit=True) as line:
            patience.bound(line, longest=0.3)
            line.execute("select 1")
            self.assertFalse(patience.is_tried_already())
            with self.assertRaises(psycopg.OperationalError):
                line.execute("select pg_sleep(20)")
            self.assertTrue(line.closed)
        self.assertTrue(patience._silent)

    def test_while_it_is_silent_one_asks_it_and_the_others_are_told_at_once(self) -> None:
        patience.note_silence()
        with self.assertNumQueries(0):
            self.assertEqual(Client().get("/sign-in/").status_code, 503)
            self.assertEqual(Client().get("/health/live/").status_code, 200)
        patience._silent["asked"] -= 60
        self.assertEqual(Client().get("/sign-in/").status_code, 200)
        self.assertEqual(Client().get("/sign-in/").status_code, 503, "that one has just asked")


class Often(TestCase):
    """What is dear may be asked for only so often; whoever asks for less is not touched."""

    def setUp(self) -> None:
        # Within one minute of the clock, however long a slow machine takes.
        self.enterContext(mock.patch("django_ratelimit.core.time.time", return_value=1_800_000_000.0))

    def test_sign_ins_from_one_address(self) -> None:
        def try_once(n: int) -> int:
            sent = {"username": f"nobody-{n}", "password": "x"}
            return Client(REMOTE_ADDR="198.51.100.7").post("/sign-in/", sent).status_code

        with mock.patch("workshop.people.backends.ModelBackend.authenticate", return_value=None):
            said = [try_once(n) for n in range(62)]
        self.assertEqual((said[:60].count(429), said[60:]), (0, [429, 429]))
        self.assertEqual(Client(REMOTE_ADDR="198.51.100.8").get("/sign-in/").status_code, 200)

    def test_files_of_one_person_whether_they_are_taken_or_refused(self) -> None:
        client = client_of(person("lead"))
        said = [client.post(reverse("jobs:import"), {"once": f"{n}"}).status_code for n in range(21)]
        self.assertEqual((said[:20].count(422), said[20]), (20, 429))
        self.assertEqual(
            client_of(person("lead", username="another")).post(reverse("jobs:import"), {"once": "x"}).status_code, 422
        )


class FirstStart(TestCase):
    """Without a demo there is one lead, and a password that opens nothing but the page to change it."""

    def setUp(self) -> None:
        self.calls = self.enterContext(mock.patch("ironcompass.management.commands.make_ready.call_command"))

    def ready(self, **told: str) -> str:
        said = StringIO()
        with mock.patch.dict(os.environ, told):
            call_command("make_ready", stdout=said)
        return said.getvalue()

    @override_settings(RATELIMIT_ENABLE=False)
    def test_the_first_lead_signs_in_changes_the_word_and_is_made_once(self) -> None:
        said = self.ready(IC_FIRST_LEAD="nora", IC_WORKSHOP_NAME="Bay of Foule")
        word = re.search(r"nora signs in with (\S+)", said)[1]  # type: ignore[index]
        self.assertEqual(Workshop.first().name, "Bay of Foule")
        client = Client()
        answer = client.post("/sign-in/", {"username": "nora", "password": word}, follow=True)
        self.assertEqual(answer.redirect_chain[-1][0], reverse("workshop:password"))
        self.assertNotIn("salt-and-iron", answer.content.decode())
        self.assertEqual(self.ready(IC_FIRST_LEAD="nora"), "")
        self.assertEqual(User.objects.count(), 1)
        self.assertNotIn(mock.call("load_demo", once=True, stdout=mock.ANY), self.calls.mock_calls)
