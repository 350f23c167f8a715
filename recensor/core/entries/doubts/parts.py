"""What a part by itself cannot read: another power of ten, or another part."""

from collections.abc import Iterator

from recensor.core.circuit import Across, PartAlone
from recensor.core.editing import spoken
from recensor.core.entries.doubts.entry import AGAIN, AS_TYPED, Answer, Doubted, Entry, Means
from recensor.core.entries.doubts.fitting import FITS, asked, candidates, fits, meant, slip
from recensor.core.figures import as_read
from recensor.core.quantity import RESISTANCE, as_ratio


def unit(entry: Entry) -> Doubted | None:
    """A bare resistance that nothing is known of fits with every prefix."""
    if not entry.supplied or entry.target.measurand is not RESISTANCE or entry.sealed:
        return None
    part = entry.sheet.parts[entry.target.part] if isinstance(entry.target, PartAlone) else None
    if part is None or part.nominal is not None:
        return None
    if any(spoken.fits(entry.size, value, tolerance) for value, tolerance in spoken.candidates(part)):
        return None  # one of the values that its bands leave open
    texts = tuple(Answer(Means.MEANT, f"{entry.reading.value.text} {unit}") for unit in ("Ω", "kΩ", "MΩ"))
    return Doubted("Nothing is known of it yet: in which unit does the meter show it?", texts)


def part_by_itself(entry: Entry) -> Doubted | None:
    """A part off by a power of ten, or one that is another part."""
    target = entry.target
    if not isinstance(target, PartAlone) or entry.source:
        return None
    part = entry.sheet.parts[target.part]
    if part.nominal is None or not entry.size:
        return None
    nominal, tolerance = float(part.nominal), as_ratio(part.tolerance) if part.tolerance else 0.05
    off = abs(entry.size / nominal - 1.0)
    if off <= max(3.0 * tolerance, 0.15):
        return None
    belongs = () if entry.sealed else tuple(_other_parts(entry))
    within = max(2.0 * tolerance, 0.1)
    same_digits = meant(entry, nominal, within)
    if not belongs and not slip(entry.size, nominal, within):
        return None
    if entry.sealed:
        return Doubted(f"It is of another size than {part.name} is marked.", (AGAIN, AS_TYPED))
    why = f"{part.name} is marked {as_read(part.nominal, part.kind.unit)}."
    return asked(why, same_digits, belongs)


def _other_parts(entry: Entry) -> Iterator[Answer]:
    """The parts that it fits: the one just left, and those that nobody has read yet."""
    for target in candidates(entry):
        part = entry.sheet.parts[target.part] if isinstance(target, PartAlone) else None
        if part is None or part.nominal is None or part.kind.drives:
            continue
        tolerance = as_ratio(part.tolerance) if part.tolerance else 0.05
        if abs(entry.size / float(part.nominal) - 1.0) <= tolerance + FITS:
            yield Answer(Means.BELONGS, target=target)
    for target in candidates(entry):
        if isinstance(target, Across) and fits(entry, target):
            yield Answer(Means.BELONGS, target=target)
