"""What is remembered and what is kept: an answer is asked once, a kept judgement is read as it was written."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from compass.cause.corner import diagnose_corner
from compass.evidence.complaint import Complaint, VehicleFacts
from compass.evidence.shop import Shop
from compass.judge.next_step import NextStep
from compass.judge.vehicle import judge_vehicle
from compass.tests.corners import HUB_OVER, QUIET, measured
from jobs.kept import KeptCorner, KeptJob
from jobs.remembered import Remembered, digest

STATES = st.sampled_from(["within", "over", "too_close", "unknown"])


class Remembering(TestCase):
    """Pure functions, worked out once."""

    def test_an_answer_is_worked_out_once_for_its_evidence_and_the_oldest_is_forgotten_first(self) -> None:
        asked: list[int] = []
        double = Remembered(lambda n: asked.append(n) or 2 * n, most=2)
        self.assertEqual([double(3), double(3), double(4), double(3), double(5), double(4)], [6, 6, 8, 6, 10, 8])
        self.assertEqual(asked, [3, 4, 5, 4])
        self.assertEqual(double(99, name="three"), 198)
        self.assertEqual(double(7, name="three"), 198)  # the name is the evidence
        double.forget()
        self.assertEqual(double(7, name="three"), 14)

    def test_evidence_that_differs_in_one_reading_has_another_name(self) -> None:
        corner = measured(HUB_OVER)
        sweep = corner.sweeps[0]
        moved = sweep.readings_mm.copy()
        moved[3] += 1e-6
        other = replace(corner, sweeps=(replace(sweep, readings_mm=moved), *corner.sweeps[1:]))
        self.assertEqual(digest(corner), digest(measured(HUB_OVER)))
        self.assertNotEqual(digest(corner), digest(other))
        self.assertNotEqual(digest(corner), digest(replace(corner, position="FR")))


class Keeping(TestCase):
    """Typed records over JSON columns."""

    @given(
        st.builds(
            KeptCorner,
            root_cause=st.sampled_from(["none_found", "rotor_runout", "not_separable"]),
            do_not_drive=st.booleans(),
            runout=STATES,
            variation=STATES,
            high_deg=st.one_of(st.none(), st.floats(0, 359.9)),
            min_mm=st.one_of(st.none(), st.floats(5, 40)),
            min_expanded_mm=st.floats(0.001, 1.0),
            evidence=st.text("0123456789abcdef", min_size=4, max_size=64),
        )
    )
    def test_a_corner_is_read_as_it_was_kept(self, kept: KeptCorner) -> None:
        self.assertEqual(KeptCorner.read(kept.data()), kept)

    def test_what_was_never_measured_or_kept_by_an_earlier_version_is_read_too(self) -> None:
        self.assertIsNone(KeptCorner.read({}))
        old = KeptCorner.read({"root_cause": "rotor_runout", "runout": {"state": "over"}, "words": "long ago"})
        self.assertEqual((old.runout, old.variation, old.do_not_drive, old.evidence), ("over", "unknown", False, ""))
        self.assertEqual(KeptJob.read({}).step, NextStep(None, None, "unjudged"))

    def test_a_judgement_is_read_as_it_was_kept(self) -> None:
        corners = [diagnose_corner(measured(HUB_OVER)), diagnose_corner(measured(QUIET, position="FR"))]
        judged = judge_vehicle(
            ("FL", "FR", "RL", "RR"), corners, complaint=Complaint(), vehicle=VehicleFacts(kind="van"), shop=Shop()
        )
        kept = KeptJob.of(judged, evidence="abc")
        self.assertEqual(KeptJob.read(kept.data()), kept)
        self.assertEqual(kept.troubled[0], "FL")
        self.assertIn("RL", {position for position, _what in kept.holes})
        for corner in corners:
            one = KeptCorner.of(corner, root_cause=judged.root_causes[corner.position], evidence="abc")
            self.assertEqual(one.clear, corner.position == "FR")
