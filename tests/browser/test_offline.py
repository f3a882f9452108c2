"""A tablet at the far end of the yard: pages open without a line, readings wait, nobody else sees them."""

from django.urls import reverse

from jobs.models import Sweep
from jobs.tests.base import READINGS
from tests.browser.base import BrowserCase, RealServer


class WithoutALine(BrowserCase):
    """The server is really gone; the browser's own service worker answers."""

    def setUp(self) -> None:
        super().setUp()
        self.server = RealServer()
        self.addCleanup(self.server.kill)
        self.server.start()
        self.url = self.server.url
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
        self.server.kill()

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

        self.server.start()
        self.settle()
        self.assertEqual(Sweep.objects.get(pk=self.sweep.pk).typed[:7], [*READINGS[:6], ""])
        self.assertEqual(self.page.input_value("[name=stations]"), "12")
        self.page.click("#kept [data-line=back] a")
        self.page.wait_for_selector("#kept", state="hidden")

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
