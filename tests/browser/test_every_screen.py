"""Every screen, held against the accessibility rules."""

import uuid
from decimal import Decimal

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from recensor.core.circuit import asking_everything
from recensor.core.examples import circuits
from recensor.core.quantity import OHM, parse
from recensor.experiments.services import make_experiment
from recensor.kits import services
from recensor.runs.models import ReadingRow
from tests.browser.pages import PHONE, WIDE, BrowserTestCase
from tests.samples import WHOLE
from tests.served import chain_run

ALL_RULES = {"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]}
# What a narrower page in other colours can break; the rest depends on the document alone.
OF_LOOK = {"runOnly": ["color-contrast", "target-size", "scrollable-region-focusable", "link-in-text-block"]}


class EveryScreen(BrowserTestCase):
    """Every address on a phone and wide, light and dark."""

    def setUp(self) -> None:
        super().setUp()
        self.person.own_calculations = True
        self.person.save()
        run = chain_run(self.person).get_absolute_url()
        kit = services.make_kit(self.person, "Stock")
        services.fill_bin(kit, Decimal(1000), Decimal(5), 10)
        table = services.start_sorting(kit, 12, Decimal(5))
        services.sort_part(table.pk, self.person, parse("1.02k", OHM), uuid.uuid4())
        circuit = make_experiment(self.person, asking_everything(circuits.bridge())).get_absolute_url()
        bands, pairs = "/bands/value/?value=4.6k&tolerance=5", "/pairs/?wanted=1.41k&stock=E24"
        self.run_address = run
        self.addresses = (
            f"{run}?measurement=of.r.R1",
            "/", "/runs/new/", "/bands/?bands=brown+red+black+black+orange", bands, pairs, "/kits/",
            kit.get_absolute_url(), table.get_absolute_url(), "/preferences/", "/experiments/", "/experiments/new/",
            *(f"{circuit}{page}" for page in ("?part=R1&show=currents", "sheet/", "worked/", "what-if/")),
            f"{run}change/", f"{run}?read=A+C&quantity=voltage", f"{run}report/",
            f"{run}readings-in/", "/archives/",
            *(f"{run}{page}" for page in ("worked/", "board/", "board/?side=built", "board/?side=path&at=1")),
        )  # fmt: skip

    def test_first_part(self) -> None:
        self.pass_everywhere(self.addresses[::3])

    def test_second_part(self) -> None:
        self.pass_everywhere(self.addresses[1::3])

    def test_third_part(self) -> None:
        self.pass_everywhere(self.addresses[2::3])

    def test_signing_in(self) -> None:
        page = self.open()
        page.goto("/sign-in/")
        self.pass_rules(page)

    def pass_everywhere(self, addresses: tuple[str, ...]) -> None:
        """The accessibility rules, and no sideways scrolling, at the bench with something read and everywhere else."""
        page = self.open(color_scheme="dark", reduced_motion="reduce")  # no colour half-way between two themes
        self.sign_in(page, self.run_address)
        self.read(page, "1.2")
        self.read(page, "2.01M")  # and a question is open
        for number, address in enumerate(addresses):
            page.goto(address)
            looks = (WIDE, "dark", ALL_RULES), (PHONE, "light", OF_LOOK)
            looks = looks if WHOLE or number % 2 == 0 else looks[:1]
            for size, scheme, rules in looks:
                page.set_viewport_size(size)
                self.assertEqual(page.evaluate("document.documentElement.dataset.bsTheme"), scheme)
                self.pass_rules(page, rules)
                scroll = page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(scroll, size["width"], f"{address} scrolls sideways")
                if len(looks) > 1:
                    page.locator("[data-theme-toggle]").evaluate("button => button.click()")

    def test_by_thumb_the_next_reading_comes_first_and_sign_and_over_range_are_buttons(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.sign_in(page, chain_run(self.person).get_absolute_url() + "?measurement=v.A.B@main")
        on = page.get_by_role("button", name="power ON")
        self.assertLess(on.bounding_box()["y"] + on.bounding_box()["height"], PHONE["height"])
        on.tap()
        expect(page.locator(".power")).to_contain_text("Power is ON")
        record = page.get_by_role("button", name="Record", exact=True)
        self.assertLess(record.bounding_box()["y"] + record.bounding_box()["height"], 500)
        page.locator("#reading-text").fill("1.004")
        page.get_by_role("button", name="Turn the sign").tap()
        expect(page.locator("#reading-text")).to_have_value("-1.004")
        page.get_by_role("button", name="OL").tap()
        expect(page.locator("#reading-text")).to_have_value("OL")
        page.locator("#reading-text").fill("-1.004")
        record.tap()
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")
        self.assertEqual(float(ReadingRow.objects.get().value), -1.004)

    def pass_rules(self, page: Page, options: dict[str, object] = ALL_RULES) -> None:
        if page.evaluate("typeof axe === 'undefined'"):
            page.evaluate(Axe().axe_script)
        found = "axe.run(options).then(({violations}) => violations.map(v => [v.id, v.nodes.map(node => node.html)]))"
        self.assertEqual(page.evaluate(f"options => {found}", {**options, "resultTypes": ["violations"]}), [], page.url)
