"""A technician at the reading tape, by keyboard, in a hurry, with mistakes, reloads and dropped servers."""

from jobs.models import Corner, Sweep
from jobs.tests.base import READINGS, THICKNESS
from tests.browser.base import BrowserCase, RealServer
from workshop.tests.base import person


class WholeEntry(BrowserCase):
    """From an empty tape to a verdict."""

    def test_by_keyboard_with_a_mistyped_value(self) -> None:
        self.measure()
        keyboard = self.page.keyboard
        for text in READINGS[:4]:
            keyboard.type(text)
            keyboard.press("Enter")
        keyboard.type("1.2.3")
        keyboard.press("Enter")
        self.page.wait_for_selector("#note .error")
        self.assertIn("two decimal signs", self.page.inner_text("#note"))
        self.assertEqual(self.page.get_attribute("[data-slot='4']", "aria-invalid"), "true")
        keyboard.press("ArrowUp")
        keyboard.press("Control+a")
        for text in READINGS[4:]:
            keyboard.type(text)
            keyboard.press("Enter")
        self.settle()
        self.eventually("document.querySelector('#verdict .figure.over .amount')")
        self.assertIn("0.110", self.page.inner_text("#verdict"))
        self.assertIn("stud 4", self.page.inner_text("#high-spot"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed, READINGS)

        keyboard.press("PageDown")  # thickness
        self.page.wait_for_url("**tape=t*")
        for text in THICKNESS:
            keyboard.type(text)
            keyboard.press("Enter")
        self.eventually("document.querySelectorAll('#verdict .figure.over').length === 2")
        self.eventually("!Object.keys(localStorage).some(key => key.startsWith('tape:'))")
        kept = Corner.objects.get(pk=self.corner.pk).kept
        self.assertEqual((kept.runout, kept.variation, kept.do_not_drive), ("over", "over", False))

    def test_zero_and_undo(self) -> None:
        self.measure()
        for text in ("3", "1", "4"):
            self.page.keyboard.type(text)
            self.page.keyboard.press("Enter")
        self.settle()
        self.page.keyboard.press("z")
        self.eventually("document.querySelector('[data-slot=\"0\"]').value === '2'")
        self.page.keyboard.press("Control+z")
        self.eventually("document.querySelector('[data-slot=\"0\"]').value === '3'")
        self.assertEqual(self.cells()[:3], ["3", "1", "4"])

    def test_the_wheel_turns_to_the_station(self) -> None:
        self.measure()
        self.page.keyboard.press("ArrowDown")
        self.eventually("Math.abs(Number(document.querySelector('#rose svg').dataset.at) - 36) < 0.1")
        self.assertEqual(self.page.text_content("#rose .at-label"), "2")

    def test_keys_are_shown_and_space_does_the_brass_act(self) -> None:
        self.measure()
        self.page.keyboard.press("?")
        self.page.wait_for_selector("dialog#keys")
        self.page.keyboard.press("Escape")
        self.page.focus("[data-slot='0']")
        self.page.keyboard.press("Space")
        self.page.wait_for_url("**tape=s*")


class NothingIsLost(BrowserCase):
    """Reload, dropped connection, stopped server, two people."""

    def type_some(self, texts: list[str]) -> None:
        for text in texts:
            self.page.keyboard.type(text)
            self.page.keyboard.press("Enter")

    def test_a_reload_in_the_middle(self) -> None:
        self.measure()
        self.type_some(READINGS[:5])
        self.page.keyboard.type("9")  # not even entered
        self.settle()
        self.page.reload()
        self.assertEqual(self.cells()[:6], [*READINGS[:5], "9"])
        self.assertEqual(self.page.evaluate("document.activeElement.dataset.slot"), "6")

    def test_the_server_stopped_and_started_in_the_middle(self) -> None:
        server = RealServer()
        self.addCleanup(server.kill)
        server.start()
        self.url = server.url
        self.page = self.open_page(self.user)
        self.measure()
        self.type_some(READINGS[:3])
        self.settle()
        server.kill()
        self.type_some(READINGS[3:8])
        self.page.wait_for_selector("#lost:not([hidden])")
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[3], "")
        server.start()
        self.settle()
        self.page.wait_for_selector("#lost", state="hidden")
        self.type_some(READINGS[8:])
        self.settle()
        sweep = Sweep.objects.get(pk=self.sweep.pk)
        self.assertEqual(sweep.typed, READINGS)
        self.assertEqual(Sweep.objects.filter(corner=self.corner).count(), 1)

    def test_typed_while_offline_and_reloaded_after(self) -> None:
        self.measure()
        self.type_some(READINGS[:2])
        self.settle()
        self.page.context.set_offline(True)
        self.type_some(READINGS[2:5])
        self.page.wait_for_selector("#lost:not([hidden])")
        self.page.context.set_offline(False)
        self.page.on("dialog", lambda dialog: dialog.accept())
        self.measure()  # a page drawn before the readings arrived
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:5], READINGS[:5])
        self.assertEqual(self.cells()[:5], READINGS[:5])

    def test_two_people_in_one_cell(self) -> None:
        self.measure()
        other = self.open_page(person("technician"))
        self.measure(page=other)
        self.type_some(["5"])
        self.settle()
        other.keyboard.type("6")
        other.keyboard.press("Enter")
        other.wait_for_selector("#note .error")
        self.assertIn("5", other.inner_text("#note"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "5")
        other.keyboard.press("ArrowUp")
        other.keyboard.press("Enter")
        self.settle(other)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "6")
