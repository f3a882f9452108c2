"""What sits beside the discs: found or likely, seen to, driven, and out of the weighing where it is still felt."""

from dataclasses import replace
from unittest import TestCase

from jsonschema import Draft202012Validator

from compass.cause.causes import Cause
from compass.diagnose import Verdict, diagnose
from compass.evidence.complaint import Complaint, MendedBeside, VehicleFacts
from compass.evidence.records import Case, Corner, Pads
from compass.files.read_case import case_from_data, schema
from compass.files.write_case import case_to_data
from compass.files.write_verdict import verdict_to_data
from compass.ground.errors import FaultyFileError
from compass.judge.vehicle import Judgement
from compass.tests.test_separation import EVEN
from compass.tests.test_sweep import sweep_of, wave
from compass.tests.test_visits import FULL

QUIET = tuple(
    Corner(p, FULL, (sweep_of(wave(10, (0.01, 60.0))),), thickness=EVEN, bearing_play_mm=0.01)
    for p in ("FL", "FR", "RL", "RR")
)
STUCK = replace(QUIET[0], pads=Pads((3.0, 3.1), (7.0,)), seen=frozenset({"slides_seized"}))
SLIDES = MendedBeside("caliper_or_slides", "FL")


def case_of(first: Corner = STUCK, *, others: tuple[Corner, ...] = QUIET[1:], **told: object) -> Case:
    story = Complaint(felt_in=("steering_wheel",), when=("braking",), **told)
    return Case((first, *others), vehicle=VehicleFacts(kind="car"), complaint=story)


def verdict_of(first: Corner = STUCK, **told: object) -> Verdict:
    return diagnose(case_of(first, **told))


def judged(first: Corner = STUCK, **told: object) -> Judgement:
    return verdict_of(first, **told).judged


class BesideTheDiscs(TestCase):
    """From a seized slide to the drive that shows whether it was that."""

    def test_what_was_found_is_seen_to_first_and_then_driven(self) -> None:
        found = verdict_of()
        beside = [(b.cause, b.position, b.found_at) for b in found.judged.beside_discs]
        self.assertEqual(beside, [(Cause.CALIPER, "FL", ("FL",))])
        self.assertEqual((found.judged.next.check, found.judged.next.why), (None, "beside"))
        self.assertEqual(
            (found.judged.troubled, found.advice.code), ((), "beside_found")
        )  # no disc is to be chosen for
        mended = judged(mended_beside=(SLIDES,))
        self.assertEqual((mended.beside_discs, mended.next.why), ((), "mended_beside"))
        self.assertEqual(mended.weighed.causes, found.judged.weighed.causes)  # it may well have been that
        gone = judged(mended_beside=(replace(SLIDES, driven=True),), after_work="gone")
        self.assertEqual((gone.next.check, gone.next.why), (None, "nothing_left"))
        self.assertEqual(gone.root_causes["FL"], "caliper_or_slides")

    def test_still_felt_after_it_was_driven_it_is_out_and_what_was_found_speaks_for_nothing(self) -> None:
        driven = {"mended_beside": (replace(SLIDES, driven=True),), "after_work": "same"}
        left = judged(**driven)
        self.assertEqual(dict(left.weighed.at_corner("FL"))[Cause.CALIPER], 0.0)
        self.assertEqual(left.beside_discs, ())
        even = judged(replace(QUIET[0], pads=Pads((7.0, 7.0), (7.0,))), **driven)
        for cause in (Cause.DEPOSIT, Cause.WORN):  # uneven pads would speak for the one, seized slides for no other
            self.assertLess(dict(left.weighed.causes)[cause], 1.3 * dict(even.weighed.causes)[cause])
        again = judged(mended_beside=(SLIDES,), after_work="same")  # seen to after that drive: driven once more
        self.assertEqual(again.next.why, "mended_beside")
        self.assertGreater(dict(again.weighed.at_corner("FL"))[Cause.CALIPER], 0.5)

    def test_a_disc_that_is_to_be_worked_on_waits_for_what_sits_beside_it(self) -> None:
        bad = tuple(sweep_of(wave(10, (0.15, at)), index_deg=turned) for at, turned in ((60.0, 0.0), (240.0, 180.0)))
        both = replace(STUCK, sweeps=bad)
        self.assertEqual((judged(both).next.why, judged(both).troubled), ("beside", ("FL",)))
        mended = judged(both, mended_beside=(SLIDES,))
        self.assertEqual((mended.next.check, mended.next.why, mended.troubled), (None, "nothing_left", ("FL",)))

    def test_what_is_only_likely_is_let_be_where_nothing_is_felt_any_more(self) -> None:
        hard = {"braking": ("hard",), "road_test": "not at wheel order"}
        likely = judged(QUIET[0], **hard)
        self.assertEqual([b.cause for b in likely.beside_discs], [Cause.ABS])
        self.assertEqual((likely.beside_discs[0].found_at, likely.next.why), ((), "beside"))
        self.assertEqual(judged(QUIET[0], **hard, after_work="gone").beside_discs, ())
        # A kick that somebody saw is no defect; a damaged tyre is one, whatever shakes.
        self.assertEqual(judged(replace(QUIET[0], seen=frozenset({"abs_active"})), after_work="gone").beside_discs, ())
        worn = judged(replace(QUIET[0], seen=frozenset({"tyre_damage"})), after_work="gone")
        self.assertEqual([(b.cause, b.position, b.found_at) for b in worn.beside_discs], [(Cause.TYRE, None, ("FL",))])

    def test_work_on_a_guess_waits_for_a_look_at_every_wheel_that_is_off(self) -> None:
        looked = [replace(corner, pads=Pads((7.0, 7.0), (7.0,))) for corner in QUIET]
        for shut in range(5):
            corners = (*looked[shut:], *QUIET[:shut])
            found = diagnose(case_of(corners[0], others=corners[1:], braking=("hard",), heat="same")).judged
            cause, odds = found.weighed.causes[0]
            self.assertEqual((cause, odds < 0.5), (Cause.ABS, True))
            said = (found.next.check, found.next.why)
            self.assertEqual(said, ("inspect_pads_and_slides", "before_a_guess") if shut else (None, "beside"))
            self.assertIn(found.next.position, [corner.position for corner in QUIET[:shut]] if shut else [None])

    def test_files_carry_it_and_say_where_it_cannot_be(self) -> None:
        case = case_of(mended_beside=(replace(SLIDES, driven=True), MendedBeside("tyre_or_wheel")), after_work="less")
        data = case_to_data(case)
        self.assertEqual(case_from_data(data).complaint, case.complaint)
        for wrong in ({"cause": "caliper_or_slides"}, {"cause": "tyre_or_wheel", "position": "FL"}):
            data["complaint"]["mended_beside"] = [wrong]
            with self.subTest(wrong=wrong), self.assertRaises(FaultyFileError) as refused:
                case_from_data(data)
            self.assertIn("complaint.mended_beside[0]", str(refused.exception))
        file = verdict_to_data(verdict_of())
        self.assertEqual([*Draft202012Validator(schema("verdict-1")).iter_errors(file)], [])
        self.assertEqual(file["vehicle"]["beside_discs"][0]["found_at"], ["FL"])
