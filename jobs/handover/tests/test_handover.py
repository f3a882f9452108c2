"""A closed job hands its record over: what came, sheets and files, when to look again, whether it came back."""

from datetime import timedelta
from io import BytesIO

from django.db import IntegrityError, transaction
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar
from openpyxl import load_workbook
from pypdf import PdfReader

from compass.evidence.shop import Shop
from compass.prove.check_back import check_back
from compass.prove.proof import Came
from compass.words.owner import DONE, FOUND, SO_FAR
from jobs.choose.actions import decide, withdraw
from jobs.do.running import next_episode
from jobs.floor.actions import open_job
from jobs.handover.actions import AnsweredError, SeenAgainError, ring, say_comeback
from jobs.measure.looking import write_look
from jobs.models import Closing, Corner, CornerWorked, Job, RunStep
from jobs.prepare.actions import start_sweep
from jobs.prove.actions import close_job, reopen_job
from jobs.prove.closing import minutes_of
from jobs.prove.tests.test_proving import OVER, TRUE, AfterWork
from jobs.tests.base import SET_UP, fill
from jobs.vehicle.past import daily_km
from workshop.models import Learned, User
from workshop.tests.base import client_of, work_done


class HandedOver(AfterWork):
    """A van that got its plate, was measured and is closed."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls("worked").worked()  # once for all: some thirty steps

    def close(self, readings: list[str] = TRUE, *, reason: str = "") -> Closing:
        """Measure the corner after its work, and close the job."""
        self.sweep(readings)
        Corner.objects.filter(job=self.van, position__in=("RL", "RR")).delete()
        close_job(self.user, self.van, reason=reason, found_cause="hub_face_runout")
        return Closing.objects.get(job=self.van, stands=True)

    def back(self, km: int) -> Job:
        """Bring the van back after a distance."""
        odometer_km = Job.objects.get(pk=self.van.pk).odometer_km + km
        return open_job(self.user, self.van.vehicle, complaint="It is back.", odometer_km=odometer_km)

    def test_a_closing_keeps_what_was_foretold_and_what_came(self) -> None:
        closing = self.close()
        worked = closing.works.get()
        self.assertTrue(closing.proven)
        self.assertEqual((worked.position, worked.remedy, worked.came), ("FL", "plate", Came.INSIDE))
        self.assertTrue(worked.within and worked.leads and worked.spared)
        self.assertAlmostEqual(worked.runout_mm, 0.02, delta=0.005)
        self.assertAlmostEqual(worked.runout_before_mm, 0.09, delta=0.02)
        self.assertGreater(worked.hub_mm, 4 * worked.rotor_mm)
        self.assertEqual(
            worked.plate.correction_mm, self.doing(self.van).sides["FL"].decision.settings["FL"]["plate_mm"]
        )
        self.assertEqual((worked.done_by, worked.decided_by.username), (self.user, "okoro"))
        self.assertEqual(worked.seating, [], "two indices leave nothing over to say how rotors seat")
        self.assertEqual(closing.judged_by["growth_mm"], 0.04)
        self.assertEqual({len(every) for every in closing.part_minutes.values()}, {1})
        self.assertLessEqual({"lift", "opening", "plate"}, closing.part_minutes.keys())
        self.assertContains(
            self.page("complaint", self.van.pk), "Judged by: growth 0.040 over a quiet runout of 30.0 µm"
        )

    def test_opened_again_its_closing_is_set_aside_and_kept(self) -> None:
        first = self.close()
        reopen_job(self.user, self.van, reason="a reading was wrong")
        self.assertFalse(Closing.objects.get(pk=first.pk).stands)
        self.assertFalse(first.works.get().stands)
        self.assertContains(self.page("owner", self.van.pk), "a sheet printed before does not hold any more")
        close_job(self.user, self.van, reason="")
        self.assertEqual([row.stands for row in Closing.objects.filter(job=self.van).order_by("pk")], [False, True])
        self.assertEqual(CornerWorked.objects.filter(closing__job=self.van).count(), 2)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Closing.objects.filter(pk=first.pk).update(stands=True)

    def test_what_was_decided_and_never_begun_is_no_work(self) -> None:
        decide(self.user, self.job, "F", code="on_vehicle_cut")
        close_job(self.user, self.job, reason="The owner sells it.")
        closing = Closing.objects.get(job=self.job)
        self.assertEqual((closing.works.count(), closing.due_on, closing.proven), (0, None, False))
        self.assertNotContains(self.page("complaint", self.job.pk), "look-again date")

    def test_unproven_it_is_closed_by_a_reason_that_stands_on_the_sheet(self) -> None:
        closing = self.close(OVER, reason="Hub unit is ordered.")
        self.assertFalse(closing.proven)
        self.assertFalse(closing.works.get().spared)
        sheet = self.page("owner", self.van.pk)
        self.assertContains(sheet, "Hub unit is ordered.")
        self.assertNotContains(sheet, "What was proven")
        self.assertEqual(closing.works.get().came, Came.WORSE)

    def test_the_owners_sheet_says_what_was_felt_found_done_and_proven_on_one_page(self) -> None:
        open_yet = self.page("owner", self.van.pk)
        self.assertContains(open_yet, "Not closed")
        closing = self.close()
        page = self.page("owner", self.van.pk)
        for words in (
            "shimmies on the brakes",
            "The hub, the part",
            "tapered ring",
            "instead of",
            "in order",
            "proven",
        ):
            self.assertContains(page, words)
        self.assertContains(page, f"{closing.due_on:%Y}")
        self.assertContains(page, "What was typed and not sent by then is not on this sheet.")
        for name in ("owner-pdf", "sheet-pdf"):
            asked = self.client.post(reverse(f"jobs:{name}", args=[self.van.pk]))
            work_done()
            waited = self.client.get(asked["Location"], headers={"HX-Request": "true"})
            paper = self.client.get(waited["HX-Redirect"])
            self.assertEqual(paper["Content-Type"], "application/pdf")
            pages = PdfReader(BytesIO(paper.content)).pages
            self.assertEqual(len(pages), 1, name)
            self.assertIn("Meal van 1", pages[0].extract_text())
        self.assertContains(self.page("sheet", self.van.pk), "Correction plate")
        self.client.logout()
        self.assertEqual(self.page("owner", self.van.pk).status_code, 302)

    def test_the_owner_is_told_no_more_than_was_measured(self) -> None:
        sheet = self.page("owner", self.job.pk)
        self.assertTrue(sheet.context["found"])
        self.assertNotIn(FOUND["none_found"], sheet.context["found"], "its front left is over")
        self.assertEqual(len([row for row in sheet.context["figures"] if row["where"] == "Front left"]), 3)
        self.assertNotContains(sheet, "must not be driven")
        write_look(self.user, self.job.corners.get(position="FL"), seen={"cracked": True})
        self.assertContains(self.page("owner", self.job.pk), "must not be driven")
        decide(self.user, self.job, "F", code="new_rotors", reason="spare")  # both sides, and one of them came in true
        Corner.objects.filter(job=self.job, position="FR").update(verdict=self.van.corners.get(position="FR").verdict)
        self.assertNotIn(FOUND["none_found"], self.page("owner", self.job.pk).context["found"])
        withdraw(self.user, self.job, "F", reason="another day")
        front_left = Corner.objects.filter(job=self.job, position="FL")
        read = front_left.get().verdict
        for state, cause, says in (
            ("over", "not_separable", [FOUND["not_separable"]]),
            ("within", "not_separable", [SO_FAR["uneven"]]),
            ("over", "lug_torque", [FOUND["lug_torque"], SO_FAR["still_over"]]),
        ):
            runout, thickness = read["runout"] | {"state": state}, read["thickness"] | {"state_variation": "over"}
            front_left.update(verdict=read | {"runout": runout, "thickness": thickness, "root_cause": cause})
            self.assertEqual(self.page("owner", self.job.pk).context["found"], says)
        true, read = self.van.corners.get(position="FR").verdict, front_left.get().verdict
        Corner.objects.filter(job=self.job).update(verdict=true)
        front_left.update(episode=1, after=read)  # it came in true, and is over since the work
        self.assertEqual(self.page("owner", self.job.pk).context["found"], [SO_FAR["over_since"]])
        Corner.objects.filter(job=self.job).update(verdict={}, after={}, episode=0)
        self.assertEqual(self.page("owner", self.job.pk).context["found"], [SO_FAR["unmeasured"]])
        kept = self.van.corners.get(position="FR").verdict
        self.assertEqual(kept["runout"]["state"], "within")
        Corner.objects.filter(job=self.job, position="FR").update(verdict=kept)
        self.assertEqual(self.page("owner", self.job.pk).context["found"], [SO_FAR["nothing_over"]])

    def test_the_owner_is_told_of_every_work_that_was_done_and_not_of_the_last_alone(self) -> None:
        self.sweep(OVER)
        at = self.doing(self.van).sides["FL"].decision.settings["FL"]["index_deg"]
        turned = SET_UP | {"index_deg": (at + 144.0) % 360}
        fill(self.user, start_sweep(self.user, self.corner(), stations=10, **turned), OVER[5:10] + OVER[:6])
        decide(self.user, self.van, "F", code="index", setting={"position": "FL", "index_deg": 72.0}, reason="marks")
        (done,) = self.page("owner", self.van.pk).context["done"]
        self.assertEqual(done["words"], [DONE["plate"]])  # the other is decided, and still to be done
        next_episode(self.user, self.corner())
        (done,) = self.page("owner", self.van.pk).context["done"]
        self.assertEqual(done["words"], [DONE["plate"], DONE["index"]])

    def test_files_open_elsewhere(self) -> None:
        closing = self.close()
        entry = next(iter(Calendar.from_ical(self.page("look-again-ics", self.van.pk).content).walk("VEVENT")))
        self.assertEqual((entry.decoded("dtstart"), str(entry["summary"])), (closing.due_on, "Look again: Meal van 1"))
        sheet = load_workbook(BytesIO(self.page("readings-xlsx", self.van.pk).content)).active
        rows = list(sheet.values)
        text = self.page("readings-csv", self.van.pk).content.decode().splitlines()
        self.assertEqual((len(rows), rows[0][-1]), (len(text), "reading_mm"))
        self.assertTrue(any(row[1] == 1 and isinstance(row[-1], float) for row in rows), "readings after the work")
        self.assertEqual(self.page("look-again-ics", self.job.pk).status_code, 404)

    def test_it_is_looked_at_again_when_it_is_due(self) -> None:
        closing = self.close()
        self.assertLessEqual(closing.chance, 0.1)
        today = timezone.localdate()
        self.assertFalse(Closing.objects.due(today).exists())
        self.assertEqual(list(Closing.objects.due(closing.due_on)), [closing])
        ring(self.user, closing, said="fine", note="quiet", odometer_km=closing.due_km + 10)
        self.assertEqual(list(Closing.objects.due(today)), [closing])  # by its distance, told on the telephone
        page = self.page("look-again")
        self.assertContains(page, "its distance is gone")
        self.assertContains(page, "all is well")
        self.assertNotContains(page, reverse("jobs:ring", args=[closing.pk]))
        (row,) = page.context["rows"]
        self.assertContains(self.client.get("/look-again/" + row["ring_at"]), reverse("jobs:ring", args=[closing.pk]))
        self.assertNotContains(self.client.get("/look-again/?ring=1-wrong"), 'method="post" action="/look-again')
        for n in range(3):
            Closing.objects.filter(pk=closing.pk).update(due_on=today - timedelta(days=n))
        with self.assertNumQueries(len_of(self.client, "/look-again/")):
            self.client.get("/look-again/")

    def test_rung_by_hand_and_refused_beside_the_field(self) -> None:
        closing = self.close()
        Closing.objects.filter(pk=closing.pk).update(due_on=timezone.localdate())
        url = reverse("jobs:ring", args=[closing.pk])
        wrong = self.client.post(url, {"said": "fine", "odometer_km": "12x", "note": "kept"})
        self.assertContains(wrong, "12x", status_code=422)
        self.assertContains(wrong, "kept", status_code=422)
        self.assertEqual(client_of(self.trainee).post(url, {"said": "fine"}).status_code, 403)
        self.assertRedirects(self.client.post(url, {"said": "felt", "state": "due"}), "/look-again/?state=due")
        self.assertEqual(Closing.objects.get(pk=closing.pk).rung, "felt")
        self.client.post(url, {"said": "gone"})
        self.assertFalse(Closing.objects.waiting().exists())
        listed = [row["closing"] for row in self.client.get("/look-again/?state=gone").context["rows"]]
        self.assertEqual(listed, [closing])
        self.client.post(url, {"said": "fine", "state": "gone"})  # it was a slip: it waits again
        self.assertEqual((Closing.objects.waiting().count(), Closing.objects.gone().count()), (1, 0))
        trail = self.page("changes", self.van.pk).content.decode()
        self.assertEqual(trail.count("the owner was rung"), 3, "each call stands there, not the last alone")

    def test_a_vehicle_that_comes_back_opens_with_what_it_was_here_for(self) -> None:
        closing = self.close()
        again = self.back(4_200)
        closing.refresh_from_db()
        self.assertEqual(closing.seen_again, again)
        self.assertEqual(closing.seen_km - closing.odometer_km, 4_200)
        page = self.page("complaint", again.pk)
        for words in ("4,200 km", "Correction plate", "Is this visit a comeback"):
            self.assertContains(page, words)
        with self.assertRaises(SeenAgainError):
            ring(self.user, closing, said="fine")
        answer = self.client.post(reverse("jobs:comeback", args=[closing.pk]), {"comeback": "yes"}, follow=True)
        self.assertContains(answer, "A comeback of that work")
        say_comeback(self.user, closing, comeback=True)  # pressed twice
        other = User.objects.get(username="okoro")
        with self.assertRaises(AnsweredError):
            say_comeback(other, closing, comeback=False)
        self.assertFalse(say_comeback(other, closing, comeback=False, correct=True).comeback)
        for pk, other_pk in ((self.van.pk, again.pk), (again.pk, self.van.pk)):
            trail = self.page("changes", pk)
            self.assertContains(
                trail, f"a comeback of job {other_pk}" if pk == again.pk else f"job {other_pk} is a come"
            )
            self.assertContains(trail, f"no comeback of job {other_pk}" if pk == again.pk else f"job {other_pk} is no")
        self.assertEqual(client_of(self.trainee).post(reverse("jobs:comeback", args=[closing.pk])).status_code, 403)

    def test_a_clock_that_jumps_and_an_odometer_that_falls_mislead_nothing(self) -> None:
        now = timezone.now()
        hours = (0, 1, -5, 900, 901)
        steps = [RunStep(key=f"lift:{k}", done_at=now + timedelta(minutes=10 * hour)) for k, hour in enumerate(hours)]
        self.assertEqual(minutes_of(steps), 20.0)  # what lies days apart is no work
        vehicle = self.van.vehicle
        Job.objects.filter(vehicle=vehicle).update(created_at=now)
        self.assertIsNone(daily_km(vehicle))
        Job.objects.filter(pk=self.van.pk).update(created_at=now + timedelta(days=400), odometer_km=10)
        due = check_back([], shop=Shop(), daily_km=daily_km(vehicle))
        self.assertEqual(due.days, 500)  # 20,000 km at what we assume a day, since its own figures cannot be

    def test_what_the_workshop_has_learnt_counts_from_the_next_job_on(self) -> None:
        before = Job.objects.get(pk=self.van.pk)
        figures = {"prior": 0.04, "value": 0.08, "low": 0.06, "high": 0.1, "pairs": 40, "accepted_by": self.user}
        Learned.objects.create(figure="growth_mm", **figures)
        Learned.objects.create(figure="seating_tir_mm", **figures | {"value": 0.004, "low": 0.003})
        after = self.back(100)
        self.assertEqual((before.figures, after.figures), ({}, {"growth_mm": 0.08, "seating_tir_mm": 0.004}))
        case = self.page("case", after.pk).json()["shop"]
        self.assertEqual((case["growth_mm"], case["seating_tir_mm"]), (0.08, 0.004))
        self.assertNotIn("growth_mm", self.page("case", before.pk).json()["shop"])


def len_of(client, address: str) -> int:
    """Return how many queries a page takes now."""
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    with CaptureQueriesContext(connection) as queries:
        client.get(address)
    return len(queries)
