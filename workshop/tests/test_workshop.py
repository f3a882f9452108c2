"""People, roles, limits, lock-out."""

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import IntegrityError, transaction
from django.test import Client, TestCase
from django.urls import reverse

from workshop.actions import LastLeadError, add_person, add_vehicle, change_person, set_limits
from workshop.fields import LengthField
from workshop.models import AxleLimits, User, Vehicle
from workshop.policy import ROLES, Deed, may

FIGURES = {
    "studs": 5,
    "rotor": "vented",
    "features": [],
    "discard_thickness_mm": 25.4,
    "max_runout_mm": 0.05,
    "max_thickness_variation_mm": 0.015,
    "measuring_radius_mm": 138.0,
    "nominal_thickness_mm": 28.0,
    "machine_to_thickness_mm": 25.8,
    "source": "maker",
}


def person(role: str = "technician", username: str | None = None) -> User:
    """Make a person of a role, with a password that is cheap to store."""
    return User.objects.create(
        username=username or role, first_name="A", last_name=role.title(), role=role, password="!"
    )


def client_of(user: User) -> Client:
    """Return a client signed in as ``user``."""
    client = Client()
    client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    return client


class Roles(TestCase):
    """Who may do what."""

    def test_every_deed_names_its_roles(self) -> None:
        self.assertEqual(set(ROLES), set(Deed))
        trainee, lead = person("trainee"), person("lead")
        self.assertEqual({d for d in Deed if may(trainee, d)}, {Deed.READ_JOBS, Deed.MEASURE})
        self.assertTrue(all(may(lead, d) for d in Deed))
        lead.is_active = False
        self.assertFalse(may(lead, Deed.READ_JOBS))

    def test_people_page_is_the_leads(self) -> None:
        for role, status in (("trainee", 403), ("technician", 403), ("lead", 200)):
            with self.subTest(role=role):
                self.assertEqual(client_of(person(role)).get(reverse("workshop:people")).status_code, status)

    def test_adding_a_person_keeps_what_was_typed_when_refused(self) -> None:
        client = client_of(person("lead"))
        typed = {"first_name": "Ida", "last_name": "Skjær", "username": "ida", "role": "trainee", "password": "1234"}
        refused = client.post(reverse("workshop:people"), typed)
        self.assertContains(refused, "Skjær", status_code=422)
        self.assertFalse(User.objects.filter(username="ida").exists())
        client.post(reverse("workshop:people"), typed | {"password": "kobolt-og-salt"})
        self.assertTrue(User.objects.get(username="ida").password.startswith("argon2"))

    def test_the_last_lead_keeps_the_keys(self) -> None:
        lead = person("lead")
        with self.assertRaises(LastLeadError):
            change_person(lead, User.objects.get(pk=lead.pk), role="technician", is_active=True)
        self.assertEqual(User.objects.get(pk=lead.pk).role, "lead")
        with self.assertRaises(PermissionDenied):
            add_person(person("technician"), username="x", password="x", role="lead")


class SigningIn(TestCase):
    """Sign-in, lock-out, preferences."""

    def test_five_wrong_passwords_lock_even_the_right_one(self) -> None:
        user = person("technician")
        user.set_password("kobolt-og-salt")
        user.save()
        address = reverse("workshop:sign-in")
        for _ in range(5):
            answer = self.client.post(address, {"username": "technician", "password": "wrong"})
        self.assertEqual(answer.status_code, 429)
        answer = self.client.post(address, {"username": "technician", "password": "kobolt-og-salt"})
        self.assertEqual(answer.status_code, 429)
        self.assertNotIn("_auth_user_id", self.client.session)

    def test_nothing_is_shown_to_strangers(self) -> None:
        for name in ("jobs:floor", "jobs:new", "workshop:people"):
            self.assertRedirects(self.client.get(reverse(name)), f"{reverse('workshop:sign-in')}?next={reverse(name)}")

    def test_pages_are_strict_about_scripts(self) -> None:
        answer = self.client.get(reverse("workshop:sign-in"))
        policy = answer["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertNotRegex(answer.content.decode(), r"<script(?![^>]*\bsrc=)|<style|\bstyle=|\son\w+=")

    def test_units_and_theme_are_remembered(self) -> None:
        user = person()
        client = client_of(user)
        answer = client.post(reverse("workshop:preferences"), {"units": "thou"}, headers={"HX-Request": "true"})
        self.assertEqual((answer.status_code, answer["HX-Refresh"]), (204, "true"))
        client.post(reverse("workshop:preferences"), {"theme": "night", "back": "https://elsewhere.example/"})
        user.refresh_from_db()
        self.assertEqual((user.units, user.theme), ("thou", "night"))
        self.assertContains(client.get(reverse("jobs:floor")), 'data-theme="night"')


class Limits(TestCase):
    """Limits of an axle, versioned."""

    def setUp(self) -> None:
        self.user = person()
        self.vehicle = add_vehicle(self.user, label="Minibus 9", kind="van")

    def test_a_change_is_a_new_row_and_no_change_is_none(self) -> None:
        first = set_limits(self.user, self.vehicle, "F", **FIGURES)
        self.assertEqual(set_limits(self.user, self.vehicle, "F", **FIGURES), first)
        second = set_limits(self.user, self.vehicle, "F", **FIGURES | {"max_runout_mm": 0.06})
        self.assertNotEqual(second, first)
        self.assertEqual(AxleLimits.objects.get(pk=first.pk).max_runout_mm, 0.05)

    def test_refused_for_a_trainee_and_by_the_database(self) -> None:
        with self.assertRaises(PermissionDenied):
            set_limits(person("trainee"), self.vehicle, "F", **FIGURES)
        with self.assertRaises(IntegrityError), transaction.atomic():
            AxleLimits.objects.create(
                vehicle=self.vehicle, axle="F", entered_by=self.user, **FIGURES | {"max_runout_mm": 0}
            )
        self.assertFalse(AxleLimits.objects.exists())

    def test_vehicles_leave_an_audit_row_and_keep_their_name_to_themselves(self) -> None:
        self.assertEqual(self.vehicle.history.get().history_user, self.user)
        with self.assertRaises((ValidationError, IntegrityError)), transaction.atomic():
            add_vehicle(self.user, label="MINIBUS 9", kind="van")
        self.assertEqual(Vehicle.objects.count(), 1)

    def test_length_fields_read_units_and_say_what_is_wrong(self) -> None:
        field = LengthField(most_mm=2)
        self.assertAlmostEqual(field.clean("2 thou"), 0.0508)
        for text in ("0", "0.000", "-1", "abc", "1.2.3", "1000"):
            with self.subTest(text=text), self.assertRaises(ValidationError):
                field.clean(text)
