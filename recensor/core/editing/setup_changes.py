"""States of a circuit in the course of a run: what was read before a change stays with the circuit it was read on.

A *change* opens a new setup beside the old one, whose unread points are not asked for any more. A *correction* says
better what the circuit always was, and carries over to all that was read.
"""

from collections.abc import Callable
from dataclasses import replace

from recensor.core.circuit import Leads, Setup, Sheet, Target, usual_readings
from recensor.core.editing import edits
from recensor.core.figures import as_read
from recensor.core.quantity import Quantity, as_ratio
from recensor.core.slips import turned

LONGEST_NAME = 40


def new_state(sheet: Sheet, base: str, name: str, edit: Callable[[Sheet, str], Sheet]) -> tuple[Sheet, str]:
    """The sheet with another setup, like `base` but for `edit` of it, and the setup's name.

    What was asked for at `base` is asked for there instead.
    """
    name = free_setup_name(sheet, name)
    changed = edit(edits.add_setup(sheet, name, base), name)
    wanted = {target.key for target in sheet.asked if target.setup == base}
    unwanted = {
        target.in_setup(name, changed).key
        for target in usual_readings(sheet)
        if target.setup == base and target.key not in wanted
    }
    targets = [target for target in changed.asked if target.setup != base and target.key not in unwanted]
    known = {target.key for target in targets}
    for target in sheet.asked:
        there = target.in_setup(name, changed) if target.setup == base else None
        if there is not None and there.key not in known and _is_there(there, changed):
            targets.append(there)
    # Whoever is asked what they expect is asked so of what is new as well.
    new = frozenset(target.key for target in targets) if sheet.predicted else frozenset()
    return replace(changed, asked=tuple(targets), predicted=sheet.predicted | new), name


def state_before(sheet: Sheet, setup: str) -> tuple[Sheet, str]:
    """The sheet with another setup, like this one, for what was read before somebody connected it otherwise.

    Nothing is asked for there.
    """
    name = free_setup_name(sheet, f"{setup} before")
    changed = edits.add_setup(sheet, name, setup)
    return replace(changed, asked=tuple(target for target in changed.asked if target.setup != name)), name


def source_set_anew(sheet: Sheet, base: str | None, source: str, value: Quantity) -> tuple[Sheet, str]:
    """A new state in which a source is set to what it was read to give; to its own value where that is meant."""
    part = sheet.parts[source]
    base = base or next(name for name, setup in sheet.setups.items() if source in setup.connections)
    quantity = part.nominal
    is_own = (
        quantity is not None
        and value.value is not None
        and abs(abs(float(value)) - abs(float(quantity))) <= as_ratio(sheet.judge.limit) * abs(float(quantity))
    )
    setting = None if is_own else value
    shown = as_read(quantity if is_own and quantity else value, part.kind.unit)
    return new_state(
        sheet, base, f"{source} at {shown}", lambda changed, name: edits.set_value(changed, name, source, setting)
    )


def source_as_read(sheet: Sheet, setup: str | None, source: str, value: Quantity) -> Sheet:
    """The correction that a source is what it was read to give: in a setup, or altogether where none is named."""
    nominal = sheet.parts[source].nominal
    if nominal is not None and float(value) * float(nominal) < 0:
        value = turned(value, sheet.parts[source].kind.unit)  # read with its leads reversed
    if setup is not None:
        return edits.set_value(sheet, setup, source, value)
    return edits.replaced(sheet, source, replace(sheet.parts[source], nominal=value))


def with_knob(sheet: Sheet, source: str) -> Sheet:
    """The correction that a source is adjustable."""
    part = sheet.parts[source]
    return replace(sheet, parts={**sheet.parts, source: replace(part, adjustable=True)})


def place_of(sheet: Sheet, setup: Setup, name: str) -> Leads | None:
    """Where a part goes that is not in a setup: where it stood in the last one that had it.

    Else in the place of the one part that this one lacks of another.

    None where neither is known.
    """
    others = [other for other in reversed(list(sheet.setups.values())) if other.name != setup.name]
    own = [other.connections[name] for other in others if name in other.connections]
    nodes = set(setup.nodes)
    if there := [leads for leads in own if set(leads) <= nodes]:
        return there[0]
    for other in others:
        left = [part for part in other.connections if part not in setup.connections]
        if len(left) == 1 and len(other.connections) == len(setup.connections) + 1:
            return other.connections[left[0]] if set(other.connections[left[0]]) <= nodes else None
    return None


def free_setup_name(sheet: Sheet, wanted: str) -> str:
    """A name that no setup has yet."""
    short = wanted[: LONGEST_NAME - 4]
    names = (short, *(f"{short} ({k})" for k in range(2, len(sheet.setups) + 3)))
    return next(name for name in names if name not in sheet.setups)


def _is_there(target: Target, sheet: Sheet) -> bool:
    """Whether a setup has the parts and nodes of a target; the rows of a line stay where it was begun."""
    if target.step is not None and (not target.in_circuit or sheet.sweep_of(target) is None):
        return False
    setup = sheet.setups[target.setup or ""]
    if target.is_across:
        at_part = target.at is None or target.at in setup.across(*target.nodes)
        return set(target.nodes) <= set(setup.nodes) and at_part
    if target.is_through:
        return target.part in setup.connections and (target.at is None or target.at in setup.connections)
    return True
