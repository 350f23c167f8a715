"""Which other point, or which other prefix, an entry fits; and the question that offers them."""

import math
from collections.abc import Iterator, Sequence

from recensor.core.circuit import Target
from recensor.core.entries.plausibility.entry_check import AS_TYPED, Answer, AnswerKind, EntryCheck, Query
from recensor.core.entries.repeat import DIGITS_THAT_TELL, finest
from recensor.core.figures import with_digits

# Powers of ten that a slip of prefix or point makes, the likeliest first.
SLIPS = (-3, 3, -1, 1, -6, 6, -2, 2)

# What fits a value does so within this much, as a ratio; of what is calculated from a battery's label within this.
FITS = 0.05
LABELLED = 0.75, 1.05

# A source drifts and sags by up to so much.
DRIFT = 0.05

# Of more than so many points that fit none is offered.
MOST_POINTS = 3


def fitting(tried: EntryCheck) -> Iterator[Answer]:
    """The points that a reading fits: the one just left, and those still open; none of a sealed run are told."""
    for target in () if tried.sealed else candidates(tried):
        if fits(tried, target) and not _reads_the_same(tried, target):
            yield Answer(AnswerKind.BELONGS, target=target)


def _reads_the_same(tried: EntryCheck, target: Target) -> bool:
    """Whether another point is to read just what is to be read here: the current of the same branch is no other."""
    there, here = tried.elsewhere.expected(target), tried.calculated
    if there is None or here is None or not there.value or not here.value or target.is_part_alone:
        return False
    return abs(abs(there.value) - abs(here.value)) <= 1e-6 * abs(here.value)


def fits(tried: EntryCheck, target: Target) -> bool:
    """Whether a reading is what is to be read at another point, to a few digits."""
    digits = DIGITS_THAT_TELL * finest(tried.reading.value)
    if target.is_part_alone:
        stated = tried.sheet.alone(target.part, target.setup)
        return stated is not None and abs(tried.size - float(stated)) <= (FITS + DRIFT) * float(stated)
    if tried.left and tried.left.target.key == target.key and tried.left.value.value is not None:
        return abs(tried.size - abs(float(tried.left.value))) <= max(digits, finest(tried.left.value))
    calculated = tried.elsewhere.expected(target)
    if calculated is None or not calculated.value:
        return False
    low, high = LABELLED if tried.scale is None else (tried.scale * (1.0 - FITS), tried.scale * (1.0 + FITS))
    expected, own = abs(calculated.value), finest(tried.reading.value) + 2.0 * (calculated.standard or 0.0)
    return low * expected - own <= tried.size <= high * expected + own


def candidates(tried: EntryCheck) -> Iterator[Target]:
    """The points of the same quantity that a reading may belong to: the one just left, and those that are open."""
    left = tried.left.target if tried.left else None
    for target in tried.points:
        if target.measurand is not tried.target.measurand or target.key == tried.target.key:
            continue
        if target.is_leads or (target.setup and target.setup != tried.target.setup and tried.target.setup):
            continue
        if tried.assessment.of(target) is None or (left is not None and target.key == left.key):
            yield target


def slip(size: float, expected: float, within: float) -> int:
    """The power of ten that would make a reading fit what is expected; 0 where none does."""
    powers = (power for power in SLIPS if size and abs(size * 10.0**power / abs(expected) - 1.0) <= within)
    return next(powers, 0)


def is_tenfold(size: float, expected: float) -> bool:
    """Whether a reading is ten times what is expected, or a tenth of it."""
    return bool(size) and not abs(expected) < 10.0 * size < 100.0 * abs(expected)


def meant(tried: EntryCheck, expected: float, within: float) -> tuple[Answer, ...]:
    """The same digits with another prefix or point, where they fit what is expected."""
    power = 0 if tried.sealed or not expected else slip(tried.size, expected, within)
    if not power:
        return ()
    value, digit = float(tried.reading.value) * 10.0**power, finest(tried.reading.value) * 10.0**power
    return (Answer(AnswerKind.MEANT, with_digits(value, digit, tried.target.unit)),)


def asked(why: str, digits: Sequence[Answer], belongs: Sequence[Answer], more: Sequence[Answer] = ()) -> Query:
    """The question that offers the same digits otherwise, the points that fit, and the entry as it was typed."""
    offered = belongs if len(belongs) <= MOST_POINTS else ()
    return Query(why, (*digits, *offered, *more, AS_TYPED))


def written(value: float, target: Target) -> str:
    """A calculated value as a question mentions it: three digits."""
    digit = 10.0 ** (math.floor(math.log10(value)) - 2) if value else 1.0
    return with_digits(value, digit, target.unit)
