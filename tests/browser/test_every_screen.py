"""Every screen, held against the accessibility rules."""

import uuid
from decimal import Decimal

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from recensor.bench.models import Reading
from recensor.core.circuit import asking_everything
from recensor.core.examples import circuits
from recensor.core.quantity import OHM, parse
from recensor.experiments.services import make_experiment
from recensor.kits import services
from tests.browser.pages import PHONE, WIDE, BrowserTestCase
from tests.served import chain_run


class EveryScreen(BrowserTestCase):
    """Every address on a phone and wide, light and dark."""

    def setUp(self) -> None:
        super().setUp()
        run = chain_run(self.person).get_absolute_url()
        kit = services.make_kit(self.person, "Stock")
        services.fill_bin(kit, Decimal(1000), Decimal(5), 10)
        table = services.start_sorting(kit, 12, Decimal(5))
        services.sort_part(table.pk, self.person, parse("1.02k", OHM), uuid.uuid4())
        circuit = make_experiment(self.person, asking_everything(circuits.bridge())).get_absolute_url()
        bands, pairs = "/bands/value/?value=4.6k&tolerance=5", "/pairs/?wanted=1.41k&stock=E24"
        self.run_address = run
        self.addresses = ("/", "/runs/new/", "/bands/?bands=brown+red+black+black+orange", bands, pairs, "/kits/",
                     kit.get_absolute_url(), table.get_absolute_url(), "/preferences/", "/experiments/",
                     "/experiments/new/", f"{circuit}?part=R1&show=currents", f"{circuit}sheet/", f"{circuit}worked/",
                     f"{circuit}what-if/", f"{run}worked/", f"{run}board/", f"{run}board/?side=built",
                     f"{run}board/?side=path&at=1")  # fmt: skip

    def test_first_half_on_a_phone(self) -> None:
        self.pass_everywhere("light", PHONE, self.addresses[::2])

    def test_second_half_on_a_phone(self) -> None:
        self.pass_everywhere("light", PHONE, self.addresses[1::2])

    def test_first_half_wide_and_dark(self) -> None:
        self.pass_everywhere("dark", WIDE, self.addresses[::2])

    def test_second_half_wide_and_dark(self) -> None:
        self.pass_everywhere("dark", WIDE, self.addresses[1::2])

    def pass_everywhere(self, scheme: str, size: dict[str, int], addresses: tuple[str, ...]) -> None:
        """The accessibility rules, and no sideways scrolling, at the bench with something read and everywhere else."""
        page = self.open(size, color_scheme=scheme)
        page.goto("/sign-in/")
        self.pass_rules(page)
        self.sign_in(page, self.run_address)
        self.read(page, "1.2")
        for address in (f"{self.run_address}?point=0", *addresses):
            page.goto(address)
            self.pass_rules(page)
            scroll = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(scroll, size["width"], f"{address} scrolls sideways")

    def test_by_thumb_the_next_reading_comes_first_and_sign_and_over_range_are_buttons(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.sign_in(page, chain_run(self.person).get_absolute_url() + "?point=5")
        record = page.get_by_role("button", name="Record", exact=True)
        self.assertLess(record.bounding_box()["y"] + record.bounding_box()["height"], 500)
        page.locator("#reading-text").fill("1.004")
        page.get_by_role("button", name="± sign").tap()
        expect(page.locator("#reading-text")).to_have_value("-1.004")
        record.tap()
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")
        self.assertEqual(float(Reading.objects.get().value), -1.004)

    def pass_rules(self, page: Page) -> None:
        found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
        problems = [(v["id"], [node["html"][:120] for node in v["nodes"]]) for v in found.response["violations"]]
        self.assertEqual(problems, [], page.url)
