"""What reads kits."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from recensor.kits.models import Bin, Kit


def bins_for(kit: Kit, values: Sequence[Decimal]) -> Iterator[tuple[Bin | None, list[Decimal]]]:
    """For each wanted value, in ohms, the bin to take it from: the tightest tolerance that still has one.

    Beside it the nearest values that are left, below and above, which help where the bin is None.
    """
    bins = list(kit.bins.filter(count__gt=0).order_by("value", "tolerance"))
    left = {row.pk: row.count for row in bins}
    for value in values:
        have = [row for row in bins if left[row.pk]]
        found = next((row for row in have if row.value == value), None)
        if found:
            left[found.pk] -= 1
        below = next((row.value for row in reversed(have) if row.value < value), None)
        above = next((row.value for row in have if row.value > value), None)
        yield found, [near for near in (below, above) if near is not None]
