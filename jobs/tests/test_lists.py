"""Lists ask no more of the database for more rows: every list of the application, row by row."""

from collections.abc import Callable
from datetime import timedelta

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from jobs.bays.actions import book
from jobs.choose.actions import decide
from jobs.floor.actions import open_job
from jobs.measure.actions import add_quick
from jobs.models import FittedPlate, Job
from jobs.prepare.actions import add_turn, start_sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, DemoShop, Workshop, fill
from jobs.vehicle.actions import fit_rotor
from workshop.models import Instrument, Lathe, LibraryLimits, PlateKind
from workshop.store.actions import keep_instrument, keep_tooling
from workshop.tests.base import FIGURES, client_of, person
from workshop.vehicles import add_vehicle, set_limits

MOST_QUERIES = 15


class Growth(Workshop):
    """Add rows, the same number of queries."""

    def same(self, address: str, add: Callable[[int], object], *, client=None, times: int = 3) -> None:
        client = client or self.client

        def count() -> int:
            with CaptureQueriesContext(connection) as queries:
                self.assertEqual(client.get(address).status_code, 200)
            return len(queries)

        add(0)
        count()
        few = count()
        for k in range(1, 1 + times):
            add(k)
        self.assertEqual(count(), few, address)
        self.assertLessEqual(few, MOST_QUERIES, address)

    def test_the_floor_with_bookings_people_and_measured_jobs(self) -> None:
        morning = timezone.localtime().replace(hour=8, minute=0, second=0, microsecond=0)

        def add(k: int) -> None:
            vehicle = add_vehicle(self.user, label=f"Meal van {k}", kind="van")
            job = open_job(self.user, vehicle, complaint="Shakes", assigned_to=person("technician", f"hand{k}"))
            book(self.user, job, place="bay_1", starts_at=morning + timedelta(minutes=30 * k), minutes=20)

        self.same(reverse("jobs:floor"), add)

    def test_a_search_is_planned_for_its_words(self) -> None:
        """Planned for whatever word may come, it walks all jobs of a large workshop (workshop.planning)."""
        for query, planned in (("", False), ("?q=shakes+at+80+since+the+winter", True)):
            with CaptureQueriesContext(connection) as queries:
                self.client.get(reverse("jobs:floor") + query)
            self.assertEqual(any("force_custom_plan" in one["sql"] for one in queries), planned, query)
            self.assertLessEqual(len(queries), MOST_QUERIES, query)

    def test_a_jobs_corners_tapes_turns_and_quick_readings(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)

        def add(k: int) -> None:
            turn = add_turn(self.user, self.sweep)
            fill(self.user, turn, READINGS)
            start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 72.0 * (k + 1)})
            add_quick(
                self.user, self.corner, typed="9", unit=self.sweep.unit, surface="rotor_outboard", radius_mm=138.0,
                index_deg=0.0, cleaned=True, nuts_torqued=True, graduation_mm=0.01, high_deg=200.0,
            )  # fmt: skip

        self.same(reverse("jobs:measure", args=[self.job.pk, "FL"]), add)
        for name in ("complaint", "cause", "changes"):
            self.same(reverse(f"jobs:{name}", args=[self.job.pk]), lambda k: None)
        for name in ("case", "verdict", "readings-csv"):
            self.same(reverse(f"jobs:{name}", args=[self.job.pk]), add, times=1)
        self.same(reverse("jobs:measure", args=[self.job.pk, "FL"]) + "?tape=quick", add, times=1)

    def test_who_changed_what(self) -> None:
        fill(self.user, self.sweep, READINGS)
        address = reverse("jobs:changes", args=[self.job.pk])
        typed = iter(range(100, 200))
        self.same(address, lambda k: fill(self.user, self.sweep, [str(next(typed)) for _ in READINGS[:3]]))

    def test_a_vehicles_past(self) -> None:
        fill(self.user, self.round, THICKNESS)

        def add(k: int) -> None:
            open_job(self.user, self.vehicle, odometer_km=90_000 + 1000 * k)
            fit_rotor(
                self.user, self.vehicle, position="FL", odometer_km=80_000 + k, thickness_mm=28.0, source="nominal"
            )

        self.same(reverse("jobs:vehicle", args=[self.vehicle.pk]), add)

    def test_people_instruments_library_lathes_and_plates(self) -> None:
        lead = client_of(person("lead"))
        self.same(reverse("workshop:people"), lambda k: person("trainee", f"new{k}"), client=lead)
        self.same(
            reverse("workshop:instruments"),
            lambda k: keep_instrument(self.user, Instrument(name=f"Dial {k}", kind="dial", graduation_mm=0.01)),
        )
        self.same(
            reverse("workshop:lathes"),
            lambda k: keep_tooling(
                self.user,
                Lathe(name=f"Lathe {k}", kind="bench", runout_left_mm=0.02, min_depth_mm=0.05, mm_per_line=0.02),
            ),
        )
        self.same(
            reverse("workshop:plates"),
            lambda k: keep_tooling(
                self.user,
                PlateKind(correction_mm=0.05 + k / 100, reference_radius_mm=130, positions=10, studs=5, stock=2),
            ),
        )

        def listed(k: int) -> None:
            vehicle = add_vehicle(self.user, label=f"Minibus {20 + k}", kind="van")
            limits = set_limits(self.user, vehicle, "F", **FIGURES)
            LibraryLimits.objects.create(model=f"Marram {k}", axle="F", entered_by=self.user, **limits.figures())

        self.same(reverse("workshop:library"), listed)


class Choosing(DemoShop):
    """The Choose and the Cut leg, with what was decided, fitted and cut before."""

    def test_decisions_and_plates_of_the_past(self) -> None:
        address = reverse("jobs:choose", args=[self.van.pk, "F"])

        def count() -> int:
            with CaptureQueriesContext(connection) as queries:
                self.assertEqual(self.client.get(address).status_code, 200)
            return len(queries)

        count()
        few = count()
        for k in range(3):
            decide(self.user, Job.objects.for_choosing().get(pk=self.van.pk), "F", code="plate", reason=f"again {k}")
            FittedPlate.objects.create(
                vehicle=self.van.vehicle, job=self.van, position="FL", plate=PlateKind.objects.first(), thin_deg=0.0,
                created_by=self.user, taken_out=True,
            )  # fmt: skip
        self.assertLessEqual(count(), few + 1)  # the decision's own words
        self.assertLessEqual(few, MOST_QUERIES)
