"""People, roles, limits, lock-out."""

from django.core.exceptions import PermissionDenied
from django.test import TestCase
from django.urls import reverse

from workshop.models import User
from workshop.people.actions import LastLeadError, add_person, change_person
from workshop.permissions import ROLES, Deed, may
from workshop.tests.base import client_of, person


class Roles(TestCase):
    """Who may do what."""

    def test_every_deed_names_its_roles(self) -> None:
        self.assertEqual(set(ROLES), set(Deed))
        trainee, lead = person("trainee"), person("lead")
        self.assertEqual({d for d in Deed if may(trainee, d)}, {Deed.READ_JOBS, Deed.MEASURE, Deed.PRACTISE})
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
