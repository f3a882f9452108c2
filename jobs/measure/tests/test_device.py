"""Instruments that talk: by their own key, each reading once, at its station; what is doubted is never stored."""

import json
from unittest import mock

from django.urls import reverse
from django.utils import timezone

from jobs.measure.device import key_of, listen
from jobs.models import DeviceReading, Job, Listening, Sweep
from jobs.prepare.actions import start_sweep
from jobs.tests.base import SET_UP, Workshop, fill
from workshop.models import DeviceKey, Instrument
from workshop.store.actions import make_device_key, revoke_device_key
from workshop.tests.base import client_of

URL = "/api/1/readings"


class Talking(Workshop):
    """A dial with a key, and a tape that listens to it."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.dial = Instrument.objects.create(name="Dial 3", graduation_mm=0.01)
        cls.key, cls.secret = make_device_key(cls.user, cls.dial, name="Dial 3 by radio")

    def setUp(self) -> None:
        super().setUp()
        self.listening = listen(self.user, self.sweep, self.key)

    def send(self, name: str, value: object = 0.045, *, secret: str = "", **more: object):
        body = {"id": name, "value": value, "unit": "mm"} | more
        told = {"content_type": "application/json", "headers": {"Authorization": f"Bearer {secret or self.secret}"}}
        return client_of(self.trainee).post(URL, json.dumps(body), **told)

    def tape(self) -> Sweep:
        return Sweep.objects.get(pk=self.sweep.pk)

    def test_readings_go_to_their_places_once_in_whatever_order_and_however_often(self) -> None:
        for name, station in (("a", 3), ("b", 1), ("a", 3), ("c", 2), ("b", 1)):
            answer = self.send(name, 0.01 * station, station=station)
            self.assertEqual((answer.status_code, answer.json()["outcome"]), (200, "taken"), name)
        self.assertTrue(answer.json()["again"])
        self.assertEqual(self.tape().typed[:4], ["1", "2", "3", ""])  # in lines of 0.01 mm, as this tape is read
        self.assertEqual(self.send("d", 0.05).json()["station"], 4)  # without a station: the next that is empty
        self.assertEqual(self.tape().readings_mm[3], 0.05)
        self.assertEqual(self.tape().history.first().history_user, self.user)
        self.assertEqual(DeviceReading.objects.count(), 4)

    def test_units_are_told_and_a_person_types_between(self) -> None:
        fill(self.user, self.sweep, ["1.5"])
        for name, value, unit in (("a", 45, "um"), ("b", 2, "thou"), ("c", -0.002, "in")):
            self.assertEqual(self.send(name, value, unit=unit).status_code, 200)
        read = self.tape().readings_mm
        for mm, expected in zip(read, (0.015, 0.045, 0.0508, -0.0508), strict=False):
            self.assertAlmostEqual(mm, expected, delta=1e-4)
        taken = self.send("d", 0.07, station=1)  # where somebody has typed
        self.assertEqual((taken.json()["outcome"], taken.json()["why"]), ("doubted", "station_taken"))
        self.assertEqual(self.tape().typed[0], "1.5")
        again = self.send("e", 0.05, station=2)  # its own reading it may take again
        self.assertEqual((again.json()["outcome"], self.tape().typed[1]), ("taken", "5"))

    def test_what_is_doubted_is_shown_and_never_stored(self) -> None:
        for k in range(4):
            self.send(f"good-{k}", 0.01 * k)
        before = self.tape().typed
        for name, told, why in (
            ("jump", {"value": 0.9}, "jump"),
            ("inch", {"value": 0.04, "unit": "in"}, "jump"),
            ("far", {"value": 900}, "out_of_range"),
            ("flat", {"value": 0.02, "battery": 0.03}, "battery"),
        ):
            answer = self.send(name, **told).json()
            self.assertEqual((answer["outcome"], answer["why"]), ("doubted", why), name)
        self.assertEqual(self.tape().typed, before)
        page = self.client.get(reverse("jobs:measure", args=[self.job.pk, "FL"]))
        for words in ("Listening to Dial 3 by radio", "not taken", "battery 3 %", "nearly flat"):
            self.assertContains(page, words)

    def test_garbage_is_refused_with_its_place(self) -> None:
        for told, path in (
            ({"value": "0.05"}, "value"),
            ({"unit": "furlong"}, "unit"),
            ({"station": 0}, "station"),
            ({"id": ""}, "id"),
            ({"id": "x" * 65}, "id"),
            ({"colour": "red"}, ""),
            ({"value": 1e9}, "value"),
        ):
            answer = self.send(told.pop("id", "x"), **told)
            self.assertEqual((answer.status_code, answer.json()["path"]), (422, path), told)
        headers = {"Authorization": f"Bearer {self.secret}"}
        for body in ("", "[1]", '{"id": "a", "value": NaN, "unit": "mm"}', "\x00", "[" * 3000, '"' + "a" * 5000):
            answer = self.client.post(URL, body, content_type="application/json", headers=headers)
            self.assertIn(answer.status_code, (413, 422), body[:20])
        self.assertEqual(self.client.get(URL, headers=headers).status_code, 405)
        self.assertEqual(DeviceReading.objects.count(), 0)

    def test_a_key_is_told_once_kept_as_a_digest_and_revoked(self) -> None:
        self.assertEqual(key_of(self.secret), self.key)
        self.assertNotIn(self.secret, str(DeviceKey.objects.values()))
        page = self.client.post(reverse("workshop:new-key", args=[self.dial.pk]), {"name": "another"}, follow=True)
        told = str(next(iter(page.context["messages"]))).rsplit(": ", 1)[1]
        self.assertEqual(key_of(told).name, "another")
        self.assertNotContains(self.client.get(reverse("workshop:instrument", args=[self.dial.pk])), told)
        for name, pk in (("new-key", self.dial.pk), ("revoke-key", self.key.pk)):
            refused = client_of(self.trainee).post(reverse(f"workshop:{name}", args=[pk]))
            self.assertEqual(refused.status_code, 403)
        self.client.post(reverse("workshop:revoke-key", args=[self.key.pk]))
        self.assertFalse(revoke_device_key(self.user, self.key.pk))
        for secret in (self.secret, "nonsense", " "):
            self.assertEqual(self.send("a", secret=secret).status_code, 401)
        self.assertEqual(self.tape().typed[0], "")

    def test_nobody_listens_the_tape_is_full_or_the_job_closed(self) -> None:
        for k in range(self.sweep.slots):
            DeviceReading.objects.all().delete()  # not the rate, this time
            self.send(f"{k}", 0.01)
        full = self.send("more", 0.01)
        self.assertEqual((full.status_code, full.json()["expected"]), (409, "tape_full"))
        self.assertEqual(self.send("far", station=99).json()["expected"], "no_such_station")
        other = start_sweep(self.user, self.corner, stations=10, **SET_UP)
        self.client.post(reverse("jobs:listen", args=["sweep", other.pk]), {"key": self.key.pk})
        self.assertEqual(self.send("more", 0.01).json()["station"], 1)  # kept by the device, sent again under its name
        self.client.post(reverse("jobs:listen", args=["sweep", other.pk]), {"key": ""})
        self.assertEqual(self.send("lost").json()["expected"], "nobody_listens")
        listen(self.user, other, self.key)
        Job.objects.filter(pk=self.job.pk).update(state="closed", closed_by=self.user)
        self.assertEqual(self.send("late").json()["expected"], "job_closed")
        self.assertEqual(DeviceReading.objects.filter(given_id__in=("lost", "late")).count(), 0)

    def test_a_flood_is_held_back_and_the_tape_is_intact(self) -> None:
        # All in one moment, however long the machine takes for them.
        with (
            mock.patch("jobs.measure.device.MOST_A_SECOND", 3),
            mock.patch("django.utils.timezone.now", return_value=timezone.now()),
        ):
            answers = [self.send(f"{k}", 0.01, station=1 + k % 3) for k in range(9)]
        self.assertEqual([answer.status_code for answer in answers[:4]], [200, 200, 200, 429])
        self.assertEqual(answers[3]["Retry-After"], "1")
        self.assertEqual(self.tape().typed[:4], ["1", "1", "1", ""])
        self.assertEqual(self.send("0", 0.01, station=1).status_code, 200)  # one that had come is answered all the same

    def test_its_clock_is_believed_for_nothing(self) -> None:
        for at, off in (("2001-01-01T00:00:00Z", True), ("yesterday", False), ("2001-13-45T00:00:00", False)):
            told = self.send(at.replace(":", "-"), at=at)
            self.assertEqual(told.json()["clock_off_seconds"] is not None, off, at)

    def test_the_page_hears_what_was_taken(self) -> None:
        url = reverse("jobs:heard", args=["sweep", self.sweep.pk])
        quiet = self.client.get(url, {"since": "0"}).json()
        self.assertEqual((quiet["listening"], quiet["news"]), (True, []))
        self.assertNotIn("state", quiet)
        self.send("a", 0.02)
        self.send("b", 900)
        told = self.client.get(url, {"since": quiet["since"], "show": f"s{self.sweep.pk}"}).json()
        self.assertEqual(told["news"], ["taken", "doubted"])
        for k in range(4):  # one taken, and more doubted after it than are shown: it is drawn all the same
            self.send(f"burst-{k}", 0.03 if k == 0 else 900)
        burst = self.client.get(url, {"since": told["since"], "show": f"s{self.sweep.pk}"}).json()
        self.assertEqual(burst["state"]["typed"][1], "3")
        told = burst | {"state": told["state"]}
        self.assertEqual(told["state"]["typed"][0], "2")
        self.assertIn("rose", told["html"])
        self.assertEqual(self.client.get(url, {"since": told["since"]}).json()["news"], [])
        Listening.objects.update(ended_at=self.listening.since)
        self.assertEqual(self.client.get(url).json(), {"listening": False})
        self.client.logout()
        self.assertEqual(self.client.get(url, headers={"Accept": "application/json"}).status_code, 401)

    def test_the_interface_is_described(self) -> None:
        self.client.logout()
        told = self.client.get("/api/1/openapi.json").json()
        self.assertEqual((told["openapi"][:2], list(told["paths"])), ("3.", ["/readings"]))
