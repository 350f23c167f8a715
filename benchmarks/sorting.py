"""The sorting table over HTTP, and the search for pairs: ``.venv/bin/python -m benchmarks.sorting``."""

import random
import uuid
from collections.abc import Callable
from decimal import Decimal
from functools import partial

from benchmarks import sites
from benchmarks.core import best
from recensor.core.quantity import OHM, parse
from recensor.core.resistors import Stocked, combinations
from recensor.core.resistors.preferred_values import mantissas

ROUNDS = 5


def one_part(record: Callable[..., bytes], draw: random.Random) -> bytes:
    """Sort one part under a key of its own."""
    return record(text=f"{draw.uniform(960, 1040):.0f}", unit="Ω", key=uuid.uuid4())


def main() -> None:
    """Print the ratios."""
    stock = [Stocked(m * 10.0**decade, 0.05) for decade in range(9) for m in mantissas(24)][:200]
    print(f"pair search over {len(stock)} values: {best(lambda: combinations(1410.0, stock), 3) * 1e3:.1f} ms")
    with sites.database():
        from django.contrib.auth import get_user_model
        from django.utils import timezone

        from recensor.kits import services
        from recensor.kits.models import SortedPart

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        kit, draw = services.make_kit(person, "Stock"), random.Random(1)

        def table_of(count: int) -> str:
            table = services.start_sorting(kit, 12, Decimal(5))
            parts = []
            for _ in range(count):
                read = parse(f"{draw.choice(mantissas(12)) * draw.uniform(0.93, 1.07):.1f}", OHM)
                parts.append(SortedPart(sorting=table, text=read.text, value=read.value, resolution=read.resolution,
                                        author=person, time=timezone.now(), key=uuid.uuid4()))  # fmt: skip
            SortedPart.objects.bulk_create(parts)
            return table.get_absolute_url()

        headers, few, many = sites.signed_in(person), table_of(100), table_of(5000)
        with sites.served():
            pages = [sites.asker(sites.OURS, "GET", address, headers) for address in (few, many)]
            record = partial(one_part, sites.asker(sites.OURS, "POST", f"{many}record/", headers), draw)
            bare = sites.asker(sites.BARE, "GET", "/bare/sorting/", {})
            signed_in = partial(sites.asker(sites.SIGNED_IN, "POST", "/bare/sorting/signed-in/", headers), text="1")
            for action in (*pages, record, bare, signed_in):
                action()
            times = [[sites.mean(action) for action in (*pages, record, bare, signed_in)] for _ in range(ROUNDS)]
        short, long, ours, barest, behind = (min(column) for column in zip(*times, strict=True))
        print(f"page with 5000 parts: {long * 1e3:.1f} ms, with 100: {short * 1e3:.1f} ms: {long / short:.2f} times")
        print(f"one entry: {ours * 1e3:.1f} ms; barest insert {barest * 1e3:.1f} ms: {ours / barest:.1f} times")
        print(f"the barest insert for someone signed in {behind * 1e3:.1f} ms: {ours / behind:.1f} times")


if __name__ == "__main__":
    main()
