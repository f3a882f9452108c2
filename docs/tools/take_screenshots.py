"""Take one picture of each main view, from the demo data. Run by bin/screenshots."""

import os
import sys
from collections.abc import Callable

from playwright.sync_api import Page, sync_playwright

CHROMIUM = os.environ.get("IC_CHROMIUM", "/usr/bin/chromium")
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]


def choose(page: Page, name: str, value: str) -> None:
    """Press one of the switches in the head."""
    button = page.locator(f"[name={name}][value={value}]")
    if button.get_attribute("aria-pressed") != "true":
        button.click()
        page.wait_for_selector(f"[name={name}][value={value}][aria-pressed=true]")


def work_on(page: Page, *, until: str) -> None:
    """Do the work on the page step by step, every reading in the middle of what is expected, until something shows."""
    while not page.locator(until).count():
        step = page.locator(".run").get_attribute("data-step")
        page.wait_for_timeout(380)  # two presses quicker than that are one
        if page.locator("#typed").count():
            expected = (page.locator(".expected-name").text_content() or "").removeprefix("expect ").split(" ")[0]
            low, high = (float(figure) for figure in expected.split("–"))
            page.fill("#typed", f"{(low + high) / 2:.3f}")
            if page.locator("#arm").count():
                page.fill("#arm", "276")
            page.keyboard.press("Enter")
        elif page.locator(".run-findings, .run-hold").count():
            page.keyboard.press("1")
        elif page.locator("#torque").count():
            page.fill("#torque", "42")
            page.fill("#source", "maker’s book, page 12")
            page.keyboard.press("Enter")
        else:
            page.keyboard.press("Space")
        page.wait_for_selector(f".run:not([data-step='{step}'])")


def at_the_bench(page: Page, address: str, shot: Callable[..., None]) -> None:
    """Practise a little: half a sweep, a disc under the lathe, a statement."""
    page.goto(address + "/bench/")
    page.locator("input[value=in-a-hurry] + button").click()
    page.wait_for_selector("#stage")
    for key, value in (("c", ""), ("n", "135241352413524\n"), ("z", "")):
        page.keyboard.press(key)
        page.keyboard.type(value)
        page.wait_for_timeout(700)
    for _station in range(6):
        turned = page.evaluate("document.querySelector('#stage .hand').getAttribute('transform')")
        page.keyboard.type(f"{round(float(turned[7:].split(' ')[0]) / 1.8) / 2:g}\n")
        page.wait_for_timeout(1500)
    page.keyboard.press("m")
    page.wait_for_timeout(500)
    shot("bench")
    page.goto(address + "/bench/")
    page.locator("input[value=match] + button").click()
    page.wait_for_selector("#lathe")
    for key in "chfkdsz":
        page.keyboard.press(key)
        page.wait_for_timeout(600)
    page.fill("#out-lines", "4")
    page.fill("#in-lines", "5")
    page.keyboard.press("x")
    page.wait_for_selector("[data-play]")
    shot("lathe")
    page.goto(address + "/bench/drills/")
    page.keyboard.press("1")
    page.wait_for_selector("[data-drill-next]")
    shot("drill")


def on_glass(page: Page, address: str, path: str) -> None:
    """Take a tape on a phone, its own keys under it."""
    options = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
    phone = page.context.browser.new_context(**options, storage_state=page.context.storage_state())
    hand = phone.new_page()
    hand.goto(address)
    hand.wait_for_selector("#keypad:not([hidden])")
    hand.evaluate("document.querySelector('.leaf').scrollIntoView()")
    hand.wait_for_timeout(300)
    hand.screenshot(path=path)
    phone.close()


def main(address: str, folder: str) -> None:
    """Sign in as the demo's lead and look at everything once."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})

        def shot(name: str, path: str | None = None) -> None:
            if path is not None:
                page.goto(address + path)
            page.wait_for_load_state("networkidle")
            page.evaluate("document.fonts.ready")
            page.wait_for_timeout(300)
            page.screenshot(path=f"{folder}/{name}.png")

        page.goto(address + "/sign-in/")
        page.fill("#id_username", "holm")
        page.fill("#id_password", "salt-and-iron")
        page.keyboard.press("Enter")
        page.wait_for_selector("#strips")
        choose(page, "units", "mm")
        choose(page, "theme", "day")
        shot("floor")
        job = page.locator(".strip", has_text="Minibus 6").locator(".strip-name").get_attribute("href")
        shot("complaint", job)
        stuck = page.goto(address + "/?q=autumn") and page.locator(".strip-name").first.get_attribute("href")
        shot("cause", f"{stuck}cause/")  # a caliper to be seen to before the discs
        shot("prepare", f"{job}FR/prepare/")
        shot("measure-runout", f"{job}FL/measure/")
        shot("store", "/store/plates/")
        pool = page.goto(address + "/?q=pool") and page.locator(".strip-name").first.get_attribute("href")
        page.goto(address + pool)
        shot("vehicle", page.locator("a[href^='/vehicles/']").first.get_attribute("href"))
        shot("choose", f"{job}choose/F/")
        shot("cut-plan", f"{job}FL/cut/")
        plate = page.goto(address + "/?q=shimmies") and page.locator(".strip-name").first.get_attribute("href")
        shot("on-the-studs", f"{plate}FL/turn/")
        on_glass(page, f"{address}{job}FL/measure/", f"{folder}/measure-phone.png")
        page.goto(f"{address}{job}choose/F/")
        page.locator("[data-lane='1']").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector(".decided")
        page.goto(f"{address}{job}do/")
        work_on(page, until=".run:has(.feed) #typed")
        shot("do")
        shot("order-of-the-day", "/order/?people=2")
        page.goto(f"{address}{plate}do/")
        work_on(page, until=".run-dock a[href$='/prove/']")
        page.goto(f"{address}{plate}FL/prepare/")
        for name in ("lifted", "cleaned", "nuts_torqued", "tip"):
            page.check(f"[name={name}]")
        page.keyboard.press("Enter")
        page.wait_for_selector("#tape")
        for reading in ("1", "1.5", "2", "2.5", "2.5", "2", "1.5", "1", "0.5", "0.5", "1"):
            page.keyboard.type(reading)
            page.keyboard.press("Enter")
            page.wait_for_timeout(250)
        shot("prove", f"{plate}FL/prove/")
        page.goto(address + "/ledger/?by=remedy")
        shot("ledger")
        page.goto(address + "/look-again/")
        turned = (
            page.locator(".again-row", has_text="Meal van 4").locator("a[href^='/jobs/']").first.get_attribute("href")
        )
        shot("owner", f"{turned}owner/")
        at_the_bench(page, address, shot)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2])
