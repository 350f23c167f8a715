"""The demo's kit: a stock for the weather station, and a handful on the sorting table. Made up for it."""

import random
import uuid
from collections.abc import Iterable
from decimal import Decimal

from recensor.core.quantity import parse
from recensor.kits import services
from recensor.kits.models import Kit, SortedPart, Sorting
from recensor.people.models import User

NAME = "Weather station stock"

# Ohms, tolerance in %, watts where stated, and how many there are.
_STOCK = [
    ("10", "5", "2", 12), ("22", "5", "2", 9), ("47", "5", None, 20), ("100", "5", None, 25), ("220", "5", None, 18),
    ("470", "5", None, 30), ("1000", "5", None, 40), ("1000", "1", None, 15), ("2200", "5", None, 22),
    ("3300", "5", None, 16), ("4700", "5", None, 28), ("8200", "5", None, 7), ("10000", "5", None, 35),
    ("22000", "5", None, 10), ("47000", "5", None, 3), ("100000", "5", None, 14),
]  # fmt: skip

# What lies in the handful: nominal ohms, how far its batch lies off, its spread, how many.
_BATCHES = [(470, 0.004, 0.012, 22), (1000, 0.021, 0.008, 34), (2200, -0.006, 0.021, 19), (4700, 0.001, 0.01, 12)]
_ODD_ONES = [("552", "Ω"), ("1.064", "kΩ"), ("6.51", "kΩ")]


def load(keeper: User) -> None:
    """Make the kit, unless the keeper has one of its name."""
    if Kit.objects.filter(owner=keeper, name=NAME).exists():
        return
    kit = services.make_kit(keeper, NAME)
    for value, tolerance, rating, count in _STOCK:
        services.fill_bin(kit, Decimal(value), Decimal(tolerance), count, Decimal(rating) if rating else None)
    table = services.start_sorting(kit, None, Decimal(5), "0.5 % + 2")
    for text, unit in _handful():
        services.sort_part(table.pk, keeper, parse(text, "Ω", unit), uuid.uuid4())


def remove(keepers: Iterable[User]) -> None:
    """Take these people's kits away, but for those that somebody else has drawn parts from."""
    kits = Kit.objects.filter(owner__in=keepers).exclude(bins__drawn_parts__isnull=False)
    entries = SortedPart.objects.filter(sorting__kit__in=kits)
    for rows in (entries.exclude(takes_back=None), entries):
        rows._raw_delete(rows.db)  # append-only rows go here alone: the demo is no record
    Sorting.objects.filter(kit__in=kits).delete()
    kits.delete()


def _handful() -> list[tuple[str, str]]:
    """Readings as a four-digit meter shows them, in the order in which parts come to hand."""
    draw = random.Random(12)  # noqa: S311
    values = [nominal * draw.gauss(1 + off, spread) for nominal, off, spread, count in _BATCHES for _ in range(count)]
    draw.shuffle(values)
    read = [(f"{value:.0f}", "Ω") if value < 1000 else (f"{value / 1000:.3f}", "kΩ") for value in values]
    return [*read[:60], *_ODD_ONES, *read[60:]]
