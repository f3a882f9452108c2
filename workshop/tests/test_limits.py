"""Limits as versions."""

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import IntegrityError, transaction
from django.test import TestCase

from workshop.fields import LengthField
from workshop.models import AxleLimits, Vehicle
from workshop.tests.base import FIGURES, person
from workshop.vehicles import add_vehicle, set_limits


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
