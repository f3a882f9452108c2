"""The core by itself: a corner judged, remedies foretold, work ordered, a batch of cases."""

import json
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Final

import numpy as np
from django.conf import settings

from compass.cause.corner import diagnose_corner
from compass.choose.offers import predict
from compass.diagnose import diagnose
from compass.do.order import Task, order_work, plain_order
from compass.do.steps import Work
from compass.do.tasks import tasks_of
from compass.do.work import CornerWork, vehicle_work
from compass.evidence.shop import Lathe, Plate, Shop
from compass.files.read_case import read_case
from compass.files.write_verdict import verdict_to_data
from demo.bench.figures import line, timed

_SHOP: Final = Shop(
    plates=tuple(Plate(c, 130.0, 10, 5) for c in (0.05, 0.1, 0.15)),
    lathes=(Lathe("on_vehicle", 0.015, 0.05, {"vented": 0.4}), Lathe("bench", 0.02, 0.08, {"vented": 0.5})),
)
_EXAMPLE: Final = Path(settings.BASE_DIR) / "examples" / "minibus-6.json"


def measure_core() -> Iterator[str]:
    """Measure a corner and four corners' remedies against a bare least squares."""
    corners = [read_case(text).corners[0] for text in varied(200)]
    design = np.random.default_rng(1).normal(size=(10, 6))
    target = design @ np.arange(6.0)
    floor = timed(lambda: np.linalg.lstsq(design, target, rcond=None), 400)
    turn = iter(corners * 2)
    full = timed(lambda: diagnose_corner(next(turn)), 200)
    measured = iter([diagnose_corner(corner).measured for corner in corners])
    four = timed(lambda: [predict(next(measured), _SHOP) for _ in range(4)], 40)
    yield ("core, one process, one thread")
    yield (f"  bare least squares              median {np.median(floor) * 1e3:8.3f} ms")
    yield line("one corner, sweep and thickness", full, floor)
    yield line("every remedy at four corners", four, floor)


def measure_orders() -> Iterator[str]:
    """Measure the order of work of one job, one person, the lathe left to itself, and of a day of eight jobs."""
    for name, jobs, shop in (("one job", 1, {"people": 1}), ("eight jobs", 8, {"people": 2, "bays": 2})):
        tasks = [task for k in range(jobs) for task in _job_tasks(f"job {k}")]
        plain = plain_order(tasks, **shop)
        order_work(tasks[:4], people=1)  # the solver's own import is nobody's order
        start = time.perf_counter()
        order = order_work(tasks, **shop, seconds=0.25 if jobs == 1 else 1.5)
        taken = time.perf_counter() - start
        yield (
            f"  order of work, {name:<16} {taken * 1e3:8.0f} ms   {order.finish} min, {order.walks} walks"
            f" (plain: {plain.finish} min, {plain.walks} walks)"
        )


def measure_lines() -> Iterator[str]:
    """Measure a batch of cases through the command line, on one core and on all, and one case without it."""
    lines = varied(400)
    for jobs in ("1", "0"):
        command = [sys.executable, "-m", "compass", "diagnose", "--lines", "--jobs", jobs, "-"]
        start = time.perf_counter()
        done = subprocess.run(command, input="\n".join(lines).encode(), capture_output=True, check=True)  # noqa: S603
        taken = time.perf_counter() - start
        verdicts = len(done.stdout.splitlines())
        yield (
            f"  diagnose --lines --jobs {jobs}       {verdicts / taken:8.0f} cases a second"
            f" ({verdicts} cases, start included)"
        )
    turn = iter(lines)
    parse = timed(lambda: verdict_to_data(diagnose(read_case(next(turn)))), 300)
    yield (f"  one case in process             median {np.median(parse) * 1e3:8.2f} ms")


def varied(count: int) -> list[str]:
    """Return the example with other readings each time: the same text over and over would flatter what is remembered."""
    generator = np.random.default_rng(5)
    texts = []
    for _ in range(count):
        data = json.loads(_EXAMPLE.read_bytes())
        for corner in data["corners"]:
            for sweep in corner.get("sweeps", []):
                sweep["readings_mm"] = [
                    round(z + 0.005 * int(generator.integers(-1, 2)), 4) for z in sweep["readings_mm"]
                ]
            if "thickness" in corner:
                rows = corner["thickness"]["readings_mm"]
                rows[:] = [[round(t + 0.001 * int(generator.integers(-1, 2)), 4) for t in row] for row in rows]
        texts.append(json.dumps(data))
    return texts


def _job_tasks(vehicle: str) -> list[Task]:
    """Return the work of an axle that is matched on the vehicle, two passes a side."""
    corners = [
        CornerWork(p, Work("on_vehicle_cut", leaves_lathe=True, first=p == "FL"), {}, (1, 2)) for p in ("FL", "FR")
    ]
    return tasks_of(vehicle, vehicle_work(corners), corners)
