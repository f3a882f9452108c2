"""What is typed on a tape."""

from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext

from jobs.judging import judge
from jobs.measure.actions import Entry, NothingToUndoError, undo, unread, zero_on_lowest
from jobs.models import Job, Sweep
from jobs.prepare.actions import add_turn
from jobs.record.trail import changes_of
from jobs.tests.base import READINGS, THICKNESS, Workshop, entry, fill, type_reading


class Typing(Workshop):
    """The reading tape."""

    def test_a_whole_entry_gives_the_verdict_of_the_core(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        self.sweep.refresh_from_db()
        self.corner.refresh_from_db()
        self.assertEqual(self.sweep.typed, READINGS)
        self.assertAlmostEqual(self.sweep.readings_mm[6], 0.11)
        verdict = self.corner.verdict
        self.assertEqual((verdict["runout"]["state"], verdict["thickness"]["state_variation"]), ("over", "over"))
        self.assertAlmostEqual(judge(self.corner).verdict.measured.runout.tir.value_mm, 0.111, delta=0.003)
        self.assertEqual(Job.objects.get(pk=self.job.pk).state, Job.State.OPEN)

    def test_the_job_of_a_tape_is_found_without_a_walk_over_the_corners_of_all_jobs(self) -> None:
        with CaptureQueriesContext(connection) as asked:
            type_reading(self.user, self.sweep, entry(0, "5"))
        locking = [row["sql"] for row in asked.captured_queries if "FOR UPDATE" in row["sql"]]
        self.assertTrue(locking)
        self.assertEqual([sql for sql in locking if 'JOIN "jobs_corner"' in sql], [])

    def test_unreadable_text_is_kept_as_typed_and_does_not_count(self) -> None:
        fill(self.user, self.sweep, READINGS)
        for text, code in (
            ("1o", "unknown_unit"),
            ("1.2.3", "two_points"),
            ("abc", "letters"),
            ("1000 mm", "too_large"),
        ):
            with self.subTest(text=text):
                tape, _outcome = type_reading(self.user, self.sweep, entry(3, text, number=100))
                self.assertEqual({slot: error.code for slot, error in unread(tape).items()}, {3: code})
                self.sweep.refresh_from_db()
                self.assertEqual((self.sweep.typed[3], self.sweep.readings_mm[3]), (text, None))
        tape, _outcome = type_reading(self.user, self.sweep, entry(3, "2,5", number=101))
        self.assertEqual(unread(tape), {})

    def test_a_disc_of_no_thickness_is_no_reading(self) -> None:
        for text, code in (("0", "zero"), ("0.00", "zero"), ("-26.4", "negative")):
            with self.subTest(text=text):
                tape, _outcome = type_reading(self.user, self.round, entry(3, text, number=100))
                self.assertEqual(({slot: error.code for slot, error in unread(tape).items()}), {3: code})
        self.assertEqual(type_reading(self.user, self.sweep, entry(3, "0"))[0].readings_mm[3], 0.0)

    def test_the_same_edit_twice_or_late_changes_nothing(self) -> None:
        type_reading(self.user, self.sweep, entry(0, "5", number=7))
        rows = self.sweep.history.count()
        for late in (entry(0, "5", number=7), entry(0, "4", number=3)):
            tape, outcome = type_reading(self.user, self.sweep, late)
            self.assertEqual((tape.typed[0], outcome.kind), ("5", "stored" if late.number == 7 else "superseded"))
        self.assertEqual(self.sweep.history.count(), rows + 1)  # a repeated final edit only closes the undo step
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed.count("5"), 1)

    def test_two_people_in_one_cell(self) -> None:
        type_reading(self.user, self.sweep, entry(0, "5", client="one"))
        _tape, outcome = type_reading(self.trainee, self.sweep, entry(0, "6", client="two"))
        self.assertEqual((outcome.kind, outcome.theirs), ("conflict", "5"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "5")
        type_reading(self.trainee, self.sweep, entry(0, "6", client="two", was="5", number=2))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "6")

    def test_a_key_that_agrees_on_its_way_takes_no_cell_over(self) -> None:
        type_reading(self.user, self.sweep, entry(0, "5", client="one"))
        on_its_way = Entry(0, "5", "two", 1, was="", final=False)
        self.assertEqual(type_reading(self.trainee, self.sweep, on_its_way)[1].kind, "stored")
        _tape, outcome = type_reading(self.trainee, self.sweep, entry(0, "5.5", client="two", number=2))
        self.assertEqual((outcome.kind, outcome.theirs), ("conflict", "5"))

    def test_an_edit_that_goes_on_from_an_unsent_one_is_no_strangers(self) -> None:
        type_reading(self.user, self.sweep, entry(0, "1", client="before the reload", number=90))
        on = Entry(0, "12", "after it", 1, was="", final=True, heirs=("before the reload",))
        tape, outcome = type_reading(self.user, self.sweep, on)  # a smaller number: no clock is asked
        self.assertEqual((tape.typed[0], outcome.kind), ("12", "stored"))
        late = entry(0, "1", client="before the reload", number=91)
        self.assertEqual(type_reading(self.user, self.sweep, late)[1].kind, "conflict")

    def test_keystrokes_in_one_cell_are_one_step_to_undo(self) -> None:
        type_reading(self.user, self.sweep, entry(0, "3", number=1))
        for number, text in enumerate(("1", "10", "10.", "10.5"), start=2):
            type_reading(self.user, self.sweep, entry(1, text, number=number, final=False))
        type_reading(self.user, self.sweep, entry(1, "10.5", number=9))
        self.assertEqual(undo(self.user, self.sweep).tape.typed[:2], ["3", ""])
        self.assertEqual(undo(self.user, self.sweep).tape.typed[:2], ["", ""])
        with self.assertRaises(NothingToUndoError):
            undo(self.user, self.sweep)

    def test_zero_on_the_lowest_and_back(self) -> None:
        fill(self.user, self.sweep, ["3", "−2", "0.5", "", "4"])
        tape = zero_on_lowest(self.user, self.sweep).tape
        self.assertEqual(tape.typed[:5], ["5", "0", "2.5", "", "6"])
        self.assertEqual(undo(self.user, self.sweep).tape.typed[:5], ["3", "−2", "0.5", "", "4"])

    def test_another_turn_is_laid_out_once(self) -> None:
        fill(self.user, self.sweep, READINGS)
        turn = add_turn(self.user, self.sweep)
        self.assertEqual((turn.set_up, turn.slots, turn.is_empty), (self.sweep.set_up, 11, True))
        self.assertEqual(add_turn(self.user, self.sweep), turn)

    def test_the_audit_trail_names_who_typed_what(self) -> None:
        fill(self.trainee, self.sweep, READINGS[:2])
        newest = changes_of(self.job)[0]
        self.assertEqual((newest["who"], newest["where"].position), (self.trainee, "FL"))
        self.assertTrue(newest["typed"].startswith("1.5 · 0"))

    def test_the_database_refuses_a_crooked_tape(self) -> None:
        with self.assertRaises(IntegrityError), transaction.atomic():
            Sweep.objects.filter(pk=self.sweep.pk).update(readings_mm=[None])
