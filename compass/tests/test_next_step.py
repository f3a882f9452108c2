"""What to do next, and what is to blame: the order of the checks, corner by corner and over the vehicle."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.cause.causes import BASE_RATES, OF_THE_VEHICLE, Cause
from compass.cause.chain import because, first_call
from compass.cause.checks import MINUTES, OPENING_MINUTES
from compass.cause.corner import diagnose_corner, measure_corner, runout_as_it_ran
from compass.cause.differential import weigh
from compass.cause.measured import OVAL_DRUM_MM, STOP_FINDINGS, UNEVEN_PADS_MM
from compass.choose.axle import kind_of_metal, plan_axle
from compass.choose.policies import POLICIES
from compass.choose.vehicle import choose
from compass.diagnose import diagnose
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.records import Case, Corner, Drum, OverLips, Pads, Surface, ThicknessRound
from compass.evidence.shop import Shop
from compass.ground.angles import equal_stations_deg, vector
from compass.ground.limits import State
from compass.ground.positions import axle_of
from compass.judge.vehicle import judge_vehicle
from compass.measure.analysed import analyse_all, flags_between, from_before, further_sweep, preferred, vectors
from compass.simulate.vehicle import random_vehicle
from compass.tests.corners import HUB_OVER, QUIET, SHOP, measured
from compass.tests.test_separation import EVEN, FIRST, TURNED, corner_of
from compass.tests.test_sweep import SPEC, sweep_of, wave
from compass.words.codes import CAUSES, CHECKS, WHY

BESIDE = {"bearing_play", "inspect_pads_and_slides"}
FOUR = ("FL", "FR", "RL", "RR")
ROUGH = np.random.default_rng(11).normal(0, 0.0008, 10)
TRUE = sweep_of(wave(10, (0.02, 230.0)) + ROUGH)
JUMPED = sweep_of(wave(10, (0.02, 230.0)) + ROUGH + 0.15 * np.eye(10)[4])
MOVED = sweep_of(wave(10, (0.1, 230.0)), closing_mm=wave(10, (0.1, 230.0))[0] + 0.06)
CLOSE = sweep_of(wave(10, (0.049, 230.0)) + 3 * ROUGH, graduation=0.01)
COARSE = sweep_of(np.round(wave(10, (0.05, 230.0)) / 0.02) * 0.02, graduation=0.02)
UNEVEN_NEARLY = ThicknessRound(
    equal_stations_deg(10), np.array([140.0]), np.round(26 + wave(10, (0.012, 80.0)), 2)[None, :], 0.01
)

OVER_LIPS = replace(EVEN, over_lips=OverLips.measured(None, None, within_mm=0.05))


def check_of(*sweeps, **evidence) -> str | None:
    """Return what is worth most at a disc that stands alone."""
    corner = diagnose_corner(corner_of(*sweeps, position="F", **evidence))
    told = {"complaint": Complaint(felt_in=("pedal",)), "vehicle": VehicleFacts(kind="motorcycle"), "shop": SHOP}
    return judge_vehicle(("F",), [corner], **told).next.check


class AtACorner(TestCase):
    """First what stops, then what spoils a reading, then what is missing, then what tells hub from rotor."""

    def test_the_order_of_the_next_check(self) -> None:
        played = replace(SPEC, max_bearing_play_mm=0.05)
        dirty = replace(FIRST, cleaned=False)
        ladder = (
            ({"seen": frozenset({"cracked"})}, (dirty,), None),
            ({"bearing_play_mm": 0.2, "spec": played}, (dirty,), None),
            ({"thickness": EVEN}, (), "sweep_rotor"),
            ({}, (replace(MOVED, cleaned=False),), "repeat_sweep"),
            ({}, (JUMPED,), "reread_station"),
            ({}, (replace(dirty, nuts_torqued=False),), "clean_and_sweep"),
            ({}, (replace(FIRST, nuts_torqued=False),), "torque_and_sweep"),
            ({}, (FIRST, TURNED), "measure_thickness"),
            (
                {"thickness": replace(EVEN, readings_mm=EVEN.readings_mm - 20 * np.eye(8)[:1])},
                (TRUE,),
                "reread_station",
            ),
            ({"thickness": EVEN}, (COARSE,), "finer_dial"),
            ({"thickness": EVEN}, (CLOSE,), "repeat_sweep"),
            ({"thickness": UNEVEN_NEARLY}, (TRUE,), "finer_micrometer"),
            ({"thickness": EVEN}, (FIRST,), "turn_rotor_and_sweep"),
            ({"thickness": EVEN}, (TRUE,), "inspect_pads_and_slides"),
            ({"thickness": EVEN, "pads": Pads((9.0,), (5.0,))}, (TRUE,), None),
        )
        for evidence, sweeps, expected in ladder:
            with self.subTest(expected=expected):
                self.assertEqual(check_of(*sweeps, **evidence), expected)
                self.assertIn(expected or "sweep_rotor", MINUTES)

    def test_worn_pads_are_renewed_before_it_leaves_and_where_a_disc_is_worked_on_with_that(self) -> None:
        told = {"complaint": Complaint(braking=("light",)), "vehicle": VehicleFacts(kind="motorcycle"), "shop": SHOP}
        worn = {"pads": Pads((2.8,), (3.1,)), "spec": replace(SPEC, min_pad_mm=3.0), "position": "F"}
        for sweeps, why in (((TRUE,), "linings"), ((FIRST, TURNED), "nothing_left")):
            corner = diagnose_corner(corner_of(*sweeps, thickness=EVEN, **worn))
            self.assertEqual(judge_vehicle(("F",), [corner], **told).next.why, why)
        renewed = diagnose_corner(corner_of(TRUE, thickness=EVEN, **worn | {"pads": Pads((2.8,), (3.1,), (11.0,))}))
        self.assertNotEqual(judge_vehicle(("F",), [renewed], **told).next.why, "linings")

    def test_a_finer_instrument_that_is_not_there_is_not_asked_for_without_end(self) -> None:
        asked = [check_of(*[COARSE] * turns, thickness=EVEN) for turns in range(1, 6)]
        self.assertEqual(asked[:3], ["finer_dial"] * 3)
        self.assertEqual({"finer_dial", "repeat_sweep"} & set(asked[3:]), set())
        asked = [check_of(TRUE, thickness=replace(UNEVEN_NEARLY, rounds=rounds)) for rounds in range(1, 5)]
        self.assertEqual(asked[:2], ["finer_micrometer"] * 2)
        self.assertEqual({"finer_micrometer", "repeat_round"} & set(asked[2:]), set())

    def test_lips_that_nobody_measured_make_no_disc_worn_and_let_none_drive(self) -> None:
        for sweeps in ((TRUE,), (FIRST,)):
            told = {"complaint": Complaint(felt_in=("pedal",)), "vehicle": VehicleFacts(kind="motorcycle")}
            judged = diagnose(Case(corners=(corner_of(*sweeps, position="F", thickness=OVER_LIPS),), shop=SHOP, **told))
            self.assertEqual(judged.stopped, ("F",))
            self.assertIsNone(judged.corners[0].recommended)
            self.assertLess(dict(judged.judged.weighed.causes)[Cause.WORN], 0.1)
            self.assertIn("finer_micrometer", [c.check for c in judged.judged.weighed.checks if c.worth > 0])

    def test_the_first_call_of_a_corner(self) -> None:
        over = replace(SPEC, max_bearing_play_mm=0.05)
        calls = (
            (
                (FIRST,),
                {"bearing_play_mm": 0.2, "spec": over, "seen": frozenset({"cracked"})},
                ("wheel_bearing", "hub_unit"),
            ),
            ((FIRST,), {"seen": frozenset({STOP_FINDINGS[0]})}, ("cracked_or_broken", "new_rotors")),
            (
                (FIRST,),
                {"thickness": EVEN, "spec": replace(SPEC, discard_thickness_mm=26.5)},
                ("worn_below_limit", "new_rotors"),
            ),
            ((replace(FIRST, cleaned=False),), {}, ("not_separable", "clean_and_torque")),
            ((replace(TRUE, cleaned=False),), {"thickness": EVEN}, ("none_found", "none")),
            ((FIRST,), {}, ("not_separable", None)),
            ((FIRST, TURNED), {}, ("hub_face_runout", None)),
            ((TRUE,), {"thickness": EVEN}, ("none_found", "none")),
            ((TRUE,), {"thickness": EVEN, "seen": frozenset({"slides_seized"})}, ("caliper_or_slides", "none")),
            ((TRUE,), {"thickness": EVEN, "drum": Drum((190.1, 190.1 + OVAL_DRUM_MM))}, ("drum_out_of_round", "none")),
            ((replace(FIRST, cleaned=False), TRUE), {"thickness": EVEN}, ("joint_contamination", "none")),
            # Whether it is worn is under the lips that nobody measured.
            ((TRUE,), {"thickness": OVER_LIPS}, ("not_separable", None)),
            ((FIRST, TURNED), {"thickness": OVER_LIPS}, ("hub_face_runout", None)),
            ((replace(FIRST, cleaned=False), TRUE), {"thickness": OVER_LIPS}, ("joint_contamination", None)),
        )
        for sweeps, evidence, call in calls:
            with self.subTest(call=call):
                self.assertEqual(first_call(measure_corner(corner_of(*sweeps, **evidence))), call)

    def test_reasons_say_what_stands_and_what_is_missing(self) -> None:
        codes = [reason.code for reason in because(measure_corner(corner_of(FIRST)))]
        self.assertEqual(codes[0], "runout_stands")
        self.assertLessEqual({"one_sweep_cannot_tell", "thickness_missing"}, set(codes))
        for unsure in ({"cleaned": False}, {"nuts_torqued": False}):
            turned = measure_corner(corner_of(FIRST, replace(TURNED, **unsure)))
            codes = {reason.code for reason in because(turned)}
            self.assertEqual(codes & {"one_sweep_cannot_tell", "turned_unprepared"}, {"turned_unprepared"})
        uneven = measure_corner(corner_of(TRUE, thickness=EVEN, pads=Pads((9.0,), (9.0 - UNEVEN_PADS_MM,))))
        self.assertEqual(uneven.pads_uneven_mm, UNEVEN_PADS_MM)
        self.assertIn("pads_uneven", [reason.code for reason in because(uneven)])
        self.assertIsNone(measure_corner(corner_of(pads=Pads((9.0,), (7.5,)))).pads_uneven_mm)
        round_ = measure_corner(corner_of(TRUE, thickness=EVEN, drum=Drum((190.1, 190.2))))
        self.assertEqual((round_.drum_oval_mm, round_.noted), (None, frozenset()))

    def test_of_several_sweeps_the_cleanest_whole_outboard_one_at_index_0_speaks(self) -> None:
        inboard = replace(FIRST, surface=Surface.ROTOR_INBOARD, readings_mm=-FIRST.readings_mm)
        dirty = replace(FIRST, cleaned=False)
        analysed = analyse_all(corner_of(dirty, inboard, TURNED, FIRST), None)
        self.assertEqual(len(analysed), 4)
        self.assertIs(preferred(analysed).evidence, FIRST)
        self.assertIs(from_before(analysed).evidence, dirty)
        self.assertIsNone(from_before(analyse_all(corner_of(FIRST), None)))
        self.assertEqual([v.source for v in vectors(analysed, spec=SPEC)].count("rotor_outboard"), 3)
        tenth = sweep_of(FIRST.readings_mm / 10, index_deg=180.0)
        slipped = analyse_all(corner_of(FIRST, tenth), None)
        self.assertEqual(flags_between(slipped, preferred(slipped)), ["unit_slip"])
        small = further_sweep(replace(SPEC, hub_runout_radius_mm=70.0), analysed, Surface.HUB_FACE, 0.0)
        same = further_sweep(SPEC, analysed, Surface.ARBOR, 0.0)
        self.assertAlmostEqual(small.covariance[0, 0], 4 * same.covariance[0, 0])

    def test_the_runout_as_it_ran_is_the_one_from_before_the_work(self) -> None:
        places = np.arange(0.0, 360.0, 30.0)
        dirty = sweep_of(wave(10, (0.2, 50.0)), cleaned=False)
        for sweeps, tir in (((dirty, FIRST), 0.2), ((FIRST,), 0.1)):
            analysed = analyse_all(corner_of(*sweeps), None)
            ran = runout_as_it_ran(analysed, measure_corner(corner_of(*sweeps)).whose, places, spec=SPEC)
            self.assertAlmostEqual(np.ptp(ran), tir, delta=0.06 * tir)
        self.assertIsNone(runout_as_it_ran([], measure_corner(corner_of()).whose, places, spec=SPEC))


class OverAVehicle(TestCase):
    """One judgement over all corners."""

    def judged(self, *corners: Corner, **told):
        verdicts = [diagnose_corner(corner) for corner in corners]
        return judge_vehicle(FOUR, verdicts, complaint=Complaint(**told), vehicle=VehicleFacts(kind="car"), shop=Shop())

    def test_a_spoilt_reading_of_a_suspect_comes_before_anything_else(self) -> None:
        over = replace(JUMPED, readings_mm=JUMPED.readings_mm + wave(10, (0.09, 230.0)))
        for sweep, check in (
            (over, "reread_station"),
            (MOVED, "repeat_sweep"),
            (replace(FIRST, cleaned=False), "clean_and_sweep"),
        ):
            step = self.judged(
                corner_of(sweep, thickness=EVEN), corner_of(TRUE, position="FR"), felt_in=("steering_wheel",)
            ).next
            self.assertEqual((step.check, step.position, step.why), (check, "FL", check))

    def test_an_unopened_corner_costs_its_opening(self) -> None:
        checks = self.judged(corner_of(TRUE)).weighed.checks
        minutes = {(c.check, c.position): c.minutes for c in checks}
        self.assertEqual(minutes["measure_thickness", "FL"], MINUTES["measure_thickness"])
        self.assertEqual(minutes["measure_thickness", "RL"], MINUTES["measure_thickness"] + OPENING_MINUTES)
        # An empty corner that has limits is as unopened as one without.
        self.assertEqual(
            {c.minutes for c in self.judged(corner_of()).weighed.checks if c.check == "sweep_rotor"},
            {MINUTES["sweep_rotor"] + OPENING_MINUTES},
        )

    def test_what_is_seen_outright_takes_its_corners_odds(self) -> None:
        judged = self.judged(corner_of(FIRST, TURNED, thickness=EVEN, seen=frozenset({"cracked"})))
        (first, odds), *rest = judged.weighed.at_corner("FL")
        self.assertIs(first, Cause.BROKEN)
        self.assertEqual({p for _c, p in rest}, {0.0})
        self.assertAlmostEqual(odds, judged.weighed.corners["FL"])
        self.assertEqual((judged.stopped, judged.troubled), (("FL",), ("FL",)))
        self.assertEqual(judged.root_causes["FL"], "cracked_or_broken")

    @settings(max_examples=40)
    @given(st.integers(0, 10_000), st.sampled_from([*BASE_RATES, None]))
    def test_root_causes_never_contradict_the_weighing(self, seed: int, cause: Cause | None) -> None:
        verdict = diagnose(random_vehicle(np.random.default_rng(seed), cause=cause).case)
        judged = verdict.judged
        held = sum(p for _c, _w, p in judged.weighed.hypotheses)
        self.assertGreater(held, 1 - 1e-9)  # more than one where two stand together
        self.assertGreaterEqual(held, sum(p for _c, p in judged.weighed.causes) - 1e-9)
        self.assertTrue(all(0 <= p <= 1 for _c, p in judged.weighed.causes))
        for position, named in judged.root_causes.items():
            odds = dict(judged.weighed.at_corner(position))
            if named == "not_separable":
                continue
            if named == Cause.NONE:
                self.assertLessEqual(max(odds.values()), 0.5)
            elif Cause(named) in OF_THE_VEHICLE:
                self.assertGreaterEqual(dict(judged.weighed.causes)[Cause(named)], max(odds.values()))
            else:
                self.assertEqual(odds[Cause(named)], max(odds.values()))
            self.assertIn(named, CAUSES)
        step = judged.next
        self.assertIn(step.why, WHY)
        self.assertTrue(step.check is None or step.check in CHECKS)
        self.assertTrue(set(judged.stopped) <= set(judged.troubled))

    def test_the_ledger_of_an_unsaid_vehicle_is_empty_and_base_rates_are_any_scale(self) -> None:
        bare = weigh(FOUR, [])
        self.assertEqual(set(bare.ledger.values()), {()})
        rates = {cause.value: 7.5 * rate for cause, rate in BASE_RATES.items()}
        for (one, p), (two, q) in zip(bare.causes, weigh(FOUR, [], base_rates=rates).causes, strict=True):
            self.assertIs(one, two)
            self.assertAlmostEqual(p, q)
        moved = dict(weigh(FOUR, [], base_rates=rates | {"wheel_bearing": 400.0}).causes)
        self.assertGreater(moved[Cause.BEARING], 3 * dict(bare.causes)[Cause.BEARING])

    def test_no_vehicle_is_left_with_most_of_its_odds_where_nobody_looked(self) -> None:
        wheels = tuple(f"A{axle}{side}" for axle in (1, 2, 3) for side in "LR")
        facts, opened = VehicleFacts(kind="trailer", positions=wheels), {}
        while True:
            corners = [diagnose_corner(corner) for corner in opened.values()]
            judged = judge_vehicle(wheels, corners, complaint=Complaint(), vehicle=facts, shop=Shop())
            at = judged.next.position
            if at is None or at in opened:
                break
            self.assertEqual(judged.next.why, "unopened")
            opened[at] = measured(QUIET, position=at, bearing_play_mm=0.01)
        unopened = sum(odds for _c, p, odds in judged.weighed.hypotheses if p in set(wheels) - set(opened))
        self.assertGreaterEqual(len(opened), 2)
        self.assertLessEqual(unopened, 0.5)
        driven = judge_vehicle(wheels, [], complaint=Complaint(after_work="gone"), vehicle=facts, shop=Shop())
        self.assertIsNone(driven.next.check)

    def test_nothing_more_is_read_of_a_disc_as_it_came_in_once_it_was_worked_on(self) -> None:
        (corner,) = [diagnose_corner(corner_of(FIRST, position="F"))]
        told = {"complaint": Complaint(felt_in=("pedal",)), "vehicle": VehicleFacts(kind="motorcycle"), "shop": SHOP}
        of_the_disc = {"turn_rotor_and_sweep", "measure_thickness", "repeat_sweep", "clean_and_sweep"}
        self.assertIn(judge_vehicle(("F",), [corner], **told).next.check, of_the_disc)
        checks = judge_vehicle(("F",), [corner], worked=("F",), **told).weighed.checks
        self.assertLessEqual({check.check for check in checks if check.position}, BESIDE)

    def test_an_empty_case_is_answered(self) -> None:
        verdict = diagnose(Case(corners=()))
        self.assertEqual((verdict.corners, verdict.plans, verdict.advice.code), ((), (), "next_check"))


class BothSides(TestCase):
    """An axle is planned alike from either side."""

    @settings(max_examples=12)
    @given(st.floats(0.0, 0.16), st.floats(0.0, 0.16), st.floats(0.0, 0.05), st.sampled_from(sorted(POLICIES)))
    def test_left_and_right_may_be_named_in_either_order(
        self, left: float, right: float, rotor: float, policy: str
    ) -> None:
        truths = [replace(HUB_OVER, hub=vector(tir, 60.0), rotor=vector(rotor, 200.0)) for tir in (left, right)]
        sides = [measured(truth, position=p) for truth, p in zip(truths, ("FL", "FR"), strict=True)]
        plans = []
        for order in (sides, sides[::-1]):
            chosen, _ = choose([diagnose_corner(corner) for corner in order], shop=replace(SHOP, policy=policy))
            plan = plan_axle(chosen, policy=policy)
            plans.append((dict(sorted(plan.remedies.items())), round(plan.price, 6)))
            metal = {kind_of_metal(code) for code in plan.remedies.values()}
            self.assertEqual(len(metal), 1, plan.remedies)  # rule 7: both cut, both renewed, or neither
            self.assertEqual({axle_of(p) for p in plan.positions}, {"F"})
        self.assertEqual(plans[0], plans[1])

    def test_a_quiet_axle_is_left_alone_under_every_policy(self) -> None:
        corners = [diagnose_corner(measured(QUIET, position=p)) for p in ("FL", "FR")]
        self.assertTrue(all(c.measured.runout.state is State.WITHIN for c in corners))
        for policy in POLICIES:
            chosen, plans = choose(corners, shop=replace(SHOP, policy=policy))
            self.assertEqual(set(plans[0].remedies.values()), {"none"}, policy)
            self.assertEqual({c.recommended for c in chosen}, {"none"})
