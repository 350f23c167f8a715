"""A circuit in one line of text, our own notation: ``9V: 1k + (2k2 | 3k3 + 470) + 100; 5%``.

Before the colon the source, after it the resistors from its + to its −: ``+`` puts in series, ``|`` in
parallel and binds less, parentheses group. ``R7=1k`` names a part, ``1k 1%`` states its tolerance,
``?`` is an unmarked part. After a semicolon stands the tolerance of all resistors that state none, after another the
temperature of the circuit, ``21 °C``.
Other parts say what they are: ``lamp 6V 50mA``, ``diode 0.7V 10mA``, ``led 1.9V 10mA`` (from + to −), ``rheostat 1k
set 470``, ``switch``, ``open switch``, ``wire``. ``pot 10k at 3k`` is a potentiometer: both its parts in series, the
lower 3 kΩ, and its slider the node between them. Behind a source's value stands what it is: ``9V battery``,
``12V pack``, ``5V supply``. ``||``, ``//`` and ``∥`` are ``|``.
"""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from recensor.core.circuit import potentiometer, series_parallel
from recensor.core.circuit.kinds import kind_of_unit
from recensor.core.circuit.line_reader import NAME, REFERENCE, SETUP, UNMARKED, Connector, LineReader
from recensor.core.circuit.parts import Part
from recensor.core.circuit.series_parallel import Leaf, Parallel, Tree
from recensor.core.circuit.setup import Setup
from recensor.core.circuit.sheet import Sheet
from recensor.core.figures import with_unit
from recensor.core.quantity import AMPERE, CELSIUS


def read(line: str, title: str = "Circuit") -> Sheet:
    """The circuit of a line, as a sheet with one setup that asks for nothing. Raises `NotationError`.

    Examples
    --------
    >>> sheet = read("9V: 1k + (2k2 | 3k3)")
    >>> sheet.setups["main"].connections["R3"], sheet.parts["R2"].nominal.text
    (('B', 'gnd'), '2k2')
    """
    reader = LineReader(line)
    source, whole = reader.circuit()
    connect = Connector()
    top = connect.node()
    connect.connections[source.name] = (top, REFERENCE)
    connect.place(whole, top, REFERENCE)
    setup = Setup(
        SETUP,
        REFERENCE,
        connect.connections,
        values=reader.settings,
        open=frozenset(reader.opened),
        temperature=reader.temperature,
    )
    return Sheet(title, {source.name: source, **reader.parts}, {SETUP: setup}, potentiometers=reader.potentiometers)


def write(sheet: Sheet, setup: Setup) -> str | None:
    """The line that draws a setup; None when it is no series-parallel circuit of one source, or has other names.

    Examples
    --------
    >>> sheet = read("9V: 1k + (2k2 | R9=3k3 1%); 5%")
    >>> write(sheet, sheet.setups["main"])
    '9V: 1k + (2k2 | R9=3k3 1%); 5%'
    """
    try:
        source, whole = series_parallel.tree_of_source(setup, sheet.parts)
    except series_parallel.NotSeriesParallelError:
        return None
    if not all(map(NAME.fullmatch, setup.connections)):
        return None
    both = sheet.potentiometers
    halves = {upper: name for name, (upper, lower) in both.items() if _is_one(upper, lower, whole, setup)}
    hidden = {half for name in halves.values() for half in both[name]}
    if any(half in setup.connections and half not in hidden for pair in both.values() for half in pair):
        return None  # its slider is joined to something else
    passive = [sheet.parts[leaf.part] for leaf in series_parallel.leaves(whole) if leaf.part not in hidden]
    resistors = [part for part in passive if part.kind.has_bands]
    stated = [part.tolerance.text for part in resistors if part.tolerance]
    usual = max(stated, key=stated.count) if stated and len(stated) == len(resistors) else ""
    usual_names = dict(_usual_names(passive))

    def item(part: Part) -> str:
        name = "" if usual_names.get(part.name, f"{part.kind.letter}1") == part.name else f"{part.name}="
        is_usual = part.kind.has_bands and part.tolerance and part.tolerance.text == usual
        tolerance = f" {part.tolerance.text}" if part.tolerance and not is_usual else ""
        return f"{name}{_stated(part, setup)}{tolerance}"

    def pot(name: str) -> str:
        lower = both[name][1]
        usual_name = f"{potentiometer.LETTER}{list(both).index(name) + 1}"
        nominal = sheet.parts[lower].nominal
        said = f"{potentiometer.WORD} {nominal.text if nominal else UNMARKED} at {setup.values[lower].text}"
        return said if name == usual_name else f"{name}={said}"

    def text(part: Tree, inside: bool = False) -> str:
        if isinstance(part, Leaf):
            return pot(halves[part.part]) if part.part in halves else item(sheet.parts[part.part])
        members = [one for one in part.members if not (isinstance(one, Leaf) and one.part in hidden - set(halves))]
        joined = (" | " if isinstance(part, Parallel) else " + ").join(text(member, True) for member in members)
        return f"({joined})" if inside and isinstance(part, Parallel) else joined

    driving = sheet.parts[source]
    if driving.nominal is None:
        return None
    unit = driving.kind.unit
    named = item(replace(driving, nominal=replace(driving.nominal, text=with_unit(driving.nominal, unit))))
    behind = [*([usual] if usual else []), *([with_unit(setup.temperature, CELSIUS)] if setup.temperature else [])]
    return "; ".join((f"{named}: {text(whole)}", *behind))


def _is_one(upper: str, lower: str, whole: Tree, setup: Setup) -> bool:
    """Whether both parts of a potentiometer follow each other in a tree, and one is set and not the other's."""
    order = [leaf.part for leaf in series_parallel.leaves(whole)]
    if upper not in order or lower not in order or order.index(lower) != order.index(upper) + 1:
        return False
    slider = setup.connections[upper][1]
    joined = [name for name, leads in setup.connections.items() if slider in leads]
    return joined == [upper, lower] and lower in setup.values


def _usual_names(parts: Iterable[Part]) -> Iterator[tuple[str, str]]:
    """What parts are called where nothing is said: counted by what their names begin with."""
    counted: dict[str, int] = {}
    for part in parts:
        counted[part.kind.letter] = counted.get(part.kind.letter, 0) + 1
        yield part.name, f"{part.kind.letter}{counted[part.kind.letter]}"


def _stated(part: Part, setup: Setup) -> str:
    """A part's value as an item says it, with its kind where the value alone does not say that."""
    value = part.nominal.text if part.nominal else UNMARKED
    if kind_of_unit(part.kind.unit) is part.kind:
        return f"{value} {part.source}" if part.source else value
    words = ["open"] if part.name in setup.open else []
    words.append(part.kind.word)
    if part.kind.is_wire:
        return " ".join(words)
    if part.nominal:
        words.append(with_unit(part.nominal, part.kind.unit) if part.kind.is_nonlinear else part.nominal.text)
    words += [with_unit(part.current, AMPERE)] if part.current else []
    for stated in part.kind.states:
        quantity = part.stated(stated.name) if stated.keyword else None
        words += [stated.keyword, quantity.text] if quantity else []
    words += ["set", setup.values[part.name].text] if part.name in setup.values else []
    return " ".join(words)
