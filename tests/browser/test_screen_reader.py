"""The whole job as a screen reader tells it: by keyboard alone, from the tree of names and what is said."""

from jobs.models import Decision
from jobs.tests.base import READINGS, THICKNESS
from tests.browser.base import BrowserCase
from workshop.models import Lathe
from workshop.numbers_in_addresses import named
from workshop.store.actions import keep_tooling

SAID = """() => {
  window.said = [];
  const hear = (node) => node?.textContent.trim() && window.said.push(node.textContent.trim().replace(/\\s+/g, " "));
  new MutationObserver((changes) => changes.forEach((change) => {
    const at = change.target.nodeType === 1 ? change.target : change.target.parentElement;
    hear(at?.closest("[role=status], [role=alert], [aria-live]"));
  })).observe(document.body, { subtree: true, childList: true, characterData: true });
}"""


class ByEar(BrowserCase):
    """Nothing is looked at: each page is known by its heading, each thing by its name, each change by what is said."""

    def tells(self, *lines: str) -> None:
        """Hold the page's tree of roles and names to tell these, in their order."""
        tree = self.page.locator("main").aria_snapshot()
        at = 0
        for line in lines:
            found = tree.find(line, at)
            self.assertGreaterEqual(found, 0, f"{line!r} is not told after {tree[max(at - 80, 0) : at]!r}:\n{tree}")
            at = found + len(line)

    def here(self) -> str:
        """Return the name of what has the focus."""
        return self.page.locator(":focus").aria_snapshot()

    def go(self, leg: str) -> None:
        self.page.goto(f"{self.url}/jobs/{named('job', self.job.pk)}/{leg}")

    def test_from_the_complaint_to_the_proof(self) -> None:
        keep_tooling(
            self.user,
            Lathe(name="Hub lathe", kind="on_vehicle", min_depth_mm=0.05, runout_left_mm=0.015, mm_per_line=0.02),
        )
        keyboard = self.page.keyboard
        self.go("")
        self.tells(
            'heading "Minibus 9" [level=1]', 'link "Front left not measured"', 'group "Felt in"', 'checkbox "pedal"'
        )
        self.go("FL/measure/")
        self.tells(
            'heading "Front left" [level=1]', 'img "Front left: the disc as seen from outside, runout not measured'
        )
        self.assertIn('textbox "station 1, runout"', self.here())
        self.page.evaluate(SAID)
        self.type_in(*READINGS)
        self.eventually("document.activeElement.matches('#next [data-next]')")
        self.assertIn("Measure thickness", self.here())
        self.settle()
        said = self.page.evaluate("window.said")
        self.assertTrue(any("Lateral runout" in words and "over" in words for words in said), said)
        self.assertLess(len(said), len(READINGS), "every key was told")
        keyboard.press("Control+Enter")
        self.page.wait_for_url("**tape=t*")
        self.assertIn('textbox "station 1, thickness"', self.here())
        self.type_in(*[f"{float(text) + 0.6:.3f}" for text in THICKNESS])
        self.settle()
        self.tells('img "Front left: the disc as seen from outside, high spot at stud 4')

        self.go("cause/")
        self.tells('heading "Most likely" [level=1]', "in 20", "table", 'rowheader "Front left"', "over, limit 0.05 mm")
        self.go("choose/")
        self.tells('heading "Front axle" [level=1]', 'radio "Match on the vehicle', "within", "kr")
        keyboard.press("1")
        keyboard.press("Enter")
        self.page.wait_for_selector(".decided")
        self.hears()
        self.assertEqual(Decision.objects.get().remedies["FL"], "on_vehicle_cut")
        keyboard.press("Control+Enter")
        self.page.wait_for_selector(".run")
        self.tells('heading "Chock the wheels', "Nobody under or beside a vehicle", 'button "Seen, go on')
        self.hears()
        keyboard.press("Space")
        self.page.wait_for_selector(".run-hold")
        self.tells("Lift at the maker", "Nobody under or beside a vehicle", 'group "◆ Held: passed by')
        self.go("prove/")
        self.tells('heading "Front left after" [level=1]', 'navigation "Corners"', "does not hold yet")
