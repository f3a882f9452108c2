"""In thou everything is: no page says a length, a distance, a speed or a torque in the other system."""

import re

from django.urls import reverse

from jobs.models import Job
from jobs.tests.base import DemoShop
from workshop.models import Instrument, User, Vehicle
from workshop.numbers_in_addresses import named
from workshop.tests.base import client_of

METRIC = re.compile(r"\d\s?(?:mm|km/h|km|N·m)\b|\((?:mm|km/h|km|N·m)\)|/ 1,000 km")
IMPERIAL = re.compile(r"\d\s?(?:thou|mi|mph|lb·ft)\b|\((?:thou|in|mi|mph|lb·ft)\)|/ 1,000 mi")
# What a person wrote stays as it was written: complaints, typed readings, what a field takes, an instrument's own face.
WRITTEN = re.compile(
    r"<textarea.*?</textarea>|<title>.*?</title>|<option.*?</option>|<dialog.*?</dialog>|<kbd>.*?</kbd>"
    r"|<p class=\"strip-words\">.*?</p>|<header.*?</header>|typed “.*?”|A unit may follow.*?</p>"
    r"|<datalist.*?</datalist>",
    re.DOTALL,
)


def seen(html: str) -> str:
    """Return what stands on a page, without what people wrote."""
    text = re.sub(r"<[^>]+>", " ", WRITTEN.sub(" ", html))
    return re.sub(r"\s+", " ", text.replace("&nbsp;", " "))


class Units(DemoShop):
    """Every page, in both systems."""

    def pages(self) -> list[str]:
        job, van = (named("job", one.pk) for one in (self.job, self.van))
        of_job = [
            f"/jobs/{pk}/{leg}" for pk in (job, van) for leg in ("", "cause/", "choose/F/", "FL/measure/", "FL/cut/")
        ]
        of_job += [
            f"/jobs/{job}/FL/{leg}" for leg in ("prepare/", "turn/", "measure/?tape=thickness", "measure/?tape=look")
        ]
        vehicle = reverse("jobs:vehicle", args=[Vehicle.objects.get(label="Pool car").pk])
        store = ["/store/plates/", "/store/lathes/", "/store/figures/"]
        return [*of_job, f"/jobs/{van}/FL/do/", "/jobs/new/", vehicle, *store]

    def test_a_person_who_reads_thou_reads_nothing_metric(self) -> None:
        User.objects.filter(pk=self.user.pk).update(units="thou")
        names = [re.escape(name) for name in Instrument.objects.values_list("name", flat=True)]
        client = client_of(User.objects.get(pk=self.user.pk))
        for page in self.pages():
            with self.subTest(page=page):
                shown = re.sub("|".join(names), "", seen(client.get(page).content.decode()))
                shown = shown.replace(
                    "(mm)", ""
                )  # a figure beside the disc keeps the unit it was typed in, and says it
                found = [shown[max(0, m.start() - 40) : m.end() + 10] for m in METRIC.finditer(shown)]
                self.assertEqual(found, [])

    def test_a_person_who_reads_mm_reads_nothing_imperial(self) -> None:
        client = client_of(User.objects.get(pk=self.user.pk))
        for page in self.pages():
            with self.subTest(page=page):
                shown = seen(client.get(page).content.decode())
                found = [shown[max(0, m.start() - 40) : m.end() + 10] for m in IMPERIAL.finditer(shown)]
                self.assertEqual(found, [])

    def test_the_demo_has_every_state_there_is(self) -> None:
        self.assertEqual(set(Job.objects.values_list("state", flat=True)), set(Job.State.values))
