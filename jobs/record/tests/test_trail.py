"""Who changed what: every kind of change is told in words."""

from django.utils import timezone

from compass.ground.units import Unit
from jobs.bays.actions import book, give_up
from jobs.choose.actions import decide
from jobs.complaint.actions import edit_job, keep_story
from jobs.do.actions import fit_plate
from jobs.measure.actions import add_quick, strike_tape, withdraw_quick
from jobs.measure.looking import write_look
from jobs.models import Job, Run, RunStep
from jobs.prove.actions import close_job, reopen_job
from jobs.record.trail import changes_of
from jobs.tests.base import READINGS, DemoShop, Workshop, fill
from workshop.tests.base import person

QUICK = {"surface": "rotor_outboard", "radius_mm": 138.0, "index_deg": 0.0, "cleaned": True, "nuts_torqued": True}


class Trail(Workshop):
    """One job, from opening to opening again."""

    def told(self) -> list[str]:
        rows = changes_of(Job.objects.get(pk=self.job.pk), user=self.user)
        self.assertEqual(rows, sorted(rows, key=lambda row: row["at"], reverse=True))
        for row in rows:
            self.assertIsNotNone(row["who"], row)
        return [f"{row['where']} {row['what']}: {row['typed']}".strip() for row in rows]

    def test_words_distances_people_and_stories(self) -> None:
        other = person("technician", "okoro")
        edit_job(
            self.user,
            self.job,
            version=1,
            complaint="Shakes at 90",
            odometer_km=84_300,
            assigned_to=other,
            state="waiting",
        )
        keep_story(self.user, self.job, {"felt_in": ["seat"]})
        told = self.told()
        self.assertEqual(told[0], "what the driver tells:")
        self.assertIn("booked → waiting for parts", told[1])
        for words in ("complaint", "odometer", "who has it", "Shakes at 90", "84,210 km → 84,300 km", str(other)):
            self.assertIn(words, told[1])
        self.assertIn("opened: Shakes", told[-1])

    def test_readings_looks_and_bookings_given_and_taken_back(self) -> None:
        fill(self.user, self.sweep, READINGS[:2])
        strike_tape(self.user, self.sweep, struck=True)
        quick = add_quick(
            self.user, self.corner, typed="9", unit=Unit.DIVISION, graduation_mm=0.01, high_deg=216.0, **QUICK
        )
        withdraw_quick(self.user, quick, withdrawn=True)
        write_look(self.user, self.corner, figures={"bearing_play": ("", "0.02")}, seen={"cracked": True})
        write_look(self.user, self.corner, seen={"cracked": False}, reason="a scratch")
        booking = book(self.user, self.job, place="bay_1", starts_at=timezone.now(), minutes=30)
        give_up(self.user, booking)
        told = self.told()
        self.assertIn("bay 1 given up", told[0])
        self.assertIn("bay 1 taken", told[1])
        self.assertEqual(told[2], "Front left no longer seen: a crack or missing metal: a scratch:")
        self.assertEqual(told[3], "Front left seen: a crack or missing metal:")
        self.assertEqual(told[4], "Front left Bearing end play: 0.02 (mm)")
        self.assertIn("Front left quick reading struck out: 9 · stud 4", told[5])
        self.assertIn("Front left quick reading: 9 · stud 4", told[6])
        self.assertIn("Front left struck out", told[7])
        self.assertIn("Front left station 2: 1.5 · 0", told[8])

    def test_closing_and_opening_again(self) -> None:
        close_job(self.user, self.job, reason="Sold", found_cause="rotor_runout")
        reopen_job(self.user, self.job, reason="bought back")
        told = self.told()
        self.assertIn("closed → in the bay", told[0])
        self.assertIn("bought back", told[0])
        self.assertIn("booked → closed; cause: Sold · the rotor runs out", told[1])


class OfTheDemo(DemoShop):
    """Decisions and plates."""

    def test_a_decision_and_its_plate(self) -> None:
        decide(self.user, self.van, "F", code="plate")
        fit_plate(self.user, self.van, "FL")
        told = [(str(row["where"]), row["what"]) for row in changes_of(self.van)[:2]]
        self.assertEqual(told, [("Front left", "plate fitted"), ("F", "decided")])

    def test_a_step_is_told_with_the_figures_it_was_done_by(self) -> None:
        decide(self.user, self.van, "F", code="plate")
        run = Run.objects.create(job=self.van, plan={}, started_by=self.user)
        told = {"plate": 0.05, "plate_place": 108.0}
        key = "plate:1:plate_place"
        RunStep.objects.create(run=run, position="FL", key=key, said=told, done_by=self.user)
        RunStep.objects.create(run=run, position="FL", key=key, passed=False, done_by=self.user)
        bare, full = (row["what"] for row in changes_of(self.van, user=self.user)[:2])
        self.assertIn("0.050 mm", full)
        self.assertIn("stud", full)
        self.assertIn("…", bare)
        self.assertNotIn("{", full + bare)
