"""Pull the plug while somebody types, and count what was lost and how long it took to come back.

Against a server that bin/start has started from this checkout, as the same user:

    .venv/bin/python docs/tools/measure_outages.py http://127.0.0.1:8600 --db-port 54600
    .venv/bin/python docs/tools/measure_outages.py ... --faults disk --fill DIRECTORY

It speaks HTTP only: signs in as the demo's technician, takes an example as a job, types a reading every quarter of a
second, and does to the processes what the fault says. An edit that was not acknowledged is sent again under its own
name, as the reading tape does. At the end the readings the server hands out are held against those it has acknowledged.
``disk`` fills the file system of DIRECTORY, which must be the database's and small (a tmpfs).
"""

import argparse
import contextlib
import http.client
import http.cookiejar
import json
import os
import re
import signal
import time
import urllib.error
import urllib.parse
import urllib.request
import uuid
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Final

ROOT: Final = Path(__file__).resolve().parents[2]
FAULTS: Final = ("worker", "server", "session", "database", "pause", "disk")
_TURN: Final = 0.25
_SLOTS: Final = 8
_GIVEN_UP: Final = 180  # seconds
Fault = Callable[[], Callable[[], None]]  # does it, and returns what ends it


class Tablet:
    """A technician's tablet: cookies, a job of its own, and the edits that were acknowledged."""

    def __init__(self, address: str, username: str, password: str) -> None:
        self._address = address.rstrip("/")
        self._cookies = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._cookies))
        self.acknowledged: dict[int, str] = {}
        self._number = 0
        self._client = uuid.uuid4().hex[:12]
        self.get("/sign-in/")
        self._post("/sign-in/", {"username": username, "password": password})
        self._job = self._take((ROOT / "examples" / "minibus-6.json").read_bytes())
        self._tape = re.search(r"/tapes/sweep/[^/\"]+/readings/", self._workbench())[0]  # type: ignore[index]
        self._was = self._on_tape()

    def get(self, path: str, *, seconds: float = 25) -> tuple[int, str]:
        """Return status and text of a page; 0 where nobody answers."""
        with contextlib.suppress(OSError, http.client.HTTPException):
            try:
                with self._opener.open(self._address + path, timeout=seconds) as answer:
                    return answer.status, answer.read().decode()
            except urllib.error.HTTPError as refused:
                return refused.code, refused.read().decode()
        return 0, ""

    def type_reading(self) -> bool:
        """Type into the next slot; again and again until it is acknowledged, one try a call."""
        slot = self._number % _SLOTS
        text = f"{self._number * 37 % 900 / 100:g}"
        edit = {"id": str(self._number), "slot": slot, "text": text, "was": self._was[slot], "client": self._client,
                "number": self._number + 1, "final": True}  # fmt: skip
        with contextlib.suppress(OSError, http.client.HTTPException, ValueError):
            said = json.loads(self._post(self._tape, {"edits": json.dumps([edit])}, accept="application/json"))
            if said["outcomes"][edit["id"]]["kind"] == "stored":
                self.acknowledged[slot] = self._was[slot] = text
                self._number += 1
                return True
        return False

    def lost(self) -> list[int]:
        """Return the slots in which the server holds something else than it has acknowledged."""
        now = self._on_tape()
        return [slot for slot, text in self.acknowledged.items() if now[slot] != text]

    def _workbench(self) -> str:
        return self.get(f"{self._job}FL/measure/")[1]

    def _on_tape(self) -> dict[int, str]:
        cells: list[str] = []
        while not cells:  # whoever types waits, too
            cells = re.findall(r"<input[^>]*data-slot=[^>]*>", self._workbench())
        texts = (re.search(r'value="([^"]*)"', cell) for cell in cells[:_SLOTS])
        return {slot: found[1] if found else "" for slot, found in enumerate(texts)}

    def _take(self, case: bytes) -> str:
        border = uuid.uuid4().hex
        named = f'--{border}\r\nContent-Disposition: form-data; name="%s"\r\n\r\n'
        token = (named % "csrfmiddlewaretoken" + self._token() + "\r\n").encode()
        body = token + (named % 'case"; filename="case.json').encode() + case + f"\r\n--{border}--\r\n".encode()
        request = urllib.request.Request(  # noqa: S310
            f"{self._address}/jobs/import/", body, {"Content-Type": f"multipart/form-data; boundary={border}"}
        )
        with self._opener.open(request, timeout=30) as answer:
            address = str(answer.url)
        while "/jobs/import/" in address:  # until a worker has opened it
            time.sleep(_TURN)
            with self._opener.open(address, timeout=30) as answer:
                address = str(answer.url)
        return urllib.parse.urlsplit(address).path

    def _token(self) -> str:
        return next(str(cookie.value) for cookie in self._cookies if cookie.name == "csrftoken")

    def _post(self, path: str, fields: dict[str, str], *, accept: str = "*/*") -> str:
        headers = {"X-CSRFToken": self._token(), "Accept": accept}
        sent = urllib.parse.urlencode(fields).encode()
        request = urllib.request.Request(self._address + path, sent, headers)  # noqa: S310
        with self._opener.open(request, timeout=25) as answer:
            return str(answer.read().decode())


def _processes(*words: str) -> list[int]:
    """Return the processes whose command line holds every word."""
    found = []
    for process in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            said = process.joinpath("cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
            if all(word in said for word in words):
                found.append(int(process.name))
    return sorted(found)


def _children(pid: int) -> list[int]:
    return [int(child) for child in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def _send(pids: list[int], number: int) -> None:
    for pid in pids:
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, number)


def _fault(name: str, db_port: int, fill: str) -> Fault:
    """Return what does the fault ``name``."""

    def act() -> Callable[[], None]:
        server = int((ROOT / ".local" / "server.pid").read_text())
        postmaster = _processes("postgres", f"-p {db_port}")[0]
        at_work = [pid for pid in _children(postmaster) if _processes_named(pid, " idle")]
        if name == "worker":
            _send(_children(server)[:1], signal.SIGKILL)
        elif name == "server":
            _send([server], signal.SIGKILL)
        elif name == "session":
            _send(at_work[:1], signal.SIGKILL)
        elif name == "database":
            _send([postmaster, *_children(postmaster)], signal.SIGKILL)
        elif name == "pause":
            everyone = [postmaster, *_children(postmaster)]
            _send(everyone, signal.SIGSTOP)
            return lambda: _send(everyone, signal.SIGCONT)
        else:
            ballast = Path(fill) / "ballast"
            with contextlib.suppress(OSError), ballast.open("wb") as file:
                while True:
                    file.write(b"x" * 4096)
                    file.flush()
            return ballast.unlink
        return lambda: None

    return act


def _processes_named(pid: int, word: str) -> bool:
    with contextlib.suppress(OSError):
        return word in Path(f"/proc/{pid}/cmdline").read_text()
    return False


def _type_on(tablet: Tablet, seconds: float) -> tuple[int, float]:
    """Type for a while; return how many readings were acknowledged and the longest wait for one, s."""
    begun = last = time.monotonic()
    stored, longest = 0, 0.0
    while last - begun < seconds:
        if tablet.type_reading():
            longest, last, stored = max(longest, time.monotonic() - last), time.monotonic(), stored + 1
        elif time.monotonic() - last > _GIVEN_UP:
            raise SystemExit("nothing was acknowledged for three minutes")
        time.sleep(_TURN)
    return stored, longest


def main() -> None:
    """Do each fault, and say what it did."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("address")
    parser.add_argument("--db-port", type=int, default=54600)
    parser.add_argument("--faults", nargs="+", choices=FAULTS, default=[name for name in FAULTS if name != "disk"])
    parser.add_argument("--seconds", type=float, default=75, help="how long a pause or a full disk lasts")
    parser.add_argument("--fill", default="", help="a directory on the database's own small file system")
    parser.add_argument("--username", default="brandt")
    parser.add_argument("--password", default="salt-and-iron")
    options = parser.parse_args()
    tablet = Tablet(options.address, options.username, options.password)
    style = re.search(r'/static/css/[^"]+', tablet.get("/")[1])[0]  # type: ignore[index]
    for name in options.faults:
        before, _wait = _type_on(tablet, 3)
        end_it = _fault(name, options.db_port, options.fill)()
        during = ""
        if name in ("pause", "disk"):
            during = _look_round(tablet, style, options.seconds)
        end_it()
        after, longest = _type_on(tablet, 15)
        lost = tablet.lost()
        print(f"{name:9} {before} stored before, {after} after; longest wait after it {longest:.1f} s,"
              f" lost {lost or 'none'}{during}", flush=True)  # fmt: skip


def _look_round(tablet: Tablet, style: str, seconds: float) -> str:
    """Go on typing and reading while the fault lasts; say what was answered."""
    pages, styles, stored = Counter[int](), Counter[int](), 0
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        stored += tablet.type_reading()
        pages[tablet.get("/")[0]] += 1
        styles[tablet.get(style)[0]] += 1
        time.sleep(_TURN)
    return f"; meanwhile {stored} stored, pages {dict(pages)}, style sheet {dict(styles)}"


if __name__ == "__main__":
    main()
