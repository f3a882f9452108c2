"""The store's lathes, plates and figures: who may change them, and what is refused beside its field."""

from contextlib import suppress
from datetime import date

from django.db import IntegrityError, connection, transaction
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from compass.evidence.shop import PRICES, Shop
from compass.ground.units import Unit
from workshop.adapters import shop_of_workshop
from workshop.models import Instrument, Lathe, LibraryLimits, PlateKind, ShopFigures
from workshop.store.actions import keep_figures, keep_tooling
from workshop.store.racks import instrument_card, plate_card
from workshop.tests.base import changing, client_of, person, seen_on
from workshop.versions import StaleError
from workshop.words import feed_text

LATHE = {
    "name": "Hub lathe", "kind": "on_vehicle", "mm_per_line": "0,02", "runout_left_mm": "0.015", "min_depth_mm": "0.05",
    "finish_depth_mm": "0.1", "max_vented_mm": "0.4", "max_solid_mm": "", "tip_corners": "3", "tip_corner_now": "2",
}  # fmt: skip
PLATE = {"correction_mm": "0.1", "reference_radius_mm": "130", "studs": "5", "positions": "10", "stock": "3"}


class Store(TestCase):
    """Pages of the store."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.user, cls.trainee, cls.lead = person(), person("trainee"), person("lead")

    def setUp(self) -> None:
        self.client = client_of(self.user)

    def test_a_lathe_reaches_the_core_as_its_profile_says(self) -> None:
        self.assertContains(self.client.get(reverse("workshop:lathes")), "Without one no cut is offered")
        self.assertEqual(self.client.post(reverse("workshop:lathes"), LATHE).status_code, 302)
        (lathe,) = shop_of_workshop(self.user).lathes
        self.assertEqual((lathe.mm_per_line, lathe.max_depth_mm, lathe.runout_left_mm), (0.02, {"vented": 0.4}, 0.015))
        self.assertEqual(Lathe.history.get().history_user, self.user)
        thou = client_of(self.lead)
        thou.post(reverse("workshop:preferences"), {"units": "thou"})
        self.assertContains(thou.get(reverse("workshop:lathes")), "0.79 thou")

    def test_what_cannot_be_is_refused_beside_its_field_and_kept(self) -> None:
        wrong = LATHE | {"max_vented_mm": "0.03", "tip_corner_now": "4", "finish_depth_mm": "0.00001"}
        answer = self.client.post(reverse("workshop:lathes"), wrong)
        self.assertContains(answer, "the tip would rub and burn", status_code=422)
        self.assertContains(answer, "This tip has 3 corners", status_code=422)
        self.assertContains(answer, "Must be more than 0.0001", status_code=422)
        self.assertContains(answer, 'value="0.03"', status_code=422)
        answer = self.client.post(reverse("workshop:plates"), PLATE | {"correction_mm": "0"})
        self.assertContains(answer, "Must be more than", status_code=422)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Lathe.objects.create(name="x", min_depth_mm=0.1, runout_left_mm=0.01, tip_corners=2, tip_corner_now=3)

    def test_plates_out_of_stock_are_not_offered(self) -> None:
        self.client.post(reverse("workshop:plates"), PLATE)
        self.assertEqual(shop_of_workshop(self.user).plates[0].positions, 10)
        address = changing("workshop:plates", PlateKind.objects.get())
        self.client.post(address, PLATE | {"stock": "0"} | seen_on(self.client, address))
        self.assertEqual(shop_of_workshop(self.user).plates, ())
        self.assertContains(self.client.get(reverse("workshop:plates")), "not offered until there is one")

    def test_the_shop_is_read_once_until_something_of_it_changes_and_never_as_a_change_taken_back_would_have_it(
        self,
    ) -> None:
        self.client.post(reverse("workshop:plates"), PLATE)
        shop_of_workshop(self.user)
        with self.assertNumQueries(1):
            self.assertEqual(len(shop_of_workshop(self.user).plates), 1)
        for taken_back, then in ((0.2, 0.3), (0.4, 0.5)):
            with suppress(StaleError), transaction.atomic():
                PlateKind.objects.update(correction_mm=taken_back)
                self.assertEqual(shop_of_workshop(self.user).plates[0].correction_mm, taken_back)
                raise StaleError
            self.assertNotEqual(shop_of_workshop(self.user).plates[0].correction_mm, taken_back)
            PlateKind.objects.update(correction_mm=then)
            self.assertEqual(shop_of_workshop(self.user).plates[0].correction_mm, then)
        Lathe.objects.create(name="x", min_depth_mm=0.1, runout_left_mm=0.01)
        self.assertEqual(len(shop_of_workshop(self.user).lathes), 1)
        PlateKind.objects.all().delete()
        self.assertEqual(shop_of_workshop(self.user).plates, ())

    def test_a_count_of_stock_is_not_written_over_a_plate_that_was_taken_meanwhile(self) -> None:
        self.client.post(reverse("workshop:plates"), PLATE)
        address = changing("workshop:plates", PlateKind.objects.get())
        drawn = seen_on(self.client, address)
        PlateKind.objects.update(stock=1)
        answer = self.client.post(address, PLATE | {"stock": "7"} | drawn)
        self.assertContains(answer, "Somebody changed this meanwhile", status_code=422)
        self.assertContains(answer, 'value="7"', status_code=422)
        self.assertEqual(PlateKind.objects.get().stock, 1)
        again = {"seen": answer.context["form"]["seen"].value()}
        self.assertEqual(self.client.post(address, PLATE | {"stock": "7"} | again).status_code, 302)
        self.assertEqual(PlateKind.objects.get().stock, 7)

    def test_only_the_lead_sets_prices_and_nobody_over_another(self) -> None:
        address = reverse("workshop:figures")
        sent = {"policy": "plate", "currency": "kr", "labour_per_hour": "640,5", "minutes_index": "15", "version": "1"}
        for user in (self.user, self.trainee):
            self.assertEqual(client_of(user).post(address, sent).status_code, 403)
            self.assertContains(client_of(user).get(address), "The workshop lead sets these")
        lead = client_of(self.lead)
        self.assertEqual(lead.post(address, sent).status_code, 302)
        shop = shop_of_workshop(self.user)
        self.assertEqual(
            (shop.policy, shop.price_of("labour_per_hour"), shop.minutes_of("index")), ("plate", 640.5, 15)
        )
        self.assertEqual(shop.price_of("rotor"), PRICES["rotor"])
        answer = lead.post(address, sent | {"labour_per_hour": "700"})
        self.assertContains(answer, "Somebody changed these figures meanwhile", status_code=422)
        self.assertContains(answer, 'value="700"', status_code=422)
        answer = lead.post(address, sent | {"version": "2", "labour_per_hour": "-1"})
        self.assertContains(answer, "was read as -1", status_code=422)
        with self.assertRaises(StaleError):
            keep_figures(self.lead, version=1, policy="least_cost")
        with self.assertRaises(IntegrityError), transaction.atomic():
            ShopFigures.objects.create(pk=2)

    def test_trainees_look_and_do_not_touch_and_rows_cost_no_queries(self) -> None:
        trainee = client_of(self.trainee)
        counts = []
        for n in (1, 9):
            keep_tooling(self.user, Lathe(name=f"Lathe {n}", min_depth_mm=0.05, runout_left_mm=0.01))
            keep_tooling(self.user, PlateKind(correction_mm=n / 100, reference_radius_mm=130, stock=1))
            with CaptureQueriesContext(connection) as asked:
                for name in ("lathes", "plates", "figures"):
                    page = trainee.get(reverse(f"workshop:{name}"))
                    self.assertNotContains(page, ">Save<")
            counts.append(len(asked))
        self.assertEqual(counts[0], counts[1])
        for name, sent in (("lathes", LATHE), ("plates", PLATE)):
            self.assertEqual(trainee.post(reverse(f"workshop:{name}"), sent).status_code, 403)

    def test_an_untouched_workshop_counts_with_our_estimates(self) -> None:
        self.assertEqual(shop_of_workshop(self.user), Shop(currency="kr"))


class Seats(TestCase):
    """A rotor that goes on only some ways, and the band a lathe cuts: typed once, kept through every change."""

    def test_the_form_keeps_what_it_shows_and_refuses_what_cannot_be(self) -> None:
        lead = person("lead")
        client = client_of(lead)
        typed = {
            "model": "Varda Combina", "axle": "F", "studs": "5", "rotor": "vented", "measuring_radius_mm": "138",
            "max_runout_mm": "0.05", "max_thickness_variation_mm": "0.015", "discard_thickness_mm": "25.4",
            "source": "maker", "index_positions": "0", "swept_inner_radius_mm": "95", "swept_outer_radius_mm": "90",
        }  # fmt: skip
        answer = client.post(reverse("workshop:library"), typed)
        self.assertContains(answer, "larger than the inner", status_code=422)
        typed["swept_outer_radius_mm"] = "148"
        self.assertEqual(client.post(reverse("workshop:library"), typed).status_code, 302)
        row = LibraryLimits.objects.get()
        self.assertEqual((row.index_positions, row.swept_outer_radius_mm), ([0.0], 148.0))
        LibraryLimits.objects.update(index_positions=[0.0, 72.0])  # as a file may tell it
        page = client.get(changing("workshop:library", row))
        self.assertContains(page, '<option value="0,72" selected>')
        client.post(changing("workshop:library", row), typed | {"index_positions": "0,72", "studs": "4"})
        self.assertEqual(LibraryLimits.objects.latest("pk").index_positions, [0.0, 72.0])
        for wrong in ("400", "x", "0,nan"):
            answer = client.post(reverse("workshop:library"), typed | {"index_positions": wrong})
            self.assertEqual(answer.status_code, 422, wrong)


class Racks(TestCase):
    """What lies in the store, as cards."""

    def test_days_to_the_next_check_are_counted_and_one_overdue_or_never_checked_says_so(self) -> None:
        today = date(2027, 3, 14)

        def check(**fields) -> tuple[bool, str]:
            card = instrument_card(Instrument(name="Dial", graduation_mm=0.01, **fields), Unit.MM, today)
            return card["due"], card["check"]

        self.assertEqual(check(checked_on=date(2027, 3, 4), check_every_days=30), (False, "next check in 20 days"))
        self.assertEqual(check(checked_on=date(2027, 2, 13), check_every_days=30), (False, "next check in 1 day"))
        self.assertEqual(check(checked_on=date(2026, 3, 4), check_every_days=365)[0], True)
        self.assertIn("due since 10 days", check(checked_on=date(2026, 3, 4), check_every_days=365)[1])
        self.assertIn("never checked", check()[1])
        self.assertFalse(check(retired=True)[0])

    def test_a_feed_is_said_as_its_reader_counts(self) -> None:
        self.assertEqual(feed_text("0.15 mm a turn", Unit.THOU), "5.9 thou a turn")
        self.assertEqual(feed_text("0,2", Unit.MM), "0.20 mm a turn")
        self.assertEqual(feed_text("slow", Unit.THOU), "slow")

    def test_a_kind_of_plate_shows_what_is_left_of_it(self) -> None:
        kind = PlateKind(correction_mm=0.1, reference_radius_mm=138, studs=5, positions=10, stock=3)
        card = plate_card(kind, Unit.MM)
        self.assertEqual((card["name"], len(card["left"])), ("0.10 mm", 3))
        self.assertIn("thin side", card["picture"])
