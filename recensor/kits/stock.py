"""Resistors of a planned run out of a kit: which bin each comes from, and what the bin knows of it."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from recensor.core.circuit import Part
from recensor.core.figures import stated
from recensor.core.quantity import OHM, WATT, parse, parse_percent
from recensor.kits.models import Bin, Kit
from recensor.kits.queries import bins_for


@dataclass(frozen=True)
class StockFound:
    """Bins by part, the parts with their bins' tolerance and rating, and what is said of those the kit lacks."""

    bins: dict[str, Bin]
    parts: dict[str, Part]
    missing: dict[str, str]


def from_kit(kit: Kit, parts: Iterable[Part]) -> StockFound:
    """Find a bin for every marked resistor; nothing is taken yet."""
    marked = [
        (part, part.nominal.value)
        for part in parts
        if part.kind.has_bands and part.nominal and part.nominal.value is not None
    ]
    drawn = StockFound({}, {}, {})
    for (part, value), (row, near) in zip(marked, bins_for(kit, [value for _, value in marked]), strict=True):
        if row:
            drawn.bins[part.name] = row
            drawn.parts[part.name] = _as_its_bin_says(part, row)
            continue
        left = " and ".join(stated(one, OHM) for one in near)
        has = f"; it has {left}" if left else ""
        drawn.missing[part.name] = f"No {stated(value, OHM)} is left in this kit{has}."
    return drawn


def _as_its_bin_says(part: Part, row: Bin) -> Part:
    tolerance = parse_percent(f"{row.tolerance.normalize():f} %")
    return replace(part, tolerance=tolerance, rating=parse(f"{row.rating:f}", WATT) if row.rating else part.rating)
