"""The weighed causes: tables that hold, a ledger that adds up, checks that pay, and vehicles with a known cause."""

import os
import subprocess
import sys
from collections import Counter
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import numpy as np

from compass.cause import likelihoods
from compass.cause.causes import BASE_RATES, OF_THE_VEHICLE, Cause, adjusted_rates
from compass.cause.differential import corner_odds, weigh
from compass.cause.likelihoods import Sign
from compass.cause.signs import expected_hz, stated_order
from compass.diagnose import diagnose
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Case
from compass.ground.positions import positions_of
from compass.simulate.vehicle import SPEC, random_vehicle
from compass.tests.test_separation import EVEN, FIRST, TURNED, corner_of
from compass.words.codes import CAUSES, OUTCOMES, SIGNS
from compass.words.figures import odds_text

FOUR = ("FL", "FR", "RL", "RR")
ALL_SIGNS = [v for v in vars(likelihoods).values() if isinstance(v, Sign)]
ALL_SIGNS += [*likelihoods.SEEN_SIGNS.values(), *likelihoods.HISTORY.values()]


def case_of(*corners, **complaint) -> Case:
    told = Complaint(**{name: tuple(words) for name, words in complaint.items()})
    return Case(corners=corners, complaint=told, vehicle=VehicleFacts(kind="car", rolling_circumference_mm=2000))


class Tables(TestCase):
    """Readable data with a reason for every entry."""

    def test_every_column_is_a_distribution_with_its_reason_and_words(self) -> None:
        for sign in ALL_SIGNS:
            with self.subTest(sign=sign.name):
                for cause in (None, *Cause):
                    column = sign.column(cause)
                    self.assertAlmostEqual(sum(column), 1.0)
                    self.assertGreater(min(column), 0)
                    self.assertEqual(len(column), len(sign.outcomes))
                self.assertTrue(sign.why.endswith("."))
                self.assertIn(sign.name, SIGNS)
                self.assertLessEqual(set(sign.outcomes), set(OUTCOMES))
        self.assertEqual({*CAUSES}, {c.value for c in Cause})
        self.assertEqual({*BASE_RATES}, {*Cause} - {Cause.NOT_SEPARABLE})

    def test_the_printed_page_is_the_table(self) -> None:
        root = Path(__file__).parents[2]
        printed = subprocess.run(
            [sys.executable, "docs/tools/write_likelihoods.py"],
            cwd=root, env=os.environ | {"PYTHONPATH": str(root)}, capture_output=True, check=True, text=True,
        )  # fmt: skip
        self.assertEqual(printed.stdout, (root / "docs" / "likelihoods.md").read_text(encoding="utf-8"))

    def test_closed_jobs_move_the_base_rates(self) -> None:
        before, after = adjusted_rates({}), adjusted_rates({"lug_torque": 30, "unknown": 9})
        share = {name: rates[Cause.NUTS] / sum(rates.values()) for name, rates in (("b", before), ("a", after))}
        self.assertLess(share["b"], 0.1)
        self.assertGreater(share["a"], 0.4)

    def test_base_rates_that_name_few_causes_or_none_are_read(self) -> None:
        for rates in ({"tyre_or_wheel": 0.0}, dict.fromkeys(BASE_RATES, 0.0), {"lug_torque": 5.0}):
            odds = dict(weigh(FOUR, [], base_rates=rates).causes)
            self.assertTrue(all(0 <= p <= 1 for p in odds.values()), rates)
        self.assertGreater(odds[Cause.HUB], 0.05)  # older rates know nothing of it: as usual as in ours
        self.assertGreater(odds[Cause.STACK], 0.02)

    def test_odds_are_said_as_odds(self) -> None:
        said = {0.5: "10 in 20", 0.97: "97 in 100", 0.999: "99 in 100", 0.001: "1 in 100", 0.05: "1 in 20"}
        self.assertEqual({p: odds_text(p) for p in said}, said)


class Weighing(TestCase):
    """Signs for and against."""

    def test_a_second_fault_is_seldom_and_feel_excludes_no_corner(self) -> None:
        for felt in ([], ["seat"], ["steering_wheel", "pedal"]):
            found = weigh(FOUR, [], complaint=Complaint(felt_in=tuple(felt)))
            self.assertGreater(sum(p for _, p in found.causes), 1.0)  # two may stand together
            self.assertLess(sum(p for _, p in found.causes), 1.15)
            odds = corner_odds(FOUR, Complaint(felt_in=tuple(felt)))
            self.assertAlmostEqual(sum(odds.values()), 1.0)
            self.assertGreater(min(odds.values()), 0.05)
        self.assertGreater(corner_odds(FOUR, Complaint(felt_in=("seat",)))["RL"], 0.3)
        self.assertEqual(len(found.holes), 8)

    def test_what_was_measured_outweighs_the_story(self) -> None:
        told = diagnose(case_of(corner_of(FIRST, TURNED, thickness=EVEN), felt_in=["seat"], history=["wheels_off"]))
        cause, probability = told.judged.weighed.causes[0]
        self.assertIs(cause, Cause.HUB)
        self.assertGreater(probability, 0.5)
        self.assertGreater(told.judged.weighed.corners["FL"], 0.65)
        ledger = told.judged.weighed.ledger[Cause.HUB]
        self.assertEqual({e.seen.sign.name for e in ledger[:2]}, {"whose", "runout_over"})
        self.assertGreater(ledger[0].decibans, 5)
        self.assertIn(("RR", "thickness"), told.judged.weighed.holes)

    def test_the_ledger_is_the_weight_of_evidence(self) -> None:
        hot = Complaint(heat="worse_hot")
        with_it, without = (weigh(FOUR, [], complaint=c) for c in (hot, Complaint()))
        for cause, entries in with_it.ledger.items():
            before, after = (dict(d.causes)[cause] for d in (without, with_it))
            moved = 10 * np.log10(after / (1 - after) / (before / (1 - before)))
            self.assertAlmostEqual(sum(e.decibans for e in entries), moved, delta=0.3)

    def test_the_next_check_is_the_one_that_saves_most_for_its_time(self) -> None:
        found = weigh(FOUR, [], complaint=Complaint(felt_in=("steering_wheel",)))
        best = found.checks[0]
        self.assertIn(best.position, ("FL", "FR"))
        self.assertEqual(best, max(found.checks, key=lambda c: c.saves / c.minutes))
        self.assertAlmostEqual(best.worth, best.saves - best.minutes)  # an hour costs 60
        self.assertAlmostEqual(sum(o.probability for o in best.outcomes), 1.0)
        over = diagnose(case_of(corner_of(FIRST, thickness=EVEN, spec=replace(SPEC, max_bearing_play_mm=None))))
        self.assertEqual((over.judged.next.check, over.judged.next.position), ("turn_rotor_and_sweep", "FL"))

    def test_what_a_check_may_find_is_told_by_a_cause_that_it_moves(self) -> None:
        over = diagnose(case_of(corner_of(FIRST, thickness=EVEN)))
        told = [check for check in over.judged.weighed.checks if check.outcomes]
        self.assertIn("FR", {check.position for check in told})
        for check in told:
            first, second = check.outcomes[:2]
            self.assertEqual(first.probability, max(outcome.probability for outcome in check.outcomes))
            if first.cause is second.cause:
                self.assertGreater(abs(first.cause_probability - second.cause_probability), 0.03, check)

    def test_frequency_is_held_against_the_wheel(self) -> None:
        self.assertAlmostEqual(expected_hz(90, 2000), 12.5)
        vehicle = VehicleFacts(rolling_circumference_mm=2000)
        for hertz, order in ((12.0, 1.0), (25.0, 2.0), (18.5, 18.5 / 12.5)):
            told = Complaint(speed_kmh=(85, 95), frequency_hz=hertz)
            self.assertAlmostEqual(stated_order(told, vehicle), order, places=2)
        self.assertIsNone(stated_order(Complaint(frequency_hz=12.0), vehicle))

    def test_motorcycles_and_trailers_have_their_own_corners(self) -> None:
        self.assertEqual(positions_of(["R"], None), ("F", "R"))
        self.assertEqual(positions_of([], "trailer"), ("A1L", "A1R", "A2L", "A2R"))
        found = weigh(("F", "R"), [], complaint=Complaint(felt_in=("pedal",)))
        self.assertEqual(set(found.corners), {"F", "R"})


class Vehicles(TestCase):
    """Simulated vehicles with a known cause."""

    def test_the_right_cause_comes_out_on_top(self) -> None:
        generator = np.random.default_rng(77)
        right: Counter[bool] = Counter()
        top_two = 0
        for k in range(102):
            vehicle = random_vehicle(generator, cause=list(BASE_RATES)[k % len(BASE_RATES)])
            if not vehicle.decidable or vehicle.cause is Cause.NONE:
                continue
            causes = [cause for cause, _ in diagnose(vehicle.case).judged.weighed.causes]
            right[causes[0] is vehicle.cause] += 1
            top_two += vehicle.cause in causes[:2]
        total = right.total()
        self.assertGreater(total, 60)
        self.assertGreater(right[True] / total, 0.93)
        self.assertGreater(top_two / total, 0.97)

    def test_a_stop_is_the_cause_whatever_the_story(self) -> None:
        generator = np.random.default_rng(5)
        for cause in (Cause.WORN, Cause.BROKEN, Cause.BEARING):
            vehicle = random_vehicle(generator, cause=cause, missing=0.0)
            self.assertIs(diagnose(vehicle.case).judged.weighed.causes[0][0], cause)
        self.assertNotIn(Cause.NONE, {c for c in BASE_RATES if c not in OF_THE_VEHICLE})
