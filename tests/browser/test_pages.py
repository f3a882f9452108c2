"""Every page: no serious fault for people who use assistive tools, nothing clipped, and a newcomer's way through."""

import re
from datetime import timedelta
from typing import Any

from axe_playwright_python.sync_playwright import Axe
from django.utils import timezone, translation

from compass.simulate.marking import Answer
from jobs.bays.actions import book
from jobs.models import Closing, CornerWorked, Decision, Job
from jobs.prepare.actions import start_sweep
from jobs.prepare.forms import CONFIRMATIONS
from jobs.tests.base import READINGS, SET_UP, THICKNESS, fill
from ledger.refitting import refit_anew
from practice.corner.actions import answer, begin
from practice.lathe.actions import begin as mount
from tests.browser.base import BrowserCase
from workshop.long_work.asking import ask_for
from workshop.models import Instrument, Lathe, PlateKind, TorqueWrench, User
from workshop.numbers_in_addresses import named
from workshop.people.session import session_of
from workshop.store.actions import begin_study, check_instrument, keep_tooling, keep_wrench, read_study
from workshop.store.limits import put_into_library
from workshop.tests.base import FIGURES

TOO_WIDE = """[...document.querySelectorAll("body *")]
  .filter(element => element.getBoundingClientRect().right > document.documentElement.clientWidth + 1)
  .filter(element => {
    for (let box = element.parentElement; box !== document.body; box = box.parentElement)
      if (getComputedStyle(box).overflowX !== "visible") return false;
    return true;
  })
  .map(element => element.outerHTML.slice(0, 90))"""
# A workbench is as high as its screen, so that its act is in sight; a vehicle stands between its wheels.
OUT_OF_PLACE = """(() => {
  const place = (selector) => document.querySelector(selector)?.getBoundingClientRect();
  const high = document.documentElement.scrollHeight > innerHeight;
  return [
    ["lower than the screen", place(".workbench") && high],
    ["beside its wheels", place(".stage") && place(".stage-side.left").right > place(".stage-body").left + 1],
  ].filter(([, wrong]) => wrong).map(([what]) => what);
})()"""
WORDS = """[...document.querySelectorAll("body *:not(script, noscript, [lang])")].flatMap(element => [
    ...[...element.childNodes].filter(node => node.nodeType === 3).map(node => node.data),
    ...["aria-label", "title"].map(name => element.getAttribute(name) ?? "")])
  .map(text => text.trim()).filter(Boolean)"""
POINT = re.compile(r"(?<![\d.:])\d+\.\d+(?![\d.])(?<!\.\d{3})")
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
AXE = {"resultTypes": ["violations"], "preload": False, "runOnly": {"type": "tag", "values": TAGS}}


class EveryPage(BrowserCase):
    """Each page, by day and by night."""

    takes_long = True

    def pages(self) -> list[str]:
        job = f"/jobs/{named('job', self.job.pk)}"
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
            f"/vehicles/{named('vehicle', self.job.vehicle_id)}/",
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
            f"{job}/vehicle/",
            "/people/",
            "/people/password/",
            "/people/sign-ins/",
            f"/works/{named('work', self.asked.pk)}/",
            "/nothing-here/",
            f"{job}/FL/do/",
            f"{job}/do/",
            f"{job}/do/?at=%7Clift:1:lift",
            f"{job}/do/?at=FL%7Cadapter:1:compensate",
            f"{job}/do/?at=FL%7Ccut:1:read_pass:1",
            f"{job}/do/?at=FL%7Cclosing:1:bracket",
            f"{job}/prove/",
            "/order/",
            f"{job}/owner/",
            f"{job}/sheet/",
            "/look-again/?state=all",
            "/ledger/",
            "/ledger/comebacks/",
            "/ledger/odds/",
            "/ledger/lathes/",
            "/ledger/learning/",
            "/store/wrenches/",
            f"/store/instruments/{named('instrument', self.dial.pk)}/",
            f"/store/studies/{named('study', self.study.pk)}/",
            "/bench/",
            "/bench/drills/",
            "/bench/people/",
            f"/bench/{named('attempt', self.tried.pk)}/",
            f"/bench/{named('attempt', self.done.pk)}/",
            f"/bench/lathe/{named('lathe_try', self.lathed.pk)}/",
        ]

    def recorded(self) -> None:
        """Put on record what lists and plots are made of: a job seen again, one that waits, checks, a whole study."""
        today = timezone.localdate()
        self.dial = Instrument.objects.create(name="Dial no. 4", graduation_mm=0.01, error_limit_mm=0.01)
        for days, shown in ((400, 1.0), (200, 1.004), (0, 1.012)):
            on = today - timedelta(days=days)
            check_instrument(self.user, self.dial, on=on, standard_mm=1.0, shown_mm=shown)
        self.study = begin_study(self.user, self.dial, persons=["Ann", "Bo"], parts=3, turns=2, limit_mm=0.05)
        read = [0.01 * (k % 5) for k in range(12)]
        read_study(self.user, self.study, version=1, typed=[f"{mm:.2f}" for mm in read], readings_mm=read)
        keep_wrench(self.user, TorqueWrench(name="Long", least_nm=40, most_nm=200))
        self.asked = ask_for(self.user, "cases-out")
        self.tried, self.lathed = begin(self.user, "rear"), mount(self.user, "match")
        self.done = answer(self.user, begin(self.user, "cut-it").pk, Answer(cause="rotor_runout", remedy="none"))
        told = {"vehicle": self.job.vehicle, "at": timezone.now(), "by": self.user, "proven": True, "due_on": today}
        for again in (None, self.job):
            job = Job.objects.create(vehicle=self.job.vehicle, created_by=self.user, created_at=timezone.now())
            fields = {"odometer_km": 80_000, "due_km": 90_000, "chance": 0.03, "seen_again": again, "seen_km": 84_210}
            closing = Closing.objects.create(
                job=job, **told, **fields, **({"comeback": True, "comeback_by": self.user} if again else {})
            )
            CornerWorked.objects.create(
                closing=closing, on=today, month=today.replace(day=1), position="FL", axle="F",
                leads=True, root_cause="rotor_runout", remedy="index",
                decided_by=self.user, done_by=self.user, runout_mm=0.02, runout_before_mm=0.1, within=True,
                odds_within=0.9, comeback_odds=0.1, came="inside", hub_share=0.7, hub_mm=0.07, rotor_mm=0.03,
            )  # fmt: skip
        refit_anew(self.user)

    def decided(self) -> None:
        told = {"policy": "least_cost", "advised": {}, "price": 0, "minutes": 0, "decided_by": self.user}
        Decision.objects.create(job=self.job, axle="F", remedies={"FL": "on_vehicle_cut"}, **told)

    def faults_for_readers(self, **options: Any) -> list[str]:
        """Return what axe finds, by WCAG 2.2 AA and by good practice."""
        found = Axe().run(self.page, options=AXE | options).response["violations"]
        faults = [f"{v['id']}: {n['html'][:150]} {n['failureSummary']}" for v in found for n in v["nodes"]]
        # What lies under the docked act now is scrolled free as soon as it is reached: no smaller for that.
        return [fault for fault in faults if "partially obscured" not in fault]

    def left_in_english(self) -> list[str]:
        """Return what a German reader would meet in English: words that have a translation, decimal points."""
        words = set(self.page.evaluate(WORDS))
        with translation.override("de"):
            return sorted(text for text in words if translation.gettext(text) != text or POINT.search(text))

    def too_wide(self) -> list[str]:
        """Return what makes the page scroll sideways on a tablet, a phone, zoomed to twice its size."""
        found = []
        for width, height in ((1024, 768), (390, 844), (640, 400)):
            self.page.set_viewport_size({"width": width, "height": height})
            if self.page.evaluate("document.documentElement.scrollWidth") > width:
                found.append(f"{width}: {self.page.evaluate(TOO_WIDE)[:4]}")
        self.page.set_viewport_size({"width": 1280, "height": 800})
        return found

    def full(self) -> None:
        """Fill the workshop so that every page has something to show."""
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, [*THICKNESS[:9], "25.3"])
        turned = start_sweep(self.user, self.corner, stations=10, **SET_UP | {"index_deg": 144.0})
        dirty = start_sweep(self.user, self.corner, stations=12, **SET_UP | {"cleaned": False, "index_deg": 0.0})
        for sweep in (turned, dirty):
            fill(self.user, sweep, READINGS[:10])
        keep_tooling(self.user, Lathe(name="Hub lathe", min_depth_mm=0.05, runout_left_mm=0.015, mm_per_line=0.02))
        book(self.user, self.job, place="bay_1", starts_at=timezone.localtime().replace(hour=9), minutes=60)
        self.decided()
        self.recorded()
        keep_tooling(self.user, PlateKind(correction_mm=0.1, reference_radius_mm=138, studs=5, positions=10, stock=2))

    def test_every_page_is_accessible_fits_every_screen_and_speaks_one_language(self) -> None:
        """In German, which has the longer words; by night the pages that have colours of their own."""
        self.full()
        self.user.language = "de"
        self.user.save()
        pages = self.pages()
        for theme, addresses in ((User.Theme.DAY, pages), (User.Theme.NIGHT, [*pages[:10], *pages[18:22]])):
            User.objects.filter(pk=self.user.pk).update(theme=theme)
            for address in addresses:
                with self.subTest(theme=theme, address=address):
                    self.page.goto(self.live_server_url + address)
                    if theme == User.Theme.NIGHT:  # the same page in other colours
                        self.assertEqual(self.faults_for_readers(runOnly=["color-contrast"]), [])
                        continue
                    self.assertEqual(self.faults_for_readers(), [])
                    self.assertEqual(self.page.evaluate(OUT_OF_PLACE), [])
                    self.assertEqual(self.page.evaluate("document.documentElement.lang"), "de")
                    # What was changed is told as it was typed.
                    self.assertEqual([] if "/changes/" in address else self.left_in_english(), [])
                    self.assertEqual(self.too_wide(), [])
        with self.subTest(address="sign-in"):
            self.page.context.clear_cookies()
            self.page.goto(self.live_server_url + "/sign-in/")
            self.assertEqual(self.faults_for_readers(), [])

    def test_a_cell_and_the_verdict_speak(self) -> None:
        self.measure()
        self.assertEqual(self.page.get_attribute("[data-slot='2']", "aria-label"), "station 3, runout")
        self.type_in(*READINGS[:3])
        self.settle()
        self.assertEqual(self.page.text_content("#announce"), "")  # nothing has changed its state yet
        self.type_in(*READINGS[3:8])
        self.eventually("document.getElementById('announce').textContent.includes('Lateral runout')")
        self.assertNotIn("Thinnest", self.page.text_content("#announce"))
        self.settle()  # an answer still under way would speak over it
        self.page.wait_for_timeout(200)
        self.page.keyboard.press("Alt+0")
        self.eventually("document.getElementById('announce').textContent.includes('Thinnest')")

    def test_the_workbench_fits_a_tablet_and_a_phone(self) -> None:
        fill(self.user, self.sweep, READINGS)
        for width, height in ((1024, 768), (390, 844)):
            with self.subTest(width=width):
                self.page.set_viewport_size({"width": width, "height": height})
                self.measure()
                found = self.page.evaluate(TOO_WIDE)
                self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width, found)
                self.assertGreaterEqual(self.page.locator("#tape input").first.bounding_box()["height"], 44)


class Drafts(BrowserCase):
    """What is typed and not sent yet."""

    def test_units_theme_and_reloads_throw_nothing_away(self) -> None:
        page = self.page
        page.goto(f"{self.live_server_url}/jobs/{named('job', self.job.pk)}/FL/prepare/")
        page.fill("#id_radii", "abc")
        page.keyboard.press("Enter")
        page.wait_for_selector("#id_radii_error")  # and it is seen, not under the docked act
        edges = [page.locator(part).bounding_box() for part in ("#id_radii_error", ".next-dock")]
        self.assertLessEqual(edges[0]["y"] + edges[0]["height"], edges[1]["y"])
        page.goto(f"{self.live_server_url}/jobs/{named('job', self.job.pk)}/FL/prepare/")
        page.fill("#id_radii", "")
        page.fill("#id_radius_mm", "141")
        page.check("#id_cleaned")
        page.click("[name=units][value=thou]")
        page.wait_for_selector("[value=thou][aria-pressed=true]")
        self.assertEqual(page.input_value("#id_radius_mm"), "141 mm")  # what it was typed as, not 141 inches
        self.assertTrue(page.is_checked("#id_cleaned"))
        page.click("[name=theme][value=night]")
        page.wait_for_selector("[data-theme=night]")
        page.keyboard.press("?")
        page.reload()
        self.assertEqual(page.input_value("#id_radius_mm"), "141 mm")
        page.click("main button.next")
        page.wait_for_url("**/measure/**")
        page.goto(f"{self.live_server_url}/jobs/{named('job', self.job.pk)}/FL/prepare/")
        self.assertNotEqual(page.input_value("#id_radius_mm"), "141 mm")  # taken: no draft any more

    def test_a_form_that_was_sent_and_not_taken_is_still_there(self) -> None:
        page, address = self.page, f"{self.live_server_url}/jobs/new/"
        page.goto(address)
        page.fill("#id_label", "Fish van")
        page.context.set_offline(True)
        page.click("main button.next")
        page.wait_for_url("chrome-error://**")
        page.context.set_offline(False)
        page.goto(address)
        self.assertEqual(page.input_value("#id_label"), "Fish van")
        page.context.clear_cookies(name="sessionid")
        page.click("main button.next")
        page.wait_for_selector("#id_username")  # nobody is signed in any more
        page.context.add_cookies([{"name": "sessionid", "value": session_of(self.user), "url": self.url}])
        page.goto(address)
        self.assertEqual(page.input_value("#id_label"), "Fish van")
        page.click("main button.next")
        page.wait_for_url("**/prepare/")
        page.goto(address)
        self.assertEqual(page.input_value("#id_label"), "")


class Newcomer(BrowserCase):
    """From signing in to a verdict on their own numbers, without the mouse, every key counted."""

    def setUp(self) -> None:
        super().setUp()
        self.user.set_password("kobolt-og-salt")
        self.user.save()
        self.keys: list[str] = []
        self.page.context.clear_cookies()
        self.page.goto(self.live_server_url)

    def press(self, *keys: str) -> None:
        for key in keys:
            self.keys.append(key)
            self.page.keyboard.press(key)
            self.page.wait_for_timeout(35)

    def write(self, text: str) -> None:
        self.press(*text)

    def open_job(self, label: str, model: str = "") -> None:
        self.write("lead")
        self.press("Tab")
        self.write("kobolt-og-salt")
        self.press("Enter")
        self.page.wait_for_url(self.live_server_url + "/")
        self.press("Control+Enter")  # the brass act of the floor: open a job
        self.page.wait_for_url("**/jobs/new/")
        self.eventually("document.activeElement.matches('main input')")  # focus comes a frame after the page
        self.write(label)
        if model:
            self.press("Tab")
            self.write(model)
        self.press("Enter")
        self.page.wait_for_url("**/FL/prepare/")
        self.eventually("document.activeElement.matches('main input')")  # focus comes a frame after the page

    def first_verdict(self) -> None:
        self.page.wait_for_url("**/FL/measure/?tape=*")
        for text in ("9", "0", "3", "11"):
            self.write(text)
            self.press("Enter")
        self.page.wait_for_selector("#verdict .figure.over")

    def test_a_new_vehicle_whose_model_the_library_knows(self) -> None:
        put_into_library(self.user, [{"model": "Varda 3", "axle": "F", **FIGURES}])
        self.open_job("Van 7", "Varda 3")
        self.press("Space", "Tab", "Space", "Tab", "Space", "Tab", "Space", "Enter")
        self.first_verdict()
        self.assertEqual(Job.objects.latest("pk").corners.first().sweeps.get().confirmed, list(CONFIRMATIONS))
        self.assertLessEqual(len(self.keys), 60)
        self.assertLessEqual(self.keys.count("Tab"), 8)

    def test_a_new_vehicle_with_limits_typed_and_a_slip_in_the_middle(self) -> None:
        self.open_job("Ferry van")
        for number, text in enumerate(("140", "0", "0.015", "24")):
            self.press(*(["Tab"] if number else []))
            self.write(text)
        self.press("Enter")
        self.page.wait_for_selector("#id_max_runout_mm_error")
        self.assertEqual(self.page.input_value("#id_discard_thickness_mm"), "24")
        self.assertEqual(self.page.evaluate("document.activeElement.id"), "id_max_runout_mm")
        self.write("2 thou")
        self.press("Enter")
        self.first_verdict()
        self.assertEqual(Job.objects.latest("pk").vehicle.label, "Ferry van")
        self.assertEqual(Job.objects.latest("pk").corners.first().sweeps.get().radius_mm, 140.0)
        self.assertLessEqual(len(self.keys), 100)
        self.page.click("[name=units][value=thou]")
        self.page.wait_for_selector("[value=thou][aria-pressed=true]")
        self.assertIn("thou", self.page.inner_text("#verdict"))

    def test_a_keypad_alone_goes_on_to_the_next_corner(self) -> None:
        self.page = self.open_page(self.user)
        self.measure()
        self.page.evaluate("localStorage.clear()")
        for text in READINGS:
            self.write(text)
            self.press("Enter")
        self.eventually("document.activeElement.matches('#next [data-next]')")
        self.press("Enter")
        self.page.wait_for_url("**?tape=t*")
        for text in THICKNESS:
            self.write(text)
            self.press("Enter")
        self.eventually("document.activeElement.matches('#next [data-next]')")
        self.press("Enter")
        self.page.wait_for_url("**/prepare/**")
        self.press("Enter")
        self.page.wait_for_url("**/measure/?tape=s*")
        self.assertLessEqual(set(self.keys), {*"0123456789.", "Enter"})


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
        page.focus("[name=findings][value=cracked]")
        keyboard.press("Space")
        page.wait_for_selector("#stop .stop")
        page.reload()
        self.assertEqual(page.input_value("#id_bearing_play"), "0.02")
        self.assertTrue(page.is_checked("[name=findings][value=cracked]"))

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
