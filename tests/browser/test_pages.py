"""Every page: no serious fault for people who use assistive tools, nothing clipped, and a newcomer's way through."""

from axe_playwright_python.sync_playwright import Axe

from jobs.models import Job
from jobs.tests.base import READINGS, THICKNESS, fill
from tests.browser.base import BrowserCase
from workshop.models import User

TOO_WIDE = """[...document.querySelectorAll("body *")]
  .filter(element => element.getBoundingClientRect().right > document.documentElement.clientWidth + 1)
  .map(element => element.outerHTML.slice(0, 90))"""
SERIOUS = {"serious", "critical"}


class EveryPage(BrowserCase):
    """Each page, by day and by night."""

    def pages(self) -> list[str]:
        job = f"/jobs/{self.job.pk}"
        return [
            "/",
            "/jobs/new/",
            f"{job}/",
            f"{job}/FL/prepare/",
            f"{job}/RL/prepare/",
            f"{job}/FL/measure/",
            f"{job}/FL/measure/?tape=thickness",
            f"{job}/changes/",
            "/people/",
            "/nothing-here/",
        ]

    def serious(self) -> list[str]:
        found = Axe().run(self.page).response["violations"]
        return [f"{v['id']}: {v['nodes'][0]['html'][:150]}" for v in found if v["impact"] in SERIOUS]

    def test_axe_finds_no_serious_fault_and_nothing_is_wider_than_the_screen(self) -> None:
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, [*THICKNESS[:9], "25.3"])
        for theme in User.Theme.values:
            User.objects.filter(pk=self.user.pk).update(theme=theme)
            for address in self.pages():
                with self.subTest(theme=theme, address=address):
                    self.page.goto(self.live_server_url + address)
                    self.assertEqual(self.serious(), [])
                    self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), 1280)
        with self.subTest(address="sign-in"):
            self.page.context.clear_cookies()
            self.page.goto(self.live_server_url + "/sign-in/")
            self.assertEqual(self.serious(), [])

    def test_the_workbench_fits_a_tablet_and_a_phone(self) -> None:
        fill(self.user, self.sweep, READINGS)
        for width, height in ((1024, 768), (390, 844)):
            with self.subTest(width=width):
                self.page.set_viewport_size({"width": width, "height": height})
                self.measure()
                found = self.page.evaluate(TOO_WIDE)
                self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width, found)
                self.assertGreaterEqual(self.page.locator("#tape input").first.bounding_box()["height"], 44)


class Newcomer(BrowserCase):
    """From signing in to a verdict on their own numbers, without the mouse."""

    def test_a_new_vehicle_to_a_first_verdict(self) -> None:
        self.user.set_password("kobolt-og-salt")
        self.user.save()
        page, keyboard = self.page, self.page.keyboard
        page.context.clear_cookies()
        page.goto(self.live_server_url)
        page.focus("#id_username")
        keyboard.type("lead")
        keyboard.press("Tab")
        keyboard.type("kobolt-og-salt")
        keyboard.press("Enter")
        page.wait_for_url(self.live_server_url + "/")
        keyboard.press("Space")  # the brass act of the floor: open a job
        page.wait_for_url("**/jobs/new/")
        page.focus("#id_label")
        keyboard.type("Ferry van")
        keyboard.press("Enter")
        page.wait_for_url("**/FL/prepare/")
        for field, text in (
            ("measuring_radius_mm", "140"),
            ("max_runout_mm", "0"),
            ("max_thickness_variation_mm", "0.015"),
            ("discard_thickness_mm", "24"),
            ("radius_mm", "140"),
        ):
            page.focus(f"#id_{field}")
            keyboard.press("Control+a")
            keyboard.type(text)
        keyboard.press("Enter")
        page.wait_for_selector("#id_max_runout_mm_error")
        self.assertEqual(page.input_value("#id_discard_thickness_mm"), "24")
        page.focus("#id_max_runout_mm")
        keyboard.press("Control+a")
        keyboard.type("2 thou")
        for box in ("#id_cleaned", "#id_nuts_torqued"):
            page.focus(box)
            keyboard.press("Space")
        keyboard.press("Enter")
        page.wait_for_url("**/FL/measure/")
        for text in READINGS:
            keyboard.type(text)
            keyboard.press("Enter")
        page.wait_for_selector("#verdict .figure.over")
        self.assertEqual(Job.objects.latest("pk").vehicle.label, "Ferry van")
        page.click("[name=units][value=thou]")
        page.wait_for_selector("[value=thou][aria-pressed=true]")
        self.assertIn("thou", page.inner_text("#verdict"))
