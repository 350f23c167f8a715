"""What cannot be, or fits another place far better: asked about before it stands, with what fits in one press each.

At most one question for an entry, none for a plausible one, none for a turned sign. In a sealed run a doubt makes use
only of what the person has entered and of what cannot be at all, and offers no number.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property

from recensor.core.circuit import Across, Part, PartAlone, Sheet, Target, Through, TouchedLeads
from recensor.core.entries.again import DIGITS_THAT_TELL, finest
from recensor.core.figures import as_read, with_digits
from recensor.core.judgement import Assessment, Calculated, assess
from recensor.core.quantity import RESISTANCE, VOLTAGE, as_ratio
from recensor.core.record import Reading, Run

# How far below and above its label a battery may be, as ratios; and a source that was read may be off this much.
_BATTERY = 0.5, 1.25
_DRIFT = 0.05

# Powers of ten that a slip of prefix or point makes, the likeliest first.
_SLIPS = (-3, 3, -1, 1, -6, 6, -2, 2)

# What fits a value does so within this much, and what does not is off by this much, as ratios.
_FITS, _OFF = 0.05, 0.15

# Before anything tells what the sources give, a reading may be so much of what is calculated from their labels.
_UNKNOWN = 0.45, 1.3
_LABELLED = 0.75, 1.05

# Of more than so many points that fit none is offered.
_MOST_POINTS = 3


class Means(StrEnum):
    """What an answer to a question says of the entry."""

    AS_TYPED = "as typed"
    MEANT = "meant"
    BELONGS = "belongs"
    TURNING = "turning"
    SET_ANEW = "set anew"
    AGAIN = "again"
    TRIAL = "trial"
    INSTEAD = "instead"


@dataclass(frozen=True)
class Answer:
    """One press: its meaning, with the text that was meant, or the point it belongs to."""

    means: Means
    text: str = ""
    target: Target | None = None


@dataclass(frozen=True)
class Doubted:
    """Why an entry is asked about, and what it may be."""

    why: str
    answers: tuple[Answer, ...]


_AS_TYPED, _AGAIN = Answer(Means.AS_TYPED), Answer(Means.AGAIN)


@dataclass(frozen=True)
class Entry:
    """One reading of a judged run, to be doubted. `points` are all that can be read; `left` the one read before it."""

    run: Run
    assessment: Assessment
    reading: Reading
    points: Sequence[Target]
    before: Sequence[Reading]
    sealed: bool = False
    supplied: bool = False
    earlier: Reading | None = field(default=None)

    @property
    def sheet(self) -> Sheet:
        """The sheet that is followed."""
        return self.run.sheet

    @property
    def target(self) -> Target:
        """Where it was read."""
        return self.reading.target

    @cached_property
    def size(self) -> float:
        """What was read, without its sign."""
        return abs(float(self.reading.value))

    @cached_property
    def calculated(self) -> Calculated | None:
        """What it is calculated to be; None for what is read by itself, and in a sealed run."""
        return None if self.sealed else calculated(self.target, self.assessment, self.sheet)

    @cached_property
    def elsewhere(self) -> Assessment:
        """The run judged without it: what other points are calculated to be must not hang on what is doubted."""
        if not isinstance(self.target, PartAlone) and not self.source:
            return self.assessment
        return assess(replace(self.run, readings=(*self.before, replace(self.reading, counted=False))))

    @cached_property
    def source(self) -> Part | None:
        """The source whose own voltage or current this reads, before connecting or under load."""
        return source_at(self.target, self.sheet)

    @cached_property
    def left(self) -> Reading | None:
        """The reading before it, of another point."""
        others = (r for r in reversed(self.before) if r.struck is None)
        last = next(others, None)
        return last if last and last.target.key != self.target.key else None

    @cached_property
    def scale(self) -> float | None:
        """By what the calculated values of the setup are to be multiplied to be those of its sources as they are.

        1 once they were read; before that what the readings so far have in common; None where nothing tells.
        """
        setup = self.sheet.setups.get(self.target.setup or "")
        if setup is None or self.target.measurand is RESISTANCE:
            return 1.0
        given = {name for name_of, name in self.assessment.calculations.given if name_of == setup.name}
        if set(setup.driving(self.sheet.parts)) <= given:
            return 1.0
        shares = sorted(_shares(self, setup.name))
        return shares[len(shares) // 2] if shares else None


Check = Callable[[Entry], Doubted | None]


def doubt(entry: Entry) -> Doubted | None:
    """The one question about an entry, None for a plausible one."""
    if entry.reading.value.value is None or isinstance(entry.target, TouchedLeads):
        return None
    return next(filter(None, (check(entry) for check in _CHECKS)), None)


def calculated(target: Target, assessment: Assessment, sheet: Sheet) -> Calculated | None:
    """What is calculated at a target, by what judges; None where nothing is."""
    found = assessment.of(target)
    nominal, measured = (found.judged.nominal, found.judged.measured) if found else assessment.calculations.both(target)
    first, second = (nominal, measured) if sheet.judge.against == "nominal" else (measured, nominal)
    for one in (first, second):
        if one.value is not None or one.open:
            return one
    return None


def source_at(target: Target, sheet: Sheet) -> Part | None:
    """The source that a target reads by itself or under load; None for every other."""
    if isinstance(target, PartAlone):
        part = sheet.parts[target.part]
        return part if part.kind.drives else None
    if isinstance(target, Across) and target.measurand is VOLTAGE:
        setup = sheet.setups[target.setup]
        lying = [sheet.parts[n] for n in setup.across(*target.nodes) if n in setup.driving(sheet.parts)]
        voltage = [part for part in lying if part.kind.alone_as is VOLTAGE]
        return voltage[0] if len(voltage) == 1 else None
    return None


def _unit(entry: Entry) -> Doubted | None:
    """A bare resistance that nothing is known of fits with every prefix."""
    if not entry.supplied or entry.target.measurand is not RESISTANCE or entry.sealed:
        return None
    part = entry.sheet.parts[entry.target.part] if isinstance(entry.target, PartAlone) else None
    if part is None or part.nominal is not None:
        return None
    texts = tuple(Answer(Means.MEANT, f"{entry.reading.value.text} {unit}") for unit in ("Ω", "kΩ", "MΩ"))
    return Doubted("Nothing is known of it yet: in which unit does the meter show it?", texts)


def _part_by_itself(entry: Entry) -> Doubted | None:
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
    meant = _meant(entry, nominal, within)
    if not belongs and not _slip(entry.size, nominal, within):
        return None
    if entry.sealed:
        return Doubted(f"It is of another size than {part.name} is marked.", (_AGAIN, _AS_TYPED))
    why = f"{part.name} is marked {as_read(part.nominal, part.kind.unit)}."
    return _asked(entry, why, meant, belongs)


def _other_parts(entry: Entry) -> Iterator[Answer]:
    """The parts that it fits: the one just left, and those that nobody has read yet."""
    for target in _candidates(entry):
        part = entry.sheet.parts[target.part] if isinstance(target, PartAlone) else None
        if part is None or part.nominal is None or part.kind.drives:
            continue
        tolerance = as_ratio(part.tolerance) if part.tolerance else 0.05
        if abs(entry.size / float(part.nominal) - 1.0) <= tolerance + _FITS:
            yield Answer(Means.BELONGS, target=target)
    yield from _totals(entry)


def _totals(entry: Entry) -> Iterator[Answer]:
    for target in _candidates(entry):
        if isinstance(target, Across) and _fits(entry, target):
            yield Answer(Means.BELONGS, target=target)


def _source(entry: Entry) -> Doubted | None:
    """A battery too far off its label; a source that has moved since it was read."""
    part = entry.source
    setup = entry.sheet.setups.get(entry.target.setup or "")
    stated = (setup.stated(part) if setup else part.nominal) if part else None
    if part is None or stated is None or not float(stated) or _is_confirmed_before(entry):
        return None
    label = abs(float(stated))
    low, high = _BATTERY
    if entry.size > high * label or (entry.size < low * label and not part.adjustable):
        why = f"{part.name} is to give {as_read(stated, part.kind.unit)}."
        belongs = () if entry.sealed else tuple(_fitting(entry))
        turning = (Answer(Means.TURNING),) if entry.size < low * label else ()
        return _asked(entry, why, _meant(entry, label, 0.3), belongs, turning)
    return None


def _moved(entry: Entry) -> Doubted | None:
    """A source that differs later by more than drift and sag make."""
    part, earlier = entry.source, entry.earlier
    if part is None or earlier is None or earlier.value.value is None:
        return None
    was = abs(float(earlier.value))
    if abs(entry.size - was) <= _DRIFT * was:
        return None
    why = f"{part.name} was {as_read(earlier.value, part.kind.unit)} before, and other points were read at that."
    anew = (Answer(Means.SET_ANEW),) if entry.target.setup or len(entry.sheet.setups) == 1 else ()
    return Doubted(why, (*anew, _AGAIN, _AS_TYPED))


def _above_the_sources(entry: Entry) -> Doubted | None:
    """A voltage above all that the sources of its setup give together."""
    target = entry.target
    if not isinstance(target, Across | Through) or target.measurand is RESISTANCE:
        return None
    setup = entry.sheet.setups[target.setup]
    most = 0.0
    for name in setup.driving(entry.sheet.parts):
        part = entry.sheet.parts[name]
        stated = setup.stated(part)
        if part.kind.alone_as is not VOLTAGE or stated is None:
            return None
        most += max(_BATTERY[1] * abs(float(stated)), 1.1 * _read_of(part, entry))
    if isinstance(target, Through):
        return _above_its_share(entry, target, most)
    if entry.size <= most:
        return None
    why = (
        f"The sources give {with_digits(most / _BATTERY[1], 0.01, 'V')} at most."
        if not entry.sealed
        else ("It is more than the sources can give.")
    )
    expected = entry.calculated.value if entry.calculated else None
    meant = _meant(entry, abs(expected), 0.1) if expected else ()
    return _asked(entry, why, meant, () if entry.sealed else tuple(_fitting(entry)))


def _above_its_share(entry: Entry, target: Through, volts: float) -> Doubted | None:
    """A current above what all the sources together would push through that part alone."""
    part = entry.sheet.parts[target.part]
    read = entry.assessment.of(PartAlone(part.name, part.kind.alone_as))
    ohms = read.measurement.mean if read else None
    if ohms is None and part.nominal is not None and not entry.sealed:
        ohms = 0.8 * float(part.nominal)
    if part.kind.drives or not ohms or entry.size <= volts / abs(ohms):
        return None
    why = f"It is more than the sources can push through {part.name}."
    expected = entry.calculated.value if entry.calculated else None
    meant = _meant(entry, abs(expected), 0.3) if expected else ()
    return _asked(entry, why, meant, () if entry.sealed else tuple(_fitting(entry)))


def _read_of(part: Part, entry: Entry) -> float:
    """The largest that a source was read to give, in volts."""
    found = (m.measurement.mean for key, m in entry.assessment.targets.items() if source_at(key, entry.sheet) == part)
    return max((abs(mean) for mean in found if mean is not None), default=0.0)


def _another_decade_than_the_parts(entry: Entry) -> Doubted | None:
    """A total that the parts, as they were read, cannot make in any way: said of sealed runs too."""
    target = entry.target
    if not isinstance(target, Across) or target.measurand is not RESISTANCE or not entry.size:
        return None
    setup = entry.sheet.setups[target.setup]
    read = []
    for name in setup.connections:
        part = entry.sheet.parts[name]
        if part.kind.drives:
            continue
        found = entry.assessment.of(PartAlone(name, part.kind.alone_as))
        if found is None or found.measurement.mean is None or found.measurement.mean <= 0:
            return None
        read.append(found.measurement.mean)
    if not read:
        return None
    most, least = 1.2 * math.fsum(read), 0.8 / math.fsum(1.0 / value for value in read)
    if least <= entry.size <= most:
        return None
    why = "The parts, as you read them, cannot make this in any way."
    expected = entry.calculated.value if entry.calculated else None
    return _asked(entry, why, _meant(entry, expected, 0.15) if expected else (), tuple(_fitting(entry)))


def _fits_elsewhere(entry: Entry) -> Doubted | None:
    """A number that fits the point just left, or another open one, to a few digits, and this one not at all."""
    found = entry.calculated
    if found is None or entry.source or isinstance(entry.target, PartAlone) or not _is_far(entry, found):
        return None
    scale = entry.scale
    expected = abs(found.value or 0.0) * (scale or 1.0)
    belongs = tuple(_fitting(entry))
    meant = _meant(entry, expected, 0.3 if scale is None else 0.15) if expected else ()
    if not belongs and not meant:
        return None
    here = "It is open here." if found.open else f"Here about {_written(expected, entry.target)} is calculated."
    return _asked(entry, here, meant, belongs)


def _is_far(entry: Entry, found: Calculated) -> bool:
    """Whether a reading is nowhere near what is calculated, even with what is uncertain about both."""
    if found.open:
        return True
    expected, scale = abs(found.value or 0.0), entry.scale
    low, high = _UNKNOWN if scale is None else (scale * (1.0 - _OFF), scale * (1.0 + _OFF))
    own = DIGITS_THAT_TELL * finest(entry.reading.value) + 3.0 * (found.standard or 0.0)
    return not low * expected - own <= entry.size <= high * expected + own


def _shares(entry: Entry, setup: str) -> Iterator[float]:
    """What each other reading of a setup is of its calculated value, as far as a battery may be off."""
    for key, found in entry.elsewhere.targets.items():
        if key.setup != setup or key == entry.target.key or isinstance(key, PartAlone) or key.measurand is RESISTANCE:
            continue
        expected = calculated(key, entry.elsewhere, entry.sheet)
        if expected and expected.value and not expected.small and found.measurement.mean is not None:
            share = abs(found.measurement.mean / expected.value)
            if _UNKNOWN[0] <= share <= _UNKNOWN[1]:
                yield share


def _fitting(entry: Entry) -> Iterator[Answer]:
    """The points that a reading fits: the one just left, and those still open."""
    for target in _candidates(entry):
        if _fits(entry, target):
            yield Answer(Means.BELONGS, target=target)


def _fits(entry: Entry, target: Target) -> bool:
    digits = DIGITS_THAT_TELL * finest(entry.reading.value)
    if isinstance(target, PartAlone):
        part = entry.sheet.parts[target.part]
        stated = part.nominal
        return stated is not None and abs(entry.size - float(stated)) <= (_FITS + _DRIFT) * float(stated)
    if entry.left and entry.left.target.key == target.key and entry.left.value.value is not None:
        return abs(entry.size - abs(float(entry.left.value))) <= digits
    found = calculated(target, entry.elsewhere, entry.sheet)
    if found is None or not found.value:
        return False
    low, high = _LABELLED if entry.scale is None else (entry.scale * (1.0 - _FITS), entry.scale * (1.0 + _FITS))
    expected, own = abs(found.value), finest(entry.reading.value) + 2.0 * (found.standard or 0.0)
    return low * expected - own <= entry.size <= high * expected + own


def _candidates(entry: Entry) -> Iterator[Target]:
    """The points of the same quantity that a reading may belong to: the one just left, and those that are open."""
    left = entry.left.target if entry.left else None
    for target in entry.points:
        if target.measurand is not entry.target.measurand or target.key == entry.target.key:
            continue
        if isinstance(target, TouchedLeads) or (
            target.setup and target.setup != entry.target.setup and entry.target.setup
        ):
            continue
        if entry.assessment.of(target) is None or (left is not None and target.key == left.key):
            yield target


def _slip(size: float, expected: float, within: float) -> int:
    """The power of ten that would make a reading fit what is expected; 0 where none does."""
    fits = (power for power in _SLIPS if size and abs(size * 10.0**power / abs(expected) - 1.0) <= within)
    return next(fits, 0)


def _meant(entry: Entry, expected: float, within: float) -> tuple[Answer, ...]:
    """The same digits with another prefix or point, where they fit what is expected."""
    power = 0 if entry.sealed or not expected else _slip(entry.size, expected, within)
    if not power:
        return ()
    value, digit = float(entry.reading.value) * 10.0**power, finest(entry.reading.value) * 10.0**power
    return (Answer(Means.MEANT, with_digits(value, digit, entry.target.unit)),)


def _asked(
    entry: Entry, why: str, meant: Sequence[Answer], belongs: Sequence[Answer], more: Sequence[Answer] = ()
) -> Doubted:
    offered = belongs if len(belongs) <= _MOST_POINTS else ()
    if not (meant or offered or more):
        more = (_AGAIN,)
    return Doubted(why, (*meant, *offered, *more, _AS_TYPED))


def _written(value: float, target: Target) -> str:
    digit = 10.0 ** (math.floor(math.log10(value)) - 2) if value else 1.0
    return with_digits(value, digit, target.unit)


def _is_confirmed_before(entry: Entry) -> bool:
    """Whether what this source gives was said to be so already, near what is read now."""
    keys = [r for r in entry.before if r.confirmed and r.value.value is not None]
    return any(
        source_at(r.target, entry.sheet) == entry.source and abs(abs(float(r.value)) - entry.size) <= 0.3 * entry.size
        for r in keys
    )


_CHECKS: tuple[Check, ...] = (
    _unit,
    _part_by_itself,
    _moved,
    _source,
    _above_the_sources,
    _another_decade_than_the_parts,
    _fits_elsewhere,
)
