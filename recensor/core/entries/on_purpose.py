"""A reading that shows nothing because somebody made it so: parts that, opened or shorted, would show just that."""

from collections.abc import Callable, Iterator
from dataclasses import replace

from recensor.core.circuit import Sheet, has_place
from recensor.core.editing import edits, setup_changes
from recensor.core.entries.typed_change import ChangeKind, TypedChange
from recensor.core.judgement import assess
from recensor.core.record import Reading, Run

# Of a circuit of more parts nobody is offered each.
_MOST_PARTS = 12

_EDITS: dict[ChangeKind, Callable[[Sheet, str, str], Sheet]] = {
    ChangeKind.OUT: edits.leave_open,
    ChangeKind.SHORT: edits.short,
}


def on_purpose(run: Run, reading: Reading) -> Iterator[TypedChange]:
    """The changes of one part with which such a reading is what is expected; opens before shorts.

    Examples
    --------
    >>> from recensor.core.circuit import Across, one_line
    >>> from recensor.core.quantity import VOLTAGE, parse
    >>> sheet = one_line.read("9V: 1k + 1k5")
    >>> zero = Reading(Across(VOLTAGE, ("B", "gnd"), "main"), parse("0.00", "V"))
    >>> [(change.kind.value, change.part) for change in on_purpose(Run(sheet), zero)]
    [('out', 'R1')]
    """
    target, sheet = reading.target, run.sheet
    if not target.in_circuit or target.step is not None:
        return
    setup = sheet.setups[target.setup]
    passive = [name for name in setup.connections if not sheet.parts[name].kind.is_source]
    if len(passive) > _MOST_PARTS:
        return
    by_themselves = tuple(one for one in run.readings if one.target.is_part_alone)
    for kind, edit in _EDITS.items():
        for part in passive:
            changed, name = _with(edit, sheet, setup.name, part)
            there = target.in_setup(name, changed)
            if has_place(there, changed) and _shows_it(
                replace(run, sheet=changed, readings=by_themselves), replace(reading, target=there)
            ):
                yield TypedChange(kind, part)


def _with(edit: Callable[[Sheet, str, str], Sheet], sheet: Sheet, base: str, part: str) -> tuple[Sheet, str]:
    """The sheet with a part edited in a new state of a setup, and that state's name."""
    return setup_changes.new_state(sheet, base, part, lambda changed, name: edit(changed, name, part))


def _shows_it(run: Run, reading: Reading) -> bool:
    """Whether nothing, or an open where that was read, is what is expected."""
    expected = assess(run, (reading.target,)).expected(reading.target)
    if expected is None:
        return False
    if reading.value.over_range:
        return expected.open
    return expected.zero or (
        expected.value is not None and abs(expected.value) < float(reading.value.resolution or 0) / 2.0
    )
