"""The bench by keyboard: three exercises, one of them wrongly, and a drill; the needle is read as it is drawn."""

import re
from unittest import mock

from practice.models import Attempt, DrillAnswer
from tests.browser.base import BrowserCase

STAR = "13524" * 3
HAND = "document.querySelector('#stage .hand').getAttribute('transform')"


class AtTheBench(BrowserCase):
    """A technician practises, where nothing moves that need not: what is tested is no animation."""

    def setUp(self) -> None:
        super().setUp()
        # One disc for every run: what ten readings tell of a high spot between two of them is worth less.
        self.enterContext(mock.patch("practice.corner.actions.get_random_string", return_value="7"))
        self.page = self.open_page(self.user, reduced_motion="reduce")

    def begin(self, code: str) -> None:
        self.page.goto(f"{self.url}/bench/")
        self.page.locator(f"input[value={code}] + button").focus()
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("#stage")
        self.hears()

    def lines(self) -> float:
        """Read the needle off the drawing, to half a line."""
        turned = re.search(r"rotate\(([-\d.]+)", self.page.evaluate(HAND))
        return round(float(turned[1]) / 3.6 * 2) / 2

    def press(self, *keys: str) -> None:
        """Press keys one after the other; each act is answered before the next."""
        for key in keys:
            with self.page.expect_response(lambda answer: "/act/" in answer.url):
                self.page.keyboard.press(key)
            self.still()

    def still(self) -> None:
        """Wait until what was asked is drawn and the wheel stands still."""
        self.eventually("!document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling, [data-advance]')")
        where, before = "document.getElementById('hand').elements.angle.value", None
        while before != (now := self.page.evaluate(where)):
            before = now
            self.page.wait_for_timeout(60)

    def nuts(self, order: str = STAR) -> None:
        self.page.keyboard.press("n")
        self.page.keyboard.type(order)
        with self.page.expect_response(lambda answer: "/act/" in answer.url):
            self.page.keyboard.press("Enter")
        self.still()

    def go_round(self, *, stations: int = 10) -> list[float]:
        """Read a turn and the start again, typing what the needle says."""
        read = []
        for _station in range(stations + 1):
            read.append(self.lines())
            self.page.keyboard.type(f"{read[-1]:g}")
            self.press("Enter")
        return read

    def answer(self, **fields: str) -> Attempt:
        for name, value in fields.items():
            field = self.page.locator(f"#answer [name={name}]")
            field.focus()
            if field.evaluate("field => field.tagName") == "SELECT":
                field.select_option(value)
            else:
                self.page.keyboard.type(value)
        self.page.keyboard.press("Control+Enter")
        self.page.wait_for_selector(".bench-total, #answer .error")
        self.assertEqual(self.page.locator("#answer .error").all_inner_texts(), [])
        return Attempt.objects.get(pk=int(re.search(r"/bench/(\d+)-", self.page.url)[1]))

    def test_the_high_spot_is_found_by_keyboard_and_the_turns_go_on(self) -> None:
        self.begin("find-it")
        self.press("z")
        read = self.go_round()
        self.assertLess(abs(read[-1] - read[0]), 1)  # it returns
        amount = max(read) - min(read)
        high = 36 * read.index(max(read[:-1]))  # the last is the start, read again
        stud, past = divmod(high, 72)
        row = self.answer(stud=str(stud + 1), past=str(past), amount=f"{amount:g}")
        self.assertGreaterEqual(row.total, 85)
        self.assertEqual(len(row.noted), 11)
        self.assertGreaterEqual(row.stands["FL"]["turn"], 1, "the second turn was asked for in time")

    def test_the_joint_is_found_by_cleaning_with_a_slip_and_a_reload_in_the_middle(self) -> None:
        self.begin("joint")
        self.press("z")
        came = self.go_round()
        self.press("c")
        self.nuts()
        self.press("z")
        self.page.keyboard.type("12x")
        self.press("Enter")
        self.page.wait_for_selector("#reading[aria-invalid]")  # said beside the field, and still there
        self.assertEqual(self.page.input_value("#reading"), "12x")
        self.page.reload()
        self.hears()
        left = self.go_round()
        self.assertLess(max(left) - min(left), 0.4 * (max(came) - min(came)))
        high = 36 * left.index(max(left[:-1]))
        row = self.answer(
            stud=str(high // 72 + 1),
            past=str(high % 72),
            amount=f"{max(left) - min(left):g}",
            cause="joint_contamination",
        )
        self.assertGreaterEqual(row.total, 70)
        self.assertEqual(row.marks["marks"][0]["code"], "clean")
        self.assertIn("the joint", self.page.inner_text(".at-bench-paper"))

    def test_a_wrong_remedy_is_driven_on_and_comes_back(self) -> None:
        self.begin("twice-back")
        self.page.keyboard.press("Tab")
        self.page.locator("[data-act=corner][data-value=FR]").focus()
        self.press("Enter")
        row = self.answer(corner="FR", cause="rotor_runout", remedy="new_rotors")
        self.assertLess(row.total, 60)
        self.assertEqual(row.here, "FR")
        self.assertIn("back after", self.page.inner_text(".bench-driven"))

    def test_a_line_that_is_gone_and_a_session_that_ends_lose_nothing(self) -> None:
        self.begin("find-it")
        self.press("z")
        self.page.context.set_offline(True)
        self.page.keyboard.type("4.5")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-when=lost]:not([hidden])")
        self.assertEqual(self.page.input_value("#reading"), "4.5")
        self.page.context.set_offline(False)
        self.press("Enter")
        self.eventually("document.querySelector('[data-asking]').hidden")
        where = self.page.url
        self.page.context.clear_cookies(name="sessionid")
        self.page.keyboard.type("6")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-when=out]:not([hidden])")
        self.user.set_password("kobolt-og-salt")
        self.user.save()
        self.page.locator("[data-when=out] a").click()
        self.page.fill("[name=username]", self.user.username)
        self.page.fill("[name=password]", "kobolt-og-salt")
        self.page.keyboard.press("Enter")
        self.page.wait_for_url(where)
        self.assertEqual(self.page.input_value("#reading"), "6")
        self.assertEqual([row["typed"] for row in Attempt.objects.get().noted], ["4.5"])

    def test_five_minutes_of_drill_by_digits(self) -> None:
        self.page.goto(f"{self.url}/bench/drills/")
        for _statement in range(3):
            self.page.wait_for_selector("[data-drill='1']")
            self.hears()
            self.page.keyboard.press("1")
            self.page.wait_for_selector("[data-drill-next]")
            self.hears()
            self.page.keyboard.press("Enter")
        self.page.wait_for_selector("[data-drill='1']")
        self.assertEqual(DrillAnswer.objects.count(), 3)
