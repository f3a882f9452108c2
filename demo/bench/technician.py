"""Somebody at a tablet, as the server sees them: a connection, a session, pages read and readings typed."""

import http.client
import json
import time
from urllib.parse import urlencode

from django.urls import reverse

from jobs.models import Job, Sweep
from workshop.models import User
from workshop.people.session import session_of


class Technician:
    """One person with one connection, who types into a tape of a job; times are seconds from sent to all read."""

    def __init__(self, port: int, person: User, job: Job, sweep: Sweep) -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        self._cookies = f"sessionid={session_of(person)}"
        self._sweep = sweep.pk
        self._workbench = reverse("jobs:measure", args=[job.pk, sweep.corner.position])
        self._take = reverse("jobs:readings", args=["sweep", sweep.pk])
        self._was = list(sweep.typed)
        self._number = 0
        self._token = ""

    def read(self, path: str) -> float:
        """Read a page. ``RuntimeError`` where it is refused."""
        start = time.perf_counter()
        self._ask("GET", path, "", {})
        return time.perf_counter() - start

    def read_workbench(self) -> float:
        """Read the page of the tape, and keep the token that its readings are sent with."""
        start = time.perf_counter()
        page, set_cookie = self._ask("GET", self._workbench, "", {})
        taken = time.perf_counter() - start
        self._token = page.partition('"X-CSRFToken": "')[2].partition('"')[0]
        csrf = set_cookie.partition("csrftoken=")[2].partition(";")[0]
        if csrf:
            self._cookies = f"{self._cookies.partition(';')[0]}; csrftoken={csrf}"
        return taken

    def type_reading(self, slot: int = 3) -> float:
        """Type into one cell: never the same twice running, so that nothing is remembered of it."""
        self._number += 1
        text = f"{self._number * 37 % 900 / 100:g}"
        edit = {
            "id": text,
            "slot": slot,
            "text": text,
            "was": self._was[slot],
            "client": "bench",
            "number": self._number,
        }
        sent = urlencode({"edits": json.dumps([edit]), "show": f"s{self._sweep}"})
        headers = {
            "X-CSRFToken": self._token,
            "Accept": "application/json",
            "Content-Type": "application/x-www-form-urlencoded",
        }
        start = time.perf_counter()
        self._ask("POST", self._take, sent, headers)
        taken = time.perf_counter() - start
        self._was[slot] = text
        return taken

    def _ask(self, way: str, path: str, sent: str, headers: dict[str, str]) -> tuple[str, str]:
        """Return the answer and the cookie it sets."""
        self._connection.request(way, path, sent or None, headers | {"Cookie": self._cookies})
        answer = self._connection.getresponse()
        body = answer.read().decode()
        if answer.status != 200:
            raise RuntimeError(f"{way} {path}: {answer.status}")
        return body, answer.getheader("Set-Cookie") or ""
