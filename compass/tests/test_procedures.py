"""Procedures: complete and ordered for every remedy, vehicle and policy, with every figure filled in or asked for."""

import re
from dataclasses import replace
from itertools import product
from pathlib import Path
from unittest import TestCase

from compass.cause.corner import diagnose_corner
from compass.choose.offers import REMEDIES
from compass.do.cut_plan import plan_cut
from compass.do.procedures import PARTS, PROCEDURES
from compass.do.steps import CAUTIONS, CONDITIONS, Kind, Work
from compass.do.work import CornerWork, PlacedStep, figures_of_corner, procedure
from compass.tests.corners import SHOP, measured
from compass.tests.test_sweep import SPEC
from docs.tools.write_procedures import page

ROOT = Path(__file__).parents[2]
FULL = {"runout_before_mm": (0.1, 0.01), "runout_after_mm": (0.01, 0.02, 0.03), "lathe": SHOP.lathes[0]}
TORQUES = ("wheel", "caliper", "bracket", "hose_fitting", "pad_pin", "axle", "disc_bolts", "hub_nut")


def every_work() -> list[Work]:
    """Return every remedy on every kind of vehicle, end, rotor and policy."""
    kinds = (("car", False), ("van", False), ("trailer", False), ("motorcycle", True), ("motorcycle", False))
    features = (frozenset[str](), frozenset({"drum_in_hat"}), frozenset({"floating"}), frozenset({"slotted"}))
    rest = product(REMEDIES, kinds, ("F", "R"), (None, True, False), features, (False, True), (False, True))
    works = [Work(r, k, a, d, s, True, f, screw, leaves_lathe=e) for r, (k, s), a, d, f, screw, e in rest]
    return works + [Work(remedy, "light_truck", "R", twin=True) for remedy in REMEDIES]


def codes(steps: tuple[PlacedStep, ...]) -> list[str]:
    return [placed.step.code for placed in steps]


class Procedures(TestCase):
    """Every way through the tables."""

    def test_worn_pads_and_shoes_are_renewed_before_the_caliper_is_on_whatever_is_done(self) -> None:
        worn = frozenset({"pads_worn", "linings_worn"})
        for work in every_work()[::7]:
            order = codes(procedure(CornerWork("FL", replace(work, worn=worn), {})))
            if work.remedy == "none":
                continue
            self.assertLess(order.index("pads_new"), order.index("caliper_on"), work)
            self.assertEqual("shoes_new" in order, "drum_in_hat" in work.features, work)
            self.assertNotIn("pads_new", codes(procedure(CornerWork("FL", work, {}))))

    def test_every_way_is_complete_ordered_and_cautioned(self) -> None:
        figures = figures_of_corner(SPEC, settings={"index_deg": 144.0, "plate_mm": 0.05, "plate_deg": 30.0}, **FULL)
        for work in every_work():
            steps = procedure(CornerWork("FL", work, figures))
            if work.remedy == "none":
                self.assertEqual(steps, ())
                continue
            order, cautions = codes(steps), {c for placed in steps for c in placed.step.cautions}
            self.assertEqual([placed.number for placed in steps], list(range(1, len(steps) + 1)))
            self.assertEqual(order[0], "chock", work)
            held = "lift_motorcycle" if work.vehicle == "motorcycle" else "lift"
            self.assertLess(order.index(held), order.index("caliper_off"), work)
            self.assertLess(order.index("caliper_on"), order.index("pump"), work)
            tested = "trailer_test" if work.vehicle == "trailer" else "road_test"
            self.assertEqual(order[-2:] if work.twin else order[-1:], [tested] + ["twin_again"] * work.twin, work)
            self.assertEqual(
                ("wheel_off" in order, "twin_off" in order), (work.vehicle != "motorcycle" and not work.twin, work.twin)
            )
            self.assertTrue({"support", "hose", "torque", "pump", "road", "maker"} <= cautions, work)
            rotor_back = "clamp" if work.vehicle != "motorcycle" else "clamp_motorcycle"
            self.assertLess(len(order) - order[::-1].index(rotor_back), order.index("wash"), work)
            if "cut" in work.remedy:
                self.assertTrue({"eyes", "turning"} <= cautions, work)
            if "on_vehicle_cut" in work.remedy:
                self.assertLess(order.index("hub_work_first"), order.index("pass"))
                self.assertEqual(
                    "other_side_bolted" in order,
                    work.driven is not False and work.vehicle not in ("trailer", "motorcycle"),
                    work,
                )
                self.assertEqual("stay" in order, not work.leaves_lathe)
                self.assertLess(order.index("match_before_letting_go"), order.index("feed_off"))
            for placed in steps:
                named = set(re.findall(r"{(\w+)}", placed.step.says))
                self.assertLessEqual(named, set(placed.figures) | set(placed.asks), placed.step.code)
                if placed.step.torque:
                    self.assertIn(f"torque {placed.step.torque}", placed.asks)  # nobody has said it: asked for there

    def test_a_cut_repeats_its_passes_with_the_plans_own_lines(self) -> None:
        corner = diagnose_corner(measured())
        lathe = next(x for x in SHOP.lathes if x.kind == "on_vehicle")
        plan = plan_cut(corner.measured, lathe, SHOP)
        figures = figures_of_corner(
            corner.measured.corner.spec, settings={}, lathe=lathe, torques_nm=dict.fromkeys(TORQUES, 90.0)
        )
        steps = procedure(CornerWork("FL", Work("on_vehicle_cut"), figures, plan.passes))
        passes = [placed for placed in steps if placed.step.code == "pass"]
        self.assertEqual([placed.pass_number for placed in passes], [made.number for made in plan.passes])
        for placed, made in zip(passes, plan.passes, strict=True):
            self.assertEqual(placed.figures["outboard"], (made.out_mm, made.out_lines))
            self.assertEqual(placed.figures["inboard"], (made.in_mm, made.in_lines))
            self.assertEqual(placed.figures["feed"], "finish" if made.finish else "rough")
        reads = [placed for placed in steps if placed.step.code == "read_pass"]
        self.assertEqual([placed.figures["stop"] for placed in reads], [made.stop_mm for made in plan.passes])
        self.assertEqual(
            {ask for placed in steps for ask in placed.asks}, {"runout_before", "runout_after"}
        )  # no torque

    def test_the_tables_hold_together(self) -> None:
        steps = list({id(step): step for part in PARTS.values() for step in part}.values())  # some stand in two parts
        self.assertEqual(len({step.code for step in steps}), len(steps))
        self.assertEqual(set(PROCEDURES), set(REMEDIES) - {"none"})
        for step in steps:
            self.assertLessEqual(set(step.when), set(CONDITIONS), step.code)
            self.assertLessEqual(set(step.cautions), set(CAUTIONS), step.code)
            self.assertEqual(set(re.findall(r"{(\w+)}", step.says)), set(step.figures), step.code)
            self.assertFalse(re.search(r"\d+(\.\d+)?\s*(mm|N·m)", step.says), step.code)  # figures are never typed here
            self.assertTrue(step.says.endswith(".") and step.why.endswith("."), step.code)
            self.assertTrue(step.kind is not Kind.MEASURE or step.expects, step.code)
            self.assertTrue(not step.otherwise or step.expects or step.findings, step.code)
            ways = {*(finding.back for finding in step.findings), step.back, step.broken} - {""}
            self.assertLessEqual(ways, {other.code for other in steps}, step.code)
        self.assertTrue({c for step in steps for c in step.cautions} == set(CAUTIONS))
        self.assertTrue({c for step in steps for c in step.when} == set(CONDITIONS))

    def test_the_printed_page_is_the_table(self) -> None:
        self.assertEqual((ROOT / "docs" / "procedures.md").read_text(), page())
