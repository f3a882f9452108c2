"""Measure the budgets of docs/architecture.md; every figure also as a ratio to a floor of the same run."""

from collections.abc import Iterator
from typing import Any, Final

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

from demo.bench.core import measure_core, measure_lines, measure_orders
from demo.bench.load import make_shift, measure_load
from demo.bench.many import fill
from demo.bench.pages import measure_keystrokes, measure_pages
from demo.bench.server import serving
from demo.build import build_demo
from jobs.models import Job
from ledger.refitting import refit_anew
from workshop.models import User, Workshop
from workshop.walls import enter

_PARTS: Final = ("core", "pages", "load")


class Command(BaseCommand):
    """``manage.py bench``: run by bin/bench on a database of its own."""

    help = "Measure speed as ratios to bare floors of the same run."

    def add_arguments(self, parser: CommandParser) -> None:
        """Add parts and sizes."""
        parser.add_argument(
            "parts", nargs="*", choices=[*_PARTS, []], help="core, pages, load; all where none is named"
        )
        parser.add_argument("--jobs", type=int, default=100_000, help="jobs in the first workshop")
        parser.add_argument("--workshops", type=int, default=0, help="other workshops beside it")
        parser.add_argument("--jobs-each", type=int, default=100, help="jobs in each of the others")
        parser.add_argument("--requests", type=int, default=300, help="requests a figure")
        parser.add_argument("--keystrokes", type=int, default=80, help="keystrokes in the browser")
        parser.add_argument("--technicians", type=int, default=50, help="technicians at once")
        parser.add_argument("--seconds", type=float, default=60, help="how long they work")

    def handle(self, *args: Any, **options: Any) -> None:
        """Measure the parts named."""
        parts = options["parts"] or _PARTS
        if "core" in parts:
            self._say(measure_core())
            self._say(measure_orders())
            self._say(measure_lines())
        if set(parts) == {"core"}:
            return
        name = connection.creation.create_test_db(verbosity=0, autoclobber=True, serialize=False)
        try:
            self._measure_server(name, parts, options)
        finally:
            connection.close()
            connection.creation.destroy_test_db("compass", verbosity=0)

    def _measure_server(self, database: str, parts: Any, options: dict[str, Any]) -> None:
        enter(Workshop.FIRST)
        build_demo()
        job = Job.objects.get(vehicle__label="Minibus 6")
        decided = Job.objects.get(vehicle__label="Meal van 1", state="open")
        lead = User.objects.get(username="holm")
        fill(
            jobs=options["jobs"],
            workshops=options["workshops"],
            jobs_each=options["jobs_each"],
            progress=self._progress,
        )
        with connection.cursor() as cursor:
            cursor.execute("vacuum")  # as a database is that grew over years: an index alone answers a count
        refit_anew(lead)
        shift = make_shift(lead, job.vehicle, options["technicians"]) if "load" in parts else []
        with serving(database) as server:
            if "pages" in parts:
                self.stdout.write(f"\npages, {Job.objects.count():,} jobs in {Workshop.objects.count():,} workshops")
                self._say(measure_pages(server.port, lead, job, decided, requests=options["requests"]))
                self._say(measure_keystrokes(server.port, lead, job, count=options["keystrokes"]))
            if "load" in parts:
                self.stdout.write("\nload")
                self._say(measure_load(server, shift, seconds=options["seconds"]))

    def _say(self, lines: Iterator[str]) -> None:
        for text in lines:
            self.stdout.write(text)

    def _progress(self, made: int, total: int) -> None:
        width = 40
        done = width * made // total if total else width
        self.stdout.write(f"\r[{'#' * done}{'.' * (width - done)}] {made:,} of {total:,} jobs", ending="")
        self.stdout.write("" if made < total else "\n", ending="")
        self.stdout.flush()
