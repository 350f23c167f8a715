"""What a part by itself cannot read: another power of ten, or another part."""

from collections.abc import Iterator

from recensor.core.editing import colour_words
from recensor.core.entries.plausibility.entry_check import AGAIN, AS_TYPED, Answer, AnswerKind, EntryCheck, Query
from recensor.core.entries.plausibility.fitting import FITS, asked, candidates, fits, is_tenfold, meant, slip
from recensor.core.figures import as_read
from recensor.core.quantity import RESISTANCE, as_ratio
from recensor.core.sentences import say


def unit(tried: EntryCheck) -> Query | None:
    """A bare resistance that nothing is known of fits with every prefix."""
    if not tried.unit_is_default or tried.target.measurand is not RESISTANCE or tried.sealed:
        return None
    part = tried.sheet.parts[tried.target.part] if tried.target.is_part_alone else None
    if part is None or part.nominal is not None:
        return None
    if any(colour_words.fits(tried.size, value, tolerance) for value, tolerance in colour_words.candidates(part)):
        return None  # one of the values that its bands leave open
    texts = tuple(Answer(AnswerKind.MEANT, f"{tried.reading.value.text} {unit}") for unit in ("Ω", "kΩ", "MΩ"))
    return Query(say("entries.nothing_known_yet_in"), texts)


def part_by_itself(tried: EntryCheck) -> Query | None:
    """A part off by a power of ten, or one that is another part."""
    target = tried.target
    if not target.is_part_alone or tried.source:
        return None
    part = tried.sheet.parts[target.part]
    stated = part.nominal if part.kind.adjustable_value else tried.sheet.alone(part.name, target.setup)
    if stated is None or not tried.size:
        return None
    nominal, tolerance = float(stated), as_ratio(part.tolerance) if part.tolerance else 0.05
    off = abs(tried.size / nominal - 1.0)
    if off <= max(3.0 * tolerance, 0.15):
        return None
    belongs = () if tried.sealed else tuple(_other_parts(tried))
    within = max(2.0 * tolerance, 0.1)
    same_digits = meant(tried, nominal, within)
    if not belongs and not slip(tried.size, nominal, within) and not is_tenfold(tried.size, nominal):
        return None
    if tried.sealed:
        return Query(say("entries.another_size_than_marked", part=part.name), (AGAIN, AS_TYPED))
    why = say("entries.marked", part=part.name, nominal=as_read(stated, part.kind.unit))
    return asked(why, same_digits, belongs)


def _other_parts(tried: EntryCheck) -> Iterator[Answer]:
    """The parts that it fits: the one just left, and those that nobody has read yet."""
    for target in candidates(tried):
        part = tried.sheet.parts[target.part] if target.is_part_alone else None
        if part is None or part.nominal is None or part.kind.is_source:
            continue
        tolerance = as_ratio(part.tolerance) if part.tolerance else 0.05
        if abs(tried.size / float(part.nominal) - 1.0) <= tolerance + FITS:
            yield Answer(AnswerKind.BELONGS, target=target)
    for target in candidates(tried):
        if target.is_across and fits(tried, target):
            yield Answer(AnswerKind.BELONGS, target=target)
