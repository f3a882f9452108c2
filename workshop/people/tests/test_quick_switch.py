"""Back at the bay's tablet by PIN, on a device that knows one, and never for what signs work off."""

from django.test import Client, TestCase
from django.urls import reverse

from workshop.models import User
from workshop.people.actions import change_password
from workshop.people.quick_switch import set_pin
from workshop.permissions import may_sign
from workshop.tests.base import person

WORD = "kobolt-og-salt"
SIGN_IN = reverse("workshop:sign-in")


class QuickSwitch(TestCase):
    """Two people at one tablet."""

    def setUp(self) -> None:
        self.ida, self.jon = person("lead", username="ida"), person("technician", username="jon")
        for one, pin in ((self.ida, "4711"), (self.jon, "80215")):
            one.set_password(WORD)
            one.save()
            set_pin(one, pin)

    def come_in(self, client: Client, who: User) -> None:
        client.post(SIGN_IN, {"username": who.username, "password": WORD})
        client.post(reverse("workshop:sign-out"))

    def by_pin(self, client: Client, who: User, pin: str, **more: str) -> int:
        return client.post(SIGN_IN, {"person": f"{who.pk}", "pin": pin} | more).status_code

    def test_who_signed_in_here_this_shift_comes_back_by_pin_and_nobody_else(self) -> None:
        self.come_in(self.client, self.ida)
        self.assertContains(self.client.get(SIGN_IN), "Back at this tablet")
        self.assertEqual(self.by_pin(self.client, self.jon, "80215"), 422, "never signed in here")
        self.assertEqual(self.by_pin(Client(), self.ida, "4711"), 422, "another device")
        self.come_in(self.client, self.jon)
        self.assertEqual(self.by_pin(self.client, self.ida, "4711", next="/store/limits/"), 302)
        self.assertEqual(self.client.get("/").status_code, 200)
        self.client.post(reverse("workshop:sign-out"))
        self.client.post(SIGN_IN, {"forget": "yes"})
        self.assertNotContains(self.client.get(SIGN_IN), "Back at this tablet")

    def test_a_forged_or_old_cookie_knows_nobody_and_a_new_password_ends_it(self) -> None:
        self.come_in(self.client, self.ida)
        kept = self.client.cookies["people_here"].value
        self.client.cookies["people_here"] = kept[:-2] + "xx"
        self.assertEqual(self.by_pin(self.client, self.ida, "4711"), 422)
        self.client.cookies["people_here"] = kept
        with self.settings(SESSION_COOKIE_AGE=-1):
            self.assertEqual(self.by_pin(self.client, self.ida, "4711"), 422)
        change_password(self.ida, "another-long-word")
        self.assertEqual(self.by_pin(self.client, self.ida, "4711"), 422)

    def test_five_wrong_pins_lock_as_five_wrong_passwords_do(self) -> None:
        self.come_in(self.client, self.ida)
        said = [self.by_pin(self.client, self.ida, f"000{n}") for n in range(5)]
        self.assertEqual((said[0], said[-1]), (422, 429))
        self.assertEqual(self.by_pin(self.client, self.ida, "4711"), 429)

    def test_what_signs_and_what_leads_asks_for_the_password(self) -> None:
        self.come_in(self.client, self.ida)
        self.by_pin(self.client, self.ida, "4711")
        answer = self.client.get(reverse("workshop:people"))
        self.assertContains(answer, "With your password", status_code=403)
        self.assertContains(self.client.get(SIGN_IN), "Password")  # it is asked, though somebody is signed in
        self.client.post(SIGN_IN, {"username": "ida", "password": WORD})
        self.assertEqual(self.client.get(reverse("workshop:people")).status_code, 200)
        self.ida.by_pin = True
        self.assertFalse(may_sign(self.ida))

    def test_a_pin_is_set_with_the_password_and_is_none_that_anybody_tries_first(self) -> None:
        address = reverse("workshop:password")
        self.client.force_login(self.jon, backend="workshop.people.backends.DoorBackend")
        for pin in ("1111", "2345", "9876", "12", "abcd"):
            answer = self.client.post(address, {"pin-now": WORD, "pin-pin": pin})
            self.assertContains(answer, "id_pin-pin_error", status_code=422)
        self.assertEqual(self.client.post(address, {"pin-now": "wrong", "pin-pin": "4096"}).status_code, 422)
        self.assertEqual(self.client.post(address, {"pin-now": WORD, "pin-pin": "4096"}).status_code, 302)
        self.jon.refresh_from_db()
        self.assertTrue(self.jon.pin.startswith("argon2"))
        self.client.post(address, {"pin-now": WORD, "pin-pin": ""})
        self.jon.refresh_from_db()
        self.assertEqual(self.jon.pin, "")
