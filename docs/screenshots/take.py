"""Take the pictures of this folder anew: ``.venv/bin/python docs/screenshots/take.py``.

Needs ./start running on port 8000 in a fresh folder, `RECENSOR_VAR` as it has it, and the environment of ./test.
"""

import os
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

FOLDER = Path(__file__).parent
SITE = "http://127.0.0.1:8000"
SWITCHES = ["--disable-gpu", "--disable-background-networking", "--disable-sync", "--hide-scrollbars"]


def visitor(
    browser: Browser,
    width: int = 1280,
    height: int = 800,
    scheme: str = "light",
    name: str = "bench-1",
    password: str = "wind-vane",
) -> Page:
    """A signed-in page of that size."""
    page = browser.new_context(
        viewport={"width": width, "height": height}, color_scheme=scheme, base_url=SITE
    ).new_page()
    page.goto("/sign-in/")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_selector("main")
    return page


def shoot(page: Page, name: str, *, run: str | None = None, until: str = "#bench", above: int = 0) -> None:
    """Open a run from the list, if one is named, wait for what is to be seen, and take the picture.

    `above` is how many pixels of the page are scrolled out of it.
    """
    if run:
        page.goto("/")
        page.get_by_role("link", name=run, exact=True).click()
        page.wait_for_selector(until)
    page.evaluate(f"scrollTo(0, {above})")
    page.evaluate("document.fonts.ready.then(() => true)")
    page.screenshot(path=FOLDER / f"{name}.png")


def before_power(page: Page) -> None:
    """A fresh run up to the first power on in the circuit, and from there to its first current."""
    page.goto("/runs/new/")
    page.get_by_label("Circuit in one line").fill("9V: 1k + (2k2 | 3.3k) + 470; 5")
    page.get_by_label("Meter", exact=True).fill("DMM-7")
    page.get_by_role("button", name="Start the run").click()
    shown = {"R1": "0.998", "R2": "2.19", "R3": "3.31", "R4": "0.468", "Resistance": "2.784", "V1 b": "9.02",
             "V1 u": "9.01", "Voltage across R1": "3.230", "Voltage across R2": "4.26",
             "Voltage across R4": "1.515"}  # fmt: skip
    while "Current" not in (title := page.locator(".next h2").inner_text()):
        if page.get_by_role("heading", name="Before power on").count():
            shoot(page, "before-power")
        if page.locator(".switch [data-switch]").count():
            settled(page, page.locator(".switch [data-switch]").click)
            continue
        text = next(text for begins, text in shown.items() if title.startswith(begins))
        page.locator("#reading-text").fill(text)
        settled(page, page.locator(".entry-record").click)
    settled(page, page.locator(".switch [data-switch]").click)  # off, to open the circuit


def by_menu(page: Page, name: str) -> None:
    """Follow a link of the bench's menu."""
    page.locator("#bench-menu summary").click()
    page.locator("#bench-menu").get_by_role("link", name=name, exact=True).click()


def table_in(page: Page) -> None:
    """Readings copied out of a spreadsheet, looked at: one was forgotten, one is of no part here."""
    page.goto("/")
    page.get_by_role("link", name="9V: 1k + (2k2 | 3.3k) + 470; 5", exact=True).click()
    by_menu(page, "Report")
    page.get_by_role("link", name="Bring readings in from a table").click()
    cells = ("Where\tReading\tUnit\tRemark", "R1\t0.999\tkΩ\t", "R3\t\tkΩ\tforgotten", "A B\t3.231\tV\t",
             "B C\t4.26\tV\t", "C\t1.5\tV\t", "R1\t3.24\tmA\t", "Q7\t1.4\tV\tnot ours?")  # fmt: skip
    page.get_by_label("or its cells").fill("\n".join(cells))
    page.get_by_role("button", name="Look at it").click()
    page.wait_for_selector(".bring-said")
    shoot(page, "table-in")


def settled(page: Page, act: Callable[[], None]) -> None:
    """Do something and wait until the page has its answer."""
    page.evaluate("() => { window.done = new Promise(go => addEventListener('htmx:afterSettle', go, {once: true})) }")
    act()
    page.evaluate("() => window.done.then(() => true)")


def main() -> None:
    """Every main view, from the demo."""
    with sync_playwright() as playwright:
        switches = [*SWITCHES, "--no-sandbox"] if os.getuid() == 0 else SWITCHES
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=switches)
        page = visitor(browser)
        shoot(page, "runs")
        shoot(page, "bench", run="Dew heater bank")
        shoot(page, "line", run="Mast lamp, cold and lit", until=".plot")
        page.goto("/")
        page.get_by_role("link", name="Three resistors of the regulator", exact=True).click()
        page.wait_for_selector("#bench")
        settled(page, lambda: page.keyboard.press("Alt+j"))
        page.keyboard.type("R1 | R2 | R3, R2 + (R1 | R3)")
        page.wait_for_selector(".proposed-drawing")
        shoot(page, "circuits")
        page.goto("/")
        page.get_by_role("link", name="Night battery under load", exact=True).click()
        by_menu(page, "Causes")
        page.wait_for_selector(".causes-list")
        shoot(page, "causes")
        page.goto("/")
        page.get_by_role("link", name="Regulator feed, a long morning", exact=True).click()
        by_menu(page, "Change")
        shoot(page, "change")
        page.goto("/")
        page.get_by_role("link", name="Wind vane ladder", exact=True).click()
        by_menu(page, "Report")
        page.wait_for_selector(".report")
        shoot(page, "report", above=600)
        page.goto("/bands/?bands=brown+black+red+gold")
        shoot(page, "bands")
        page.goto("/runs/new/")
        page.get_by_label("Circuit in one line").fill("9V: 1k + (2k2 | 3.3k) + yellow violet brown gold; 5")
        page.wait_for_selector("#preview svg #part-4")
        shoot(page, "new-run")
        keeper = visitor(browser, name="technician")
        keeper.goto("/kits/")
        keeper.get_by_role("link", name="Weather station stock").click()
        shoot(keeper, "kit")
        keeper.locator(".sortings a").first.click()
        shoot(keeper, "sorting")
        author = visitor(browser, name="instructor")
        author.goto("/experiments/")
        author.get_by_role("link", name="Temperature sensor bridge").click()
        author.get_by_role("link", name="voltages").click()
        author.wait_for_selector(".part-note")
        author.locator("#part-3").click()
        author.wait_for_selector("#what")
        shoot(author, "editor")
        for name, title in [("what-if", "What if"), ("worked", "Worked out")]:
            if name == "worked":
                author.goto("/experiments/")
                author.get_by_role("link", name="Wind vane ladder").click()
            author.get_by_role("link", name=title).click()
            author.wait_for_load_state()
            shoot(author, name)
        owner = visitor(browser)
        owner.goto("/meters/")
        owner.get_by_role("link", name="Workshop handheld").first.click()
        shoot(owner, "profile")
        before_power(owner)
        phone = visitor(browser, 390, 844)
        shoot(phone, "bench-phone", run="Temperature bridge, one arm", until=".cause-line")
        shoot(page, "bench", run="Dew heater bank")  # again: it is open now
        by_menu(page, "Board")
        page.get_by_role("button", name="It is built as planned").click()
        for number, text in enumerate(["R2 c14 c10", "R4 b20 b24"], 1):
            page.wait_for_selector("#what")
            page.locator("#what").fill(text)
            page.keyboard.press("Enter")
            page.locator(".differences li").nth(2 * number - 1).wait_for()
        page.get_by_label("red").fill("a4")
        page.get_by_label("black").fill("-L4")
        page.get_by_role("button", name="Read").click()
        page.wait_for_selector(".display-of-meter")
        shoot(page, "board")
        table_in(page)
        browser.close()


if __name__ == "__main__":
    main()
