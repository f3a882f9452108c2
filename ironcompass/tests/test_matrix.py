"""Who may open which address: every address of the table, by every way, for everybody.

The rules stand here once more, in one table, so that a change of a view that opens a door is seen; an address without a
rule fails.
"""

import re
from collections.abc import Iterator
from typing import Any, Final

from django.apps import apps
from django.db import transaction
from django.test import Client, TestCase
from django.urls import URLPattern, URLResolver, get_resolver, reverse
from django.utils import timezone

from demo.tests.made import put_demo
from ironcompass.testing import as_owner
from jobs.models import Booking, Closing, FittedPlate, Job, QuickReading, RotorFitting, Sweep
from practice.corner.actions import begin
from practice.exercises import EXERCISES
from practice.lathe.actions import begin as begin_lathe
from practice.lathe.tasks import TASKS
from practice.models import MadeExercise
from workshop.long_work.asking import ask_for
from workshop.models import Instrument, Lathe, Learned, RepeatabilityStudy, User, Workshop
from workshop.store.actions import check_instrument, make_device_key
from workshop.tests.base import client_of, person
from workshop.walls import inside

# Who is let read and who is let write; what a person owns (a try at the bench) stands under "own".
WHO: Final = ("trainee", "technician", "lead")
ALL, TRAINED, LEAD = {"trainee", "technician", "lead"}, {"technician", "lead"}, {"lead"}
RULES: Final = (
    (ALL, ALL, """
        set_language live ready service-worker manifest away
        workshop:sign-in workshop:sign-out workshop:preferences workshop:password
        workshop:library-file workshop:study workshop:enter jobs:floor jobs:prepare jobs:measure jobs:quick
        jobs:strike jobs:look jobs:readings jobs:plain jobs:zero jobs:undo jobs:set-up jobs:listen jobs:heard
        jobs:api-readings jobs:api-description jobs:strike-tape jobs:other-corner jobs:another-round jobs:turn
        jobs:cause jobs:road-test jobs:felt jobs:choose-worst jobs:choose jobs:turn-rotor jobs:day jobs:do jobs:do-pulse
        jobs:work jobs:cut jobs:prove-first jobs:prove-again jobs:prove jobs:changes jobs:case jobs:verdict
        jobs:readings-csv jobs:readings-xlsx jobs:owner jobs:owner-pdf jobs:sheet jobs:sheet-pdf
        jobs:look-again-ics jobs:look-again ledger:overview ledger:comebacks ledger:odds ledger:hubs
        ledger:lathes ledger:learning practice:home practice:begin practice:lathe-begin practice:lathe
        practice:lathe-act practice:lathe-finish practice:drills practice:drill-answer practice:corner
        practice:act practice:draft practice:answer
        workshop:work workshop:work-file workshop:work-stop workshop:work-again
    """),
    (ALL, TRAINED, """
        workshop:library workshop:library-import workshop:instruments workshop:instrument workshop:new-key
        workshop:revoke-key workshop:new-study workshop:wrenches workshop:lathes workshop:plates jobs:complaint
        jobs:book jobs:give-up jobs:story jobs:beside jobs:decide jobs:withdraw jobs:fit-plate jobs:take-out
        jobs:do-step jobs:do-part jobs:do-back jobs:do-broken jobs:do-onward jobs:do-people jobs:sign-off
        jobs:prove-advice jobs:close jobs:reopen jobs:ring jobs:comeback jobs:vehicle jobs:all-cases ledger:turn-tips
        jobs:rename jobs:strike-fitting workshop:strike-check
    """),
    (ALL, LEAD, """
        workshop:figures workshop:person workshop:new-password workshop:unlock ledger:accept ledger:take-back
        practice:from-job practice:retire
    """),
    (TRAINED, TRAINED, "workshop:library-service jobs:new jobs:other-vehicle jobs:import"),
    (LEAD, LEAD, "workshop:people workshop:sign-ins practice:people"),
)  # fmt: skip
PUBLIC: Final = {
    "service-worker",
    "manifest",
    "away",
    "set_language",
    "workshop:sign-in",
    "jobs:api-readings",
    "jobs:api-description",
    "live",
    "ready",
}
WAYS: Final = ("GET", "POST", "PUT", "DELETE")


def addresses(table: Any = None, space: str = "") -> Iterator[tuple[str, URLPattern]]:
    """Return every address of ours by its name."""
    for entry in (table or get_resolver()).url_patterns:
        if isinstance(entry, URLResolver):
            yield from addresses(entry, f"{entry.namespace}:" if entry.namespace else "")
        else:
            yield f"{space}{entry.name}", entry


class Matrix(TestCase):
    """Every address × way × person."""

    @classmethod
    def setUpTestData(cls) -> None:
        put_demo()
        names = {"lead": "holm", "technician": "brandt", "trainee": "ness"}
        cls.people = {role: User.objects.get(username=name) for role, name in names.items()}
        lead, job = cls.people["lead"], Job.objects.get(vehicle__label="Minibus 6")
        Job.objects.update(with_trainee=cls.people["trainee"])
        dial = Instrument.objects.filter(kind="dial").first()
        learnt = {"figure": "growth_mm", "prior": 1, "value": 1, "low": 0.5, "high": 2, "pairs": 9}
        study = {"persons": ["a", "b"], "parts": 2, "turns": 2, "limit_mm": 0.1, "typed": [""] * 8}
        cls.rows = {
            "job": job,
            "tape": Sweep.objects.filter(corner__job=job).first(),
            "quick": QuickReading.objects.first(),
            "booking": Booking.objects.first(),
            "plate": FittedPlate.objects.first(),
            "closing": Closing.objects.first(),
            "fitting": RotorFitting.objects.first(),
            "check": check_instrument(lead, dial, on=timezone.localdate(), standard_mm=1.0, shown_mm=1.0),
            "vehicle": job.vehicle,
            "instrument": dial,
            "key": make_device_key(lead, dial, name="dial")[0],
            "study": RepeatabilityStudy.objects.create(instrument=dial, readings_mm=[None] * 8, by=lead, **study),
            "person": cls.people["trainee"],
            "lathe": Lathe.objects.first(),
            "figure": Learned.objects.create(accepted_by=lead, **learnt),
            "exercise": MadeExercise.objects.create(title="x", corners={}, specs={}, at="FL", made_by=lead),
            "attempt": begin(lead, next(iter(EXERCISES)).code),
            "lathe_try": begin_lathe(lead, next(iter(TASKS)).code),
            "workshop": Workshop.objects.get(),
            "work": ask_for(lead, "cases-out"),
        }

    def setUp(self) -> None:
        self.addresses = {name: self.address(name, entry) for name, entry in addresses()}

    def test_every_address_has_a_rule_and_none_is_of_an_address_that_is_gone(self) -> None:
        ruled = [name for *_who, names in RULES for name in names.split()]
        self.assertEqual(sorted(ruled), sorted(name for name, _entry in addresses()))

    def test_each_role_is_let_do_what_its_rule_says_and_nothing_else(self) -> None:
        """Each address is tried by the least role that its rule lets in, and by the one below."""
        for reads, writes, names in RULES:
            for name in names.split():
                for way, let in (("GET", reads), ("POST", writes)):
                    least = next(role for role in WHO if role in let)
                    for role in {least, WHO[max(WHO.index(least) - 1, 0)]}:
                        status = self.status(self.people[role], way, self.addresses[name])
                        at = f"{role} {way} {name}: {status}"
                        self.assertLess(status, 500, at)
                        self.assertEqual(status == 403, role not in let and status != 405, at)
                for way in ("PUT", "DELETE"):
                    status = self.status(self.people["lead"], way, self.addresses[name])
                    self.assertIn(status, (302, 403, 404, 405), f"{way} {name}: {status}")

    def test_who_has_not_signed_in_or_is_switched_off_is_asked_who_it_is(self) -> None:
        gone = person("lead", username="gone")
        off = client_of(gone)
        User.objects.filter(pk=gone.pk).update(is_active=False)
        for client in (Client(), off):
            for name, entry in addresses():
                if name in PUBLIC:
                    continue
                for way in WAYS:
                    answer = client.generic(way, self.address(name, entry))
                    self.assertEqual(answer.status_code, 302, f"{way} {name}")
                    self.assertTrue(answer["Location"].startswith(reverse("workshop:sign-in")), f"{way} {name}")

    def test_the_lead_of_another_workshop_finds_nothing_here(self) -> None:
        with as_owner():
            other = Workshop.objects.create(name="Over the sound")
        with inside(other.pk):
            client = client_of(person("lead", username="stranger"))
        before = self.all_rows()
        tried = 0
        for name, entry in self.walked():
            address = self.address(name, entry)
            if not any(getattr(part, "kind", "") for part in entry.pattern.converters.values()):
                continue
            for way in ("GET", "POST"):
                answer = client.generic(way, address)
                led = way == "GET" and answer.status_code == 302
                if led:  # an address that takes forms leads to its page, which is not there
                    answer = client.get(answer["Location"])
                at = f"{way} {name}: {answer.status_code}"
                if not led or re.search(r"/\d+-[a-z2-7]{12}/", answer.request["PATH_INFO"]):
                    self.assertIn(answer.status_code, (400, 403, 404, 405), at)
                tried += 1
        self.assertGreater(tried, 140)
        self.assertEqual(self.all_rows(), before)

    def walked(self) -> Iterator[tuple[str, URLPattern]]:
        """Return every address but those that end the session."""
        return ((name, entry) for name, entry in addresses() if name != "workshop:sign-out")

    def status(self, user: User, way: str, address: str) -> int:
        """Ask without leaving anything behind."""
        point = transaction.savepoint()
        status = client_of(user).generic(way, address).status_code
        transaction.savepoint_rollback(point)
        return status

    def all_rows(self) -> dict[str, int]:
        """Count the rows of this workshop."""
        models = [m for app in ("workshop", "jobs", "practice") for m in apps.get_app_config(app).get_models()]
        return {m.__name__: m._base_manager.count() for m in models}

    def address(self, name: str, entry: URLPattern) -> str:
        """Return an address with rows of this workshop in it."""
        given = {"kind": "sweep", "position": "FL", "axle": "F"}
        parts = {}
        for part, converter in entry.pattern.converters.items():
            kind = getattr(converter, "kind", "")
            row = self.rows.get(kind)
            parts[part] = (row.pk if row is not None else 1) if kind else given[part]
        return reverse(name, kwargs=parts)
