"""What a person can do with kits and on the sorting table: one function for each thing."""

import uuid
from collections import Counter
from collections.abc import Collection, Sequence
from decimal import Decimal
from typing import NamedTuple

from django.db.models import F
from django.utils import timezone

from recensor.core.errors import Refused
from recensor.core.quantity import Quantity
from recensor.core.resistors.preferred_values import mantissas
from recensor.kits import sorting_table
from recensor.kits.models import Bin, Kit, SortedPart, Sorting
from recensor.people.models import User
from recensor.web.refusals import ConflictError
from recensor.web.transactions import atomic_with_retry

MOST_KITS = 60

# A list of parts has at most so many values: more than every series has in all decades.
MOST_VALUES = 2_000

# Decades that a series' bins span: 0.1 Ω to 10 MΩ.
_DECADES = range(-3, 6)


def make_kit(owner: User, name: str) -> Kit:
    """Begin a kit without bins. Raises `Refused` for more than anybody keeps: everyone chooses among them."""
    if owner.kits.count() >= MOST_KITS:
        raise Refused(f"You keep {MOST_KITS} kits already; use one of those.")
    return Kit.objects.create(owner=owner, name=name)


class Parts(NamedTuple):
    """Parts that go into one bin: ohms, tolerance in %, how many, and watts where that is stated."""

    value: Decimal
    tolerance: Decimal
    pieces: int
    rating: Decimal | None = None


@atomic_with_retry
def fill_bin(kit: Kit, value: Decimal, tolerance: Decimal, count: int, rating: Decimal | None = None) -> Bin:
    """Add parts to the bin of this value and tolerance, which is made when there is none."""
    Kit.objects.select_for_update().get(pk=kit.pk)  # two people making one new bin wait for one another
    row, _ = Bin.objects.select_for_update().get_or_create(kit=kit, value=value, tolerance=tolerance)
    row.count += count
    row.rating = rating or row.rating
    row.save()
    return row


@atomic_with_retry
def fill_bins(kit: Kit, lines: Sequence[Parts], key: uuid.UUID) -> None:
    """Add all parts of a list; pressed twice, under one key, they go in once. Raises `Refused` for too many values."""
    kept = Kit.objects.select_for_update().get(pk=kit.pk)
    if kept.filled == key:
        return
    bins: dict[tuple[Decimal, Decimal], Parts] = {}
    for line in lines:
        before = bins.get(line[:2], line._replace(pieces=0))
        bins[line[:2]] = line._replace(pieces=before.pieces + line.pieces, rating=line.rating or before.rating)
    if len(bins) > MOST_VALUES:
        raise Refused(f"The list has {len(bins)} values; at most {MOST_VALUES} go in at once.")
    for parts in bins.values():
        fill_bin(kit, *parts)
    kept.filled = key
    kept.save(update_fields=["filled"])


def set_count(row: Bin, count: int) -> None:
    """The bin was counted anew."""
    row.count = count
    row.save(update_fields=["count"])


@atomic_with_retry
def take(bins: Collection[Bin]) -> None:
    """Take one part out of each of these bins, out of one as often as it is named.

    Raises `Refused`, and takes nothing, when one is empty. Bins are locked in the order of their keys, so that two
    people who take out of one kit wait for one another.
    """
    wanted = Counter(row.pk for row in bins)
    for row in Bin.objects.select_for_update().filter(pk__in=wanted).order_by("pk"):
        if row.count < wanted[row.pk]:
            raise Refused(f"The last {row} was taken from the kit meanwhile.")
        Bin.objects.filter(pk=row.pk).update(count=F("count") - wanted[row.pk])


@atomic_with_retry
def put_back(bins: Collection[Bin]) -> None:
    """Parts return to the bins they came from, in the order of the bins' keys."""
    for pk, count in sorted(Counter(row.pk for row in bins).items()):
        Bin.objects.filter(pk=pk).update(count=F("count") + count)


def start_sorting(kit: Kit, series: int | None, tolerance: Decimal, accuracy: str = "") -> Sorting:
    """Begin to sort a handful into the kit's own values, or into every value of an E series."""
    if series is None:
        # A meter cannot tell a 1 % part from a 5 % one that is near: of two bins the wider takes both.
        pairs = list(dict(kit.bins.order_by("value", "tolerance").values_list("value", "tolerance")).items())
        words = "the kit's own values"
    else:
        pairs = [(Decimal(m).scaleb(decade), tolerance) for decade in _DECADES for m in mantissas(series)]
        words = f"every value of E{series}, ± {tolerance.normalize():f} %"
    if not pairs:
        raise Refused("This kit has no values yet: add some, or sort into an E series.")
    bins = [[f"{value.normalize():f}", f"{percent.normalize():f}"] for value, percent in pairs]
    return Sorting.objects.create(kit=kit, bins=bins, words=words, accuracy=accuracy)


@atomic_with_retry
def sort_part(
    sorting_id: int, author: User, quantity: Quantity, key: uuid.UUID, takes_back: SortedPart | None = None
) -> SortedPart:
    """Append one measured part. Sent again under the same key it is the part that stands already.

    The sorting's row is locked meanwhile: entries become visible in the order of their ids, which is
    what lets a tally go on from the last one it has seen.
    """
    if quantity.value is None or quantity.resolution is None:
        raise Refused("Over-range says nothing about a part; take a higher range.")
    table = Sorting.objects.select_for_update().only("id", "put_away").get(pk=sorting_id)
    part = SortedPart(
        sorting=table,
        text=quantity.text,
        unit=quantity.beside,
        value=quantity.value,
        resolution=quantity.resolution,
        takes_back=takes_back,
        author=author,
        time=timezone.now(),
        key=key,
    )
    if table.put_away and not SortedPart.objects.filter(sorting=table, key=key).exists():
        raise ConflictError(f"{part} is not recorded: this handful was put away. Begin a new sorting for more parts.")
    if takes_back and SortedPart.objects.filter(takes_back=takes_back).exclude(key=key).exists():
        raise Refused("This part was taken back already.")
    standing = part.append_once(sorting=table, key=key)
    if (standing.text, standing.unit) != (quantity.text, quantity.beside):
        raise ConflictError(f"This entry was already recorded as {standing}; press Enter again.")
    return standing


def take_back_last(table: Sorting, author: User, named: int | None) -> SortedPart:
    """Take the last standing entry back, which must be the one that the page named; it stays in the log.

    Asked for again, since its answer was lost, it is done already and stays so.
    """
    part = table.entries.filter(pk=named or 0, takes_back=None).first()
    if part is None:
        raise Refused("There is no part left to take back.")
    later = table.entries.filter(pk__gt=part.pk, takes_back=None, taken_back_by=None).order_by("-id").first()
    if later is not None:
        raise ConflictError(f"{later} was sorted since; take back once more for that one.")
    quantity = Quantity(part.text, part.value, part.resolution, beside=part.unit)
    sort_part(table.pk, author, quantity, uuid.uuid5(part.key, "taken back"), part)
    return part


@atomic_with_retry
def put_away(table: Sorting) -> int:
    """The sorted parts go into the kit's bins; how many went. Raises `Refused` the second time."""
    locked = Sorting.objects.select_for_update().select_related("kit").get(pk=table.pk)
    if locked.put_away:
        raise ConflictError("This handful is put away already.")
    tally = sorting_table.tally_of(locked.pk)
    total = 0
    for which in tally.in_use:
        summary = tally.summary(which)
        value, percent = locked.bins[which]
        if summary.count:
            fill_bin(locked.kit, Decimal(value), Decimal(percent), summary.count)
            total += summary.count
    locked.put_away = timezone.now()
    locked.save(update_fields=["put_away"])
    return total
