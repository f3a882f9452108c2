"""The chosen work, done as a technician does it: by keyboard, interrupted, with a bad reading in the middle."""

import time
from typing import Any

from compass.do.ladder import plain_ahead
from compass.do.work import PlacedStep
from jobs.choose.actions import decide
from jobs.do.doing import Doing, doing_of
from jobs.do.running import do_step
from jobs.do.tests.hands import answer, as_expected
from jobs.models import Closing, CutPass, FittedPlate, Job, RunStep
from jobs.prepare.actions import start_round, start_sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, fill
from tests.browser.base import BrowserCase
from workshop.long_work.carrying import carry_out_work
from workshop.models import AxleLimits, Lathe, LongWork, PlateKind
from workshop.numbers_in_addresses import named
from workshop.store.actions import keep_tooling

MM = {"radius_mm": 138.0, "graduation_mm": 0.001, "entry_unit": "mm"}
THICK = [f"{float(text) + 0.6:.3f}" for text in THICKNESS]
FLAT = ["26.800", "26.801", "26.800", "26.799", "26.800", "26.800", "26.801", "26.800", "26.799", "26.800"]


class AtTheVehicle(BrowserCase):
    """Each step by its key: Space, Enter after a reading, a digit for what a look shows or why a hold is passed."""

    takes_long = True

    def setUp(self) -> None:
        super().setUp()
        lathe = Lathe(
            name="Hub lathe", kind="on_vehicle", min_depth_mm=0.05, runout_left_mm=0.015, mm_per_line=0.02,
            max_vented_mm=0.2,
        )  # fmt: skip
        keep_tooling(self.user, lathe)
        keep_tooling(self.user, PlateKind(correction_mm=0.1, reference_radius_mm=138, studs=5, positions=10, stock=2))
        fill(self.user, self.sweep, READINGS)
        self.pressed = 0.0

    def doing(self) -> Doing:
        return doing_of(self.user, Job.objects.for_doing().get(pk=self.job.pk))

    def press_on(self, placed: PlacedStep | None = None, *, typed: str | None = None, whole: bool = False) -> None:
        """Do the step on the page by keyboard alone, or the ``whole`` of what only wants to be done in its part."""
        placed = placed or self.doing().current
        keyboard = self.page.keyboard
        self.hears()
        self.page.wait_for_timeout(max(0.0, 370 - 1000 * (time.monotonic() - self.pressed)))  # no glove is quicker
        with self.page.expect_navigation():  # where a part ends, the rest of the day is planned anew
            if placed.step.findings or (placed.step.kind == "hold" and not placed.step.expects):
                keyboard.press("1")
            elif placed.step.expects:
                keyboard.type(typed or as_expected(placed))
                if placed.step.expects == "compensated":
                    keyboard.press("Tab")
                    keyboard.type("276")
                keyboard.press("Enter")
            elif self.page.locator("#torque").count():
                keyboard.type("42")
                keyboard.press("Tab")
                keyboard.type("book 3, page 7")
                keyboard.press("Enter")
            else:
                keyboard.press("Shift+Space" if whole else "Space")  # where one step is left of a part, it does that
            self.pressed = time.monotonic()

    def until(self, code: str) -> PlacedStep | None:
        for _ in range(100):
            doing = self.doing()
            placed = doing.current
            if placed is None or placed.step.code == code:
                if placed is not None and placed.step.expects:  # the cell has the focus a frame after the page is there
                    self.eventually("document.activeElement?.id === 'typed'")
                return placed
            ahead = plain_ahead(doing.parts, doing.done.keys(), placed)
            self.press_on(placed, whole=code not in {step.step.code for step in ahead})
        raise AssertionError(f"never came to {code}")

    def test_an_axle_is_matched_on_the_vehicle_from_the_chocks_to_the_road(self) -> None:
        right = self.job.corners.get(position="FR")
        fill(self.user, start_sweep(self.user, right, stations=10, **SET_UP), READINGS)
        fill(self.user, self.round, THICK)
        fill(self.user, start_round(self.user, right, stations=10, **MM), THICK)
        decide(self.user, self.job, "F", code="on_vehicle_cut")
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/do/")
        self.until("sweep_first")
        # Half typed when the page is loaded again: nothing is lost.
        self.page.keyboard.type("0.1")
        self.page.reload()
        self.assertEqual(self.page.input_value("#typed"), "0.1")
        # Typed on before the page can hear: the figure stands, and what was typed blind does not go out by itself.
        held: list[Any] = []
        self.page.route("**/app*.js", lambda route: held.append(route), times=1)
        self.page.reload(wait_until="commit")
        self.eventually("document.getElementById('typed')")
        self.page.keyboard.press("Space")  # a press that came too late for the step before is no figure
        self.page.keyboard.type("0.25")
        self.page.keyboard.press("Enter")
        done = RunStep.objects.count()
        while not held:
            self.page.wait_for_timeout(20)
        held.pop().continue_()
        self.eventually("document.getElementById('typed').value === '0.25'")
        self.assertEqual((self.page.evaluate("document.activeElement.id"), RunStep.objects.count()), ("typed", done))
        self.page.fill("#typed", "")
        read = self.until("read_pass")
        # A slip of the pen, then a reading that does not fit: both faces are touched anew before the tip goes on.
        self.page.keyboard.type("2.6x")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("#typed-error")
        self.eventually("document.activeElement?.id === 'typed'")
        self.assertEqual(self.page.input_value("#typed"), "2.6x")
        self.page.keyboard.press("Control+A")
        self.press_on(typed=f"{read.figures['after_pass'][1] + 0.08:.3f}")
        self.assertEqual(self.doing().current.step.code, "zero")
        self.assertIn("came off than was fed", self.page.locator(".run-replanned").inner_text())
        # The tablet is gone; another one goes on where it stood.
        self.page.context.close()
        self.page = self.open_page(self.user)
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/do/")
        self.assertIn("zero", self.page.locator(".run-says").inner_text())
        self.until("bulk_rust")
        # At the other disc a colleague goes on; this page comes to the last steps, and not by itself just then.
        self.page.route("**/do/pulse/**", lambda route: route.fulfill(status=204))
        while (placed := self.doing().current).position:
            do_step(self.user, self.job, answer(placed))
        self.page.reload()
        self.page.unroute("**/do/pulse/**")
        self.assertIsNone(self.until(""))
        self.assertIn("All steps are done", self.page.locator(".run-says").inner_text())
        self.assertEqual(CutPass.objects.filter(withdrawn=False).values("cut__corner").distinct().count(), 2)
        self.assertEqual(
            RunStep.objects.filter(taken_why="below").count() + RunStep.objects.filter(taken_why="above").count(), 2
        )
        self.assertEqual(AxleLimits.objects.latest("pk").bracket_torque_nm, 42.0)

    def open_a_job(self, complaint: str, odometer_km: str) -> Job:
        """Open a job for the van by keyboard, from the floor."""
        page, keyboard = self.page, self.page.keyboard
        page.goto(f"{self.url}/")
        keyboard.press("Control+Enter")
        page.wait_for_selector("#id_label")
        self.eventually("document.activeElement?.id === 'id_label'")
        keyboard.type("minibus 9")
        page.focus("#id_complaint")
        keyboard.type(complaint)
        page.focus("#id_odometer_km")
        keyboard.type(odometer_km)
        keyboard.press("Enter")
        page.wait_for_url("**/prepare/")
        return Job.objects.latest("pk")

    def test_a_plate_from_the_complaint_to_the_owner_and_back_as_a_comeback(self) -> None:
        """With a press too many and one taken back."""
        self.job = self.open_a_job("Wheel shakes at 80", "84300")
        self.corner = self.job.corners.get(position="FL")
        fill(self.user, start_sweep(self.user, self.corner, stations=10, **SET_UP), READINGS)
        fill(self.user, start_round(self.user, self.corner, stations=10, **MM), FLAT)
        fill(self.user, start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0}), READINGS)
        setting = {"position": "FL", "index_deg": 0.0, "plate_mm": 0.1, "plate_deg": 216.0}
        decide(self.user, self.job, "F", code="plate", setting=setting, reason="to see it done")
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/do/")
        for _ in range(3):  # a glove that bounces, a hand that is sure
            self.page.keyboard.press("Space")
        self.page.wait_for_selector(".run[data-step='2']")
        self.page.wait_for_timeout(500)
        self.assertEqual(RunStep.objects.count(), 1)
        self.page.keyboard.press("Backspace")
        self.pressed = time.monotonic()
        self.page.wait_for_selector(".run[data-step='1']")
        self.assertTrue(RunStep.objects.get().taken_back)
        self.until("plate_place")
        self.assertEqual(FittedPlate.objects.count(), 0)
        self.press_on()
        self.assertEqual(FittedPlate.objects.get().thin_deg, 216.0)
        self.assertIsNone(self.until(""))
        self.prove()
        self.hand_over()
        self.come_back()

    def hand_over(self) -> None:
        """Open the owner's sheet by the brass act, and its PDF."""
        page = self.page
        self.assertIn("owner’s sheet", page.locator("#next").inner_text())
        page.keyboard.press("Control+Enter")
        page.wait_for_selector(".sheet")
        for words in ("Wheel shakes at 80", "tapered ring", "Look again by", "in order"):
            self.assertIn(words, page.locator(".sheet").inner_text())
        page.click("text=As PDF")
        page.wait_for_selector("progress")
        page.goto(
            f"{self.url}/"
        )  # it goes on meanwhile; a page that waits is led to the file, whatever else it is sent to
        work = LongWork.objects.get()
        carry_out_work(work.pk, work.workshop_id)  # a worker's part
        paper = page.request.get(f"{self.url}/works/{named('work', work.pk)}/file/")
        self.assertEqual((paper.status, paper.body()[:5]), (200, b"%PDF-"))

    def come_back(self) -> None:
        """Bring the van back after 3,000 km, and say that it is a comeback."""
        page = self.page
        again = self.open_a_job("It is back", "87300")
        page.goto(f"{self.url}/jobs/{named('job', again.pk)}/")
        self.assertIn("3,000 km", page.locator(".earlier").inner_text().lower())
        page.focus(".earlier button[value=yes]")
        page.keyboard.press("Enter")
        page.wait_for_selector(".earlier strong:has-text('A comeback of that work')")
        closing = Closing.objects.get(job=self.job)
        self.assertEqual((closing.seen_again, closing.comeback, closing.proven), (again, True, True))
        page.goto(f"{self.url}/ledger/comebacks/")
        self.assertIn("1", page.locator(".ledger tbody tr").first.inner_text())

    def prove(self) -> None:
        """Sweep the corner after its work, by the brass act and the tape alone, and close the job."""
        keyboard, page = self.page.keyboard, self.page
        keyboard.press("Control+Enter")
        page.wait_for_selector(".prove-conditions")
        self.hears()
        self.assertIn("Sweep, after", page.locator("#next").inner_text())
        keyboard.press("Control+Enter")
        page.wait_for_selector("form[data-enter]")
        self.hears()
        for name in ("cleaned", "nuts_torqued", "lifted", "tip"):
            box = page.locator(f"[name={name}]")
            if box.count() and not box.is_checked():
                box.check()
        keyboard.press("Enter")
        page.wait_for_selector("#tape")
        page.wait_for_load_state()  # its script hears keys from here on
        self.type_in("1", "1.5", "2", "2.5", "2", "1.5", "1", "0.5", "0.5", "0.5", "1")
        self.settle()
        before = self.corner.sweeps.filter(episode=0).count()
        self.assertEqual((before, self.corner.sweeps.get(episode=1).readings_mm[3]), (2, 0.025))
        page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/prove/")
        self.assertIn("within", page.locator(".prove-figure").inner_text())
        self.assertIn("proven", page.locator(".prove-tabs").inner_text())
        self.job.corners.exclude(position="FL").delete()  # the rest of the van is another test's
        page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/prove/")
        self.assertIn("proven", page.locator("#next").inner_text())
        keyboard.press("Control+Enter")
        page.wait_for_selector("#close[open]")
        self.eventually("document.activeElement?.name === 'found_cause'")
        keyboard.press("Tab")
        keyboard.type("seen to")
        keyboard.press("Control+Enter")  # it sends what is typed in, and leads nowhere else
        page.wait_for_url(f"**/jobs/{named('job', self.job.pk)}/")
        self.assertTrue(Job.objects.get(pk=self.job.pk).is_closed)

    def test_it_is_done_on_a_phone_and_a_tablet(self) -> None:
        fill(self.user, self.round, FLAT)
        setting = {"position": "FL", "index_deg": 0.0, "plate_mm": 0.1, "plate_deg": 216.0}
        decide(self.user, self.job, "F", code="plate", setting=setting, reason="to see it done")
        for width, height in ((390, 844), (1024, 768)):
            self.page.set_viewport_size({"width": width, "height": height})
            for query in ("", "?at=%7Clift:1:lift", "?at=FL%7Cplate:1:plate_place"):
                self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/do/{query}")
                wide = "document.documentElement.scrollWidth - document.documentElement.clientWidth"
                self.assertLessEqual(self.page.evaluate(wide), 0, (width, query))
                press = self.page.locator(".run-dock .next").bounding_box()
                self.assertGreaterEqual(press["height"], 44)
                self.assertGreaterEqual(press["width"], width * 0.4)
