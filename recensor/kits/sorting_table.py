"""The sorting table as a view model, from the log of its entries."""

from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

from django.core.cache import cache

from recensor.core.figures import engineering, signed_percent, stated
from recensor.core.judgement import Outcome
from recensor.core.meters import parse_accuracy
from recensor.core.quantity import OHM
from recensor.core.resistors.sorting import BinPlace, Bins, BinSummary, Placed, Tally
from recensor.drawing.histogram import Histogram, histogram
from recensor.kits.models import SortedPart, Sorting
from recensor.ledger.marks import Mark

RECENT = 10
KEPT_SECONDS = 60 * 60 * 24


@dataclass(frozen=True)
class BinRow:
    """One bin of the table."""

    which: int
    nominal: str
    tolerance: str
    count: int
    undecided: int
    out: int
    mean: str
    deviation: str
    note: str
    histogram: Histogram


@dataclass(frozen=True)
class Placing:
    """Where a measured part goes, in words for someone with the part in the hand; `which` is its bin."""

    read: str
    goes: str
    mark: Mark
    which: int
    is_taken_back: bool = False


@lru_cache(maxsize=256)
def bins_of(sorting_id: int) -> Bins:
    """The bins of a sorting. They never change, so they are read once."""
    table = Sorting.objects.only("bins", "accuracy").get(pk=sorting_id)
    nominals, tolerances = zip(*((float(value), float(percent) / 100.0) for value, percent in table.bins), strict=True)
    return Bins(nominals, tolerances, parse_accuracy(table.accuracy) if table.accuracy else None)


def tally_of(sorting_id: int) -> Tally:
    """The running sums, brought up to the last entry.

    Kept in the discardable cache with the last entry they hold: the log only grows, and in the order
    of its ids, so what is missing is just what has a larger id.
    """
    kept = cache.get(f"sorting-{sorting_id}")
    tally, last = kept or (Tally(bins_of(sorting_id)), 0)
    rows = list(
        SortedPart.objects.filter(sorting_id=sorting_id, id__gt=last)
        .order_by("id")
        .values_list("id", "value", "resolution", "takes_back")
    )
    if rows:
        for times, chosen in ((1, [r for r in rows if r[3] is None]), (-1, [r for r in rows if r[3] is not None])):
            tally.add([float(r[1]) for r in chosen], [float(r[2]) for r in chosen], times)
        cache.set(f"sorting-{sorting_id}", (tally, rows[-1][0]), KEPT_SECONDS)
    return tally


def bin_row(tally: Tally, which: int) -> BinRow:
    """One bin of the table."""
    summary = tally.summary(which)
    tolerance = tally.bins.tolerances[which]
    return BinRow(
        which=which,
        nominal=stated(Decimal(repr(tally.bins.nominals[which])), OHM),
        tolerance=f"± {tolerance * 100.0:g} %",
        count=summary.count,
        undecided=summary.undecided,
        out=summary.out,
        mean="" if summary.mean is None else signed_percent(summary.mean * 100.0),
        deviation="" if summary.deviation is None else f"{summary.deviation * 100.0:.2f} %",
        note=_note(summary),
        histogram=histogram(summary.columns, None if summary.mean is None else summary.mean / tolerance),
    )


def placing(part: SortedPart, bins: Bins) -> Placing:
    """Where a part goes."""
    placed = bins.place(float(part.value), float(part.resolution))
    nominal = stated(Decimal(repr(bins.nominals[placed.bin])), OHM)
    is_kept = placed.place in (BinPlace.WITHIN, BinPlace.CANNOT_TELL)
    read = engineering(part.value, part.resolution, OHM)
    return Placing(read, nominal if is_kept else "aside", _mark(placed, nominal), placed.bin,
                   hasattr(part, "taken_back_by"))  # fmt: skip


def recent(sorting_id: int, bins: Bins) -> list[Placing]:
    """The last entries, newest first, those taken back struck through."""
    rows = (
        SortedPart.objects.filter(sorting_id=sorting_id, takes_back=None)
        .select_related("taken_back_by")
        .order_by("-id")[:RECENT]
    )
    return [placing(row, bins) for row in rows]


def last_standing(sorting_id: int) -> int | None:
    """The key of the last entry that was not taken back; None where there is none."""
    rows = SortedPart.objects.filter(sorting_id=sorting_id, takes_back=None, taken_back_by=None)
    return rows.order_by("-id").values_list("pk", flat=True).first()


def _mark(placed: Placed, nominal: str) -> Mark:
    off = signed_percent(placed.deviation * 100.0)
    outcome, reason = {
        BinPlace.WITHIN: (Outcome.AGREES, off),
        BinPlace.CANNOT_TELL: (Outcome.UNDECIDED, f"{off}: at the edge of its tolerance, the meter cannot tell."),
        BinPlace.OUT: (Outcome.OUTSIDE, f"Out of tolerance: {off} from {nominal}."),
        BinPlace.STRAY: (Outcome.OUTSIDE, f"A stray: no bin is near; {nominal} is nearest, {off}."),
    }[placed.place]
    return Mark(outcome, placed.place.value, reason)


def _note(summary: BinSummary) -> str:
    if not summary.is_shifted or summary.mean is None or summary.scatter is None or summary.meter is None:
        return ""
    return (
        f"Shifted by {signed_percent(summary.mean * 100.0)}: scatter explains ± {summary.scatter * 100.0:.2f} % "
        f"and the meter ± {summary.meter * 100.0:.2f} %. Another batch, or the meter's gain."
    )
