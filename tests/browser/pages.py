"""The real interface in Debian's Chromium."""

import atexit
import os
from collections.abc import Callable
from functools import cache

from django.contrib.auth import get_user_model
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Browser, Page, expect, sync_playwright

CHROMIUM = "/usr/bin/chromium-headless-shell"
SWITCHES = [
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# A busy machine is slow, not wrong.
PATIENCE = 20_000
expect.set_options(timeout=PATIENCE)
WIDE, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


@cache
def chromium() -> Browser:
    """The one browser of this process; every visitor has a context of their own in it."""
    playwright = sync_playwright().start()
    switches = [*SWITCHES, "--no-sandbox"] if os.getuid() == 0 else SWITCHES
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=switches)
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return browser


class BrowserTestCase(StaticLiveServerTestCase):
    """A person to sign in as, and pages to do it on."""

    def setUp(self) -> None:
        self.person = get_user_model().objects.create_user("bench-1", password="a-long-word")

    def open(self, size: dict[str, int] = WIDE, **options: object) -> Page:
        """A page of a new visitor; a script error or a refused resource fails the test."""
        context = chromium().new_context(viewport=size, base_url=self.live_server_url, **options)
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(PATIENCE)
        self.problems: list[str] = []
        page.on("pageerror", lambda error: self.problems.append(str(error)))
        page.on(
            "console", lambda said: self.problems.append(said.text) if "Content Security Policy" in said.text else None
        )
        self.addCleanup(lambda: self.assertEqual(self.problems, []))
        return page

    def sign_in(self, page: Page, address: str = "/") -> None:
        """Sign in through the page."""
        page.goto(f"/sign-in/?next={address}")
        page.get_by_label("Name").fill("bench-1")
        page.get_by_label("Password").fill("a-long-word")
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_url(f"**{address}")

    @classmethod
    def read(cls, page: Page, text: str) -> int:
        """Switch power as the card says, type a reading, press Enter, and wait until the page has gone on.

        How often power was switched.
        """
        switched = 0
        while page.locator(".switch [data-switch]").count():
            cls.wait_for(page, page.locator(".switch [data-switch]").click)
            switched += 1
        page.locator("#reading-text").fill(text)
        cls.press(page, "Enter")
        return switched

    @classmethod
    def table_at_left(cls, page: Page) -> None:
        """The table of readings stands where the drawing was."""
        cls.wait_for(page, lambda: page.keyboard.press("Alt+l"))
        expect(page.locator("#sheet .ledger")).to_be_visible()

    @classmethod
    def press(cls, page: Page, key: str) -> None:
        """Press a key and wait until the page has its answer."""
        cls.wait_for(page, lambda: page.keyboard.press(key))

    @staticmethod
    def wait_for(page: Page, act: Callable[[], None]) -> None:
        """Do something and wait until the page has its answer; the line of causes, which comes by itself, is none."""
        page.evaluate(
            "() => { window.settled = new Promise(go => addEventListener('htmx:afterSettle', event => "
            "event.detail.pathInfo?.requestPath.includes('/causes/') || go())) }"
        )
        act()
        late = f"new Promise((_, fail) => setTimeout(() => fail('the page did not go on'), {PATIENCE}))"
        page.evaluate(f"() => Promise.race([window.settled.then(() => true), {late}])")
