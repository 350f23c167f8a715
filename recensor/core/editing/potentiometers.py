"""Editing a potentiometer as the one part that it is: both its rheostats at once."""

from collections.abc import Callable
from dataclasses import replace

from recensor.core.circuit import NAME, Leads, Part, PartsLine, Sheet, potentiometer
from recensor.core.editing import edits
from recensor.core.editing.edits import EditError
from recensor.core.quantity import Quantity
from recensor.core.sentences import say


def ends(sheet: Sheet, setup: str, name: str) -> Leads:
    """The nodes of both its ends in a setup."""
    upper, lower = sheet.potentiometers[name]
    connections = edits.setup_named(sheet, setup).connections
    return connections[upper][0], connections[lower][1]


def put_in(sheet: Sheet, setup: str, line: PartsLine, put: Callable[[Sheet, Part], Sheet]) -> Sheet:
    """The sheet with a potentiometer that was typed, `put` where any part would be. Raises `EditError`."""
    if len(line.potentiometers) != 1 or len(line.new) != 2:
        raise EditError(say("editing.one_part_at_a_time"))
    ((name, (upper, lower)),) = line.potentiometers.items()
    changed = edits.insert_in_series(put(sheet, line.new[upper]), setup, upper, line.new[lower])
    changed = replace(changed, potentiometers={**changed.potentiometers, name: (upper, lower)})
    return edits.set_value(changed, setup, lower, line.settings[lower])


def changed(sheet: Sheet, name: str, said: Part) -> Sheet:
    """It is called, and goes as far, as a part says; where its slider stands stays.

    Raises `EditError`, and `QuantityError` where the slider would stand beyond the whole.
    """
    if said.name != name and (said.name in sheet.parts or said.name in sheet.potentiometers):
        raise EditError(say("editing.part_named_already", part=said.name), (said.name,))
    if not NAME.fullmatch(said.name):
        raise EditError(say("circuit.no_name_names_begin", name=said.name[:20]))
    old, new = sheet.potentiometers[name], potentiometer.halves_called(said.name)
    set_to = {key: setup.values[old[1]] for key, setup in sheet.setups.items() if old[1] in setup.values}
    for before, now in zip(old, new, strict=True):
        sheet = edits.replaced(sheet, before, replace(said, name=now, kind=sheet.parts[before].kind))
    whole = {said.name if key == name else key: pair for key, pair in sheet.potentiometers.items()}
    sheet = replace(sheet, potentiometers=whole)
    for setup, lower in set_to.items():
        sheet = edits.set_value(sheet, setup, new[1], lower)
    return sheet


def set_to(sheet: Sheet, setup: str, name: str, lower: Quantity | None) -> Sheet:
    """Where its slider stands in a setup: its lower part. Raises `EditError` for nothing."""
    if lower is None:
        raise EditError(say("editing.say_where_slider_stands", name=name))
    return edits.set_value(sheet, setup, sheet.potentiometers[name][1], lower)


def taken_out(sheet: Sheet, setup: str, name: str) -> Sheet:
    """Take it out of a setup, and leave its place open."""
    return edits.leave_all_open(sheet, setup, sheet.potentiometers[name])
