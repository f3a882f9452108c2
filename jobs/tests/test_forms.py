"""Every form of every page: it carries what its address asks for, and its address opened again gives a page."""

from html.parser import HTMLParser

from django.db import connection, transaction
from django.test import Client, SimpleTestCase
from django.urls import reverse
from psycopg import sql

from compass.ground.units import Unit
from jobs.bays.forms import BookingForm
from jobs.complaint.forms import StoryForm
from jobs.measure.forms import QuickForm
from jobs.models import Job, QuickReading, RotorFitting
from jobs.tests.base import DemoShop, Workshop
from workshop.models import Sent, User, Vehicle
from workshop.numbers_in_addresses import named
from workshop.store.forms import InstrumentForm, LatheForm, PlateForm

FORBIDDEN = (403, 405, 500)
OURS = ("workshop_", "jobs_", "practice_", "ledger_")


class Forms(HTMLParser):
    """Collect a page's forms of method POST: address and the fields they would send untouched."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[tuple[str, dict[str, str]]] = []
        self._open = False

    def handle_starttag(self, tag, attrs):
        """Open a form, or note a field of the open one."""
        named = dict(attrs)
        if tag == "form":
            self._open = named.get("method", "get").lower() == "post"
            if self._open:
                self.forms.append((named.get("action") or "", {}))
        elif self._open and tag in ("input", "button") and named.get("name"):
            is_sent = named.get("type") not in ("checkbox", "radio") or "checked" in named
            if is_sent:
                self.forms[-1][1].setdefault(named["name"], named.get("value") or "")

    def handle_endtag(self, tag):
        """Close the form."""
        self._open = self._open and tag != "form"


def rows_now() -> dict[str, str]:
    """Return what names the rows of every table of ours; not of the trails, in which a second saying may be told."""
    with connection.cursor() as cursor:
        tables = [name for name in connection.introspection.table_names(cursor) if name.startswith(OURS)]
        said = {}
        for table in tables:
            if "historical" not in table and table != Sent._meta.db_table:
                asked = "select md5(coalesce(string_agg(r::text, '|' order by r::text), '')) from {} r"
                cursor.execute(sql.SQL(asked).format(sql.Identifier(table)))
                (said[table],) = cursor.fetchone()
    return said


class EveryForm(DemoShop):
    """Submitted as it stands, with the checks against forged requests on."""

    def pages(self) -> list[str]:
        job, van = (named("job", one.pk) for one in (self.job, self.van))
        of_job = [f"/jobs/{pk}/{leg}" for pk in (job, van) for leg in ("", "cause/", "choose/F/", "changes/")]
        corner = ["measure/", "measure/?tape=quick", "measure/?tape=look", "prepare/", "turn/", "cut/"]
        store = [
            reverse(f"workshop:{name}") for name in ("library", "instruments", "lathes", "plates", "figures", "people")
        ]
        vehicle = reverse("jobs:vehicle", args=[Vehicle.objects.get(label="Minibus 6").pk])
        others = ["/", "/jobs/new/", "/jobs/import/", vehicle, "/store/limits/service/?model=varda"]
        return [*of_job, *(f"/jobs/{job}/FL/{leg}" for leg in corner), *store, *others]

    def test_each_is_taken_and_its_address_opened_again_gives_a_page(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(User.objects.get(username="holm"), backend="workshop.people.backends.DoorBackend")
        seen: set[str] = set()
        for page in self.pages():
            answer = client.get(page)
            self.assertEqual(answer.status_code, 200, page)
            parser = Forms()
            parser.feed(answer.content.decode())
            self.assertTrue(parser.forms, page)
            for action, fields in parser.forms:
                address = action or page
                if address in seen or address == reverse("workshop:sign-out"):  # has a test of its own
                    continue
                seen.add(address)
                with self.subTest(page=page, form=address):
                    self.assertIn("csrfmiddlewaretoken", fields)
                    self.assertEqual(client.get(address, follow=True).status_code, 200)
                    with transaction.atomic():
                        self.assertNotIn(client.post(address, fields).status_code, FORBIDDEN)
                        once = rows_now()
                        client.post(address, fields)
                        self.assertEqual([t for t, said in rows_now().items() if said != once[t]], [], "counted twice")
                        transaction.set_rollback(True)
        self.assertGreater(len(seen), 25)

    def test_signing_out(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.user, backend="workshop.people.backends.DoorBackend")
        parser = Forms()
        parser.feed(client.get("/").content.decode())
        fields = dict(parser.forms)[reverse("workshop:sign-out")]
        self.assertRedirects(client.post(reverse("workshop:sign-out"), fields), reverse("workshop:sign-in"))
        self.assertEqual(client.get("/").status_code, 302)


class SentTwice(Workshop):
    """A form that arrives twice counts once; one filled anew is another."""

    def twice(self, address: str, sent: dict[str, str], count) -> None:
        before = count()
        first, second = (self.client.post(address, {**sent, "once": "k1"}) for _ in range(2))
        self.assertEqual((first.status_code, second.status_code), (302, 302))
        self.assertEqual((second["Location"], count()), (first["Location"], before + 1))
        self.assertContains(self.client.get("/"), "sent twice")

    def test_a_job_a_quick_reading_and_a_fitted_rotor(self) -> None:
        job = {"label": self.vehicle.label, "kind": "van", "complaint": "Shakes again"}
        self.twice(reverse("jobs:new"), job, Job.objects.count)
        quick = {"stud": "4", "offset": "12", "amount": "9", "within": "15"}
        address = reverse("jobs:quick", args=[self.job.pk, "FL"])
        self.twice(address, quick, QuickReading.objects.count)
        fitting = {"position": "FL", "odometer_km": "80000", "thickness_mm": "28", "source": "measured"}
        self.twice(reverse("jobs:vehicle", args=[self.vehicle.pk]), fitting, RotorFitting.objects.count)
        self.client.post(address, {**quick, "amount": "8", "once": "k1"})  # went back, and read again
        self.assertEqual(QuickReading.objects.count(), 2)

    def test_a_refused_one_can_be_sent_again(self) -> None:
        address = reverse("jobs:quick", args=[self.job.pk, "FL"])
        bad = {"stud": "9", "offset": "", "amount": "9", "within": "15", "once": "k2"}
        for _ in range(2):
            self.assertEqual(self.client.post(address, bad).status_code, 422)
        self.assertEqual((QuickReading.objects.count(), Sent.objects.count()), (0, 0))


class Fields(SimpleTestCase):
    """Fields of forms."""

    def test_no_form_takes_a_number_by_any_other_field(self) -> None:
        forms = [
            QuickForm(studs=5),
            BookingForm(),
            StoryForm(unit=Unit.MM),
            *(form(unit=Unit.MM) for form in (InstrumentForm, LatheForm, PlateForm)),
        ]
        for form in forms:
            for name, field in form.fields.items():
                self.assertNotEqual(getattr(field.widget, "input_type", ""), "number", f"{type(form).__name__}.{name}")
