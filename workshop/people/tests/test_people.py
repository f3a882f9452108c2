"""People, roles, limits, lock-out."""

import re

from django.core.exceptions import PermissionDenied
from django.test import Client, TestCase
from django.urls import reverse

from ironcompass.testing import as_owner
from workshop.models import User, Workshop
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


class Passwords(TestCase):
    """First ones, new ones, locks and their way back."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.lead = person("lead")
        cls.ida = add_person(cls.lead, username="ida", first_name="Ida", password="kobolt-og-salt", role="technician")

    def signed_in(self, word: str) -> Client:
        client = Client()
        client.post(reverse("workshop:sign-in"), {"username": "ida", "password": word})
        return client

    def test_a_first_password_opens_nothing_but_the_way_to_another(self) -> None:
        client, own = self.signed_in("kobolt-og-salt"), reverse("workshop:password")
        for page in ("jobs:floor", "workshop:library", "practice:home"):
            self.assertRedirects(client.get(reverse(page)), own)
        self.assertEqual(client.post(reverse("jobs:new"), {}).status_code, 302)
        for new, why in (
            ("kobolt-og-salt", "the one you have"),
            ("12.03.1984", "date"),
            ("Iron-Compass1", "this place"),
            ("the-workshop-9", "this place"),
        ):
            answer = client.post(own, {"now": "kobolt-og-salt", "new": new})
            self.assertContains(answer, why, status_code=422)
        self.assertContains(client.post(own, {"now": "wrong", "new": "gneis"}), "not your password", status_code=422)
        other = self.signed_in("kobolt-og-salt")
        self.assertRedirects(client.post(own, {"now": "kobolt-og-salt", "new": "gneis-under-sjø"}), "/")
        self.assertEqual(client.get("/").status_code, 200)
        self.assertEqual(other.get("/").status_code, 302)  # signed out everywhere else

    def test_the_lead_gives_a_new_one_that_is_shown_once_and_unlocks(self) -> None:
        for _ in range(5):
            self.signed_in("wrong")
        client = client_of(self.lead)
        self.assertContains(client.get(reverse("workshop:people")), "Locked: unlock")
        client.post(reverse("workshop:unlock", args=[self.ida.pk]))
        self.assertEqual(self.signed_in("kobolt-og-salt").get("/").status_code, 302)
        for _ in range(5):
            self.signed_in("wrong")
        page = client.post(reverse("workshop:new-password", args=[self.ida.pk]), follow=True).content.decode()
        word = re.search(r"signs in with (\S+) and", page)[1]
        self.assertNotIn(word, client.get(reverse("workshop:people")).content.decode())
        self.assertRedirects(self.signed_in(word).get("/"), reverse("workshop:password"))
        events = client.get(reverse("workshop:sign-ins"))
        self.assertContains(events, "came in")
        self.assertContains(events, "wrong password")

    def test_pages_leave_nothing_in_the_browser(self) -> None:
        self.assertIn("no-store", client_of(self.lead).get("/")["Cache-Control"])

    def test_the_sign_in_page_says_where_people_are_made_up(self) -> None:
        page = reverse("workshop:sign-in")
        self.assertNotContains(Client().get(page), "salt-and-iron")
        with as_owner():
            Workshop.objects.update(is_demo=True)
        self.assertContains(Client().get(page), "salt-and-iron")
