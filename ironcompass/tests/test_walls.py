"""The walls between workshops, tried from both sides: by the application's doors and by the database alone."""

from unittest import mock

from django.apps import apps
from django.contrib.auth import authenticate
from django.db import DatabaseError, connection, connections, transaction
from django.test import Client, RequestFactory, TestCase
from django.urls import reverse
from django.utils import timezone

from ironcompass.testing import as_owner
from jobs.floor.actions import open_job
from jobs.measure.device import key_of
from jobs.models import Corner, Job
from jobs.prepare.actions import start_sweep
from jobs.tests.base import SET_UP
from workshop import walls
from workshop.models import DeviceKey, Instrument, Membership, ShopFigures, User, Vehicle, Workshop
from workshop.store.actions import make_device_key
from workshop.tests.base import FIGURES, client_of, person
from workshop.vehicles import add_vehicle, set_limits
from workshop.walls import enter, inside

OWN = ("workshop", "jobs", "practice")


class Walls(TestCase):
    """Two workshops, each with a lead, a van of the same name and a job."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.lead = person("lead")
        cls.job = cls.job_of(cls.lead)
        with as_owner():
            cls.other = Workshop.objects.create(name="Over the sound")
        with inside(cls.other.pk):
            cls.stranger = person("lead", username="stranger")
            cls.theirs = cls.job_of(cls.stranger)

    @classmethod
    def job_of(cls, lead: User) -> Job:
        van = add_vehicle(lead, label="Van 1", kind="van")
        set_limits(lead, van, "F", **FIGURES)
        job = open_job(lead, van, complaint="Shakes", odometer_km=1)
        start_sweep(lead, job.corners.get(position="FL"), stations=10, **SET_UP)
        return job

    def test_every_row_of_ours_has_a_workshop_and_every_table_a_wall(self) -> None:
        tables = {m._meta.db_table for app in OWN for m in apps.get_app_config(app).get_models()}
        with connection.cursor() as cursor:
            cursor.execute(
                "select relname from pg_class c where relrowsecurity and exists "
                "(select from pg_policy p where p.polrelid = c.oid and p.polname = 'walls')"
            )
            walled = {name for (name,) in cursor.fetchall()}
            cursor.execute("select current_user, rolsuper, rolbypassrls from pg_roles where rolname = current_user")
            self.assertEqual(cursor.fetchone()[1:], (False, False))
            cursor.execute("select count(*) from pg_tables where tableowner = current_user")
            self.assertEqual(cursor.fetchone(), (0,))
        named = {table for table in tables if not table.startswith(("workshop_user_groups", "workshop_user_user"))}
        self.assertEqual(named - walled, set())

    def test_no_reference_of_a_row_leads_out_of_its_workshop(self) -> None:
        """But to people, who may be of another workshop of the chain."""
        with connection.cursor() as cursor:
            cursor.execute(
                "select conrelid::regclass::text, conname from pg_constraint where contype = 'f' "
                "and array_length(conkey, 1) = 1 and confrelid::regclass::text not in "
                "('workshop_user', 'workshop_workshop', 'django_content_type') and conrelid::regclass::text ~ %s",
                [f"^({'|'.join(OWN)})_"],
            )
            loose = [row for row in cursor.fetchall() if not row[0].startswith("workshop_user_")]
        self.assertEqual(loose, [])
        with self.assertRaisesMessage(DatabaseError, "_inside"), transaction.atomic():
            Corner.objects.create(job_id=self.theirs.pk, position="A1L", place=9)
            connection.check_constraints()

    def test_what_is_unique_is_so_by_a_key_that_carries_the_workshop(self) -> None:
        """But a row's number, and what is looked up before it is known where somebody belongs."""
        with connection.cursor() as cursor:
            cursor.execute(
                "select indexrelid::regclass::text from pg_index join pg_class c on c.oid = indrelid "
                "where indisunique and not indisprimary and c.relrowsecurity and pg_get_indexdef(indexrelid, 1, true) "
                "<> 'workshop_id'"
            )
            without = {name for (name,) in cursor.fetchall()}
        self.assertEqual(without, {"workshop_user_username_key", "workshop_devicekey_digest_key"})

    def test_the_database_alone_shows_nothing_of_the_other(self) -> None:
        models = [m for app in OWN for m in apps.get_app_config(app).get_models() if hasattr(m, "workshop")]
        self.assertGreater(len(models), 40)
        for model in models:
            for row in model._base_manager.all():
                self.assertEqual(row.workshop_id, Workshop.FIRST, model)
        self.assertFalse(Job.objects.filter(pk=self.theirs.pk).exists())
        self.assertEqual(Job.objects.filter(pk=self.theirs.pk).update(complaint="mine"), 0)
        self.assertEqual(Vehicle.objects.filter(label="Van 1").count(), 1)
        with self.assertRaisesMessage(DatabaseError, "row-level security"), transaction.atomic():
            Vehicle.objects.create(label="Spy", workshop_id=self.other.pk)
        enter(None)
        self.assertEqual((Job.objects.count(), User.objects.count(), Workshop.objects.count()), (0, 0, 0))
        with self.assertRaises(DatabaseError), transaction.atomic():
            Vehicle.objects.create(label="Nowhere")
        enter(Workshop.FIRST)

    def test_a_connection_is_told_where_it_is_once_and_anew_after_a_rollback(self) -> None:
        line = connections.create_connection("default")
        self.addCleanup(line.close)

        def where() -> str:
            with line.cursor() as cursor:
                return str(cursor.execute("select current_setting('ic.workshop')").fetchone()[0])

        with mock.patch.object(walls, "connection", line):
            for number in (self.other.pk, self.lead.here_id, self.other.pk):
                with inside(number):
                    self.assertEqual(where(), f"{number}")
                    with mock.patch.object(walls, "_tell", side_effect=AssertionError("told again")):
                        enter(number)
                    # What is told in a transaction goes with it.
                    line.set_autocommit(False)
                    enter(None)
                    self.assertEqual(where(), "")
                    line.rollback()
                    line.set_autocommit(True)
                    enter(number)
                    self.assertEqual(where(), f"{number}")
                    enter(None)
                    self.assertEqual(where(), "")
                    enter(number)

    def test_a_server_that_left_is_noticed_without_asking_it(self) -> None:
        line = connections.create_connection("default")
        self.addCleanup(line.close)
        line.connect()
        self.assertTrue(line.is_usable())
        with mock.patch("django.db.backends.postgresql.base.DatabaseWrapper.is_usable", side_effect=AssertionError):
            self.assertTrue(line.is_usable())
            line._looked_at -= 60  # silent for so long, it is asked
            self.assertRaises(AssertionError, line.is_usable)
        self.assertTrue(line.is_usable())
        with as_owner(), connection.cursor() as cursor:
            cursor.execute("select pg_terminate_backend(%s, 5000)", [line.connection.info.backend_pid])
        self.assertFalse(line.is_usable())

    def test_doors_open_to_ones_own_rows_even_where_the_database_would_not_mind(self) -> None:
        with as_owner():
            for model in (Job, Vehicle, User, Corner):
                for who, workshop in ((self.lead, Workshop.FIRST), (self.stranger, self.other.pk)):
                    self.assertEqual({row.workshop_id for row in model.of(who)}, {workshop})

    def test_what_is_once_in_a_workshop_is_once_in_each(self) -> None:
        with inside(self.other.pk):
            Instrument.objects.create(name="Dial 1", graduation_mm=0.01)
            ShopFigures.objects.create(labour_per_hour=1)
        Instrument.objects.create(name="Dial 1", graduation_mm=0.01)
        self.assertIsNone(ShopFigures.in_force(self.lead).labour_per_hour)
        answer = client_of(self.lead).post(
            reverse("workshop:instruments"),
            {"name": "Dial 1", "kind": "dial", "native": "mm", "graduation_mm": "0.01", "face": "balanced"}
            | {"divisions": "100", "error_limit_mm": "0", "check_every_days": "365"},
        )
        self.assertContains(answer, "Dial 1", status_code=422)

    def test_a_name_is_found_in_any_workshop_at_the_door_and_in_ones_own_inside(self) -> None:
        with inside(self.other.pk):
            User.objects.filter(pk=self.stranger.pk).update(password=_hashed("over-the-sound"))
        said = {"username": "stranger", "password": "over-the-sound"}
        request = RequestFactory().post("/")
        with inside(None):
            self.assertEqual(authenticate(request, **said), self.stranger)
        self.assertIsNone(authenticate(request, **said))  # nobody of another workshop signs a hold here
        client = Client()
        self.assertRedirects(client.post(reverse("workshop:sign-in"), said), "/")
        self.assertContains(client.get("/"), "Van 1")
        self.assertEqual(client.get(reverse("jobs:complaint", args=[self.theirs.pk])).status_code, 200)
        self.assertEqual(client.get(reverse("jobs:complaint", args=[self.job.pk])).status_code, 404)

    def test_a_device_writes_in_the_workshop_of_its_key(self) -> None:
        with inside(self.other.pk):
            dial = Instrument.objects.create(name="Dial 9", graduation_mm=0.01)
            _row, token = make_device_key(self.stranger, dial, name="dial 9")
        with inside(None):
            self.assertEqual(key_of(token).workshop_id, self.other.pk)
            self.assertEqual(DeviceKey.objects.count(), 1)
        self.assertEqual(DeviceKey.objects.count(), 0)

    def test_the_lead_of_a_chain_enters_another_workshop_and_no_one_else_does(self) -> None:
        client = client_of(self.lead)
        enter_other = reverse("workshop:enter", args=[self.other.pk])
        self.assertEqual(client.post(enter_other).status_code, 404)
        with as_owner():
            Membership.objects.create(workshop=self.other, person=self.lead)
        self.assertContains(client.get("/people/"), "Over the sound")
        self.assertRedirects(client.post(enter_other), "/")
        self.assertEqual(client.get(reverse("jobs:complaint", args=[self.theirs.pk])).status_code, 200)
        self.assertEqual(client.get(reverse("jobs:complaint", args=[self.job.pk])).status_code, 404)
        self.assertContains(client.get("/people/"), "stranger")
        sent = {"label": "Van 2", "kind": "van"}
        made = add_vehicle  # written there, by somebody of here
        with inside(self.other.pk):
            lead = User.objects.get(pk=self.lead.pk)
            lead.be_in(self.other.pk)
            self.assertEqual(made(lead, **sent).workshop_id, self.other.pk)
        with as_owner():
            Membership.objects.update(ended_at=timezone.now())
        self.assertEqual(client.get("/").status_code, 302)  # shown out

    def test_an_address_is_no_number_that_can_be_counted_up(self) -> None:
        client = client_of(self.lead)
        page = reverse("jobs:complaint", args=[self.job.pk])
        self.assertEqual(client.get(page).status_code, 200)
        wrong = page.replace(f"{self.job.pk}-", f"{self.job.pk + 1}-")
        for address in (f"/jobs/{self.job.pk}/", wrong, page.replace("/jobs/", "/vehicles/")):
            self.assertEqual(client.get(address).status_code, 404, address)


def _hashed(word: str) -> str:
    from django.contrib.auth.hashers import make_password

    return make_password(word)
