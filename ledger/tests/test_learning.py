"""Figures are learnt from the workshop's own jobs: refitted, accepted by the lead, taken back."""

from django.urls import reverse

from jobs.models import CornerWorked
from ledger.actions import MovedError, accept, take_back
from ledger.lathes import discs_cut
from ledger.learning import all_learning, last_refitted, on_record
from ledger.refitting import grown_pairs, refit_anew
from ledger.tests.base import Record
from workshop.adapters import learned_figures, part_minutes_here, shop_of_workshop
from workshop.models import Lathe, Learned, LongWork, ShopFigures
from workshop.tests.base import client_of, work_done

READ = {"runout_mm": 0.08, "runout_expanded_mm": 0.004, "variation_mm": 0.004, "variation_expanded_mm": 0.002}


class Learning(Record):
    def learnt(self, figure: str, whose: str = ""):
        rows = all_learning(self.lead, on_record(self.lead), refit_anew(self.lead))
        return next(row for row in rows if (row.figure, row.whose) == (figure, whose))

    def test_discs_met_again_refit_how_fast_they_grow_uneven(self) -> None:
        """Ten discs of 0.05 mm over the quiet runout grow 0.02 in 5,000 km: g is 0.08, twice ours."""
        for _ in range(10):
            self.seen_again(self.closed(READ), km=5_000, comeback=False, variation_mm=0.024)
        self.seen_again(self.closed(READ), km=100, comeback=False, variation_mm=0.5)  # too near to say anything
        self.seen_again(self.closed(READ), km=5_000, comeback=False)  # not measured
        self.assertEqual(len(grown_pairs(self.lead)), 10)
        growth = self.learnt("growth_mm").refit
        self.assertEqual(growth.pairs, 10)
        self.assertGreater(growth.now, 0.055)
        self.assertLess(growth.low, 0.08)
        self.assertGreater(growth.high, 0.08)

    def test_a_worker_refits_what_has_changed_once_a_change_for_whoever_looks(self) -> None:
        self.closed(READ | {"remedy": "on_vehicle_cut", "lathe": self.lathe, "runout_mm": 0.03})
        page = self.client.get(reverse("ledger:learning"))
        self.assertNotContains(page, "learnt-drawn")  # nothing is known yet, and nothing is worked out in the request
        self.client.get(reverse("ledger:learning"))
        work = LongWork.objects.get(kind="refit")
        self.assertContains(page, reverse("workshop:work", args=[work.pk]))
        work_done(work)
        self.assertEqual((work.state, work.steps_done), ("done", work.steps))
        told = self.client.get(reverse("workshop:work", args=[work.pk]), headers={"HX-Request": "true"})
        self.assertEqual(told["HX-Refresh"], "true")
        page = self.client.get(reverse("ledger:learning"))
        self.assertContains(page, "learnt-drawn")
        self.assertNotContains(page, reverse("workshop:work", args=[work.pk]))
        for change in (
            lambda: self.closed(READ),
            lambda: CornerWorked.objects.update(stands=False),
            lambda: Lathe.objects.filter(pk=self.lathe.pk).update(retired=True),
        ):
            refit_anew(self.lead)
            self.assertTrue(last_refitted(self.lead).is_current)
            change()
            self.assertFalse(last_refitted(self.lead).is_current)
        self.client.get(reverse("ledger:learning"))
        self.assertEqual(LongWork.objects.filter(kind="refit").count(), 2)

    def test_the_lead_accepts_what_was_seen_and_takes_it_back(self) -> None:
        for _ in range(12):
            self.closed(
                READ | {"remedy": "on_vehicle_cut", "lathe": self.lathe, "runout_mm": 0.03, "minutes_taken": 80.0}
            )
        key = f"lathe_left_mm|{self.lathe.pk}"
        now = self.learnt("lathe_left_mm", str(self.lathe.pk)).refit.now
        self.assertAlmostEqual(now, 0.03, delta=0.003)
        with self.assertRaises(MovedError):
            accept(self.lead, key, seen=now * 1.1)
        with self.assertRaises(MovedError):
            accept(self.lead, "nonsense|", seen=float("nan"))
        row = accept(self.lead, key, seen=now)
        self.lathe.refresh_from_db()
        self.assertEqual((row.was, round(row.value, 4)), (0.015, self.lathe.runout_left_mm))
        self.assertAlmostEqual(self.learnt("lathe_left_mm", str(self.lathe.pk)).refit.prior, 0.015)  # still ours
        self.assertEqual(take_back(self.lead, row.pk), row)
        self.assertIsNone(take_back(self.lead, row.pk))
        self.lathe.refresh_from_db()
        self.assertEqual(self.lathe.runout_left_mm, 0.015)
        minutes = self.learnt("minutes", "on_vehicle_cut")
        accept(self.lead, minutes.key, seen=minutes.refit.now)
        self.assertEqual(ShopFigures.in_force(self.lead).minutes_on_vehicle_cut, round(minutes.refit.now))
        self.assertEqual(shop_of_workshop(self.lead).minutes["on_vehicle_cut"], round(minutes.refit.now))

    def test_the_minutes_of_a_part_are_learnt_and_plan_the_day(self) -> None:
        for _ in range(6):
            self.closed(READ, part_minutes={"opening": [19.0, 21.0], "lift": [6.0]})
        opening = self.learnt("part_minutes", "opening")
        self.assertEqual((opening.refit.prior, opening.refit.pairs), (8.0, 12))
        self.assertAlmostEqual(opening.refit.now, 20.0, delta=3)
        page = self.client.get(reverse("ledger:learning"))
        self.assertContains(page, "inutes a step of the work takes")
        row = accept(self.lead, opening.key, seen=opening.refit.now)
        self.assertEqual(part_minutes_here(self.user), {"opening": row.value})
        take_back(self.lead, row.pk)
        self.assertEqual(part_minutes_here(self.user), {})

    def test_only_the_newest_of_a_figure_is_taken_back_and_only_by_the_lead(self) -> None:
        told = {"prior": 0.04, "low": 0.03, "high": 0.08, "pairs": 9, "accepted_by": self.lead}
        first = Learned.objects.create(figure="growth_mm", value=0.05, was=0.04, **told)
        second = Learned.objects.create(figure="growth_mm", value=0.06, was=0.05, **told)
        self.assertEqual(learned_figures(self.user), {"growth_mm": 0.06})
        self.assertIsNone(take_back(self.lead, first.pk))
        for client in (client_of(self.user), client_of(self.trainee)):
            self.assertEqual(client.post(reverse("ledger:take-back", args=[second.pk])).status_code, 403)
            self.assertEqual(
                client.post(reverse("ledger:accept"), {"key": "growth_mm|", "seen": "0.05"}).status_code, 403
            )
        self.client.post(reverse("ledger:take-back", args=[second.pk]))
        self.assertEqual(learned_figures(self.user), {"growth_mm": 0.05})
        moved = self.client.post(reverse("ledger:accept"), {"key": "growth_mm|", "seen": "1e999"}, follow=True)
        self.assertContains(moved, "look again, then accept")

    def test_new_rotors_are_compared_by_supplier(self) -> None:
        for supplier, most in (("Skerry", 0.02), ("Norrvik", 0.08)):
            for k in range(12):
                rotor = {
                    "remedy": "new_rotors",
                    "supplier": supplier,
                    "new_rotor_mm": most * (k + 0.5) / 12,
                    "new_rotor_u_mm": 0.001,
                }
                self.closed(READ | rotor)
        good, bad = self.learnt("new_rotor_mm", "Skerry").refit, self.learnt("new_rotor_mm", "Norrvik").refit
        self.assertLess(good.high, bad.low)
        self.assertEqual(self.learnt("new_rotor_mm").refit.pairs, 24)

    def test_tips_are_turned_in_unison_and_once(self) -> None:
        self.closed(READ | {"remedy": "on_vehicle_cut", "lathe": self.lathe}, READ | {"lathe": self.lathe})
        self.assertEqual(discs_cut(self.lead), {self.lathe.pk: 2})
        url = reverse("ledger:turn-tips", args=[self.lathe.pk])
        self.assertEqual(client_of(self.trainee).post(url, {"now": "1"}).status_code, 403)
        for _press in range(2):
            self.client.post(url, {"now": "1"})
        self.lathe.refresh_from_db()
        turned = self.lathe.tips.get()
        self.assertEqual((self.lathe.tip_corner_now, turned.corner, turned.discs), (2, 2, 2))
        self.assertEqual(discs_cut(self.lead), {})
        self.client.post(url, {"now": "2", "new": "yes"})
        self.lathe.refresh_from_db()
        self.assertEqual((self.lathe.tip_corner_now, self.lathe.tips.last().new), (1, True))
