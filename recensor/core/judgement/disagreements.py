"""Readings of one measurement that cannot both be right, nothing having been changed between them.

Nobody may read until it fits and see a clean sheet: until somebody says why, such a run is not in agreement.
"""

import math
from dataclasses import dataclass

from recensor.core.circuit import Target, loaded_target
from recensor.core.figures import as_read
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.precision import Own
from recensor.core.record import DisagreementAnswer, Reading, Run
from recensor.core.sentences import say
from recensor.core.standing import READ_AGAIN, Standing, difference, only_turned

# Readings this many of the coarser last digits apart still agree (common practice, no source).
_DIGITS = 3.0


@dataclass(frozen=True)
class Disagreement:
    """A reading that stands, and one before it that it contradicts, by their places; `answer` is why, once said."""

    target: Target
    index: int
    earlier: int
    answer: DisagreementAnswer | None
    text: str

    @property
    def is_open(self) -> bool:
        """Whether nobody has said why yet."""
        return self.answer is None


def disagreements(run: Run, measurements: Measurements) -> list[Disagreement]:
    """All of them, in the order of the measurements."""
    moved = {name for name in run.sheet.setups if _source_moved(name, run, measurements)}
    found = []
    before = _last_before(run, measurements)
    for key, measurement in measurements.by_target.items():
        index = measurement.indexes[0]
        earlier = before.get(key)
        if earlier is None or not _is_held_alike(measurement, moved, run):
            continue
        old, new = run.readings[earlier], run.readings[index]
        if old.meter != new.meter or only_turned(old, new) or not _apart(old, new, measurements, earlier, index):
            continue
        unit = new.target.unit
        text = say("judgement.they_do_not_agree", now=as_read(new.value, unit), before=as_read(old.value, unit))
        found.append(Disagreement(new.target, index, earlier, new.contradicts, text))
    return found


def _last_before(run: Run, measurements: Measurements) -> dict[Target, int]:
    """Of each measurement the last reading before those that stand: an earlier one, or one that was replaced."""
    found = {}
    for index, standing in enumerate(measurements.standings):
        reading = run.readings[index]
        # What somebody struck they gave a reason for.
        is_replaced = standing is Standing.REPLACED and reading.struck and reading.struck.reason.startswith(READ_AGAIN)
        if standing is Standing.EARLIER or is_replaced:
            key = reading.target.key
            measurement = measurements.by_target.get(key)
            if measurement and index < measurement.indexes[0]:
                found[key] = index
    return found


def _is_held_alike(measurement: Measurement, moved: set[str], run: Run) -> bool:
    """Whether nothing that a sheet knows of lies between: no source that was turned or sagged, nothing that is set."""
    target = measurement.target
    if target.is_leads or measurement.mean is None:
        return False
    if target.is_part_alone:
        kind = run.sheet.parts[target.part].kind
        return not (kind.is_source or kind.adjustable_value)
    return target.step is None and target.setup not in moved and not _is_of_source(target, run)


def _is_of_source(target: Target, run: Run) -> bool:
    setup = run.sheet.setups[target.setup or ""]
    names = setup.driving(run.sheet.parts)
    return any(loaded_target(setup, run.sheet, name).key == target.key for name in names)


def _source_moved(name: str, run: Run, measurements: Measurements) -> bool:
    """Whether a source of a setup was read again and gave something else then."""
    setup = run.sheet.setups[name]
    for source in setup.driving(run.sheet.parts):
        groups = measurements.groups.get(loaded_target(setup, run.sheet, source).key, ())
        readings = [run.readings[group[-1]] for group in groups]
        if any(_digits_apart(readings[0], other) for other in readings[1:]):
            return True
    return False


def _digits_apart(old: Reading, new: Reading) -> bool:
    apart = difference(old, new)
    digit = max(float(reading.value.resolution or 0) for reading in (old, new))
    return apart is not None and abs(apart) > _DIGITS * digit * (1 + 1e-9)


def _apart(old: Reading, new: Reading, measurements: Measurements, earlier: int, index: int) -> bool:
    """Whether two readings are farther apart than both can be off; of one range the gain is the same in both."""
    first, second = measurements.taken(earlier), measurements.taken(index)
    apart = difference(old, new)
    if first is None or second is None or apart is None or not _digits_apart(old, new):
        return False
    own = Own(new.target.key)
    digits = math.hypot(first.spread.shares.get(own, 0.0), second.spread.shares.get(own, 0.0))
    shared = [
        abs(second.spread.shares.get(gain, 0.0)) - abs(first.spread.shares.get(gain, 0.0))
        for gain in {*first.spread.shares, *second.spread.shares} - {own}
    ]
    return abs(apart) > 2.0 * math.hypot(digits, *shared)
