"""A server of its own for what is measured: as bin/start serves, as the role that owns nothing."""

import contextlib
import os
import secrets
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from django.db import connection

from workshop.database_role import admit

_ROLE: Final = "ironcompass_bench"


@dataclass(frozen=True)
class Server:
    """A running server: its port, and the process that holds its workers."""

    port: int
    pid: int

    def memory_mb(self) -> float:
        """Return what its workers hold of memory nobody else holds, MB."""
        children = Path(f"/proc/{self.pid}/task/{self.pid}/children").read_text().split()
        return sum(_private_kb(int(child)) for child in children) / 1024


def _private_kb(pid: int) -> int:
    rolled = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    return sum(int(row.split()[1]) for row in rolled if row.startswith(("Private_Clean", "Private_Dirty")))


@contextlib.contextmanager
def serving(database: str) -> Iterator[Server]:
    """Serve the database ``database`` on a free port of loopback."""
    word = secrets.token_urlsafe(24)
    admit(connection, _ROLE, password=word)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    host = os.environ["IC_DATABASE_URL"].rpartition("@")[2].partition("/")[0]
    url = f"postgres://{_ROLE}:{word}@{host}/{database}"
    process = subprocess.Popen(  # noqa: S603
        [sys.executable, "-m", "gunicorn", "-c", "python:ironcompass.serving.gunicorn_settings",
         "--bind", f"127.0.0.1:{port}", "--log-level", "error"],
        env=os.environ | {"IC_SERVE_AS_ROOT": "yes", "IC_DATABASE_URL": url, "IC_URLCONF": "ironcompass.bench_urls"},
    )  # fmt: skip
    try:
        for _ in range(600):  # a busy machine takes its time
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 1):
                break
            time.sleep(0.1)
        yield Server(port, process.pid)
    finally:
        process.terminate()
        process.wait(10)
