"""What no source gives: a battery far off its label, more than all sources together, one that has moved meanwhile."""

from recensor.core.circuit import Across, Part, PartAlone, Through
from recensor.core.entries.doubts.entry import AGAIN, AS_TYPED, Answer, Doubted, Entry, Means, source_at
from recensor.core.entries.doubts.fitting import DRIFT, asked, fitting, meant
from recensor.core.figures import as_read, with_digits
from recensor.core.quantity import RESISTANCE, VOLTAGE

# How far below and above its label a battery may be, as ratios.
_BATTERY = 0.5, 1.25


def off_its_label(entry: Entry) -> Doubted | None:
    """A battery too far off its label."""
    part = entry.source
    setup = entry.sheet.setups.get(entry.target.setup or "")
    stated = (setup.stated(part) if setup else part.nominal) if part else None
    if part is None or stated is None or not float(stated) or _is_confirmed_before(entry):
        return None
    label = abs(float(stated))
    low, high = _BATTERY
    if entry.size > high * label or (entry.size < low * label and not part.adjustable):
        why = f"{part.name} is to give {as_read(stated, part.kind.unit)}."
        belongs = tuple(fitting(entry))
        turning = (Answer(Means.TURNING),) if entry.size < low * label else ()
        return asked(why, meant(entry, label, 0.3), belongs, turning)
    return None


def moved(entry: Entry) -> Doubted | None:
    """A source that differs later by more than drift and sag make."""
    part, earlier = entry.source, entry.earlier
    if part is None or earlier is None or earlier.value.value is None:
        return None
    was = abs(float(earlier.value))
    if abs(entry.size - was) <= DRIFT * was:
        return None
    why = f"{part.name} was {as_read(earlier.value, part.kind.unit)} before, and other points were read at that."
    anew = (Answer(Means.SET_ANEW),) if entry.target.setup or len(entry.sheet.setups) == 1 else ()
    return Doubted(why, (*meant(entry, was, DRIFT), *anew, AGAIN, AS_TYPED))


def above_the_sources(entry: Entry) -> Doubted | None:
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
    same_digits = meant(entry, abs(expected), 0.1) if expected else ()
    return asked(why, same_digits, tuple(fitting(entry)))


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
    same_digits = meant(entry, abs(expected), 0.3) if expected else ()
    return asked(why, same_digits, tuple(fitting(entry)))


def _read_of(part: Part, entry: Entry) -> float:
    """The largest that a source was read to give, in volts."""
    found = (m.measurement.mean for key, m in entry.assessment.targets.items() if source_at(key, entry.sheet) == part)
    return max((abs(mean) for mean in found if mean is not None), default=0.0)


def _is_confirmed_before(entry: Entry) -> bool:
    """Whether what this source gives was said to be so already, near what is read now."""
    keys = [r for r in entry.before if r.confirmed and r.value.value is not None]
    return any(
        source_at(r.target, entry.sheet) == entry.source and abs(abs(float(r.value)) - entry.size) <= 0.3 * entry.size
        for r in keys
    )
