"""The real interface in Debian's Chromium."""

import os
import tempfile

from django.contrib.auth import get_user_model
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import Page, expect, sync_playwright

CHROMIUM = "/usr/bin/chromium"
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


class BrowserTestCase(StaticLiveServerTestCase):
    """A browser with an empty profile, and a person to sign in as."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.profile = tempfile.TemporaryDirectory()
        cls.enterClassContext(cls.profile)
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        switches = [*SWITCHES, "--no-sandbox"] if os.getuid() == 0 else SWITCHES
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=switches)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        self.person = get_user_model().objects.create_user("bench-1", password="a-long-word")

    def open(self, size: dict[str, int] = WIDE, **options: object) -> Page:
        """A page of a new visitor; a script error or a refused resource fails the test."""
        context = self.browser.new_context(viewport=size, base_url=self.live_server_url, **options)
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

    @staticmethod
    def read(page: Page, text: str) -> None:
        """Type a reading, press Enter, and wait until the page has gone on."""
        page.evaluate(
            "() => { window.settled = new Promise(go => addEventListener('htmx:afterSettle', go, {once: true})) }"
        )
        page.locator("#reading-text").fill(text)
        page.keyboard.press("Enter")
        page.evaluate("() => window.settled.then(() => true)")
