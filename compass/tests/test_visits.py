"""What a check is worth, two faults at once, and whole visits of vehicles made by geometry and not by the tables."""

from dataclasses import replace
from itertools import chain, combinations
from unittest import TestCase

import numpy as np

from compass.cause.causes import Cause
from compass.cause.corner import diagnose_corner, measure_corner
from compass.cause.differential import _chances, _grid, _there
from compass.cause.signs import corner_signs
from compass.choose.remedies.corner_draws import draw_corner
from compass.choose.remedies.cutting import on_vehicle
from compass.choose.remedies.outcome import points
from compass.diagnose import diagnose
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import AfterWork, Case, Corner, OverLips, Pads, ThicknessRound
from compass.evidence.shop import Shop
from compass.ground.angles import equal_stations_deg, vector
from compass.simulate.corner import SimulatedCorner
from compass.simulate.happenings import random_happening
from compass.simulate.repair import metal_after_cut_mm, repaired
from compass.simulate.visit import WORKSHOP, Habits, Visit
from compass.tests.corners import SHOP
from compass.tests.test_separation import EVEN
from compass.tests.test_sweep import SPEC, sweep_of, wave

FULL = replace(
    SPEC,
    nominal_thickness_mm=26.5,
    discard_thickness_mm=24.0,
    max_bearing_play_mm=0.05,
    max_thickness_variation_mm=0.02,
)
LIPS = OverLips(0.6, 0.7, 0.05)
COARSE = ThicknessRound(
    equal_stations_deg(8), np.array([140.0]), 27.3 + np.round(wave(8, (0.022, 80.0)) / 0.02)[None, :] * 0.02, 0.02,
    over_lips=LIPS,
)  # fmt: skip


def verdict_on(*sweeps, shop: Shop = SHOP, **evidence):
    corner = Corner("F", evidence.pop("spec", FULL), sweeps, **evidence)
    return diagnose(Case(corners=(corner,), shop=shop))


class TwoAtOnce(TestCase):
    """Faults at several corners, each alone or with another, by their odds."""

    def test_the_weighing_is_that_of_all_sets_of_faults(self) -> None:
        grid = _grid(("F", "R"), frozenset({"F", "R"}))
        odds = np.random.default_rng(3).uniform(0.0, 0.4, len(grid.hypotheses))
        keep = np.random.default_rng(4).permutation(len(odds))[:9]
        odds[[k for k in range(len(odds)) if k not in keep and k != grid.nothing]] = 0.0
        sets = chain.from_iterable(combinations([k for k in keep if k != grid.nothing], n) for n in range(1, 4))
        where = [grid.hypotheses[k].position for k in range(len(odds))]
        weight = {held: np.prod(odds[list(held)]) for held in sets if len({where[k] for k in held}) == len(held)}
        weight[()] = odds[grid.nothing]
        total, chances, there = sum(weight.values()), _chances(odds[:, None], grid), _there(odds[:, None], grid)
        for k in keep:
            told = weight[()] if k == grid.nothing else sum(w for held, w in weight.items() if k in held)
            self.assertAlmostEqual(chances[k, 0], told / total)
        for place, cause in enumerate(Cause):
            if cause is not Cause.NONE:
                holds = (w for held, w in weight.items() if any(cause in grid.hypotheses[k].causes for k in held))
                self.assertAlmostEqual(there[place, 0], sum(holds) / total)

    def test_hub_and_rotor_each_about_half_are_named_together(self) -> None:
        verdict = verdict_on(
            sweep_of(wave(10, (0.15, 60.0))),
            sweep_of(wave(10, (0.012, 80.0)), index_deg=180.0),
            thickness=EVEN,
            bearing_play_mm=0.01,
        )
        self.assertEqual(verdict.judged.root_causes["F"], "hub_and_rotor_together")
        whose = verdict.corners[0].measured.whose
        self.assertAlmostEqual(whose.hub.share + whose.rotor.share, 1.0)
        self.assertEqual(verdict.corners[0].recommended, "index")
        self.assertEqual(self.whose_says(0.01), "both for sure")
        self.assertEqual(self.whose_says(0.05), "hub or both")  # as read with a dial that could be off by as much
        self.assertEqual(self.whose_says(0.02, turned_mm=0.09), "hub")

    def test_a_hub_that_only_just_carries_most_is_not_named_as_if_it_were_sure(self) -> None:
        """Six tenths of it, give or take one: it may be the two together, more often so, and the odds say it."""
        self.assertEqual(self.whose_says(0.02, turned_mm=0.039), "hub or both")
        came_in = sweep_of(wave(10, (0.15, 60.0)), graduation=0.02)
        turned = sweep_of(wave(10, (0.039, 60.0)), graduation=0.02, index_deg=180.0)
        weighed = verdict_on(came_in, turned, thickness=EVEN, bearing_play_mm=0.01).judged.weighed
        hub, both = (dict(weighed.at_corner("F"))[cause] for cause in (Cause.HUB, Cause.STACK))
        self.assertTrue(hub < both < 4 * hub, (hub, both))

    def whose_says(self, graduation_mm: float, turned_mm: float = 0.012) -> str:
        dial = {"graduation": graduation_mm}
        came_in, turned = wave(10, (0.15, 60.0)), wave(10, (turned_mm, 60.0 if turned_mm > 0.03 else 80.0))
        verdict = verdict_on(sweep_of(came_in, **dial), sweep_of(turned, index_deg=180.0, **dial), thickness=EVEN)
        return next(s.outcome for s in corner_signs(verdict.corners[0].corner) if s.sign.name == "whose")

    def test_dirt_that_was_cleaned_out_is_named_though_the_micrometer_was_coarse(self) -> None:
        came_in, clean = sweep_of(wave(10, (0.106, 60.0)), cleaned=False), sweep_of(wave(10, (0.009, 60.0)))
        verdict = verdict_on(came_in, clean, thickness=COARSE)
        self.assertEqual(verdict.corners[0].measured.thickness.state_variation.value, "too_close")
        self.assertEqual(verdict.judged.root_causes["F"], "joint_contamination")
        self.assertGreater(dict(verdict.judged.weighed.at_corner("F"))[Cause.JOINT], 0.75)

    def test_rust_noted_or_not_speaks_where_the_joint_was_cleaned(self) -> None:
        came_in = sweep_of(wave(10, (0.106, 60.0)), cleaned=False, nuts_torqued=False)
        bare, rusty = (
            dict(
                verdict_on(
                    came_in, sweep_of(wave(10, (0.009, 60.0))), thickness=EVEN, seen=seen
                ).judged.weighed.at_corner("F")
            )
            for seen in (frozenset(), frozenset({"rust_at_joint"}))
        )
        self.assertGreater(bare[Cause.NUTS], 0.6 * bare[Cause.JOINT])  # both were put right in one go
        self.assertGreater(rusty[Cause.JOINT], 3 * rusty[Cause.NUTS])

    def test_a_wide_lobe_blames_no_runout_more_than_another_until_somebody_sweeps(self) -> None:
        lobe = 26.4 - 0.03 * np.maximum(0, np.cos(np.radians(equal_stations_deg(12) - 60)))
        miked = ThicknessRound(equal_stations_deg(12), np.array([140.0]), lobe[None, :], 0.001)
        none, gone, stands = (
            dict(verdict_on(*sweeps, thickness=miked).judged.weighed.at_corner("F"))
            for sweeps in ((), (sweep_of(wave(10, (0.008, 60.0))),), (sweep_of(wave(10, (0.1, 60.0))),))
        )
        ran_once, runs = Cause.RUNOUT_MADE_VARIATION, (Cause.ROTOR, Cause.HUB, Cause.STACK, Cause.JOINT, Cause.NUTS)
        self.assertLess(none[ran_once], sum(none[cause] for cause in runs))
        self.assertGreater(gone[ran_once], 2 * sum(gone[cause] for cause in runs))
        self.assertGreater(sum(stands[cause] for cause in runs), 5 * stands[ran_once])

    def test_a_sweep_says_nothing_of_what_was_put_right_before_it(self) -> None:
        def odds(**as_found: bool) -> dict[Cause, float]:
            verdict = verdict_on(sweep_of(wave(10, (0.012, 60.0)), **as_found), thickness=EVEN)
            return dict(verdict.judged.weighed.at_corner("F"))

        came_in = odds(cleaned=False, nuts_torqued=False)
        torqued, cleaned = odds(cleaned=False), odds(nuts_torqued=False)
        # It runs true: what was still in it is innocent, what was put right before may have been to blame.
        self.assertGreater(torqued[Cause.NUTS], 1.5 * came_in[Cause.NUTS])
        self.assertGreater(cleaned[Cause.JOINT], 1.5 * came_in[Cause.JOINT])
        self.assertGreater(torqued[Cause.NUTS], torqued[Cause.JOINT])
        self.assertGreater(cleaned[Cause.JOINT], cleaned[Cause.NUTS])

    def test_the_sweep_with_most_still_in_it_tells_how_it_was_swept(self) -> None:
        first = sweep_of(wave(10, (0.012, 60.0)), cleaned=False, nuts_torqued=False)
        second = sweep_of(wave(10, (0.012, 60.0)), nuts_torqued=False)
        for sweeps, told in (((second,), ["swept cleaned, not torqued"]), ((first, second), [])):  # [] as it came in
            signs = corner_signs(verdict_on(*sweeps).corners[0])
            self.assertEqual([s.outcome for s in signs if s.sign.name == "came_in"], told)


class Worth(TestCase):
    """Measure first where that is worth more than acting now."""

    def test_no_metal_is_cut_for_want_of_a_micrometer(self) -> None:
        verdict = verdict_on(sweep_of(wave(10, (0.02, 60.0))), thickness=COARSE, pads=None, bearing_play_mm=0.01)
        (corner,) = verdict.corners
        self.assertEqual(corner.measured.thickness.state_variation.value, "too_close")
        self.assertIsNone(corner.recommended)
        check = verdict.judged.check_at("F")
        self.assertEqual(check.check, "finer_micrometer")
        self.assertAlmostEqual(check.worth, check.saves - check.minutes * 1.0)
        self.assertIn("measure_first", [reason.code for reason in corner.because])
        free = replace(SHOP, prices={"labour_per_hour": 0.0, "comeback": 0.0})  # time and trouble are never free
        same = verdict_on(sweep_of(wave(10, (0.02, 60.0))), thickness=COARSE, bearing_play_mm=0.01, shop=free)
        self.assertEqual(same.judged.check_at("F").check, "finer_micrometer")
        dear = replace(SHOP, prices={"labour_per_hour": 60_000.0})
        self.assertIsNone(verdict_on(sweep_of(wave(10, (0.02, 60.0))), thickness=COARSE, shop=dear).judged.next.check)

    def test_a_check_that_saves_for_another_reason_says_it_instead_of_causes(self) -> None:
        miked = replace(EVEN, readings_mm=26.4 + wave(8, (0.05, 60.0))[None, :])
        sweeps = (sweep_of(wave(10, (0.1, 60.0))), sweep_of(wave(10, (0.1, 60.0)), index_deg=180.0))
        corner = Corner("FL", FULL, sweeps, thickness=miked, bearing_play_mm=0.01)
        weighed = diagnose(Case(corners=(corner,), shop=SHOP)).judged.weighed
        (mate,) = (c for c in weighed.checks if (c.check, c.position) == ("sweep_rotor", "FR"))
        self.assertEqual((mate.why, mate.outcomes), ("both_sides", ()))
        (rear,) = (c for c in weighed.checks if (c.check, c.position) == ("sweep_rotor", "RL"))
        self.assertIsNone(rear.why)
        self.assertTrue(rear.outcomes)

    def test_what_is_felt_is_not_left_for_want_of_a_closer_figure(self) -> None:
        patch = 26.4 + np.array([0.01, 0.004, 0, 0, 0, 0, 0, 0, 0.001, 0.015])
        miked = ThicknessRound(equal_stations_deg(10), np.array([140.0]), patch[None, :], 0.001, rounds=3)
        close = replace(FULL, max_thickness_variation_mm=0.012)
        story = Complaint(felt_in=("steering_wheel", "pedal"), history=("towing", "pads_renewed"))
        corners = [
            Corner(p, close, (sweep_of(wave(10, (0.01, 60.0))),), thickness=t, bearing_play_mm=0.01, seen=seen)
            for p, t, seen in (("FL", EVEN, frozenset()), ("FR", miked, frozenset({"blue_spots"})))
        ]
        verdict = diagnose(Case(tuple(corners), vehicle=VehicleFacts(kind="car"), complaint=story, shop=WORKSHOP))
        right = verdict.corners[1]
        self.assertEqual(right.measured.thickness.state_variation.value, "too_close")
        self.assertEqual(verdict.judged.root_causes["FR"], "pad_deposit_or_hot_spots")
        self.assertIsNone(verdict.judged.check_at("FR"))  # nothing would tell it closer
        self.assertEqual({c.recommended for c in verdict.corners}, {"on_vehicle_cut"})
        why = {"felt_here", "both_sides_alike"}
        self.assertEqual(why & {reason.code for reason in right.because}, {"felt_here"})
        cheaper = next(r for r in right.remedies if r.code == "none")
        self.assertLess(cheaper.cost, right.remedies[0].cost)

    def test_a_corner_that_nothing_suspects_is_no_trouble_though_it_was_only_swept(self) -> None:
        over = (sweep_of(wave(10, (0.1, 60.0))), sweep_of(wave(10, (0.1, 240.0)), index_deg=180.0))
        corners = (
            Corner("FL", FULL, over, thickness=EVEN, bearing_play_mm=0.01),
            Corner("FR", FULL, (sweep_of(wave(10, (0.01, 60.0))),), bearing_play_mm=0.01),
        )
        judged = diagnose(Case(corners, vehicle=VehicleFacts(kind="car"), shop=SHOP)).judged
        self.assertEqual((judged.root_causes["FR"], judged.troubled), ("not_separable", ("FL",)))

    def test_turns_that_do_not_repeat_ask_for_the_bearing_first(self) -> None:
        turns = [sweep_of(wave(10, (0.09, angle))) for angle in (30.0, 150.0, 260.0)]
        verdict = verdict_on(*turns, thickness=EVEN)
        self.assertIn("turns_disagree", verdict.corners[0].measured.runout.flags)
        self.assertEqual((verdict.judged.next.check, verdict.judged.next.position), ("bearing_play", "F"))

    def test_a_disc_that_runs_true_as_it_came_in_is_not_cleaned(self) -> None:
        true = sweep_of(wave(10, (0.015, 60.0)), cleaned=False, nuts_torqued=False)
        verdict = verdict_on(true, thickness=EVEN, spec=replace(FULL, max_thickness_variation_mm=0.05))
        self.assertEqual((verdict.judged.root_causes["F"], verdict.corners[0].recommended), ("none_found", "none"))
        self.assertNotIn(verdict.judged.next.check, ("clean_and_sweep", "torque_and_sweep"))


class StillFelt(TestCase):
    """Driven after the work: what is left is looked for where nothing was mended yet."""

    def test_what_was_mended_keeps_its_cause_and_the_rest_is_opened(self) -> None:
        after = AfterWork((sweep_of(wave(10, (0.012, 60.0))),))
        bad = sweep_of(wave(10, (0.15, 60.0))), sweep_of(wave(10, (0.15, 240.0)), index_deg=180.0)
        corners = (
            Corner("FL", FULL, bad, thickness=EVEN, bearing_play_mm=0.01, after=(after,)),
            Corner("FR", FULL, (sweep_of(wave(10, (0.01, 60.0))),), thickness=EVEN, bearing_play_mm=0.01),
        )
        told = {word: self.judged(corners, word) for word in (None, "gone", "less", "same")}
        self.assertEqual((told["gone"].next, told["gone"].weighed.causes), (told[None].next, told[None].weighed.causes))
        self.assertEqual({judged.root_causes["FL"] for judged in told.values()}, {"rotor_runout"})
        for word in ("less", "same"):
            # What no work on a disc mends may be left there: hardly the bearing, since that was rocked.
            left = {cause for cause, odds in told[word].weighed.at_corner("FL") if odds > 0}
            self.assertEqual(left, {Cause.CALIPER, Cause.BEARING})
            self.assertLess(told[word].weighed.corners["FL"], 0.06)
            self.assertIn(told[word].next.position, ("RL", "RR"))
            self.assertGreater(told[word].weighed.corners["RL"], 2 * told[None].weighed.corners["RL"])
            self.assertNotIn(("FL", "runout"), told[word].weighed.holes)
        loose = tuple(replace(c, bearing_play_mm=None) for c in corners)
        asked = {c.check for c in self.judged(loose, "same").weighed.checks if c.position == "FL" and c.worth > 0}
        self.assertEqual(asked, {"bearing_play"})  # a work on the disc said nothing of it
        found = self.judged((replace(corners[0], bearing_play_mm=0.2), corners[1]), "same")
        self.assertEqual((found.root_causes["FL"], found.stopped), ("wheel_bearing", ("FL",)))
        unproven = replace(corners[0], after=(AfterWork(bad[:1]),))  # its own fault is still there
        self.assertGreater(self.judged((unproven, corners[1]), "same").weighed.corners["FL"], 0.5)

    def test_dirt_that_was_cleaned_away_to_be_swept_is_driven_before_the_job_is_closed(self) -> None:
        story = Complaint(felt_in=("steering_wheel",), history=("wheels_off", "rotors_renewed"))
        quiet = (sweep_of(wave(10, (0.01, 60.0))),)
        corners = [Corner(p, FULL, quiet, thickness=EVEN, bearing_play_mm=0.01) for p in ("FL", "FR", "RL", "RR")]
        corners = [replace(c, pads=Pads((7.0, 7.0), (7.0,))) for c in corners]

        def judged(told=story, swept=corners):
            return diagnose(Case(tuple(swept), vehicle=VehicleFacts(kind="car"), complaint=told))

        first = judged()
        self.assertEqual((first.judged.next.check, first.judged.next.why), (None, "put_right"))
        self.assertEqual(first.advice.code, "drive_it")
        felt = judged(replace(story, after_work="same"))
        self.assertNotEqual(felt.judged.next.why, "put_right")
        before, now = dict(first.judged.weighed.causes), dict(felt.judged.weighed.causes)
        for cause in (Cause.JOINT, Cause.NUTS):  # what was put right is no longer felt
            self.assertLess(now[cause], 0.5 * before[cause])
        self.assertEqual(judged(replace(story, after_work="gone")).judged.next.check, None)
        as_found = [replace(c, sweeps=(replace(quiet[0], cleaned=False, nuts_torqued=False),)) for c in corners]
        self.assertNotEqual(judged(swept=as_found).judged.next.why, "put_right")

    def test_a_wheel_that_was_rocked_and_shows_no_joint_speaks_against_one(self) -> None:
        quiet = [Corner(p, FULL, (sweep_of(wave(10, (0.01, 60.0))),), thickness=EVEN) for p in ("FL", "FR", "RL", "RR")]
        told = Complaint(felt_in=("steering_wheel",), when=("braking", "always"))
        odds = []
        for rocked in range(5):
            corners = [replace(c, bearing_play_mm=0.01) if k < rocked else c for k, c in enumerate(quiet)]
            weighed = diagnose(Case(tuple(corners), vehicle=VehicleFacts(kind="car"), complaint=told)).judged.weighed
            odds.append(dict(weighed.causes)[Cause.SUSPENSION])
        self.assertEqual(odds, sorted(odds, reverse=True))
        self.assertLess(odds[4], 0.6 * odds[0])
        seen = replace(quiet[0], bearing_play_mm=0.01, seen=frozenset({"joint_play"}))
        weighed = diagnose(Case((seen, *quiet[1:]), vehicle=VehicleFacts(kind="car"), complaint=told)).judged.weighed
        self.assertEqual(weighed.causes[0][0], Cause.SUSPENSION)

    def test_nothing_leaves_unexplained_with_a_bearing_that_nobody_rocked(self) -> None:
        quiet = [Corner(p, FULL, (sweep_of(wave(10, (0.01, 60.0))),), thickness=EVEN) for p in ("FL", "FR", "RL", "RR")]
        quiet = [replace(c, pads=Pads((7.0, 7.0), (7.0,))) for c in quiet]
        story = Complaint(felt_in=("steering_wheel",), when=("braking",), braking=("light",))
        asked = []
        for _ in range(6):
            step = diagnose(Case(tuple(quiet), vehicle=VehicleFacts(kind="car"), complaint=story)).judged.next
            if step.check != "bearing_play":
                break
            asked.append(step)
            quiet = [replace(c, bearing_play_mm=0.01) if c.position == step.position else c for c in quiet]
        self.assertEqual({step.position for step in asked}, {"FL", "FR", "RL", "RR"})
        self.assertIn("before_it_leaves", {step.why for step in asked})
        after = AfterWork((sweep_of(wave(10, (0.012, 60.0))),))
        came_in = sweep_of(wave(10, (0.15, 60.0))), sweep_of(wave(10, (0.15, 240.0)), index_deg=180.0)
        worked = replace(quiet[0], sweeps=came_in, after=(after,), bearing_play_mm=None)
        still = self.judged((worked, *quiet[1:]), "same")
        self.assertEqual((still.next.check, still.next.position), ("bearing_play", "FL"))
        self.assertNotEqual(self.judged((worked, *quiet[1:]), "gone").next.why, "before_it_leaves")

    def test_dirt_or_nuts_is_put_right_in_one_go_and_named_as_the_likelier(self) -> None:
        came_in = sweep_of(wave(10, (0.1, 60.0)), cleaned=False, nuts_torqued=False)
        cured = Corner("FL", FULL, (came_in, sweep_of(wave(10, (0.01, 60.0)))), thickness=EVEN, bearing_play_mm=0.01)
        judged = self.judged((cured,), None)
        odds = dict(judged.weighed.at_corner("FL"))
        self.assertLess(max(odds.values()), 0.8)
        self.assertIn(judged.root_causes["FL"], ("joint_contamination", "lug_torque"))

    def judged(self, corners, word):
        case = Case(corners, vehicle=VehicleFacts(kind="car"), complaint=Complaint(after_work=word))
        return diagnose(case).judged

    def test_the_driver_is_asked_for_what_would_say_most(self) -> None:
        quiet = tuple(
            Corner(p, FULL, (sweep_of(wave(10, (0.01, 60.0))),), thickness=EVEN, bearing_play_mm=0.01)
            for p in ("FL", "FR", "RL", "RR")
        )
        case = Case(quiet, vehicle=VehicleFacts(kind="car"), complaint=Complaint(felt_in=("pedal",)))
        asks = next(c for c in diagnose(case).judged.weighed.checks if c.check == "ask_driver")
        self.assertEqual({outcome.name for outcome in asks.outcomes}, {"hard only", "lightly too"})
        told = diagnose(replace(case, complaint=replace(case.complaint, braking=("hard",)))).judged.weighed
        self.assertNotIn("ask_driver", {check.check for check in told.checks})
        self.assertGreater(dict(told.causes)[Cause.ABS], 3 * dict(diagnose(case).judged.weighed.causes)[Cause.ABS])


class Repairs(TestCase):
    """What a remedy truly leaves of a simulated corner."""

    def test_turned_cut_and_renewed_by_hand_arithmetic(self) -> None:
        corner = SimulatedCorner(140.0, 26.0, hub=vector(0.06, 40.0), rotor=vector(0.05, 100.0), joint=0.02 + 0j)
        spec = replace(FULL, swept_inner_radius_mm=95.0, swept_outer_radius_mm=140.0)
        g = np.random.default_rng(2)
        turned = repaired(corner, spec, "index", {"index_deg": 144.0}, shop=WORKSHOP, g=g)
        self.assertAlmostEqual(turned.true_tir_mm(), corner.true_tir_mm(index_deg=144.0), places=6)
        self.assertEqual((turned.joint, turned.nuts), (0j, 0j))
        installed = corner.hub + corner.rotor  # an even disc loses its wobble at the outer edge and two clean-up cuts
        metal = metal_after_cut_mm(corner, spec, installed, depth_mm=0.05)
        self.assertAlmostEqual(metal, 26.0 - 2 * abs(installed) - 0.1, places=3)
        matched = repaired(corner, spec, "on_vehicle_cut", {}, shop=WORKSHOP, g=g)
        self.assertLess(matched.true_tir_mm(), 0.016)
        self.assertLess(matched.true_minimum_mm(), metal + 0.01)
        renewed = repaired(corner, spec, "new_rotors+index", {}, shop=WORKSHOP, g=g)
        self.assertLess(renewed.true_tir_mm(), 2 * abs(corner.hub) + 0.03)
        self.assertAlmostEqual(renewed.true_minimum_mm(), 26.5, delta=0.04)


class WholeVisits(TestCase):
    """Checks until none is worth its minutes, then the work, on vehicles whose faults follow from what happened."""

    def test_never_stuck_never_unsafe_and_mostly_cured(self) -> None:
        cured, minutes, count = 0, 0.0, 16
        for seed in range(count):
            hidden = random_happening(np.random.default_rng(1000 + seed))
            g = np.random.default_rng(seed)
            visit = Visit(hidden, Habits.of(g), g)
            verdict = diagnose(visit.case)
            while verdict.judged.next.check is not None:
                self.assertLess(len(visit.checks), 40, (seed, visit.checks))
                step = verdict.judged.next
                visit.make(step.check, step.position, step.index_deg)
                verdict = diagnose(visit.case)
            minutes += visit.minutes
            for corner in verdict.corners:
                if corner.recommended not in (None, "none"):
                    chosen = next((r.settings for r in corner.remedies if r.code == corner.recommended), {})
                    visit.carry_out(corner.position, corner.recommended, chosen)
            for position, disc in visit.discs.items():  # nothing that was looked at is left under its limit
                spec, opened = hidden.corners[position].spec, visit.benches[position].opened
                self.assertFalse(
                    opened and disc.true_minimum_mm() < spec.discard_thickness_mm - 0.005, (seed, position)
                )
            at = {fault.position for fault in hidden.faults if fault.position is not None}
            cured += all(visit.comes_back_km(p) >= WORKSHOP.warranty_km for p in at)
        self.assertGreaterEqual(cured, 0.8 * count)
        self.assertLess(minutes / count, 80)

    def test_in_no_workshop_and_at_no_disc_the_checks_end_where_nothing_can_be_done(self) -> None:
        lathes = {"none": (), "bench": WORKSHOP.lathes[1:], "on_vehicle": WORKSHOP.lathes[:1], "both": WORKSHOP.lathes}
        for seed in range(40):
            g = np.random.default_rng(seed)
            visit = Visit(random_happening(np.random.default_rng(7000 + seed)), Habits.of(g), g)
            owned = str(g.choice(list(lathes)))
            shop = replace(WORKSHOP, lathes=lathes[owned], plates=WORKSHOP.plates if g.random() < 0.5 else ())
            changes = {"features": frozenset({str(g.choice(["slotted", "captive", "floating", "carbon"]))})}
            changes |= {"machine_to_thickness_mm": 500.0} if g.random() < 0.4 else {}  # no metal to cut
            changes |= {"index_positions": (0.0,)} if g.random() < 0.3 else {}

            def odd(case: Case, shop: Shop = shop, changes: dict = changes) -> Case:
                corners = [replace(c, spec=replace(c.spec, **changes)) for c in case.corners]
                return replace(case, shop=shop, corners=tuple(corners))

            verdict = diagnose(odd(visit.case))
            while verdict.judged.next.check is not None:
                self.assertLess(len(visit.checks), 40, (seed, visit.checks))
                step = verdict.judged.next
                visit.make(step.check, step.position, step.index_deg)
                verdict = diagnose(odd(visit.case))
            done = {p: code for plan in verdict.plans for p, code in plan.remedies.items()}
            waiting = {p for plan in verdict.plans if plan.waits_for for p in plan.positions}
            over = {c.position for c in verdict.corners if c.measured.anything_over}
            for position in over & set(verdict.judged.troubled) - waiting:
                self.assertIsNotNone(done[position], (seed, position, owned, changes))

    def test_what_happened_is_made_by_geometry(self) -> None:
        for seed in range(60):
            hidden = random_happening(np.random.default_rng(seed))
            for fault in hidden.faults:
                if fault.cause in (Cause.HUB, Cause.ROTOR, Cause.STACK, Cause.BENT):
                    corner = hidden.corners[fault.position]
                    verdict = diagnose_corner(Corner(fault.position, corner.spec))
                    self.assertEqual(verdict.root_cause, "not_separable")  # nothing measured, nothing given away
                    self.assertGreater(2 * abs(corner.disc.hub) + 2 * abs(corner.disc.rotor), 0.05)


class MetalLeft(TestCase):
    """What is foretold of the metal after a cut, where the taper is known and where it is not."""

    def test_the_middle_is_near_the_truth_with_taper_and_without(self) -> None:
        lathe, off, held = WORKSHOP.lathe("on_vehicle"), [], []
        for seed in range(24):
            g = np.random.default_rng(seed)
            hidden = random_happening(g).corners["FL"]
            disc = replace(hidden.disc, taper=0.0 if seed % 2 else float(g.normal(0, 0.0004)))
            seat, left = disc.seat(g), complex(0.006 * np.exp(2j * np.pi * g.random()))
            sweep = disc.sweep(g, stations=12, instrument=disc.dial(0.01, 0.5), tilt=seat)
            miked = disc.micrometer_round(g, stations=12, radii_mm=(0.75 * disc.radius_mm, disc.radius_mm))
            measured = measure_corner(Corner("FL", hidden.spec, (sweep,), thickness=miked))
            low, middle, high = points(on_vehicle(draw_corner(measured), lathe).least_mm)
            first = disc.hub + disc.rotor + seat
            true = metal_after_cut_mm(disc, hidden.spec, first, depth_mm=lathe.min_depth_mm, lathe=left)
            off.append(middle - true)
            held.append(low <= true <= high)
        self.assertLess(abs(np.mean(off)), 0.005)
        self.assertGreaterEqual(np.mean(held), 0.8)
