"""Policies and pairs: one plan an axle, in the order of the workshop's school."""

from dataclasses import replace
from unittest import TestCase

from compass.cause.corner import diagnose_corner
from compass.choose.axle import kind_of_metal, lanes, plan_axle
from compass.choose.policies import POLICIES
from compass.choose.rules import NOTHING_OVER, OTHER_SIDE_NEEDS_METAL, REASONS
from compass.choose.vehicle import choose
from compass.diagnose import diagnose
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import AfterWork, Case
from compass.ground.angles import vector
from compass.simulate.corner import Wave
from compass.tests.corners import HUB_OVER, QUIET, SHOP, chosen, measured

UNEVEN = replace(HUB_OVER, thickness=(Wave(1, 0.0125, 30.0),))
LEFT, RIGHT = measured(), measured(QUIET, position="FR")


class Pairs(TestCase):
    """What one side gets, the other gets."""

    def test_a_plate_leaves_the_other_side_alone_and_a_cut_does_not(self) -> None:
        self.assertEqual(chosen(LEFT, RIGHT)[1], {"FL": "plate", "FR": "none"})
        told, plan = chosen(measured(UNEVEN), RIGHT)
        self.assertEqual(plan, {"FL": "on_vehicle_cut", "FR": "on_vehicle_cut"})
        self.assertIn("both_sides_alike", [reason.code for reason in told[1].because])

    def test_the_bill_holds_both_sides_whoever_is_measured(self) -> None:
        (alone,), plan = chosen(measured(UNEVEN))
        cut = next(r for r in alone.remedies if r.code == "on_vehicle_cut")
        self.assertEqual((cut.sides, cut.price), (2, 2 * SHOP.bill("on_vehicle_cut")))
        wheel, _ = chosen(measured(UNEVEN, position="F"), kind="motorcycle")
        self.assertEqual(next(r for r in wheel[0].remedies if r.code == "on_vehicle_cut").sides, 1)
        done = measured(seen=frozenset({"cracked"}))
        self.assertEqual(chosen(done, measured(QUIET, position="FR", thickness=False))[1]["FR"], "new_rotors")
        self.assertEqual(plan, {"FL": "on_vehicle_cut"})

    def test_a_bearing_or_a_dirty_joint_lets_the_axles_metal_wait(self) -> None:
        told, plan = chosen(measured(UNEVEN), replace(RIGHT, bearing_play_mm=0.2))
        self.assertEqual(plan, {"FL": None, "FR": "hub_unit"})
        self.assertIn("axle_waits", [reason.code for reason in told[0].because])
        self.assertEqual(chosen(measured(UNEVEN), measured(position="FR", cleaned=False))[1]["FR"], "clean_and_torque")

    def test_a_disc_that_is_done_renews_its_mate_whosever_runout_that_has(self) -> None:
        over = measured(UNEVEN, indices=(0.0,))
        mate = measured(QUIET, position="FR", seen=frozenset({"cracked"}))
        _told, plan = chosen(over, mate, shop=replace(SHOP, lathes=()))
        self.assertEqual(plan, {"FL": "new_rotors", "FR": "new_rotors"})

    def test_a_new_rotor_is_not_wasted_on_a_hub_that_is_over_by_itself(self) -> None:
        bare = replace(SHOP, lathes=(), plates=())
        _told, plan = chosen(measured(replace(UNEVEN, hub=vector(0.3, 60))), RIGHT, shop=bare)
        self.assertEqual(plan, {"FL": "hub_unit", "FR": "none"})
        _told, plan = chosen(measured(replace(UNEVEN, hub=vector(0.3, 60))), RIGHT)  # metal for a cut true to it
        self.assertEqual(plan["FL"], plan["FR"])
        worse = measured(replace(UNEVEN, hub=vector(0.3, 60)), position="FR")
        _told, plan = chosen(measured(replace(QUIET, thickness=UNEVEN.thickness)), worse, shop=bare)
        self.assertEqual(plan, {"FL": None, "FR": "hub_unit"})

    def test_nothing_is_cut_or_replaced_while_nothing_is_over(self) -> None:
        half = measured(QUIET, thickness=False)
        self.assertEqual(chosen(half, measured(QUIET, position="FR", thickness=False))[1], {"FL": None, "FR": None})
        (told,), plans = choose([diagnose_corner(half)], shop=SHOP)
        for lane in lanes((told,), plans[0], policy="least_cost"):
            self.assertFalse(kind_of_metal(lane.code) and lane.feasible)
            self.assertTrue({rule for _p, rule in lane.blocked} <= set(REASONS))
        new = next(x for x in lanes((told,), plans[0], policy="replace_pairs") if x.code == "new_rotors")
        self.assertEqual(new.blocked, (("FL", NOTHING_OVER),))

    def test_a_side_that_only_wants_measuring_holds_up_metal_and_nothing_else(self) -> None:
        bare = measured(QUIET, position="FR", thickness=False)
        self.assertEqual(chosen(LEFT, bare)[1], {"FL": "plate", "FR": None})
        self.assertTrue(str(chosen(measured(UNEVEN), bare)[1]["FR"]).startswith("new_rotors"))


class AfterWorks(TestCase):
    """What is still to be done is chosen by what was read after the work."""

    def test_a_disc_that_waited_for_its_hub_gets_its_turn(self) -> None:
        came_in = measured(replace(UNEVEN, hub=vector(0.3, 60)), bearing_play_mm=0.01)
        mate = measured(QUIET, position="FR")
        swept = measured(QUIET).sweeps
        shop = replace(SHOP, lathes=(), plates=())

        def verdict(*works: str) -> dict[str, str | None]:
            after = tuple(AfterWork(sweeps=swept, work=work) for work in works)
            judged = diagnose(Case(corners=(replace(came_in, after=after), mate), shop=shop))
            self.assertEqual(judged.judged.root_causes["FL"], alone.judged.root_causes["FL"])
            return {corner.position: corner.recommended for corner in judged.corners}

        alone = diagnose(Case(corners=(came_in, mate), shop=shop))
        self.assertEqual(verdict(), {"FL": "hub_unit", "FR": "none"})
        self.assertEqual(verdict("hub_unit"), {"FL": "new_rotors", "FR": "new_rotors"})
        self.assertIsNone(verdict("new_rotors")["FL"])  # how thick a new rotor is nobody has miked
        self.assertIsNone(verdict("")["FL"])  # what was done is not told, nor what it left

    def test_what_is_chosen_instead_of_a_work_under_way_rests_on_what_was_read_before_it(self) -> None:
        worn, mate = (
            measured(truth, position=p) for truth, p in ((replace(QUIET, nominal_mm=23.0), "FL"), (QUIET, "FR"))
        )
        renewed = AfterWork(
            measured(HUB_OVER, indices=(72.0, 216.0)).sweeps, (), measured(QUIET).thickness, "new_rotors"
        )
        told = []
        for after in ((), (AfterWork(work="index"),), (renewed,), (renewed, AfterWork(work="index"))):
            judged = diagnose(Case(corners=(replace(worn, after=after), mate), shop=SHOP))
            told.append([corner.recommended for corner in judged.corners])
        self.assertEqual(told[0], told[1])  # nothing was read since it came in
        self.assertEqual(told[2], told[3])
        self.assertIn("new_rotors", told[0][0])
        self.assertNotIn("new_rotors", told[2][0])

    def test_over_again_after_a_work_hub_and_rotor_are_told_apart_before_another_is_chosen(self) -> None:
        came_in, mate = (
            measured(truth, position=p, bearing_play_mm=0.01) for truth, p in ((HUB_OVER, "FL"), (QUIET, "FR"))
        )
        facts, gone = VehicleFacts(positions=("FL", "FR")), Complaint(after_work="gone")
        alone = diagnose(Case(corners=(came_in, mate), shop=SHOP))

        def after(*indices: float):
            swept = measured(indices=indices).sweeps
            worked = replace(came_in, after=(AfterWork(sweeps=swept, work="plate"),))
            return diagnose(Case(corners=(worked, mate), vehicle=facts, complaint=gone, shop=SHOP))

        held = after(72.0)
        self.assertIsNone(held.corners[0].recommended)
        self.assertEqual(held.advice.code, "next_check")
        self.assertEqual(held.advice.figures, {"check": "turn_rotor_and_sweep", "position": "FL"})
        self.assertNotEqual(held.corners[0].remedies, alone.corners[0].remedies)  # reckoned as it stands, all the same
        apart = after(72.0, 216.0)
        self.assertNotIn(apart.corners[0].recommended, (None, "none"))
        self.assertNotEqual(apart.advice.code, "next_check")

    def test_what_a_work_renewed_is_no_longer_as_it_was(self) -> None:
        came_in = measured(seen=frozenset({"cracked", "slides_seized"}), bearing_play_mm=0.2)
        swept = measured(QUIET).sweeps
        for work, seen, play, plate in (
            ("new_rotors+plate", {"slides_seized"}, 0.2, True),
            ("hub_unit", {"cracked", "slides_seized"}, None, False),
        ):
            stands = replace(came_in, after=(AfterWork(sweeps=swept, work=work),)).as_it_stands()
            self.assertEqual((stands.seen, stands.bearing_play_mm, stands.plate_fitted), (seen, play, plate))


class Lanes(TestCase):
    """What the Choose leg lists."""

    def test_the_plan_stands_first_and_the_refused_last_with_a_reason_of_either_side(self) -> None:
        for corners in ((LEFT, RIGHT), (measured(UNEVEN), RIGHT), (RIGHT,), (LEFT,)):
            for policy in POLICIES:
                told, plans = choose([diagnose_corner(c) for c in corners], shop=replace(SHOP, policy=policy))
                found = lanes(told, plans[0], policy=policy)
                self.assertEqual(found[0].own.code, plans[0].remedies[found[0].lead], policy)
                self.assertEqual({p: r.code for p, r in found[0].remedies.items()}, plans[0].remedies, policy)
                self.assertEqual([x.feasible for x in found], sorted((x.feasible for x in found), reverse=True))
                self.assertEqual(len(found), 12)
        worse = measured(replace(UNEVEN, hub=HUB_OVER.hub * 1.5))
        told, plans = choose([diagnose_corner(c) for c in (worse, measured(UNEVEN, position="FR"))], shop=SHOP)
        index = next(x for x in lanes(told, plans[0], policy="least_cost") if x.code == "index")
        self.assertIn(("FR", OTHER_SIDE_NEEDS_METAL), index.blocked)

    def test_what_lets_the_axles_metal_wait_is_a_lane_of_its_own(self) -> None:
        hub_over = replace(UNEVEN, hub=vector(0.3, 60))
        bearing = {"position": "FR", "bearing_play_mm": 0.2}
        for left, right, first, shop in (
            (measured(UNEVEN), measured(QUIET, **bearing), {"FR": "hub_unit"}, SHOP),
            (measured(UNEVEN), measured(position="FR", cleaned=False), {"FR": "clean_and_torque"}, SHOP),
            (
                measured(seen=frozenset({"cracked"})), measured(**bearing),
                {"FL": "new_rotors+on_vehicle_cut", "FR": "hub_unit"}, SHOP,
            ),
            (
                measured(replace(QUIET, thickness=UNEVEN.thickness)), measured(hub_over, position="FR"),
                {"FR": "hub_unit"}, replace(SHOP, lathes=(), plates=()),
            ),
        ):  # fmt: skip
            told, (plan,) = choose([diagnose_corner(c) for c in (left, right)], shop=shop)
            found = lanes(told, plan, policy="least_cost")
            self.assertEqual({p: r.code for p, r in found[0].remedies.items()}, first)
            self.assertEqual((found[0].feasible, len({x.code for x in found})), (True, 12))

    def test_a_cut_the_other_side_has_no_metal_for_is_refused_there(self) -> None:
        thin = measured(replace(QUIET, nominal_mm=25.65), position="FR")
        told, plans = choose([diagnose_corner(c) for c in (measured(UNEVEN), thin)], shop=SHOP)
        cut = next(x for x in lanes(told, plans[0], policy="least_cost") if x.code == "on_vehicle_cut")
        self.assertEqual(cut.blocked, (("FR", "metal_short"),))
        self.assertNotIn("cut", plans[0].remedies["FL"].replace("new_rotors+on_vehicle_cut", ""))


class Policies(TestCase):
    """Schools re-order; the workshop's own figures decide the default."""

    def test_each_school_has_its_way_where_its_odds_are_good(self) -> None:
        split = replace(HUB_OVER, rotor=vector(0.05, 80))  # turned on by two studs it nearly cancels the hub
        both = [diagnose_corner(measured(split)), diagnose_corner(measured(QUIET, position="FR"))]
        told, _ = choose(both, shop=SHOP)
        answers = {code: plan_axle(told, policy=code).remedies["FL"] for code in POLICIES}
        self.assertEqual(answers["match_on_vehicle"], "on_vehicle_cut")
        self.assertEqual(answers["plate"], "plate")
        self.assertTrue(answers["replace_pairs"].startswith("new_rotors"))
        self.assertEqual(answers["index_first"], "index")

    def test_an_unlikely_favourite_stands_back(self) -> None:
        # 0.08 mm of hub against 0.02 of rotor: no position gets under 0.05, whatever the school.
        self.assertNotEqual(chosen(LEFT, RIGHT, shop=replace(SHOP, policy="index_first"))[1]["FL"], "index")
        dear = replace(SHOP, prices={"plate": 5000.0})
        self.assertNotEqual(chosen(LEFT, RIGHT, shop=dear)[1]["FL"], "plate")
