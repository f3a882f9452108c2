"""Hub, rotor, joint and metal as draws, and what each remedy makes of them: by hand where a hand can."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from compass.cause.corner import diagnose_corner
from compass.choose.remedies import cutting, leaving, plating, replacing, turning
from compass.choose.remedies.corner_draws import ANGLES_DEG, Metal, draw_corner, ranges, ranges_about, trace_mm
from compass.choose.remedies.part_draws import ROWS, draw_parts
from compass.evidence.shop import Plate
from compass.ground.angles import vector
from compass.measure.separation import VectorEvidence
from compass.tests.corners import HUB_OVER, LATHES, PLATES, QUIET, SHOP, SPEC, measured
from compass.tests.test_separation import seen

HUB, ROTOR = vector(0.09, 70.0), vector(0.03, 200.0)


def draws_of(*args, **options):
    return draw_corner(diagnose_corner(measured(*args, **options)).measured)


class Parts(TestCase):
    """What all evidence and ordinary experience say together."""

    @settings(max_examples=10)
    @given(
        st.floats(0, 0.2),
        st.floats(0, 359),
        st.floats(0, 0.1),
        st.floats(0, 359),
        st.sampled_from([72.0, 144.0, 180.0]),
    )
    def test_two_indices_leave_hub_and_rotor_only_their_seating(self, h, at, r, to, index) -> None:
        hub, rotor = vector(h, at), vector(r, to)
        parts = draw_parts([seen(hub, rotor, 0.0), seen(hub, rotor, index)])
        for drawn, truth in ((parts.hub, hub), (parts.rotor, rotor)):
            self.assertLess(abs(drawn.mean() - truth), 0.006)
        # Whatever is doubtful of the two, their sum was seen.
        self.assertLess(np.std(parts.hub + parts.rotor), 0.01)

    def test_one_index_leaves_the_sum_known_and_the_share_open(self) -> None:
        parts = draw_parts([seen(HUB, ROTOR, 0.0)])
        self.assertLess(abs((parts.hub + parts.rotor).mean() - HUB - ROTOR), 0.004)
        self.assertGreater(parts.hub.std(), 4 * (parts.hub + parts.rotor).std())
        self.assertIsNone(parts.joint)

    def test_nothing_seen_is_ordinary_experience(self) -> None:
        parts = draw_parts([])
        self.assertEqual(parts.hub.shape, (ROWS,))
        self.assertLess(abs(parts.hub.mean()), 0.003)
        self.assertGreater(np.quantile(2 * np.abs(parts.hub), 0.95), 0.06)

    def test_only_dirty_evidence_keeps_a_joint_of_its_own(self) -> None:
        dirty = VectorEvidence(True, True, 0.0, vector(0.2, 40.0), np.eye(2) * 1e-8, before="dirt", mounting="a")
        parts = draw_parts([dirty])
        self.assertIsNotNone(parts.joint)
        whole = parts.hub + parts.rotor + parts.joint
        self.assertLess(abs(whole.mean() - vector(0.2, 40.0)), 0.005)
        clean = draw_parts([dirty, seen(HUB, ROTOR, 0.0)])
        self.assertIsNone(clean.joint)


class Ranges(TestCase):
    """The range of a wobble beside a shape."""

    @settings(max_examples=20)
    @given(st.floats(0.0, 0.2), st.floats(0, 359), st.floats(0.0, 0.05))
    def test_against_every_angle(self, tir: float, at: float, saddle: float) -> None:
        shape = saddle / 2 * np.cos(np.radians(2 * ANGLES_DEG))
        first = np.array([vector(tir, at)])
        curve = np.real(first * np.exp(-1j * np.radians(ANGLES_DEG))) + shape
        self.assertAlmostEqual(ranges_about(first, shape)[0], np.ptp(curve), places=6)
        self.assertAlmostEqual(ranges(first, None)[0], tir, places=9)
        np.testing.assert_allclose(trace_mm(first, shape[:, None]), curve, atol=1e-6)


class Remedies(TestCase):
    """One module a remedy."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.draws = draws_of()
        cls.quiet = draws_of(QUIET)

    def test_leaving_is_what_was_swept_and_cleaning_moves_only_the_seat(self) -> None:
        stays, clean = leaving.nothing(self.draws), leaving.clean_and_torque(self.draws)
        truth = np.abs(HUB_OVER.hub + HUB_OVER.rotor) * 2
        self.assertAlmostEqual(np.median(stays.runout_mm), truth, delta=0.003)
        self.assertAlmostEqual(np.median(clean.runout_mm), truth, delta=0.004)
        self.assertGreater(clean.runout_mm.std(), stays.runout_mm.std())

    def test_turning_reckons_every_allowed_index_and_never_the_forbidden(self) -> None:
        options = turning.index_options(self.draws)
        self.assertEqual({o.index_deg for o in options}, {0.0, 72.0, 144.0, 216.0, 288.0})
        for option in options:
            by_hand = 2 * abs(HUB_OVER.hub + HUB_OVER.rotor * np.exp(1j * np.radians(option.index_deg)))
            self.assertAlmostEqual(option.runout_mm[1], by_hand, delta=0.004)
        fixed = draws_of(spec=replace(SPEC, index_positions=(0.0, 144.0)))
        self.assertEqual(turning.other_positions(fixed), (144.0,))
        self.assertIsNone(turning.index(draws_of(spec=replace(SPEC, index_positions=(0.0,)))))

    def test_a_plate_takes_out_what_its_taper_says_where_it_stands(self) -> None:
        plate = Plate(0.1, 140.0, 10, 5)
        self.assertAlmostEqual(abs(plating.tilt(plate, 36.0, radius_mm=140.0)), 0.05)
        self.assertAlmostEqual(abs(plating.tilt(plate, 36.0, radius_mm=70.0)), 0.025)
        self.assertAlmostEqual(np.degrees(np.angle(plating.tilt(plate, 36.0, radius_mm=140.0))), 36.0)
        best = plating.plate(self.draws, SHOP)
        taken = plating.tilt(
            next(p for p in PLATES if p.correction_mm == best.settings["plate_mm"]),
            best.settings["plate_deg"],
            radius_mm=SPEC.measuring_radius_mm,
        )
        turn = np.exp(1j * np.radians(best.settings["index_deg"]))
        left = 2 * abs(HUB_OVER.hub - taken + HUB_OVER.rotor * turn)
        self.assertAlmostEqual(np.median(best.runout_mm), left, delta=0.006)
        kit = plating.best_of_kit(np.full(64, vector(0.1, 36.0)), (plate,), radius_mm=140.0)
        self.assertLess(np.median(kit), 0.002)
        self.assertIsNone(plating.plate(self.draws, replace(SHOP, plates=())))

    def test_a_cut_pays_for_both_planes(self) -> None:
        # A face tilted by 0.1 mm TIR on a disc of even 26 mm, on a lathe that is true: T − 0.1 − 2 × clean-up.
        orders = np.zeros((ROWS, 16))
        orders[:, 0] = 0.05
        even = np.full((ANGLES_DEG.size, ROWS), 26.0, dtype=np.float32)
        metal = Metal(np.array([140.0]), (even,), np.full(ROWS, 26.0))
        rotor = cutting.blank(orders, metal, radius_mm=140.0, left_mm=np.zeros(ROWS))
        made = rotor.cut(0.05)
        np.testing.assert_allclose(made.least_mm, 26.0 - 0.1 - 0.1, atol=1e-4)
        np.testing.assert_allclose(made.out_mm, 0.15, atol=1e-4)
        np.testing.assert_allclose(rotor.least_after_mm(0.15, 0.15), made.least_mm, atol=1e-4)
        np.testing.assert_allclose(rotor.least_after_mm(0.0, 0.0), 26.0, atol=1e-4)
        # At half the radius the tilt is half as much: a band that reaches further in costs no more.
        wide = cutting.blank(orders, Metal(np.array([70.0, 140.0]), (even, even), metal.least_mm), radius_mm=140.0,
                             left_mm=np.zeros(ROWS))  # fmt: skip
        np.testing.assert_allclose(wide.cut(0.05).least_mm, made.least_mm, atol=1e-4)

    def test_matched_leaves_the_lathes_and_bench_leaves_the_hubs(self) -> None:
        matched, bench = cutting.on_vehicle(self.draws, LATHES[0]), cutting.bench(self.draws, LATHES[1])
        self.assertAlmostEqual(np.median(matched.runout_mm), LATHES[0].runout_left_mm, delta=0.001)
        self.assertAlmostEqual(np.median(bench.runout_mm), 2 * abs(HUB_OVER.hub), delta=0.004)
        self.assertLess(np.median(matched.least_mm), np.median(bench.least_mm))
        self.assertIsNone(cutting.on_vehicle(draws_of(thickness=False), LATHES[0]).least_mm)

    def test_new_rotors_stand_on_the_old_hub_and_a_new_hub_under_the_old_rotor(self) -> None:
        new, indexed = replacing.new_rotors(self.draws), replacing.new_indexed(self.draws)
        hub = 2 * abs(HUB_OVER.hub)
        self.assertAlmostEqual(np.median(new.runout_mm), hub, delta=0.006)
        self.assertLess(new.runout_mm.max(), hub + replacing.NEW_ROTOR_MM + 0.03)
        self.assertLess(np.median(indexed.runout_mm), np.median(new.runout_mm))
        unit = replacing.hub_unit(self.draws)
        self.assertLess(np.median(unit.runout_mm), 2 * abs(HUB_OVER.rotor) + replacing.NEW_HUB_MM)
        matched = replacing.new_matched(self.quiet, LATHES[0])
        self.assertLess(np.median(matched.least_mm), SPEC.nominal_thickness_mm - 2 * LATHES[0].min_depth_mm)
        self.assertIsNone(replacing.new_plated(self.draws, replace(SHOP, plates=())))
