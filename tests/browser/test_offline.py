"""A tablet at the far end of the yard: pages open without a line, readings wait, nobody else sees them."""

from django.urls import reverse

from compass.do.ladder import rung
from jobs.choose.actions import decide
from jobs.do.doing import doing_of
from jobs.do.running import Sent, do_step
from jobs.models import Job, RunStep, Sweep
from jobs.tests.base import READINGS, THICKNESS, fill
from tests.browser.base import BrowserCase, Line
from workshop.models import Lathe
from workshop.store.actions import keep_tooling
from workshop.tests.base import person


class WithoutALine(BrowserCase):
    """Nothing answers at the server's address; the browser's own service worker does."""

    takes_long = True

    def setUp(self) -> None:
        super().setUp()
        self.line = Line(self.live_server_url)
        self.addCleanup(lambda: self.line.cut())
        self.url = self.line.url
        self.page = self.open_page(self.user, service_workers="allow")

    def kept(self) -> str:
        return "caches.open('pages').then(pages => pages.keys()).then(pages => pages.length)"

    def test_the_workbench_is_reloaded_and_typed_into_and_all_arrives(self) -> None:
        self.measure()
        self.eventually(f"({self.kept()}).then(count => count === 1)")
        self.page.goto(self.url + reverse("jobs:prepare", args=[self.job.pk, "FL"]))
        self.measure()
        self.type_in(*READINGS[:3])
        self.settle()
        self.page.reload()
        self.eventually("Boolean(navigator.serviceWorker.controller)")
        self.line.cut()

        self.page.reload()
        self.page.wait_for_selector("#kept:not([hidden])")
        self.assertEqual(self.cells()[:4], [*READINGS[:3], ""])
        self.page.focus("[data-slot='3']")
        self.type_in(*READINGS[3:6])
        self.page.wait_for_selector("#lost:not([hidden])")
        self.page.reload()  # with readings that were not sent
        self.assertEqual(self.cells()[:6], READINGS[:6])

        self.page.goto(self.url + reverse("ledger:overview"))  # never opened here
        self.page.wait_for_selector("#kept-pages:not([hidden]) a")
        self.page.click("#kept-pages a")
        self.page.wait_for_selector("#kept:not([hidden])")

        self.page.goto(self.url + reverse("jobs:prepare", args=[self.job.pk, "FL"]))
        self.page.click("[type=submit].next")  # a form, kept page or not, is not lost to the browser's own error
        self.page.wait_for_selector("#kept [data-line=held]:not([hidden])")
        self.page.fill("[name=stations]", "12")

        self.line = self.line.laid_again()
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:7], [*READINGS[:6], ""])
        self.assertEqual(self.page.input_value("[name=stations]"), "12")
        self.page.click("#kept [data-line=back] a")
        self.page.wait_for_selector("#kept", state="hidden")

    def test_steps_are_pressed_one_after_the_other_and_go_out_in_their_order(self) -> None:
        self.decided()
        job = Job.objects.for_doing().get(pk=self.job.pk)
        for _step in range(2):  # chocks, then the hold: a page that has steps ahead of it
            placed = doing_of(self.user, job).current
            do_step(self.user, job, Sent(placed.position, placed.key, reason="alone"))
            job = Job.objects.for_doing().get(pk=self.job.pk)
        ahead = doing_of(self.user, job).ahead
        self.assertGreaterEqual(len(ahead), 4, "steps that only want to be done")
        self.page.goto(self.url + reverse("jobs:do", args=[self.job.pk]))
        self.eventually("Boolean(navigator.serviceWorker.controller)")
        self.eventually(f"({self.kept()}).then(count => count === 1)")
        before = RunStep.objects.count()
        self.line.cut()

        says = lambda: self.page.inner_text(".run-says")  # noqa: E731
        first = says()
        self.press("Space")
        self.page.wait_for_selector("#pressed [data-pressed=waits]:not([hidden])")
        self.assertNotEqual(says(), first)
        self.page.reload()  # from the device, with what waits
        self.page.wait_for_selector("#kept:not([hidden])")
        second = says()
        self.assertNotEqual(second, first)
        self.press("Space")
        self.assertNotEqual(says(), second)
        self.assertEqual(self.page.inner_text("[data-count]"), "2")
        for _more in range(len(ahead)):
            self.press("Space")
        self.page.wait_for_selector("#pressed [data-pressed=asks]:not([hidden])")
        self.assertEqual(RunStep.objects.count(), before)

        self.line = self.line.laid_again()
        self.page.wait_for_selector("#pressed", state="hidden")
        rows = list(RunStep.objects.order_by("pk"))[before:]
        self.assertEqual([(row.position, row.key) for row in rows], [rung(step) for step in ahead[:-1]])
        self.assertEqual(sorted(row.done_at for row in rows), [row.done_at for row in rows])
        self.page.wait_for_selector(".run:not(.ahead)")

    def test_what_somebody_else_did_meanwhile_is_told_and_not_written_over(self) -> None:
        self.decided()
        self.page.goto(self.url + reverse("jobs:do", args=[self.job.pk]))
        self.eventually("Boolean(navigator.serviceWorker.controller)")
        self.line.cut()
        self.press("Space")
        self.page.wait_for_selector("#pressed [data-pressed=waits]:not([hidden])")
        other = person("technician", username="other")
        job = Job.objects.for_doing().get(pk=self.job.pk)
        placed = doing_of(other, job).current
        do_step(other, job, Sent(placed.position, placed.key))
        self.line = self.line.laid_again()
        self.page.wait_for_selector("#pressed [data-pressed=refused]:not([hidden])")
        self.assertIn("Done already by", self.page.inner_text("#pressed"))
        self.page.click("[data-forget-presses]")
        self.page.wait_for_selector("#pressed", state="hidden")
        self.assertEqual(RunStep.objects.get().done_by, other)

    def decided(self) -> None:
        lathe = Lathe(name="Hub lathe", kind="on_vehicle", min_depth_mm=0.05, runout_left_mm=0.015, mm_per_line=0.02)
        keep_tooling(self.user, lathe)
        fill(self.user, self.sweep, READINGS)
        fill(self.user, self.round, [f"{float(text) + 0.6:.3f}" for text in THICKNESS])
        decide(self.user, self.job, "F", code="on_vehicle_cut")

    def press(self, key: str) -> None:
        self.page.wait_for_timeout(370)  # no glove is quicker
        self.hears()
        self.page.keyboard.press(key)

    def test_who_signs_out_takes_the_pages_along(self) -> None:
        self.measure()
        self.eventually(f"({self.kept()}).then(count => count === 1)")
        self.page.context.clear_cookies()
        self.page.goto(self.url + reverse("workshop:sign-in"))
        self.eventually(f"({self.kept()}).then(count => count === 0)")

    def test_it_can_be_installed(self) -> None:
        manifest = self.page.request.get(f"{self.url}/manifest.webmanifest").json()
        sizes = {icon["sizes"] for icon in manifest["icons"]}
        self.assertLessEqual({"192x192", "512x512"}, sizes)
        for icon in manifest["icons"]:
            self.assertEqual(self.page.request.get(self.url + icon["src"]).status, 200)
