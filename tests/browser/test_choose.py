"""Choosing and cutting as a technician does: by keyboard, in a hurry, with a mistake in the middle."""

from jobs.models import Decision
from jobs.prepare.actions import start_sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, fill
from tests.browser.base import BrowserCase
from workshop.models import Lathe, PlateKind
from workshop.numbers_in_addresses import named
from workshop.store.actions import keep_tooling

FLAT = ["26.800", "26.801", "26.800", "26.799", "26.800", "26.800", "26.801", "26.800", "26.799", "26.800"]


class Choosing(BrowserCase):
    """From the lanes to a decision, and on to the lathe."""

    def setUp(self) -> None:
        super().setUp()
        for name, kind in (("Hub lathe", "on_vehicle"), ("Bench lathe", "bench")):
            lathe = Lathe(name=name, kind=kind, min_depth_mm=0.05, runout_left_mm=0.015, mm_per_line=0.02)
            keep_tooling(self.user, lathe)
        plate = PlateKind(correction_mm=0.1, reference_radius_mm=138, studs=5, positions=10, stock=2)
        keep_tooling(self.user, plate)
        fill(self.user, self.sweep, READINGS)

    def turned(self) -> None:
        turned = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        fill(self.user, turned, READINGS)

    def text(self, selector: str) -> str:
        return str(self.page.locator(selector).first.inner_text())

    def test_lane_by_digit_reason_when_asked(self) -> None:
        thick = [f"{float(t) + 0.6:.3f}" for t in THICKNESS]
        fill(self.user, self.round, thick)
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/choose/")
        self.assertIn("Choose 1: Match on the vehicle", self.text("[data-picked]"))
        self.assertFalse(self.page.locator("#reason").is_visible())
        self.page.keyboard.press("2")
        self.assertIn("Choose 2", self.text("[data-picked]"))
        self.assertTrue(self.page.locator("#reason").is_visible())
        self.page.keyboard.press("1")
        self.page.keyboard.press("2")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector(".decide-dock .error")
        self.assertIn("Choose 2", self.text("[data-picked]"))
        self.page.keyboard.type("hub lathe is out")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector(".decided")
        self.assertIn("against the advice", self.text(".decided"))
        self.assertEqual(Decision.objects.get().reason, "hub lathe is out")
        self.page.keyboard.press("Control+Enter")
        self.page.wait_for_selector(".run")
        self.assertIn("Chock", self.text(".run-says"))

    def test_the_rotor_is_stepped_and_dragged_round_its_studs(self) -> None:
        self.turned()
        fill(self.user, self.round, FLAT)
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/FL/turn/?index_deg=0")
        self.assertIn("as it is mounted now", self.text("main [role=status]"))
        before = self.text(".set-figure strong")
        self.page.keyboard.press("ArrowRight")
        self.eventually("document.querySelector('.panel-iron [role=status]').innerText.includes('rotor on 1 stud')")
        self.assertNotEqual(self.text(".set-figure strong"), before)
        self.page.locator(".kit a", has_text="0.10").click()
        self.eventually("document.querySelector('.panel-iron [role=status]').innerText.includes('at stud 1')")
        self.page.keyboard.press("]")
        self.eventually("document.querySelector('.panel-iron [role=status]').innerText.includes('studs 1 and 2')")
        box = self.page.locator(".turnable svg").bounding_box()
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        reach = min(box["width"], box["height"]) * 0.3
        self.page.mouse.move(middle[0], middle[1] - reach)
        self.page.mouse.down()
        self.page.mouse.move(middle[0] + reach, middle[1], steps=6)  # a quarter turn on: the nearest stud is 72° on
        self.page.mouse.up()
        self.eventually("document.querySelector('.panel-iron [role=status]').innerText.includes('rotor on 2 studs')")
        self.assertIn("plate 0.10 mm", self.text(".panel-iron [role=status]"))
        self.page.locator(".positions a").first.click()
        self.eventually("document.querySelector('.positions tr.here a') === document.querySelector('.positions a')")
        self.page.keyboard.press("Control+Enter")
        self.page.wait_for_selector(".decided")
        decided = Decision.objects.get()
        self.assertEqual(decided.remedies["FL"], "plate")
        self.assertEqual(decided.settings["FL"]["plate_mm"], 0.1)
