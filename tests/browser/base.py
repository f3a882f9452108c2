"""One Chromium for all browser tests, a server that can be stopped and started, and a workshop to work in."""

import atexit
import contextlib
import os
import socket
import socketserver
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from functools import cache
from typing import Any, ClassVar
from urllib.parse import urlsplit

from django.core.signals import request_finished, request_started
from django.db import connection
from django.test import LiveServerTestCase
from playwright.sync_api import Browser, Page, sync_playwright

from ironcompass.testing import Committed
from ironcompass.tests.waiting import PATIENCE_S
from jobs.floor.actions import open_job
from jobs.prepare.actions import start_round, start_sweep
from jobs.tests.base import SET_UP
from workshop.models import User
from workshop.numbers_in_addresses import named
from workshop.people.session import session_of
from workshop.tests.base import FIGURES, person
from workshop.vehicles import add_vehicle, set_limits

CHROMIUM = os.environ.get("IC_CHROMIUM", "/usr/bin/chromium")
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run", "--disable-sync"]


class _InHand:
    """How many requests the live server is working on, from Django's own signals."""

    def __init__(self) -> None:
        self.count = 0
        self._lock = threading.Lock()
        request_started.connect(self._began)
        request_finished.connect(self._ended)

    def _began(self, **_details: Any) -> None:
        with self._lock:
            self.count += 1

    def _ended(self, **_details: Any) -> None:
        with self._lock:
            self.count = max(self.count - 1, 0)


_in_hand = _InHand()


class _Driver:
    """Playwright with one Chromium for all classes of this process: each start takes a second of a core."""

    def __init__(self) -> None:
        self._playwright = sync_playwright().start()
        self._browser: Browser | None = None
        atexit.register(self._playwright.stop)

    def browser(self) -> Browser:
        """Return the browser; one that died is started anew."""
        if self._browser is None or not self._browser.is_connected():
            self._browser = self._playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        return self._browser


_driver = cache(_Driver)


class RealServer:
    """The production server on the test database, as a process that can be killed and started again."""

    def __init__(self) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start and wait until it answers."""
        database = connection.settings_dict
        user, password = database["USER"], database["PASSWORD"]
        url = f"postgres://{user}:{password}@{database['HOST']}:{database['PORT']}/{database['NAME']}"
        command = [sys.executable, "-m", "gunicorn", "-c", "python:ironcompass.serving.gunicorn_settings"]
        self.process = subprocess.Popen(  # noqa: S603
            [*command, "--bind", f"127.0.0.1:{self.port}", "--workers", "1", "--log-level", "error"],
            env=os.environ | {"IC_DATABASE_URL": url, "IC_SERVE_AS_ROOT": "yes"},
        )
        for _ in range(int(10 * PATIENCE_S)):
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", self.port), 1):
                return
            if self.process.poll() is not None:
                break
            time.sleep(0.1)
        raise RuntimeError("gunicorn did not start")

    def kill(self) -> None:
        """Kill it without a farewell."""
        if self.process is not None:
            self.process.terminate()
            self.process.wait(PATIENCE_S)
            self.process = None


class _Carried(socketserver.BaseRequestHandler):
    """One connection, carried on to the server and back until either end lets go."""

    def handle(self) -> None:
        with socket.create_connection(self.server.to) as far:
            ends = (self.request, far)
            self.server.ends.extend(ends)
            back = threading.Thread(target=self._pour, args=ends[::-1], daemon=True)
            back.start()
            self._pour(*ends)
            back.join()

    def _pour(self, source: socket.socket, into: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while read := source.recv(65_536):
                into.sendall(read)
        with contextlib.suppress(OSError):
            into.shutdown(socket.SHUT_WR)


class Line(socketserver.ThreadingTCPServer):
    """The way to a server: cut, nothing answers at its address, as if the server were gone."""

    allow_reuse_address = daemon_threads = True

    def __init__(self, url: str, *, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Carried)
        self.to, self.ends = ("localhost", urlsplit(url).port), []
        self.url = f"http://localhost:{self.server_address[1]}"
        threading.Thread(target=self.serve_forever, args=(0.02,), daemon=True).start()

    def cut(self) -> None:
        """Let nothing through, not even what is on its way."""
        self.shutdown()
        self.server_close()
        for end in self.ends:
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def laid_again(self) -> "Line":
        """Return a line at the same address."""
        return Line(f"http://localhost:{self.to[1]}", port=self.server_address[1])


class BrowserCase(Committed, LiveServerTestCase):
    """A technician at a screen of 1280 × 800. A page that logs an error fails its test."""

    browser: ClassVar[Browser]
    comes_last = True  # the browser driver's loop stays in the process

    @classmethod
    def setUpClass(cls) -> None:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # Playwright's loop runs in this thread
        super().setUpClass()
        cls.browser = _driver().browser()

    @contextlib.contextmanager
    def subTest(self, msg: Any = "", **where: Any) -> Iterator[None]:  # noqa: N802  # the library's name
        """Say where it failed, and fail. (unittest's own would send the browser to the process that reports.)"""
        try:
            yield
        except Exception as error:
            error.add_note(f"{msg} {where}".strip())
            raise

    def setUp(self) -> None:
        self.user = person("lead")
        vehicle = add_vehicle(self.user, label="Minibus 9", kind="van")
        set_limits(self.user, vehicle, "F", **FIGURES)
        self.job = open_job(self.user, vehicle, complaint="Shakes at 80", odometer_km=84_210, assigned_to=self.user)
        self.corner = self.job.corners.get(position="FL")
        self.sweep = start_sweep(self.user, self.corner, stations=10, **SET_UP)
        self.round = start_round(
            self.user, self.corner, stations=10, radius_mm=138.0, graduation_mm=0.001, entry_unit="mm"
        )
        self.faults: list[str] = []
        self.url = self.live_server_url
        self.page = self.open_page(self.user)

    def tearDown(self) -> None:
        for context in self.browser.contexts:
            context.close()
        self._let_requests_end()
        self.assertEqual(self.faults, [])

    def _let_requests_end(self) -> None:
        """Wait until the live server has nothing in hand: emptying the tables under a request is a deadlock."""
        quiet = 0
        for _ in range(int(30 * PATIENCE_S)):
            quiet = quiet + 1 if _in_hand.count == 0 else 0
            if quiet == 4:  # a request just sent may not have begun yet
                return
            time.sleep(0.03)

    def open_page(self, user: User, **options: Any) -> Page:
        """Open a page signed in as ``user``."""
        # Pages that a device keeps are the concern of test_offline alone; elsewhere a lost line is to be seen as one.
        options = {"viewport": {"width": 1280, "height": 800}, "service_workers": "block"} | options
        context = self.browser.new_context(**options)
        context.add_cookies([{"name": "sessionid", "value": session_of(user), "url": self.url}])
        page = context.new_page()
        page.set_default_timeout(1000 * PATIENCE_S)
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("request", self._watch)
        return page

    def _watch(self, request: Any) -> None:
        if not request.url.startswith((self.url, "data:")):
            self.faults.append(f"a request left the machine: {request.url}")

    def measure(self, query: str = "", page: Page | None = None) -> None:
        """Open the workbench of the front left corner."""
        (page or self.page).goto(f"{self.url}/jobs/{named('job', self.job.pk)}/FL/measure/{query}")

    def settle(self, page: Page | None = None) -> None:
        """Wait until everything typed has reached the server."""
        self.eventually("!Object.keys(localStorage).some(key => key.startsWith('reading:'))", page)

    def hears(self) -> None:
        """Wait until the page hears keys: its scripts have run."""
        self.eventually("document.readyState === 'complete'")

    def type_in(self, *texts: str, page: Page | None = None) -> None:
        """Type texts as a hand does, Enter after each: no key twice within a glove's bounce."""
        keyboard = (page or self.page).keyboard
        for text in texts:
            for key, before in zip(text, " " + text, strict=False):
                if key == before:
                    (page or self.page).wait_for_timeout(35)
                keyboard.type(key)
            keyboard.press("Enter")

    def eventually(self, expression: str, page: Page | None = None, *, seconds: float = PATIENCE_S) -> None:
        """Wait for a JavaScript expression to hold. (Playwright's own waiting needs eval, which the pages refuse.)"""
        page = page or self.page
        waited, last = 0.0, time.monotonic()
        while not page.evaluate(expression):
            if waited > seconds:
                kept = page.evaluate("Object.entries(localStorage).filter(([key]) => key.startsWith('reading:'))")
                self.fail(f"never held: {expression}; not sent yet: {kept}")
            page.wait_for_timeout(30)
            now = time.monotonic()
            waited, last = waited + min(now - last, 1.0), now  # a machine that stood still meanwhile has not waited

    def cells(self, page: Page | None = None) -> list[str]:
        """Return what stands in the cells of the tape."""
        values = (page or self.page).eval_on_selector_all("#tape input", "cells => cells.map(cell => cell.value)")
        return list(values)
