"""Fifty technicians at once, and what a few slow senders do to them."""

import random
import socket
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, Final

import numpy as np
from django.urls import reverse

from demo.bench.core import varied
from demo.bench.figures import line
from demo.bench.server import Server
from demo.bench.technician import Technician
from jobs.models import Job
from jobs.record.case_in import import_case
from workshop.models import User, Vehicle

_PAUSE: Final = (1.0, 2.0)  # seconds from one act of a technician to the next
_READS: Final = 0.15  # of all acts are a page read and no reading typed
_PARTS: Final = 5
_SLOW: Final = 16


@dataclass
class _Seen:
    """What the technicians saw: durations in seconds, and what failed."""

    typed: list[float] = field(default_factory=list)
    read: list[float] = field(default_factory=list)
    failed: Counter[str] = field(default_factory=Counter)


def make_shift(lead: User, vehicle: Vehicle, count: int) -> list[tuple[User, Job]]:
    """Make ``count`` technicians with a measured job each."""
    people = User.objects.bulk_create(
        User(workshop_id=lead.workshop_id, username=f"shift-{k}", role=User.Role.TECHNICIAN, password="!")  # noqa: S106
        for k in range(count)
    )
    return [
        (person, import_case(person, text.encode(), vehicle=vehicle))
        for person, text in zip(people, varied(count), strict=True)
    ]


def measure_load(server: Server, shift: list[tuple[User, Job]], *, seconds: float) -> Iterator[str]:
    """Let everybody of the shift type a reading every 1 to 2 s, and now and then read a page, for ``seconds``."""
    technicians = [
        (Technician(server.port, person, job, job.corners.get(position="FL").sweeps.earliest("pk")), job)
        for person, job in shift
    ]
    for technician, _job in technicians:
        technician.read_workbench()
        technician.type_reading()
    memory, slow, seen = [server.memory_mb()], [], _Seen()
    for _part in range(_PARTS):
        before = len(seen.typed)
        _work(technicians, seconds / _PARTS, seen)
        slow.append(1000 * float(np.percentile(seen.typed[before:], 95)))
        memory.append(server.memory_mb())
    yield from _lines(f"{len(shift)} technicians", seen, seconds)
    yield f"  memory of the workers           {', '.join(f'{mb:.0f}' for mb in memory)} MB: before, and after each fifth"
    yield f"  p95 of a reading, by fifths     {', '.join(f'{ms:.0f}' for ms in slow)} ms"
    with slow_senders(server.port, _SLOW):
        yield from _lines(
            f"with {_SLOW} slow senders", _work(technicians[:10], min(seconds, 20), _Seen()), min(seconds, 20)
        )


def _lines(name: str, seen: _Seen, seconds: float) -> Iterator[str]:
    rate = (len(seen.typed) + len(seen.read)) / seconds
    yield f"  {name}, {seconds:.0f} s: {rate:.0f} acts a second, {seen.failed.total()} failed {dict(seen.failed) or ''}"
    yield line("  a reading typed", np.array(seen.typed))
    yield line("  a page read", np.array(seen.read))


def _work(technicians: list[tuple[Technician, Job]], seconds: float, seen: _Seen) -> _Seen:
    end = time.monotonic() + seconds
    threads = [
        threading.Thread(target=_one_works, args=(technician, job, random.Random(k), end, seen))
        for k, (technician, job) in enumerate(technicians)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return seen


def _one_works(technician: Technician, job: Job, dice: random.Random, end: float, seen: _Seen) -> None:
    pages: list[Callable[[], float]] = [
        technician.read_workbench,
        lambda: technician.read("/"),
        lambda: technician.read(reverse("jobs:cause", args=[job.pk])),
    ]
    time.sleep(dice.uniform(0, _PAUSE[1]))
    while time.monotonic() < end:
        try:
            if dice.random() < _READS:
                seen.read.append(dice.choice(pages)())
            else:
                seen.typed.append(technician.type_reading(dice.randrange(8)))
        except (OSError, RuntimeError) as why:
            seen.failed[f"{type(why).__name__} {why}"[:80]] += 1
        time.sleep(dice.uniform(*_PAUSE))


@contextmanager
def slow_senders(port: int, count: int) -> Iterator[None]:
    """Hold ``count`` connections that send a byte of a large form every half second."""
    stop = threading.Event()
    head = b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 100000\r\n\r\n"

    def send(connection: Any) -> None:
        with connection:
            connection.sendall(head)
            while not stop.wait(0.5):
                connection.sendall(b"x")

    threads = [
        threading.Thread(target=send, args=(socket.create_connection(("127.0.0.1", port)),)) for _ in range(count)
    ]
    for thread in threads:
        thread.start()
    try:
        time.sleep(1)
        yield
    finally:
        stop.set()
        for thread in threads:
            thread.join()
