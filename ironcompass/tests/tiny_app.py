"""The smallest application there is, and our worker that serves it."""

import os
import socket
import subprocess
import sys
import time
from contextlib import contextmanager, suppress
from typing import Any
from urllib.request import Request, urlopen

from django.conf import settings
from django.test import SimpleTestCase

from ironcompass.tests.waiting import PATIENCE_S


def answers(environ: dict[str, Any], start_response: Any) -> list[bytes]:
    """Say who came and how, after the seconds asked for: what gunicorn serves in these tests."""
    time.sleep(float(environ["QUERY_STRING"] or 0))
    start_response("200 OK", [("Content-Type", "text/plain")])
    return [f"{environ['REMOTE_ADDR']} {environ['wsgi.url_scheme']}".encode()]


class OfOurWorker(SimpleTestCase):
    """What it is served with, by sockets of our own; ``port`` is where."""

    @contextmanager
    def server(self, **told: str) -> Any:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        process = subprocess.Popen(  # noqa: S603
            [sys.executable, "-m", "gunicorn", "-c", "python:ironcompass.serving.gunicorn_settings", "--workers", "1",
             "--bind", f"127.0.0.1:{self.port}", "ironcompass.tests.tiny_app:answers"],
            cwd=settings.BASE_DIR, env=os.environ | {"DJANGO_SETTINGS_MODULE": "ironcompass.settings"} | told,
            stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        try:
            for _ in range(int(20 * PATIENCE_S)):
                with suppress(OSError), socket.create_connection(("127.0.0.1", self.port), 1):
                    break
                if process.poll() is not None:
                    break
                time.sleep(0.05)
            yield process
        finally:
            process.terminate()
            process.communicate(timeout=PATIENCE_S)

    def get(self, query: str = "", *, within: float = PATIENCE_S, **headers: str) -> str:
        asked = Request(f"http://127.0.0.1:{self.port}/?{query}", headers=headers)
        with urlopen(asked, timeout=within) as answer:  # noqa: S310
            return str(answer.read().decode())
