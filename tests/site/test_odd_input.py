"""Whatever a client sends is answered by a page with a message, and what stands can still be opened."""

import random
import uuid
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse

from recensor.bench import services
from recensor.bench.board import acts as boards
from recensor.core.circuit import asking_everything
from recensor.core.examples import circuits
from recensor.core.examples import experiments as examples
from recensor.experiments.acts import ACTS
from recensor.experiments.services import make_experiment
from recensor.kits import services as kits
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
]


class OddInput(BenchTestCase):
    def test_random_fields_to_every_address_are_answered_and_break_nothing(self) -> None:
        draw = random.Random(2026)
        runs = (asking_everything(circuits.bridge()), examples.two_source_superposition().sheet)
        experiments = [make_experiment(self.person, run) for run in runs]
        kit = kits.make_kit(self.person, "Stock")
        kits.fill_bin(kit, Decimal(1000), Decimal(5), 3)
        table = kits.start_sorting(kit, 12, Decimal(5)).get_absolute_url()
        run = services.start_experiment(self.person, experiments[0]).get_absolute_url()
        pages = [e.get_absolute_url() for e in experiments]
        reads = [
            "/",
            "/bands/",
            "/bands/value/",
            "/bands/printed/",
            "/pairs/",
            "/experiments/",
            table,
            kit.get_absolute_url(),
            run,
            f"{run}board/",
            f"{run}worked/",
            *(
                f"{page}{tail}"
                for page in pages
                for tail in ("", "sheet/", "worked/", "what-if/", "netlist/", "document/")
            ),
        ]
        writes = [
            "/experiments/new/",
            "/kits/",
            "/runs/new/",
            "/preferences/",
            f"{table}record/",
            f"{table}take-back/",
            f"{kit.get_absolute_url()}fill/",
            f"{kit.get_absolute_url()}sort/",
            f"{run}record/",
            f"{run}undo/",
            f"{run}board/",
            *(f"{page}{tail}" for page in pages for tail in ("", "sheet/", "asked/", "start/")),
        ]
        for number in range(500):
            fields = {name: draw.choice(WORDS) for name in draw.sample(FIELDS, draw.randint(0, len(FIELDS)))}
            fields["act"] = draw.choice([*ACTS, *boards.ACTS, "undo", "redo", "adopt", "?"])
            headers = HTMX if number % 3 else {}
            if number % 2:
                self.answered(self.client.get(draw.choice(reads), fields, headers=headers), fields)
                continue
            if number % 10 == 0:
                fields |= {"by": "import", "key": str(uuid.uuid4())}
                fields["file"] = SimpleUploadedFile(
                    "x", draw.randbytes(40) if number % 20 else draw.choice(WORDS).encode()
                )
            self.answered(self.client.post(draw.choice(writes), fields, headers=headers), fields)
        for address in reads:
            self.assertIn(self.client.get(address).status_code, (200, 422), address)

    def answered(self, response: HttpResponse, fields: dict[str, object]) -> None:
        self.assertLess(response.status_code, 500, fields)
