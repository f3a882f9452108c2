"""Measure the budgets of docs/architecture.md; every figure also as a ratio to a floor of the same run."""

import contextlib
import http.client
import json
import os
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import numpy as np
from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.urls import reverse

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
from demo.build import build_demo
from jobs.models import Job
from workshop.models import User, Workshop
from workshop.people.session import session_of
from workshop.walls import enter

SHOP = Shop(
    plates=tuple(Plate(c, 130.0, 10, 5) for c in (0.05, 0.1, 0.15)),
    lathes=(Lathe("on_vehicle", 0.015, 0.05, {"vented": 0.4}), Lathe("bench", 0.02, 0.08, {"vented": 0.5})),
)
EXAMPLE = Path(settings.BASE_DIR) / "examples" / "minibus-6.json"
MANY_JOBS = """
insert into jobs_job (workshop_id, vehicle_id, complaint, odometer_km, state, closing_reason, case_rest, story, road_test, found_cause, judgement, base_rates, figures, decided, created_by_id, created_at, changed_at, version, closed_by_id)
select 1, v.id, 'Pulses at ' || (40 + n %% 70) || ', job card ' || n, n, case when n > 200 then 'closed' else 'open' end, '', '{}', '{}', '{}', '', d.judgement, '{}', '{}', '{}', p.id, now() - n * interval '50 minutes', now(), 1, p.id
from generate_series(1, %s) n join (select id, row_number() over (order by id) - 1 as k, count(*) over () as c
from workshop_vehicle) v on v.k = n %% v.c
cross join (select judgement from jobs_job where judgement <> '{}' limit 1) d
cross join (select %s::bigint as id) p
"""
MANY_CORNERS = """
insert into jobs_corner (workshop_id, job_id, position, place, verdict, episode, after)
select j.workshop_id, j.id, p.position, p.place, coalesce(d.verdict, '{}'), 0, '{}' from jobs_job j
cross join (values ('FL', 0), ('FR', 1), ('RL', 2), ('RR', 3)) p(position, place)
left join (select position, verdict from jobs_corner where verdict <> '{}' and position in ('FL', 'FR') limit 2) d
on d.position = p.position
where not exists (select 1 from jobs_corner c where c.job_id = j.id)
"""

# What the jobs above were closed as: two corners each, one in thirty back, one in twenty not seen again yet.
MANY_CLOSINGS = """
insert into jobs_closing (workshop_id, job_id, vehicle_id, model, at, by_id, proven, reason, found_cause, odometer_km, judged_by, part_minutes, stands, due_on, due_km, due_why, chance, rung, rung_note, seen_again_id, seen_km, comeback, comeback_by_id)
select j.workshop_id, j.id, j.vehicle_id, v.model, j.created_at, j.created_by_id, true, '', 'rotor_runout', j.id % 90000, '{}', '{"opening": [7.5, 8.5]}', true, j.created_at::date + 365, j.id % 90000 + 20000, 'latest', 0.02, '', '',
case when j.id % 20 = 0 then null else j.id end, case when j.id % 20 = 0 then null else j.id % 90000 + 500 + j.id % 19000 end, case when j.id % 20 = 0 then null else j.id % 30 = 1 end, case when j.id % 20 = 0 then null else j.created_by_id end
from jobs_job j join workshop_vehicle v on v.id = j.vehicle_id
where j.state = 'closed' and not exists (select 1 from jobs_closing c where c.job_id = j.id)
"""
MANY_WORKS = """
insert into jobs_cornerworked (workshop_id, closing_id, stands, "on", month, vehicle_id, odometer_km, model, back, gone_km, position, axle, leads, root_cause, remedy, against, needless, spared, decided_by_id, done_by_id, lathe_id, supplier, price, minutes_said, minutes_taken, runout_before_mm, variation_before_mm, hub_mm, rotor_mm, hub_share, foretold_low_mm, foretold_mm, foretold_high_mm, odds_within, comeback_odds, runout_mm, runout_expanded_mm, variation_mm, variation_expanded_mm, within, came, new_rotor_mm, new_rotor_u_mm, seating)
select c.workshop_id, c.id, c.stands, c.at::date, date_trunc('month', c.at)::date, c.vehicle_id, c.odometer_km, c.model, c.comeback, c.seen_km - c.odometer_km, p.position, 'F', p.leads, (array['rotor_runout', 'hub_face_runout', 'hub_and_rotor_together', 'joint_contamination', 'none_found'])[1 + c.id % 5], (array['index', 'plate', 'on_vehicle_cut', 'new_rotors', 'clean_and_torque'])[1 + c.id % 5],
false, false, c.id % 5 <> 3, c.by_id, c.by_id, case when c.id % 5 = 2 then l.id end, case when c.id % 5 = 3 then 'Skerry' else '' end, 300, 40, 35 + c.id % 30, 0.09, 0.01, 0.06, 0.04, random(), 0.01, 0.02, 0.03, 0.5 + random() / 2, random() / 3,
0.01 + random() * 0.05, 0.004, 0.004, 0.002, c.id % 12 <> 0, case when c.id % 9 = 0 then 'worse' else 'inside' end, case when c.id % 5 = 3 then random() * 0.03 end, 0.001, '{}'
from jobs_closing c cross join (values ('FL', true), ('FR', false)) p(position, leads) cross join (select min(id) as id from workshop_lathe) l
where c.judged_by = '{}' and not exists (select 1 from jobs_cornerworked w where w.closing_id = c.id)
"""


class Command(BaseCommand):
    """``manage.py bench``: run by bin/bench on a database of its own."""

    help = "Measure speed as ratios to bare floors of the same run."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add sizes."""
        parser.add_argument("--jobs", type=int, default=100_000, help="jobs in the database")
        parser.add_argument("--requests", type=int, default=300, help="requests a figure")
        parser.add_argument("--keystrokes", type=int, default=80, help="keystrokes in the browser")

    def handle(self, *args: Any, **options: Any) -> None:
        """Measure core, command line, pages, keystrokes."""
        self._core()
        self._orders()
        self._lines()
        name = connection.creation.create_test_db(verbosity=0, autoclobber=True, serialize=False)
        try:
            enter(Workshop.FIRST)
            build_demo()
            demo_job = Job.objects.get(vehicle__label="Minibus 6")
            self.decided = Job.objects.get(vehicle__label="Meal van 1", state="open")
            lead = User.objects.get(username="holm")
            with connection.cursor() as cursor:
                cursor.execute(MANY_JOBS, [options["jobs"], lead.pk])
                cursor.execute(MANY_CORNERS)
                cursor.execute(MANY_CLOSINGS)
                cursor.execute(MANY_WORKS)
                cursor.execute("analyze")
            self.stdout.write(f"\npages, {Job.objects.count():,} jobs in the database")
            with _server(name) as port:
                self._pages(port, session_of(lead), demo_job, options["requests"])
                self._keystrokes(port, session_of(lead), demo_job, options["keystrokes"])
        finally:
            connection.close()
            connection.creation.destroy_test_db("compass", verbosity=0)

    def _core(self) -> None:
        corners = [read_case(text).corners[0] for text in _varied(200)]
        design = np.random.default_rng(1).normal(size=(10, 6))
        target = design @ np.arange(6.0)
        floor = _timed(lambda: np.linalg.lstsq(design, target, rcond=None), 400)
        turn = iter(corners * 2)
        full = _timed(lambda: diagnose_corner(next(turn)), 200)
        measured = iter([diagnose_corner(corner).measured for corner in corners])
        four = _timed(lambda: [predict(next(measured), SHOP) for _ in range(4)], 40)
        self.stdout.write("core, one process, one thread")
        self.stdout.write(f"  bare least squares              median {np.median(floor) * 1e3:8.3f} ms")
        self._line("one corner, sweep and thickness", full, floor)
        self._line("every remedy at four corners", four, floor)

    def _orders(self) -> None:
        """Time the order of work of one job, one person, the lathe left to itself, and of a day of eight jobs."""
        for name, jobs, shop in (("one job", 1, {"people": 1}), ("eight jobs", 8, {"people": 2, "bays": 2})):
            tasks = [task for k in range(jobs) for task in _job_tasks(f"job {k}")]
            plain = plain_order(tasks, **shop)
            order_work(tasks[:4], people=1)  # the solver's own import is nobody's order
            start = time.perf_counter()
            order = order_work(tasks, **shop, seconds=0.25 if jobs == 1 else 1.5)
            taken = time.perf_counter() - start
            self.stdout.write(
                f"  order of work, {name:<16} {taken * 1e3:8.0f} ms   {order.finish} min, {order.walks} walks"
                f" (plain: {plain.finish} min, {plain.walks} walks)"
            )

    def _lines(self) -> None:
        lines = _varied(400)
        for jobs in ("1", "0"):
            command = [sys.executable, "-m", "compass", "diagnose", "--lines", "--jobs", jobs, "-"]
            start = time.perf_counter()
            done = subprocess.run(command, input="\n".join(lines).encode(), capture_output=True, check=True)  # noqa: S603
            taken = time.perf_counter() - start
            verdicts = len(done.stdout.splitlines())
            self.stdout.write(
                f"  diagnose --lines --jobs {jobs}       {verdicts / taken:8.0f} cases a second"
                f" ({verdicts} cases, start included)"
            )
        turn = iter(lines)
        parse = _timed(lambda: verdict_to_data(diagnose(read_case(next(turn)))), 300)
        self.stdout.write(f"  one case in process             median {np.median(parse) * 1e3:8.2f} ms")

    def _pages(self, port: int, cookie: str, job: Job, requests: int) -> None:
        client = http.client.HTTPConnection("127.0.0.1", port)
        headers = {"Cookie": f"sessionid={cookie}"}

        def get(path: str) -> Callable[[], None]:
            def request() -> None:
                client.request("GET", path, headers=headers)
                answer = client.getresponse()
                answer.read()
                if answer.status != 200:
                    raise RuntimeError(f"{path}: {answer.status}")

            return request

        floor = _timed(get("/bare/"), requests)
        self.stdout.write(f"  bare view with one query        median {np.median(floor) * 1e3:8.2f} ms")
        base, decided = (reverse("jobs:complaint", args=[one.pk]).rstrip("/") for one in (job, self.decided))
        for name, path in (
            ("the floor", "/"),
            ("the floor, searched", "/?q=pulses+at+77"),
            ("complaint", f"{base}/"),
            ("prepare", f"{base}/FL/prepare/"),
            ("workbench", f"{base}/FL/measure/"),
            ("thickness", f"{base}/FL/measure/?tape=thickness"),
            ("choose", f"{base}/choose/F/"),
            ("rotor on its studs", f"{base}/FL/turn/"),
            ("cut plan", f"{base}/FL/cut/"),
            ("the work, a step", f"{decided}/do/"),
            ("order of the day", "/order/"),
            ("proof", f"{decided}/prove/"),
            ("owner's sheet", f"{decided}/owner/"),
            ("look again", "/look-again/?state=all"),
            ("ledger, by cause", "/ledger/"),
            ("ledger, by month", "/ledger/?by=month"),
            ("ledger, all of ten years", "/ledger/?since="),
            ("ledger, by model, filtered", "/ledger/?by=model&remedy=index&since=2026-01-01"),
            ("ledger, comebacks", "/ledger/comebacks/"),
            ("ledger, odds", "/ledger/odds/"),
            ("ledger, hubs", "/ledger/hubs/"),
            ("ledger, lathes", "/ledger/lathes/"),
            ("ledger, learning", "/ledger/learning/"),
        ):
            self._line(name, _timed(get(path), requests), floor)
        self._line("a reading typed", _timed(self._typing(client, cookie, job), requests), floor)

    def _typing(self, client: http.client.HTTPConnection, cookie: str, job: Job) -> Callable[[], None]:
        sweep = job.corners.get(position="FL").sweeps.get()
        client.request("GET", reverse("jobs:measure", args=[job.pk, "FL"]), headers={"Cookie": f"sessionid={cookie}"})
        answer = client.getresponse()
        page = answer.read().decode()
        token = page.partition('"X-CSRFToken": "')[2].partition('"')[0]
        csrf = (answer.getheader("Set-Cookie") or "").partition("csrftoken=")[2].partition(";")[0]
        headers = {
            "Cookie": f"sessionid={cookie}; csrftoken={csrf}",
            "X-CSRFToken": token,
            "Accept": "application/json",
            "Content-Type": "application/x-www-form-urlencoded",
        }
        state = {"number": 1, "was": sweep.typed[3]}

        def request() -> None:
            state["number"] += 1
            text = f"{state['number'] * 37 % 900 / 100:g}"  # never the same twice running: nothing is remembered of it
            entry = {
                "id": text,
                "slot": 3,
                "text": text,
                "was": state["was"],
                "client": "bench",
                "number": state["number"],
            }
            sent = urlencode({"edits": json.dumps([entry]), "show": f"s{sweep.pk}"})
            client.request("POST", reverse("jobs:readings", args=["sweep", sweep.pk]), sent, headers)
            answer = client.getresponse()
            answer.read()
            if answer.status != 200:
                raise RuntimeError(f"reading: {answer.status}")
            state["was"] = text

        return request

    def _keystrokes(self, port: int, cookie: str, job: Job, count: int) -> None:
        try:
            from playwright.sync_api import sync_playwright
        except ImportError:
            self.stdout.write(
                "  keystroke to redrawn rose       not measured: run bin/test once, it installs the browser driver"
            )
            return
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(
                executable_path=os.environ.get("IC_CHROMIUM", "/usr/bin/chromium"),
                args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"],
            )
            context = browser.new_context(viewport={"width": 1280, "height": 800})
            context.add_cookies([{"name": "sessionid", "value": cookie, "url": f"http://127.0.0.1:{port}"}])
            page = context.new_page()
            page.goto(f"http://127.0.0.1:{port}" + reverse("jobs:measure", args=[job.pk, "FL"]))
            page.focus("[data-slot='3']")
            page.evaluate(
                """() => {
                  window.times = [];
                  document.addEventListener("input", () => { window.t = performance.now(); });
                  new MutationObserver(() => requestAnimationFrame(() => window.times.push(performance.now() - window.t)))
                    .observe(document.getElementById("rose"), {childList: true});
                }"""
            )
            for k in range(count):  # eighty-one different tapes: none has been worked out before
                page.focus(f"[data-slot='{k // 9 % 9}']")
                page.keyboard.press("Control+a")
                page.keyboard.type(str(k % 9 + 1))
                page.wait_for_timeout(120)
            times = np.array(page.evaluate("window.times")) / 1e3
            browser.close()
        self._line(f"keystroke to redrawn rose ({times.size})", times, None)

    def _line(self, name: str, times: Any, floor: Any) -> None:
        ratio = "" if floor is None else f"   {np.median(times) / np.median(floor):6.1f} × its floor"
        self.stdout.write(
            f"  {name:<31} median {np.median(times) * 1e3:8.2f} ms   p95 {np.quantile(times, 0.95) * 1e3:8.2f} ms"
            f"   {1 / np.mean(times):7.0f} a second{ratio}"
        )


def _varied(count: int) -> list[str]:
    """Return the example with other readings each time: the same text over and over would flatter what is remembered."""
    generator = np.random.default_rng(5)
    texts = []
    for _ in range(count):
        data = json.loads(EXAMPLE.read_bytes())
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


def _timed(act: Callable[[], object], count: int) -> Any:
    """Return ``count`` durations in seconds, after a tenth as many to warm up."""
    for _ in range(max(count // 10, 2)):
        act()
    times = np.empty(count)
    for k in range(count):
        start = time.perf_counter()
        act()
        times[k] = time.perf_counter() - start
    return times


@contextlib.contextmanager
def _server(database: str) -> Iterator[int]:
    """Serve the database ``database`` with gunicorn as bin/start does, on a free port."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    url = os.environ["IC_DATABASE_URL"].rpartition("/")[0] + f"/{database}"
    process = subprocess.Popen(  # noqa: S603
        [sys.executable, "-m", "gunicorn", "ironcompass.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "2",
         "--threads", "4", "--worker-class", "gthread", "--keep-alive", "30", "--no-control-socket", "--log-level", "error"],
        env=os.environ | {"IC_DATABASE_URL": url, "IC_URLCONF": "ironcompass.bench_urls"},
    )  # fmt: skip
    try:
        for _ in range(100):
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 1):
                break
            time.sleep(0.1)
        yield port
    finally:
        process.terminate()
        process.wait(10)
