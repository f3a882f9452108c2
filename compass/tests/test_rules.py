"""Every rule at its edge: one corner it forbids, one beside it that it lets pass."""

import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from compass.cause.corner import measure_corner
from compass.choose.offers import PREDICTIONS
from compass.choose.remedies.corner_draws import draw_corner
from compass.choose.rules import FORBIDS, METAL_ODDS, Question, forbidden_by
from compass.diagnose import diagnose
from compass.evidence.records import Case
from compass.evidence.shop import Shop
from compass.ground.angles import vector
from compass.simulate.corner import SimulatedCorner, Wave
from compass.tests.corners import HUB_OVER, LATHES, PLATES, QUIET, SHOP, SPEC, measured

UNEVEN = replace(HUB_OVER, thickness=(Wave(1, 0.0125, 30.0),))
BENT = replace(HUB_OVER, hub=vector(0.3, 60))
WAVY = replace(QUIET, face=(Wave(2, 0.04, 0.0),))
PLAYS = replace(HUB_OVER, play_mm=0.05)


def corner(truth: SimulatedCorner = HUB_OVER, **options):
    """Measure a corner, its limits changed by ``spec_…`` options."""
    spec = {name.removeprefix("spec_"): options.pop(name) for name in list(options) if name.startswith("spec_")}
    return measured(truth, spec=replace(SPEC, **spec), **options)


def rules_of(remedy: str, evidence, *, shop: Shop = SHOP, kind: str | None = None) -> tuple[str, ...]:
    """Ask all rules about one remedy at one corner."""
    found = measure_corner(evidence)
    draws = draw_corner(found)
    question = Question(remedy, found, draws, shop, PREDICTIONS[remedy](draws, shop), kind)
    return (*forbidden_by(question, foretold=False), *forbidden_by(question, foretold=True))


# rule, remedy, evidence it forbids, evidence it lets pass
EDGES = (
    ("disc_is_done", "plate", corner(seen=frozenset({"cracked"})), corner()),
    ("disc_is_done", "on_vehicle_cut", corner(spec_discard_thickness_mm=26.41), corner(spec_discard_thickness_mm=26.3)),
    ("hub_beside_a_done_disc", "hub_unit", corner(seen=frozenset({"cracked"})),
     corner(seen=frozenset({"cracked"}), bearing_play_mm=0.051)),
    ("in_order", "hub_unit", corner(QUIET), corner()),
    ("bearing_first", "new_rotors", corner(bearing_play_mm=0.0501), corner(bearing_play_mm=0.05)),
    ("turns_do_not_repeat", "on_vehicle_cut", corner(PLAYS, indices=(0.0, 0.0, 0.0)), corner(indices=(0.0, 0.0, 0.0))),
    ("turns_do_not_repeat", "hub_unit", corner(PLAYS, indices=(0.0,) * 4),
     corner(PLAYS, indices=(0.0,) * 4, bearing_play_mm=0.01)),
    ("clean_first", "on_vehicle_cut", corner(cleaned=False), corner()),
    ("clean_first", "plate", corner(torqued=False), corner()),
    ("clean_first", "none", corner(cleaned=False), corner(QUIET, cleaned=False)),
    ("runout_unknown", "index", corner(indices=()), corner()),
    ("runout_unknown", "new_rotors", corner(indices=()), corner(indices=(), seen=frozenset({"cracked"}))),
    ("whose_unknown", "new_rotors", corner(indices=(0.0,)), corner()),
    ("whose_unknown", "new_rotors", corner(indices=(0.0,)),
     corner(indices=(0.0,), spec_features=frozenset({"captive"}))),
    ("whose_unknown", "hub_unit", corner(indices=(0.0,)), corner(indices=(0.0,), bearing_play_mm=0.2)),
    ("measure_when_fitted", "new_rotors+plate", corner(indices=(0.0,)), corner()),
    ("thickness_missing", "none", corner(QUIET, thickness=False), corner(QUIET)),
    ("over_limit", "none", corner(), corner(QUIET)),
    ("over_limit", "none", corner(UNEVEN, spec_max_runout_mm=0.3),
     corner(UNEVEN, spec_max_runout_mm=0.3, spec_max_thickness_variation_mm=0.04)),
    ("variation_stays", "index", corner(UNEVEN), corner()),
    ("variation_stays", "hub_unit", corner(replace(QUIET, thickness=UNEVEN.thickness)),
     corner(UNEVEN, bearing_play_mm=0.2)),
    ("variation_stays", "hub_unit", corner(UNEVEN, indices=(0.0,)), corner(UNEVEN)),  # its hub is over by itself
    ("already_clean", "clean_and_torque", corner(), corner(cleaned=False)),
    ("one_position", "index", corner(spec_index_positions=(0.0,)), corner(spec_index_positions=(0.0, 180.0))),
    ("already_best", "index", corner(replace(HUB_OVER, rotor=-HUB_OVER.hub)), corner()),
    ("no_cut_here", "bench_cut", corner(spec_features=frozenset({"carbon"})),
     corner(spec_features=frozenset({"slotted"}))),
    ("no_cut_here", "on_vehicle_cut", corner(spec_features=frozenset({"metal_matrix"})), corner()),
    ("hub_work_first", "on_vehicle_cut", corner(seen=frozenset({"joint_play"})), corner()),
    ("thickness_unknown", "on_vehicle_cut", corner(thickness=False), corner()),
    ("plate_not_here", "plate", corner(spec_features=frozenset({"floating"})), corner()),
    ("plate_not_here", "new_rotors+plate", corner(position="F"), corner(position="RL")),
    ("plate_stacked", "plate", corner(plate_fitted=True), corner()),
    ("plate_pattern", "plate", corner(spec_studs=4), corner()),
    ("plate_not_parallel", "plate", corner(UNEVEN), corner()),
    ("plate_not_parallel", "plate", corner(thickness=False), corner()),
    ("plate_not_flat", "plate", corner(WAVY), corner()),
    ("beyond_taper", "plate", corner(BENT), corner()),
)  # fmt: skip


class AtTheirEdges(TestCase):
    """Each rule forbids the one and lets the other pass."""

    def test_every_rule(self) -> None:
        for rule, remedy, forbidden, allowed in EDGES:
            with self.subTest(rule=rule, remedy=remedy):
                self.assertIn(rule, rules_of(remedy, forbidden))
                self.assertNotIn(rule, rules_of(remedy, allowed))
        elsewhere = {"metal_short", "no_lathe"}
        self.assertEqual({edge[0] for edge in EDGES} | elsewhere, {rule.code for rule in FORBIDS})

    def test_metal_needs_nineteen_in_twenty_and_the_allowance_where_no_machine_to_is_told(self) -> None:
        # The cut leaves about 26.19 mm by hand: 26.4 − 2 × 0.0525 TIR-side wobble at the edge − 2 × 0.05.
        found = measure_corner(corner())
        draws = draw_corner(found)
        least = PREDICTIONS["on_vehicle_cut"](draws, SHOP).least_mm
        # A plan feeds each face a line a pass further at most (0.02, two passes), its touch found within 0.015.
        for shift, forbidden in ((-2 * (2 * 0.02 + 0.015), False), (0.002, True)):
            edge = sorted(least)[round((1 - METAL_ODDS) * least.size)] + shift
            told = corner(spec_machine_to_thickness_mm=float(edge))
            self.assertEqual("metal_short" in rules_of("on_vehicle_cut", told), forbidden, shift)
            bare = corner(spec_machine_to_thickness_mm=None, spec_discard_thickness_mm=float(edge) - 0.3)
            self.assertEqual("metal_short" in rules_of("on_vehicle_cut", bare), forbidden, shift)
        self.assertNotIn("metal_short", rules_of("plate", corner()))

    def test_what_the_workshop_has_not_is_not_offered(self) -> None:
        self.assertIn("no_lathe", rules_of("bench_cut", corner(), shop=replace(SHOP, lathes=LATHES[:1])))
        self.assertNotIn("no_lathe", rules_of("on_vehicle_cut", corner(), shop=replace(SHOP, lathes=LATHES[:1])))
        self.assertIn("plate_pattern", rules_of("plate", corner(), shop=replace(SHOP, plates=())))
        self.assertIn("plate_not_here", rules_of("plate", corner(), kind="motorcycle"))
        small = replace(SHOP, plates=PLATES[:1])
        self.assertIn("beyond_taper", rules_of("plate", corner(replace(HUB_OVER, hub=vector(0.15, 60))), shop=small))

    def test_the_printed_page_is_the_table(self) -> None:
        root = Path(__file__).parents[2]
        printed = subprocess.run(
            [sys.executable, "docs/tools/write_rules.py"],
            cwd=root, env=os.environ | {"PYTHONPATH": str(root)}, capture_output=True, check=True, text=True,
        )  # fmt: skip
        self.assertEqual(printed.stdout, (root / "docs" / "rules.md").read_text(encoding="utf-8"))

    def test_no_policy_overrides_a_rule(self) -> None:
        """Two policies an edge, in turn: every policy meets edges of every kind."""
        policies = ("least_cost", "index_first", "match_on_vehicle", "plate", "replace_pairs")
        edges = {id(e): e for _r, _c, *both in EDGES for e in both}.values()
        for number, evidence in enumerate(edges):
            for code in (policies[number % 5], policies[(number + 2) % 5]):
                shop = replace(SHOP, policy=code)
                (told,) = diagnose(Case(corners=(evidence,), shop=shop)).corners
                if told.recommended is not None and told.remedies:
                    first = next(r for r in told.remedies if r.code == told.recommended)
                    self.assertEqual(first.blocked_by, (), (code, told.recommended))
