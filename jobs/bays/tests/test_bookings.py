"""Bays and lathe: no place twice at once, drawn on the floor, given up again."""

from datetime import timedelta

from django.core.exceptions import PermissionDenied
from django.urls import reverse
from django.utils import timezone

from jobs.bays.actions import PlaceTakenError, book, give_up
from jobs.floor.actions import open_job
from jobs.models import Booking
from jobs.prove.actions import close_job
from jobs.tests.base import Workshop


class Places(Workshop):
    """Who stands where, when."""

    def setUp(self) -> None:
        super().setUp()
        self.nine = timezone.localtime().replace(hour=9, minute=0, second=0, microsecond=0)
        self.other = open_job(self.user, self.vehicle)

    def test_no_place_is_taken_twice_at_once(self) -> None:
        first = book(self.user, self.job, place="bay_1", starts_at=self.nine, minutes=60)
        for minutes in (-30, 0, 30, 59):
            with self.subTest(minutes=minutes), self.assertRaises(PlaceTakenError):
                book(self.user, self.other, place="bay_1", starts_at=self.nine + timedelta(minutes=minutes), minutes=45)
        book(self.user, self.other, place="bay_1", starts_at=self.nine + timedelta(minutes=60), minutes=45)
        book(self.user, self.other, place="lathe", starts_at=self.nine, minutes=45)
        with self.assertRaises(PermissionDenied):
            book(self.trainee, self.other, place="bay_2", starts_at=self.nine, minutes=45)
        give_up(self.user, first)
        book(self.user, self.other, place="bay_1", starts_at=self.nine, minutes=45)
        given_up = Booking.history.get(history_type="-")
        self.assertEqual((given_up.place, given_up.history_user), ("bay_1", self.user))

    def test_the_floor_draws_the_day_and_a_taken_place_is_named(self) -> None:
        floor = reverse("jobs:floor")
        self.assertNotContains(self.client.get(floor), "day-block")
        form = {"place": "bay_1", "day": f"{self.nine:%Y-%m-%d}", "starts": "09:00", "minutes": "60"}
        self.assertEqual(self.client.post(reverse("jobs:book", args=[self.job.pk]), form).status_code, 302)
        self.assertContains(self.client.get(floor), "day-block bay_1")
        refused = self.client.post(reverse("jobs:book", args=[self.other.pk]), form)
        self.assertContains(refused, "Another job stands there", status_code=422)
        short = self.client.post(reverse("jobs:book", args=[self.other.pk]), form | {"minutes": "5"})
        self.assertContains(short, "id_minutes_error", status_code=422)
        close_job(self.user, self.job, reason="Sold")
        self.client.post(reverse("jobs:give-up", args=[Booking.objects.get().pk]))
        self.assertEqual(Booking.objects.count(), 1)
