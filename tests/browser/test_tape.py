"""A technician at the reading tape, by keyboard, in a hurry, with mistakes, reloads and dropped servers."""

import json
from typing import Any, Final
from urllib.parse import parse_qs

from django.contrib.sessions.models import Session
from django.urls import reverse

from jobs.models import Corner, Sweep, ThicknessRound
from jobs.tests.base import READINGS, THICKNESS, fill
from tests.browser.base import BrowserCase, RealServer
from workshop.numbers_in_addresses import named
from workshop.people.session import session_of
from workshop.tests.base import person

# Enter, and the first key in the next cell, in one moment, however slow the machine.
_ENTER_AND_ON: Final = """() => {
  const [here, next] = [0, 1].map((slot) => document.querySelector(`[data-slot="${slot}"]`));
  here.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
  next.value = "1";
  next.dispatchEvent(new Event("input", { bubbles: true }));
}"""


def _edits(sent: str) -> list[tuple[int, str, bool]]:
    return [(edit["slot"], edit["text"], edit["final"]) for edit in json.loads(parse_qs(sent)["edits"][0])]


class WholeEntry(BrowserCase):
    """From an empty tape to a verdict."""

    def test_by_keyboard_with_a_mistyped_value(self) -> None:
        self.measure()
        keyboard = self.page.keyboard
        self.type_in(*READINGS[:4], "1.2.3")
        self.page.wait_for_selector("#note .error")
        self.assertIn("two decimal signs", self.page.inner_text("#note"))
        self.eventually("document.querySelector('[data-slot=\"4\"]').getAttribute('aria-invalid') === 'true'")
        keyboard.press("ArrowUp")
        self.type_in(*READINGS[4:])
        self.settle()
        self.assertEqual(self.page.locator("#tape .wrong, #tape [aria-invalid]").count(), 0)
        self.eventually("document.querySelector('#verdict .figure.over .amount')")
        self.assertIn("0.110", self.page.inner_text("#verdict"))
        self.assertIn("stud 4", self.page.inner_text("#high-spot"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed, READINGS)

        keyboard.press("PageDown")  # thickness
        self.page.wait_for_url("**tape=t*")
        self.type_in(*THICKNESS)
        self.eventually("document.querySelectorAll('#verdict .figure.over').length === 2")
        self.settle()
        kept = Corner.objects.get(pk=self.corner.pk).kept
        self.assertEqual((kept.runout, kept.variation, kept.do_not_drive), ("over", "over", False))

    def test_the_end_of_an_entry_goes_out_with_the_next_key_or_by_itself(self) -> None:
        self.measure()
        self.page.keyboard.type("3")
        self.settle()
        sent: list[list[tuple[int, str, bool]]] = []
        self.page.on("request", lambda request: sent.append(_edits(request.post_data or "")))
        self.page.evaluate(_ENTER_AND_ON)
        self.settle()
        self.assertEqual(sent, [[(0, "3", True), (1, "1", False)]])
        self.page.keyboard.press("Enter")
        self.settle()
        self.assertEqual(sent[1:], [[(1, "1", True)]])

    def test_zero_and_undo(self) -> None:
        self.measure()
        self.type_in("3", "1", "4")
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

    def test_the_last_reading_leads_to_the_next_act_and_no_key_of_an_act_writes(self) -> None:
        self.measure()
        keyboard = self.page.keyboard
        keyboard.press("?")
        self.page.wait_for_selector("dialog#keys")
        keyboard.press("Escape")
        self.page.focus("[data-slot='0']")
        self.type_in(*READINGS)
        self.eventually("document.activeElement.matches('#next [data-next]')")
        self.assertIn("Measure thickness", self.page.inner_text("#next"))
        self.page.focus("[data-slot='2']")
        keyboard.press("Space")  # was the key of the act once, and wiped out the reading that stood here
        keyboard.press("Control+Enter")
        self.page.wait_for_url("**tape=t*")
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed, READINGS)

    def test_an_act_pressed_before_its_reading_is_judged_is_done_if_it_stays_the_same(self) -> None:
        fill(self.user, self.sweep, [*READINGS[:4], "", *READINGS[5:]])
        self.measure()
        held: list[Any] = []
        self.page.route("**/readings/", lambda route: held.append(route))

        def type_and_go(slot: int, text: str) -> None:
            self.page.focus(f"[data-slot='{slot}']")
            self.page.keyboard.type(text)
            self.page.keyboard.press("Control+Enter")
            while not held:
                self.page.wait_for_timeout(20)

        def judge() -> None:
            while held:
                held.pop().continue_()
                self.page.wait_for_timeout(300)  # the end of the entry goes out by itself

        here = self.page.url
        type_and_go(4, READINGS[4])
        judge()
        self.eventually("document.activeElement.matches('#next [data-next]')")  # another act than was pressed
        self.assertEqual(self.page.url, here)
        type_and_go(3, READINGS[3])
        judge()
        self.page.wait_for_url("**tape=t*")

    def test_a_filled_cell_is_replaced_by_what_is_typed_the_last_one_too(self) -> None:
        self.measure()
        self.page.focus("[data-slot='10']")
        self.type_in("2")
        self.page.click("[data-slot='10']")
        self.type_in("10")
        self.page.click("[data-slot='3']")
        self.type_in("7")
        self.settle()
        self.assertEqual((self.cells()[10], self.cells()[3]), ("10", "7"))


class Early(BrowserCase):
    """A hand that types on before the page is there."""

    def test_keys_pressed_while_the_tape_is_on_its_way_stand_in_its_first_cells(self) -> None:
        held: list[Any] = []
        self.page.goto(self.url + reverse("jobs:prepare", args=[self.job.pk, "FR"]))
        self.page.route("**/prepare/**", lambda route: held.append(route))
        self.page.route("**/tape*.js", lambda route: held.append(route))

        def type_on(*texts: str) -> None:
            for text in texts:
                self.page.keyboard.type(text)
                self.page.keyboard.press("Enter")

        def let_go() -> None:
            while not held:
                self.page.wait_for_timeout(20)
            held.pop().continue_()

        self.page.keyboard.press("Control+Enter")  # lays out
        type_on("3", "1")  # into the old page
        let_go()
        # Between two documents the browser itself drops keys for a few milliseconds: no page can hear those.
        self.page.wait_for_url("**/measure/**", wait_until="commit")
        self.eventually("'earlyKeys' in window")
        type_on("4.5")  # into one that is drawn and whose tape cannot hear yet
        let_go()
        self.page.wait_for_url("**/measure/**")
        self.eventually("document.activeElement.dataset.slot === '3'")
        self.settle()
        sweep = Sweep.objects.get(corner__position="FR")
        self.assertEqual(sweep.typed[:4], ["3", "1", "4.5", ""])


class Gloves(BrowserCase):
    """Keys as they come from a bay."""

    def press(self, *keys: tuple[str, str, int]) -> None:
        """Press keys (key, code, pause in ms) as a device would, by a clock of its own: a busy machine is no hand."""
        self.page.evaluate(
            """(keys) => {
              window.clock ??= 1e6;
              for (const [key, code, pause] of keys) {
                const cell = document.activeElement;
                const down = new KeyboardEvent("keydown", {key, code, bubbles: true, cancelable: true,
                  location: code.startsWith("Numpad") ? 3 : 0});
                Object.defineProperty(down, "timeStamp", {value: window.clock});
                if (cell.dispatchEvent(down) && key.length === 1) {
                  cell.setRangeText(key, cell.selectionStart, cell.selectionEnd, "end");
                  cell.dispatchEvent(new InputEvent("input", {bubbles: true}));
                }
                window.clock += pause;
              }
            }""",
            [list(key) for key in keys],
        )

    def test_a_bounce_counts_once_and_an_instrument_that_types_fast_counts_all(self) -> None:
        self.measure()
        one, five, enter = ("1", "Digit1"), ("5", "Digit5"), ("Enter", "Enter")
        self.press((*one, 10), (*one, 200), (*enter, 10), (*enter, 200))  # a glove: 1, once down
        self.press((*one, 4), (*one, 4), (*five, 4), (*five, 4), (*enter, 100))  # a caliper: 1155
        self.settle()
        self.assertEqual(self.cells()[:3], ["1", "1155", ""])

    def test_a_scanner_that_types_a_z_zeroes_nothing(self) -> None:
        self.measure()
        self.type_in("3", "1", "4")
        self.settle()
        self.press(("Z", "KeyZ", 4), ("4", "Digit4", 4), ("0", "Digit0", 4), ("Enter", "Enter", 100))
        self.page.wait_for_selector("[data-slot='3'][aria-invalid=true]")
        self.assertEqual(self.cells()[:4], ["3", "1", "4", "z40"])

    def test_a_keypad_without_numlock_writes_its_digits(self) -> None:
        self.measure()
        self.press(("PageDown", "Numpad3", 100), ("Delete", "NumpadDecimal", 100), ("Clear", "Numpad5", 100))
        self.press(("Enter", "NumpadEnter", 100))
        self.settle()
        self.assertEqual(self.cells()[0], "3.5")
        self.assertIn(f"/jobs/{named('job', self.job.pk)}/FL/measure/", self.page.url)


class Glass(BrowserCase):
    """A tablet without a keyboard: its hand types on the keys that are drawn under the tape."""

    def setUp(self) -> None:
        super().setUp()
        self.page = self.open_page(self.user, viewport={"width": 1024, "height": 768}, has_touch=True, is_mobile=True)

    def tap(self, *names: str) -> None:
        for name in names:
            self.page.get_by_role("group", name="Keypad").get_by_role("button", name=name, exact=True).tap()

    def test_a_whole_tape_with_a_mistake_and_no_keyboard_over_the_rose(self) -> None:
        self.measure()
        self.assertEqual(self.page.locator("#tape input").first.get_attribute("inputmode"), "none")
        self.tap("2", "and a half", "next", "change the sign", "3", "7", "delete the last figure", "next")
        self.tap("4", "next", "the reading before", "change the sign", "next")
        for figure in "5678901":
            self.tap(figure, "next")
        self.settle()
        typed = ["2½", "-3", "-4", *"5678901", ""]
        self.assertEqual((self.cells(), Sweep.objects.get(pk=self.sweep.pk).typed), (typed, typed))
        self.tap("undo")
        self.eventually("document.querySelector('[data-slot=\"9\"]').value === ''")
        self.tap("zero at low")
        self.eventually("document.querySelector('[data-slot=\"2\"]').value === '0'")
        self.assertTrue(self.page.locator("#keypad").is_visible())
        self.page.locator("#next [data-next]").focus()
        self.assertFalse(self.page.locator("#keypad").is_visible())  # the verdict has its place again

    def test_a_hand_that_types_on_something_else_puts_the_keys_away_for_good(self) -> None:
        self.measure(f"?tape=t{self.round.pk}")
        self.assertEqual(self.page.locator("#keypad button", has_text="±").count(), 0)  # no thickness is below nothing
        self.page.get_by_role("button", name="keypad on").tap()
        self.page.reload()
        self.assertEqual(self.page.locator("#tape input").first.get_attribute("inputmode"), "decimal")
        self.assertFalse(self.page.locator("#keypad").is_visible())
        self.page.get_by_role("button", name="keypad off").tap()
        self.page.locator("#tape input").first.tap()
        self.assertTrue(self.page.locator("#keypad").is_visible())


class NothingIsLost(BrowserCase):
    """Reload, dropped connection, stopped server, two people."""

    takes_long = True

    def test_a_reload_in_the_middle(self) -> None:
        self.measure()
        self.type_in(*READINGS[:5])
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
        self.type_in(*READINGS[:3])
        self.settle()
        server.kill()
        self.type_in(*READINGS[3:8])
        self.page.wait_for_selector("#lost:not([hidden])")
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[3], "")
        server.start()
        self.settle()
        self.page.wait_for_selector("#lost", state="hidden")
        self.type_in(*READINGS[8:])
        self.settle()
        sweep = Sweep.objects.get(pk=self.sweep.pk)
        self.assertEqual(sweep.typed, READINGS)
        self.assertEqual(Sweep.objects.filter(corner=self.corner).count(), 1)

    def test_typed_while_offline_and_reloaded_after(self) -> None:
        self.measure()
        self.type_in(*READINGS[:2])
        self.settle()
        self.page.context.set_offline(True)
        self.type_in(*READINGS[2:5])
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
        self.type_in("5")
        self.settle()
        other.keyboard.type("5")  # the same so far
        self.settle(other)
        other.keyboard.press("Backspace")
        other.keyboard.type("6")
        other.wait_for_selector(".dispute")
        other.keyboard.type(".5")  # the hand had not finished,
        other.keyboard.press("Enter")  # and its Enter decides nothing that it has not seen
        self.assertIn("somebody typed “5”, you typed “6.5”", other.inner_text(".dispute"))
        self.eventually("document.activeElement.dataset.slot === '1'", other)
        self.assertFalse(other.is_visible(".dispute kbd"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "5")
        self.type_in("7", page=other)  # the hand has gone on: the dispute stays in sight until it is decided
        self.settle_one(other)
        other.click(".dispute [data-keep]")
        self.settle(other)
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:2], ["6.5", "7"])
        self.type_in("8")
        self.page.wait_for_selector(".dispute")
        self.page.keyboard.press("ArrowUp")
        self.assertEqual(self.page.locator(".dispute kbd:visible").all_inner_texts(), ["Enter", "Esc"])
        self.page.keyboard.press("Escape")
        self.settle()
        self.assertEqual(self.cells()[1], "7")

    def test_zero_and_a_deletion_in_mid_entry(self) -> None:
        self.measure()
        self.type_in("3", "4")
        self.page.keyboard.type("5")
        self.settle()
        self.page.keyboard.press("z")  # before Enter: what is half typed is zeroed with the rest
        self.eventually("document.querySelector('#tape input[data-slot=\"0\"]').value === '0'")
        self.page.keyboard.press("Enter")
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:3], ["0", "1", "2"])
        self.page.keyboard.type("7")
        self.settle()
        self.page.keyboard.press("Backspace")
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[3], "")

    def settle_one(self, page) -> None:
        self.eventually("Object.keys(localStorage).filter(key => key.startsWith('reading:')).length === 1", page)

    def test_readings_of_all_tapes_go_out_from_any_page_and_no_verdict_settles_before(self) -> None:
        self.measure()
        self.page.route("**/readings/", lambda route: route.abort())
        self.type_in(*READINGS[:8])
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/FL/measure/?tape=thickness")
        self.type_in(*THICKNESS[:3])
        self.page.wait_for_selector("#unsent:not([hidden])")
        self.assertEqual(self.page.inner_text("#unsent"), "11 not sent")
        self.assertTrue(self.page.is_visible(".verdict-waits"))
        self.page.click("#unsent")
        self.assertEqual(self.page.locator(".unsent-row").count(), 11)
        self.assertIn("station 1, thickness", self.page.inner_text("#unsent-list"))
        self.page.keyboard.press("Escape")
        self.page.unroute("**/readings/")
        self.page.goto(f"{self.url}/")  # the floor: no tape in sight
        self.settle()
        self.page.wait_for_selector("#unsent", state="hidden")
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:8], READINGS[:8])
        self.assertEqual(ThicknessRound.objects.get(pk=self.round.pk).typed[:3], THICKNESS[:3])

    def test_a_slow_line_a_quick_hand_and_a_change_of_tape(self) -> None:
        self.measure()
        wire = self.page.context.new_cdp_session(self.page)
        wire.send("Network.enable")
        conditions = {"offline": False, "latency": 700, "downloadThroughput": -1, "uploadThroughput": -1}
        wire.send("Network.emulateNetworkConditions", conditions)
        self.type_in(*READINGS[:9])
        self.page.wait_for_selector("#unsent:not([hidden])")
        self.assertTrue(self.page.is_visible(".verdict-waits"))
        self.page.keyboard.press("PageDown")
        self.page.wait_for_url("**tape=t*")
        self.type_in(*THICKNESS[:8])
        self.settle()
        self.page.wait_for_selector("#unsent", state="hidden")
        self.assertFalse(self.page.is_visible(".verdict-waits"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:9], READINGS[:9])
        self.assertEqual(ThicknessRound.objects.get(pk=self.round.pk).typed[:8], THICKNESS[:8])
        shown = self.page.inner_text("#verdict .figure")
        self.measure()
        self.assertEqual(self.page.inner_text("#verdict .figure"), shown)  # from all readings, not from some

    def answer_with(self, status: int) -> None:
        """Let something that is not the application answer readings."""

        def answer(route) -> None:
            headers = {"Location": "/sign-in/"} if status == 302 else {"Content-Type": "text/html"}
            route.fulfill(status=status, headers=headers, body="<html>not ours</html>")

        self.page.route("**/readings/", answer)

    def test_an_answer_that_is_not_ours_stores_nothing(self) -> None:
        self.measure()
        for status in (200, 302, 400, 403, 404, 413, 429, 500):
            with self.subTest(status=status):
                self.answer_with(status)
                self.page.focus("[data-slot='0']")
                text = str(status)[:2]
                self.page.keyboard.type(text + "5")
                self.page.keyboard.press("Enter")
                self.page.wait_for_selector("#unsent:not([hidden])")
                self.page.unroute("**/readings/")
                self.page.reload()
                self.settle()
                self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], text + "5")

    def test_what_arrives_while_the_next_page_is_drawn_stands_on_it(self) -> None:
        self.measure()
        self.type_in("8")
        self.settle()
        on_their_way: list = []
        self.page.route("**/readings/", lambda route: on_their_way.append(route))

        def drawn_before_the_reading_is_there(route) -> None:
            drawn = route.fetch()
            for _ in ("the key", "its Enter"):
                while not on_their_way:
                    self.page.wait_for_timeout(30)
                with self.page.expect_response("**/readings/"):
                    on_their_way.pop().continue_()
            self.page.wait_for_timeout(300)  # the old page hears of it
            self.page.unroute("**/readings/")
            route.fulfill(response=drawn)

        self.page.route("**/measure/", drawn_before_the_reading_is_there)
        self.page.focus("[data-slot='0']")
        self.type_in("9")
        self.page.reload()
        self.settle()
        self.assertEqual(self.cells()[0], "9")
        self.page.focus("[data-slot='0']")
        self.type_in("7")
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "7")

    def test_signed_out_in_the_middle_and_in_again(self) -> None:
        self.user.set_password("kobolt-og-salt")
        self.user.save()
        self.page = self.open_page(self.user)
        self.measure()
        self.type_in(*READINGS[:2])
        self.settle()
        Session.objects.all().delete()
        self.type_in(*READINGS[2:5])
        self.page.wait_for_selector("#lost a:visible")
        self.page.click("#lost a")
        self.page.fill("#id_username", "lead")
        self.page.fill("#id_password", "kobolt-og-salt")
        self.page.keyboard.press("Enter")
        self.page.wait_for_url(f"{self.url}/jobs/**")
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:5], READINGS[:5])

    def test_somebody_elses_readings_are_not_sent_in_my_name(self) -> None:
        session = session_of(person("technician"))
        self.measure()
        self.page.context.set_offline(True)
        self.type_in("5")
        self.page.wait_for_selector("#unsent:not([hidden])")
        self.page.context.add_cookies([{"name": "sessionid", "value": session, "url": self.url}])
        self.page.context.set_offline(False)  # the old page still tries: the server knows better
        self.page.wait_for_timeout(2000)
        self.page.goto(f"{self.url}/")
        self.page.click("#unsent")
        self.assertIn("typed by A. Lead", self.page.inner_text("#unsent-list"))
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "")

    def test_a_clock_set_back_drops_no_correction(self) -> None:
        self.measure()
        self.type_in("5")
        self.settle()
        self.page.add_init_script("Date.now = () => 1000")
        self.page.reload()
        self.page.focus("[data-slot='0']")
        self.type_in("6")
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[0], "6")

    def test_zero_waits_for_the_readings_and_says_so(self) -> None:
        self.measure()
        self.page.context.set_offline(True)
        self.type_in("3", "1", "4")
        self.page.keyboard.press("z")
        self.page.wait_for_selector("[data-act-waits=zero]:visible")
        self.page.context.set_offline(False)
        self.eventually("document.querySelector('[data-slot=\"0\"]').value === '2'")
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:3], ["2", "0", "3"])


class NoScripts(BrowserCase):
    """A browser without scripts."""

    def test_a_plain_form_takes_the_readings(self) -> None:
        page = self.open_page(self.user, java_script_enabled=False)
        self.measure(page=page)
        self.assertIn("Scripts are off", page.inner_text("main"))
        page.fill("[name=slot-0]", "1,5")
        page.fill("[name=slot-1]", "0")
        page.get_by_role("button", name="Store the readings").click()
        self.assertEqual(page.input_value("[name=slot-0]"), "1,5")
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).readings_mm[:2], [0.015, 0.0])
