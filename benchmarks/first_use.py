"""What the first use of the bench costs: ``.venv/bin/python -m benchmarks.first_use ADDRESS NAME PASSWORD``.

Three parts in series with a pair, typed on a site that runs at the address as somebody new would: where the entry
stands, how many controls are in view, how long the page is, pages and presses. All at 1280 by 800 and on a phone.
"""

import sys
from itertools import pairwise

from playwright.sync_api import Page, sync_playwright

CIRCUIT = "9V: 1k + 470 + 220 + (2k2 | 3k3); 5"
SHOWS = {
    "R1 by itself": "0.987k", "R2 by itself": "468", "R3 by itself": "221", "R4 by itself": "2.19k",
    "R5 by itself": "3.28k", "Resistance from A to gnd": "2.99k", "V1 before connecting": "9.02",
    "V1 under load": "9.01",
    "Voltage across R1": "2.97", "Voltage across R2": "1.41", "Voltage across R3": "0.666",
    "Voltage across R4 ∥ R5": "3.96", "Voltage across R4": "3.96", "Voltage across R5": "3.96",
    "Current through R1": "3.01m", "Current through R2": "3.01m", "Current through R3": "3.01m",
    "Current through R4": "1.81m", "Current through R5": "1.21m", "Current through V1": "3.01m",
}  # fmt: skip
_CONTROLS = """() => [...document.querySelectorAll(
    'a[href], button, input:not([type=hidden]), select, textarea, summary')]
  .filter(control => { const box = control.getBoundingClientRect();
     return control.checkVisibility() && box.width > 2 && box.height > 2 && box.top < innerHeight && box.bottom > 0; })
  .length"""
_TOP = "() => document.getElementById('reading-text')?.getBoundingClientRect().top"


def job(page: Page) -> None:
    """The whole job, and what it cost."""
    page.goto("/runs/new/")
    page.get_by_label("Circuit in one line").fill(CIRCUIT)
    page.get_by_role("button", name="Start the run").click()
    page.wait_for_selector("#reading-text")
    print(f"  controls in view at first: {page.evaluate(_CONTROLS)}")
    print(f"  length of the page: {page.evaluate('() => document.documentElement.scrollHeight')} px")
    tops, readings, power, most = [], 0, 0, 0
    while page.locator("#reading-text").count():
        title = page.locator(".next h2").first.inner_text()
        tops.append(round(page.evaluate(_TOP)))
        most = max(most, page.evaluate(_CONTROLS))
        if page.locator(".switch [data-switch]").count():
            page.locator(".switch [data-switch]").click()
            power += 1
        else:
            page.fill("#reading-text", SHOWS[title])
            page.keyboard.press("Enter")
            readings += 1
        page.wait_for_timeout(700)
    jumps = [abs(b - a) for a, b in pairwise(tops)]
    print(f"  {readings} readings, {power} presses of power")
    jumped = sum(jump > 4 for jump in jumps)
    print(f"  entry at {min(tops)} to {max(tops)} px; {jumped} jumps of more than 4 px")
    print(f"  controls in view at most: {most}")
    print(f"  length of the page at the end: {page.evaluate('() => document.documentElement.scrollHeight')} px")
    print(f"  focus at the end: {page.evaluate('() => document.activeElement.innerText?.slice(0, 40)')!r}")


def main() -> None:
    """Sign in and do the job on a wide screen and on a phone."""
    address, name, password = sys.argv[1:4]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox"])
        for width, height in ((1280, 800), (390, 844)):
            page = browser.new_context(viewport={"width": width, "height": height}, base_url=address).new_page()
            page.goto("/sign-in/")
            page.get_by_label("Name").fill(name)
            page.get_by_label("Password").fill(password)
            page.get_by_role("button", name="Sign in").click()
            page.wait_for_selector("main")
            print(f"{width} by {height}")
            job(page)


if __name__ == "__main__":
    main()
