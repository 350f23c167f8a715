"""Any circuit as lines of text: a part, its two nodes, and what it is.

::

    reference gnd
    V1 A gnd 9V internal 0.4
    R1 A B 4k7 5% 0.25W
    R2 B gnd ?

For a source the first node is its +. ``?`` is an unmarked part; ``#`` begins a remark. Without a line
``reference``, the reference is the node ``gnd`` or ``0``, else the first source's −.
"""

import re
from collections.abc import Iterator

from recensor.core.circuit.kinds import KINDS, kind_of_letter
from recensor.core.circuit.one_line import NAME, REFERENCE, SETUP, UNMARKED
from recensor.core.circuit.parts import Part
from recensor.core.circuit.setup import Leads, Setup
from recensor.core.circuit.sheet import Sheet
from recensor.core.errors import Refused
from recensor.core.figures import with_unit
from recensor.core.quantity import OHM, WATT, QuantityError, parse_percent, positive

MOST_LINES = 200
NODE = re.compile(r"[A-Za-z0-9_+\-']{1,20}")
_BEHIND = re.compile(
    r"(?P<value>\?|\S.*?)(?:\s+(?P<tolerance>\S+\s*%))?(?:\s+(?P<rating>\S+\s*W))?(?:\s+internal\s+(?P<internal>\S+))?"
)


class NodeListError(Refused):
    """A line is not understood; `line` is its number, counted from 1."""

    def __init__(self, message: str, line: int) -> None:
        super().__init__(f"Line {line}: {message}")
        self.line = line


def read(text: str, title: str = "Circuit") -> Sheet:
    """The circuit of a node list, as a sheet with one setup that asks for nothing. Raises `NodeListError`.

    Examples
    --------
    >>> sheet = read("V1 A gnd 9V; R1 A B 4k7 5%; R2 B gnd ?".replace(";", chr(10)))
    >>> sheet.setups["main"].reference, sheet.parts["R2"].nominal
    ('gnd', None)
    """
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise NodeListError(f"A node list has at most {MOST_LINES} lines; here are {len(lines)}.", MOST_LINES)
    parts: dict[str, Part] = {}
    connections: dict[str, Leads] = {}
    reference, stated_at = "", 0
    for number, line in enumerate(lines, 1):
        words = line.split("#", 1)[0].split()
        if not words:
            continue
        if words[0].lower() == "reference" and len(words) == 2:
            reference, stated_at = words[1], number
            continue
        part, leads = _part(words, number)
        if part.name in parts:
            raise NodeListError(f"There are two parts named {part.name}.", number)
        parts[part.name], connections[part.name] = part, leads
    if not parts:
        raise NodeListError("Write a part, its two nodes and its value, as in R1 A B 4k7 5%.", 1)
    nodes = {node for leads in connections.values() for node in leads}
    if reference and reference not in nodes:
        raise NodeListError(f"No part is at the reference node {reference}.", stated_at)
    return Sheet(title, parts, {SETUP: Setup(SETUP, reference or _usual_reference(parts, connections), connections)})


def write(sheet: Sheet, setup: Setup) -> str:
    """The node list of a setup; reading it gives the same circuit."""
    return "\n".join([f"reference {setup.reference}", *_lines(sheet, setup)])


def _lines(sheet: Sheet, setup: Setup) -> Iterator[str]:
    for name, leads in setup.connections.items():
        part = sheet.parts[name]
        value = setup.stated(part)
        words = [name, *leads, value.text.replace(" ", "") if value else UNMARKED]
        words += [part.tolerance.text.replace(" ", "")] if part.tolerance else []
        words += [with_unit(part.rating, WATT)] if part.rating else []
        words += ["internal", part.internal.text.replace(" ", "")] if part.internal else []
        yield " ".join(words)


def _part(words: list[str], number: int) -> tuple[Part, Leads]:
    if len(words) < 4:
        raise NodeListError("A part needs a name, two nodes and a value, as in R1 A B 4k7 5%.", number)
    name, first, second = words[:3]
    kind = kind_of_letter(name[0])
    if not NAME.fullmatch(name) or kind is None:
        *letters, last = (kind.letter for kind in KINDS.values())
        said = f"“{name[:20]}” is no name of a part; names begin with {', '.join(letters)} or {last}."
        raise NodeListError(said, number)
    for node in (first, second):
        if not NODE.fullmatch(node):
            raise NodeListError(f"“{node[:20]}” is no name of a node.", number)
    if first == second:
        raise NodeListError(f"Both leads of {name} are at {first}: it would be shorted by its own node.", number)
    match = _BEHIND.fullmatch(" ".join(words[3:]))
    if not match:
        raise NodeListError("What follows the nodes is not understood.", number)
    try:
        unmarked = match["value"] == UNMARKED and kind.may_be_unmarked
        part = Part(
            name,
            kind,
            None if unmarked else positive(match["value"], kind.unit),
            parse_percent(match["tolerance"]) if match["tolerance"] else None,
            positive(match["rating"], WATT) if match["rating"] else None,
            positive(match["internal"], OHM) if match["internal"] else None,
        )
    except QuantityError as error:
        raise NodeListError(str(error), number) from None
    if part.internal and not kind.drives:
        raise NodeListError(f"{name} is no source and has no internal resistance.", number)
    return part, (first, second)


def _usual_reference(parts: dict[str, Part], connections: dict[str, Leads]) -> str:
    nodes = [node for leads in connections.values() for node in leads]
    for usual in (REFERENCE, "0"):
        if usual in nodes:
            return usual
    return next((connections[name][1] for name, part in parts.items() if part.kind.drives), nodes[-1])
