"""Where the probes go, as it is typed: ``A C``, ``A``, ``R2``, ``R2.1``, ``R2 volts``, ``i R2``.

Two nodes are a voltage or a resistance between them, one node its potential; a part is what the stage reads of it; a
part's lead, first or second, is the current beside which the circuit is opened there. A word before or after it says
what is read, whatever the dial is at.
"""

import re
from collections.abc import Sequence

from recensor.core.circuit import Across, PartAlone, Setup, Sheet, Target, Through, one_of, voltage_of
from recensor.core.errors import Refused
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.sentences import say

_LEAD = re.compile(r"(?P<part>.+)\.(?P<lead>[12])")
_BETWEEN = re.compile(r"\s*(?:[,;/]|\bto\b|\s)\s*")

_QUANTITIES = {
    word: measurand
    for measurand, words in (
        (VOLTAGE, "v volt volts voltage"),
        (CURRENT, "i ma amp amps ampere amperes current"),
        (RESISTANCE, "r ω ohm ohms resistance"),
    )
    for word in words.split()
}


class PlaceError(Refused):
    """The text names no place of this circuit."""


def place(text: str, sheet: Sheet, setup: Setup, measurand: Measurand) -> Target:
    """The target that a place means, read as `measurand`. Raises `PlaceError`.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
    >>> place("A B", sheet, sheet.setup(), VOLTAGE).words, place("b", sheet, sheet.setup(), VOLTAGE).words
    ('voltage from A to B', 'voltage from B to gnd')
    >>> place("R3", sheet, sheet.setup(), VOLTAGE).words, place("R3.1", sheet, sheet.setup(), VOLTAGE).words
    ('voltage from B to gnd at R3', 'current through R3 at R3')
    >>> place("R3 amps", sheet, sheet.setup(), VOLTAGE).words, place("ohms A B", sheet, sheet.setup(), VOLTAGE).words
    ('current through R3', 'resistance from A to B')
    """
    typed = text.strip()
    found = named(typed, sheet, setup)
    if found is None:
        said, rest = quantity_said(typed)
        found, measurand = (named(rest, sheet, setup), said or measurand) if said else (None, measurand)
    if found is None:
        raise PlaceError(say("entries.no_place_here", typed=typed[:40], example=_example(setup)))
    nodes, part, lead = found
    if part and lead:
        return Through(part, setup.name, part if lead == "1" else _beside(setup, part))
    if part:
        return of_part(part, sheet, setup, measurand)
    red, black = nodes if len(nodes) == 2 else (nodes[0], setup.reference)
    if measurand is CURRENT:
        measurand = VOLTAGE  # between nodes there is no current to read
    if red == black:
        raise PlaceError(say("entries.red_and_black_would", red=red), nodes=(red,))
    return across(measurand, (red, black), setup)


def quantity_said(text: str) -> tuple[Measurand | None, str]:
    """The quantity that the first or the last word names, and what else there is; None where neither does.

    Examples
    --------
    >>> quantity_said("R2 volts"), quantity_said("i R3.2"), quantity_said("A C")
    ((<Measurand.VOLTAGE: 'voltage'>, 'R2'), (<Measurand.CURRENT: 'current'>, 'R3.2'), (None, 'A C'))
    """
    words = text.split()
    for word, rest in ((words[-1], words[:-1]), (words[0], words[1:])) if len(words) > 1 else ():
        if (measurand := _QUANTITIES.get(word.lower())) is not None:
            return measurand, " ".join(rest)
    return None, text


def of_part(part: str, sheet: Sheet, setup: Setup, measurand: Measurand) -> Target:
    """What a stage reads of a part: its voltage, the current through it, or its resistance out of the circuit.

    The voltage of one of several parts side by side is its own: the probes touch its leads.
    """
    if measurand is CURRENT:
        return Through(part, setup.name)
    if measurand is RESISTANCE:
        return PartAlone(part, sheet.parts[part].kind.measured_as)
    return voltage_of(setup, sheet, part)


def across(measurand: Measurand, nodes: tuple[str, str], setup: Setup) -> Across:
    """Across two nodes, as the sheet would name it: in the direction of the first part that lies between them."""
    parts = setup.across(*nodes)
    leads = setup.connections[parts[0]] if parts else nodes
    return Across(measurand, leads if measurand is RESISTANCE else nodes, setup.name)


def named(text: str, sheet: Sheet, setup: Setup) -> tuple[Sequence[str], str, str] | None:
    """The nodes, or the part and its lead, that a text names, however it is capitalised; None where it names none."""
    typed = text.strip()
    if part := one_of(setup.connections, typed):
        return (), part, ""
    if node := one_of(setup.nodes, typed):
        return (node,), "", ""
    if match := _LEAD.fullmatch(typed):
        part = one_of(setup.connections, match["part"])
        return ((), part, match["lead"]) if part else None
    words = [word for word in _BETWEEN.split(typed) if word]
    if len(words) == 2:
        nodes = tuple(one_of(setup.nodes, word) for word in words)
        return (nodes, "", "") if all(nodes) else None
    return None


def _beside(setup: Setup, part: str) -> str:
    """The part beside whose lead the circuit is opened at the second lead of another: the only other one there."""
    second = setup.connections[part][1]
    others = [name for name, leads in setup.connections.items() if second in leads and name != part]
    return others[0] if len(others) == 1 else part


def _example(setup: Setup) -> str:
    part, (first, second) = next(iter(setup.connections.items()))
    return say("entries.write_two_nodes_node", first=first, second=second, part=part)
