"""Whatever is sent to whichever form, the server answers with a page or a refusal, never with a fault of its own."""

import os
import random
import re
from collections.abc import Iterator
from html.parser import HTMLParser
from typing import Any, Final

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase, override_settings
from django.urls import reverse

from demo.tests.made import put_demo
from jobs import urls as jobs_urls
from jobs.models import Job
from workshop.long_work.carrying import carry_out_work
from workshop.models import LongWork, User

NASTY: Final = (
    "\0", "a\0b", "9" * 400, "-1", "1e308", "1e400", "NaN", "inf", "٣", "a" * 100_000, "2026-02-31", "0001-01-01",
    "99999-01-01", "9999-12-31", "' or 1=1 --", "<script>", "=1+1", "2147483648", "9223372036854775808", "0", "1e-320",
    "½", "-0",
    "\u202e", '[{"slot":1e99}]', '[{"slot":0,"text":"\\u0000"}]', '[{"slot":0,"text":"\\ud800"}]', "[" * 9000,
)  # fmt: skip
STARTS: Final = (
    "/", "/bench/", "/bench/drills/", "/store/limits/", "/store/limits/service/?model=varda", "/store/figures/",
    "/order/", "/look-again/?state=all", "/ledger/", "/ledger/learning/", "/people/", "/jobs/new/", "/jobs/import/",
)  # fmt: skip
MOST_PAGES: Final = 70
QUERIES: Final = "q page change vehicle tape view cause policy by since until state people"
TRIES: Final = int(os.environ.get("IC_FUZZ", "120"))  # more by hand, before a release


class Forms(HTMLParser):
    """The forms and links of a page."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.forms: list[dict[str, Any]] = []
        self.links: set[str] = set()
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        told = {name: value or "" for name, value in attrs}
        if tag == "form":
            sent_to = told.get("action") or told.get("hx-post", "")
            self.forms.append({"to": sent_to, "way": told.get("method", "get").lower(), "fields": {}})
        elif tag in ("input", "textarea", "select", "button") and self.forms and told.get("name"):
            self.forms[-1]["fields"].setdefault(told["name"], told.get("value", ""))
        elif tag == "a" and told.get("href", "").startswith("/"):
            self.links.add(told["href"].partition("#")[0])


def kind_of(address: str) -> str:
    """Name an address without what stands for a row."""
    return re.sub(r"/\d+-[a-z2-7]{12}/", "/*/", address.partition("?")[0])


@override_settings(RATELIMIT_ENABLE=False)
class NothingBreaks(TestCase):
    """Forms are found by walking the pages, so that a new one is tried without being named here."""

    @classmethod
    def setUpTestData(cls) -> None:
        put_demo()
        cls.lead = User.objects.get(username="holm")
        walker = cls("setUp")
        walker.setUp()
        cls.walked = list(walker.pages())

    def setUp(self) -> None:
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.lead, backend="workshop.people.backends.DoorBackend")

    def test_no_form_with_anything_in_any_field(self) -> None:
        forms = list(self.forms())
        self.assertGreater(len({kind_of(form["to"]) for form in forms}), 50)
        chance = random.Random(16)
        tries = [(form, name, text) for form in forms for name in [*form["fields"], "other"] for text in NASTY]
        for k, (form, name, text) in enumerate(chance.sample(tries, min(TRIES, len(tries)))):
            sent = form["fields"] | {name: text, "once": f"k{k}"}
            send = self.client.post if form["way"] == "post" else self.client.get
            answer = send(form["to"], sent)
            self.assertLess(answer.status_code, 500, f"{form['way']} {form['to']} {name}={text[:30]!r}")

    def test_no_address_with_anything_in_its_query(self) -> None:
        pages = {kind_of(page): page for page, _read in self.walked}
        names = QUERIES.split()
        for k, page in enumerate(pages.values()):
            for name in names[k % 3 :: 3]:
                text = NASTY[(k * 7 + len(name)) % len(NASTY)]
                answer = self.client.get(page.partition("?")[0], {name: text})
                self.assertLess(answer.status_code, 500, f"{page} {name}={text[:30]!r}")

    def test_no_file_with_anything_in_it(self) -> None:
        case = reverse("jobs:case", args=[Job.objects.get(vehicle__label="Minibus 6").pk])
        good = self.client.get(case).content.replace(b"Minibus 6", b"Minibus 7")
        chance = random.Random(4)
        limits = self.client.get(reverse("workshop:library-file", args=["csv"])).content
        drive = b"time_s,ax,speed_kmh\n" + b"".join(b"%.2f,0.1,50\n" % (k / 50) for k in range(400))
        road = reverse("jobs:road-test", args=[Job.objects.get(vehicle__label="Minibus 6").pk])
        ways = (
            ("case-in", reverse("jobs:import"), "case", good),
            ("limits-take", reverse("workshop:library-import"), "file", limits),
            ("recording", road, "recording", drive),
        )
        for kind, address, field, whole in ways:
            taken = []
            for k in range(16):
                raw = bytearray(whole)
                for _ in range(k % 4):
                    at = chance.randrange(len(raw))
                    bad = chance.choice(
                        [b"\0", b"\xff", b"1e308", b"-", b"9" * 50, b'"\\u0000"', b"=", b"\n", b"{", b","]
                    )
                    raw[at : at + chance.randrange(3)] = bad
                sent = {field: SimpleUploadedFile(f"../{k}\n=.json", bytes(raw)), "once": f"{address}{k}"}
                answer = self.client.post(address, sent)
                self.assertLess(answer.status_code, 500, f"{address} {bytes(raw)[:2000]!r}")
                taken.append(answer.status_code)
            self.assertIn(302, taken)
            for work in LongWork.objects.filter(kind=kind):  # a worker looks into them
                carry_out_work(work.pk, work.workshop_id)
            works = LongWork.objects.filter(kind=kind)
            self.assertEqual(set(works.values_list("state", flat=True)), {"done", "failed"})
            self.assertFalse(works.filter(state="failed", said=[]).exists())

    def test_no_page_of_a_job_at_which_something_was_worked_and_not_read_since(self) -> None:
        patterns = [p for p in jobs_urls.urlpatterns if set(p.pattern.converters) <= {"pk", "position", "axle"}]
        patterns = [p for p in patterns if "<job:pk>" in str(p.pattern)]
        self.assertGreater(len(patterns), 20)
        for job in Job.objects.exclude(state=Job.State.CLOSED):
            corner = job.corners.exclude(limits=None).first()
            if corner is None:
                continue
            job.corners.filter(pk=corner.pk).update(episode=corner.episode + 1)
            at = {"pk": job.pk, "position": corner.position, "axle": corner.axle}
            for pattern in patterns:
                address = reverse(
                    f"jobs:{pattern.name}", kwargs={name: at[name] for name in pattern.pattern.converters}
                )
                for query in ("", "?tape=e0", "?tape=e1", "?tape=quick", "?tape=look"):
                    if query and pattern.name != "measure":
                        break
                    answer = self.client.get(address + query)
                    self.assertLess(answer.status_code, 500, f"{job.vehicle} {address}{query}")

    def test_what_no_keyboard_types_is_refused_with_a_page(self) -> None:
        answer = self.client.get("/", {"q": "a\0b"})
        self.assertContains(answer, "null byte", status_code=400)
        self.assertEqual(self.client.post("/people/", {"no\0": "x"}).status_code, 400)

    def pages(self) -> Iterator[tuple[str, Forms]]:
        """Walk from page to page, two of a kind."""
        waiting, seen, kinds = list(STARTS), set(), dict[str, int]()
        while waiting and len(seen) < MOST_PAGES:
            page = waiting.pop(0)
            kind = kind_of(page)
            if page in seen or kinds.get(kind, 0) > 1 or "sign-out" in page or "." in kind:
                continue
            seen.add(page)
            kinds[kind] = kinds.get(kind, 0) + 1
            answer = self.client.get(page)
            self.assertLess(answer.status_code, 500, page)
            if "html" not in answer.get("Content-Type", ""):
                continue
            read = Forms(answer.content.decode())
            waiting += sorted(read.links - seen)
            yield page, read

    def forms(self) -> Iterator[dict[str, Any]]:
        """Return each kind of form once, as its page sends it."""
        seen = set()
        for page, read in self.walked:
            for form in read.forms:
                form["to"] = form["to"] or page
                kind = (kind_of(form["to"]), form["way"], *sorted(form["fields"]))
                if kind not in seen and "sign-out" not in form["to"]:
                    seen.add(kind)
                    form["fields"].pop("csrfmiddlewaretoken", None)
                    yield form
