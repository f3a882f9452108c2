"""Every page: no serious fault for people who use assistive tools, nothing clipped, and a newcomer's way through."""

from axe_playwright_python.sync_playwright import Axe

from jobs.models import Job
from jobs.prepare.actions import start_sweep
from jobs.tests.base import READINGS, SET_UP, THICKNESS, fill
from tests.browser.base import BrowserCase
from workshop.models import Lathe, PlateKind, User
from workshop.store.actions import keep_tooling

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
            f"{job}/FL/measure/?tape=thickness&view=thickness",
            f"{job}/FL/measure/?view=wear",
            f"{job}/FL/measure/?view=indices",
            f"{job}/FL/measure/?view=joint",
            f"{job}/FL/measure/?tape=quick",
            f"{job}/FL/measure/?tape=look",
            f"/vehicles/{self.job.vehicle_id}/",
            "/store/limits/",
            "/store/limits/service/?model=varda",
            "/store/instruments/",
            "/jobs/import/",
            f"{job}/cause/",
            f"{job}/choose/F/",
            f"{job}/choose/R/",
            f"{job}/FL/turn/?index_deg=72&plate_mm=0.1&plate_deg=36",
            f"{job}/FL/cut/",
            "/store/lathes/",
            "/store/plates/",
            "/store/figures/",
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
        turned = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        dirty = start_sweep(self.user, self.corner, stations=12, **SET_UP | {"cleaned": False, "index_deg": 0.0})
        for sweep in (turned, dirty):
            fill(self.user, sweep, READINGS[:10])
        keep_tooling(self.user, Lathe(name="Hub lathe", min_depth_mm=0.05, runout_left_mm=0.015, mm_per_line=0.02))
        keep_tooling(self.user, PlateKind(correction_mm=0.1, reference_radius_mm=138, studs=5, positions=10, stock=2))
        for theme in User.Theme.values:
            User.objects.filter(pk=self.user.pk).update(theme=theme)
            # By night the colours differ, not what stands on a page: the pages with colours of their own.
            for address in self.pages() if theme == User.Theme.DAY else [*self.pages()[:10], *self.pages()[18:22]]:
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
        keyboard.press("Control+Enter")  # the brass act of the floor: open a job
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
        page.wait_for_url("**/FL/measure/?tape=*")
        self.type_in(*READINGS)
        page.wait_for_selector("#verdict .figure.over")
        self.assertEqual(Job.objects.latest("pk").vehicle.label, "Ferry van")
        page.click("[name=units][value=thou]")
        page.wait_for_selector("[value=thou][aria-pressed=true]")
        self.assertIn("thou", page.inner_text("#verdict"))


class Beside(BrowserCase):
    """Looking, quick readings and layers, by keyboard."""

    def test_a_look_is_kept_field_by_field_and_stops_the_vehicle(self) -> None:
        self.measure("?tape=look")
        page, keyboard = self.page, self.page.keyboard
        page.focus("#id_bearing_play")
        keyboard.type("loose")
        keyboard.press("Tab")
        page.wait_for_selector("#look-error-bearing_play:not(:empty)")
        page.focus("#id_bearing_play")
        keyboard.press("Control+a")
        keyboard.type("0.02")
        keyboard.press("Tab")
        self.eventually("document.querySelector('#look-error-bearing_play').textContent.trim() === ''")
        page.focus("input[value=cracked]")
        keyboard.press("Space")
        page.wait_for_selector("#verdict .stop")
        page.reload()
        self.assertEqual(page.input_value("#id_bearing_play"), "0.02")
        self.assertTrue(page.is_checked("input[value=cracked]"))

    def test_two_quick_readings_and_the_layers(self) -> None:
        self.measure("?tape=quick")
        page, keyboard = self.page, self.page.keyboard
        for stud, offset, amount in (("9", "", "9"), ("4", "12", "9")):  # a slip first: this wheel has five studs
            for field, text in (("stud", stud), ("offset", offset), ("amount", amount)):
                page.focus(f"#id_{field}")
                keyboard.press("Control+a")
                keyboard.type(text)
            keyboard.press("Enter")
            page.wait_for_load_state()
        page.wait_for_selector(".quick-list strong")
        self.assertIn("stud 4 +12°", page.inner_text(".quick-list"))
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, THICKNESS)
        self.measure("?tape=sweep")
        keyboard.press("Alt+9")
        page.wait_for_selector(".rub")
        keyboard.press("Alt+6")
        page.wait_for_selector("svg.map")
        page.focus("#tape input")
        keyboard.type("2")
        keyboard.press("Enter")
        self.settle()
        self.assertEqual(page.locator("svg.map").count(), 1)  # the layer stays while readings come in
