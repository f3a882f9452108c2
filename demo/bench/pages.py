"""Pages one after another, beside a bare view of the same server, and keystrokes in a browser."""

import os
from collections.abc import Iterator
from typing import Final

import numpy as np
from django.urls import reverse

from demo.bench.figures import line, timed
from demo.bench.technician import Technician
from jobs.models import Job
from workshop.models import User
from workshop.people.session import session_of

# Names, and addresses that begin at the job being measured ({job}) or the one that is decided ({decided}).
_PAGES: Final = (
    ("the floor", "/"),
    ("the floor, searched", "/?q=pulses+at+77"),
    ("complaint", "{job}/"),
    ("prepare", "{job}/FL/prepare/"),
    ("workbench", "{job}/FL/measure/"),
    ("thickness", "{job}/FL/measure/?tape=thickness"),
    ("cause", "{job}/cause/"),
    ("choose", "{job}/choose/F/"),
    ("rotor on its studs", "{job}/FL/turn/"),
    ("cut plan", "{job}/FL/cut/"),
    ("the work, a step", "{decided}/do/"),
    ("order of the day", "/order/"),
    ("proof", "{decided}/prove/"),
    ("owner's sheet", "{decided}/owner/"),
    ("look again", "/look-again/?state=all"),
    ("ledger, by cause", "/ledger/"),
    ("ledger, by month", "/ledger/?by=month"),
    ("ledger, all of ten years", "/ledger/?since="),
    ("ledger, by model, filtered", "/ledger/?by=model&remedy=index&since=2026-01-01"),
    ("ledger, comebacks", "/ledger/comebacks/"),
    ("ledger, odds", "/ledger/odds/"),
    ("ledger, hubs", "/ledger/hubs/"),
    ("ledger, lathes", "/ledger/lathes/"),
    ("ledger, learning", "/ledger/learning/"),
)
# Whoever types looks at the rose: from a key's input to its new picture.
_WATCH_ROSE: Final = """() => {
  window.times = [];
  document.addEventListener("input", () => { window.t = performance.now(); });
  new MutationObserver(() => requestAnimationFrame(() => window.times.push(performance.now() - window.t)))
    .observe(document.getElementById("rose"), {childList: true});
}"""


def measure_pages(port: int, person: User, job: Job, decided: Job, *, requests: int) -> Iterator[str]:
    """Measure every main page and a reading typed, ``requests`` times each."""
    sweep = job.corners.get(position="FL").sweeps.get()
    technician = Technician(port, person, job, sweep)
    floor = timed(lambda: technician.read("/bare/"), requests)
    yield line("bare view with one query", floor)
    yield line("a page's frame, empty", timed(lambda: technician.read("/frame/"), requests), floor)
    named = {
        name: reverse("jobs:complaint", args=[one.pk]).rstrip("/") for name, one in (("job", job), ("decided", decided))
    }
    for name, path in _PAGES:
        address = path.format(**named)
        yield line(name, timed(lambda address=address: technician.read(address), requests), floor)  # type: ignore[misc]
    technician.read_workbench()
    yield line("a reading typed", timed(technician.type_reading, requests), floor)


def measure_keystrokes(port: int, person: User, job: Job, *, count: int) -> Iterator[str]:
    """Measure from keystroke to redrawn rose in headless Chromium."""
    try:
        from playwright.sync_api import sync_playwright
    except ImportError:
        yield "  keystroke to redrawn rose       not measured: run bin/test once, it installs the browser driver"
        return
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    address = f"http://127.0.0.1:{port}"
    cookie = {"name": "sessionid", "value": session_of(person), "url": address}
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=os.environ.get("IC_CHROMIUM", "/usr/bin/chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"],
        )
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        context.add_cookies([cookie])  # type: ignore[list-item]
        page = context.new_page()
        page.goto(address + reverse("jobs:measure", args=[job.pk, "FL"]))
        page.focus("[data-slot='3']")
        page.evaluate(_WATCH_ROSE)
        for k in range(count):  # eighty-one different tapes: none has been worked out before
            page.focus(f"[data-slot='{k // 9 % 9}']")
            page.keyboard.press("Control+a")
            page.keyboard.type(str(k % 9 + 1))
            page.wait_for_timeout(120)
        times = np.array(page.evaluate("window.times")) / 1e3
        browser.close()
    yield line(f"keystroke to redrawn rose ({times.size})", times)
