"""Whatever a client sends is answered by a page with a message, and what stands can still be opened."""

import random
import uuid
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse

from recensor.board_page import building as boards
from recensor.core.circuit import asking_everything
from recensor.core.examples import circuits
from recensor.core.examples import experiments as examples
from recensor.experiments.acts import ACTS
from recensor.experiments.services import make_experiment
from recensor.kits import services as kits
from recensor.runs import services
from recensor.runs.models import ReadingRow
from tests.samples import samples
from tests.served import HTMX, BenchTestCase

WORDS = [
    "",
    "R1",
    "V1",
    "main",
    "gnd",
    "A",
    "470",
    "9V",
    "10mA",
    "?",
    "R9=1k",
    "-5",
    "0",
    "\x00",
    "é🙂",
    "x" * 3000,
    "1e400",
    "NaN",
    "4k7 5%",
    "b7",
    "+L1",
    "-L1",
    "J b1 b9",
    "R1 b3 b9",
    "9V: 1k + (2k | 3k)",
    "V1 A gnd 9V\nR1 A gnd 1k",
    "%s%n",
    "' OR 1=1",
    "<b>",
    "1,000",
    "1e-30",
    "1T",
    "voltage",
    "-100",
    "9" * 30,
    "kit-1",
    "belongs 3",
    "exchange",
    "R1.1",
    "A B",
    '["voltage","","A","B","","main",""]',
    '["as typed","",""]',
    "9.02/4.7k",
    "line",
    "half",
]
FIELDS = [
    "part",
    "what",
    "name",
    "value",
    "tolerance",
    "rating",
    "first",
    "second",
    "line",
    "nodes",
    "setup_name",
    "here",
    "setup",
    "title",
    "aim",
    "limit",
    "judged_by",
    "against",
    "start",
    "count",
    "text",
    "unit",
    "key",
    "kit",
    "meter",
    "wanted",
    "stock",
    "bands",
    "code",
    "side",
    "method",
    "at",
    "red",
    "black",
    "quantity",
    "show",
    "point",
    "measurement",
    "basis",
    "size",
    "value-1",
    "slide-1",
    "asked",
    "by",
    "answer",
    "into",
    "accuracy",
    "counts",
    "reason",
    "place",
    "read",
    "replaces_seen",
    "typed_at",
    "declared_as",
    "unit_is_default",
    "correction",
    "last",
    "formula",
    "what_happens",
    "number",
    "which",
    "q",
    "power",
    "place",
    "calibrated",
    "profile",
    "over_range",
    "voltage-0-full",
    "voltage-0-step",
    "current-1-accuracy",
    "jack-0-fuse",
    "voltage-x-full",
    "correct",
]
OTHER_ACTS = ("undo", "redo", "adopt", "correct", "change", "take_back", "rename", "add_setup", "?")
BENCH_ACTS = (
    "record/", "undo/", "own/", "own/shown/", "words/", "change/", "same-again/", "put-away/", "board/", "power/",
    "put-back/", "repeat/",
)  # fmt: skip


class OddInput(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        runs = (asking_everything(circuits.bridge()), examples.two_source_superposition().sheet)
        experiments = [make_experiment(self.person, run) for run in runs]
        kit = kits.make_kit(self.person, "Stock")
        kits.fill_bin(kit, Decimal(1000), Decimal(5), 3)
        self.kit, self.table = kit.get_absolute_url(), kits.start_sorting(kit, 12, Decimal(5)).get_absolute_url()
        run = services.start_experiment(self.person, experiments[0])
        self.run_page = run.get_absolute_url()
        self.client.post(f"{self.run_page}record/", {"measurement": "of.r.R1", "text": "470", "key": uuid.uuid4()})
        self.reading = ReadingRow.objects.get().pk
        self.pages = [experiment.get_absolute_url() for experiment in experiments]
        self.reads = [
            *("/", "/bands/", "/bands/value/", "/bands/printed/", "/pairs/", "/experiments/", self.table, self.kit),
            *(f"{self.run_page}{tail}" for tail in ("", "board/", "worked/", "change/", "plan/")),
            *("/meters/", "/meters/profiles/new/", "/meters/shipped/0/"),
            *self.of_pages("", "sheet/", "worked/", "what-if/", "netlist/", "document/"),
        ]

    def of_pages(self, *tails: str) -> list[str]:
        return [f"{page}{tail}" for page in self.pages for tail in tails]

    def test_random_fields_asked_of_every_address_are_answered(self) -> None:
        draw = random.Random(2026)
        for number in range(samples(40, 250)):
            fields, headers = self.fields(draw), HTMX if number % 3 else {}
            self.answered(self.client.get(draw.choice(self.reads), fields, headers=headers), fields)

    def test_random_fields_sent_to_every_address_are_answered_and_break_nothing(self) -> None:
        draw = random.Random(2026)
        writes = [
            *("/experiments/new/", "/kits/", "/runs/new/", "/preferences/", "/meters/", "/meters/profiles/new/"),
            *(f"{self.table}{act}" for act in ("record/", "take-back/")),
            *(f"{self.kit}{act}" for act in ("fill/", "sort/")),
            *(f"{self.run_page}{act}" for act in BENCH_ACTS),
            *(f"{self.run_page}readings/{self.reading}/{act}/" for act in ("correction", "answer", "photo")),
            *self.of_pages("", "sheet/", "asked/", "start/"),
        ]
        for number in range(samples(40, 250)):
            fields, headers = self.fields(draw), HTMX if number % 3 else {}
            if number % 5 == 0:
                sent = draw.randbytes(40) if number % 10 else draw.choice(WORDS).encode()
                fields |= {"by": "import", "key": str(uuid.uuid4()), "file": SimpleUploadedFile("x", sent)}
                fields["photo"] = SimpleUploadedFile("x", sent)
            self.answered(self.client.post(draw.choice(writes), fields, headers=headers), fields)
        for address in self.reads:
            self.assertIn(self.client.get(address).status_code, (200, 422), address)

    @staticmethod
    def fields(draw: random.Random) -> dict[str, object]:
        fields = {name: draw.choice(WORDS) for name in draw.sample(FIELDS, draw.randint(0, len(FIELDS)))}
        return {
            **fields,
            "act": draw.choice(
                [
                    *ACTS,
                    *boards.ACTS,
                    "undo",
                    "redo",
                    "adopt",
                    "correct",
                    "change",
                    "take_back",
                    "rename",
                    "add_setup",
                    "?",
                ]
            ),
        }

    def answered(self, response: HttpResponse, fields: dict[str, object]) -> None:
        self.assertLess(response.status_code, 500, fields)
