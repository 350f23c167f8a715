"""What to do for one reading: station, power, dial, where the probes go, what to put back.

The rules are common practice, no source: ohms only on a dead circuit, voltmeter in parallel,
ammeter in series at a break, red toward the higher potential.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit import Across, Off, PartAlone, Setup, Sheet, Target, Through, TouchedLeads
from recensor.core.figures import as_read
from recensor.core.quantity import RESISTANCE, VOLTAGE

# A handheld meter's mA jack is commonly fused at 200 to 400 mA (common practice, no source).
SMALL_JACK_LIMIT = 0.2


class Station(StrEnum):
    """The stations of the work, in order."""

    PARTS = "Parts"
    BUILD = "Build"
    SOURCE = "Source"
    VOLTS = "Volts"
    AMPS = "Amps"
    VERDICT = "Verdict"

    @property
    def power(self) -> str:
        """Whether the supply must be OFF or ON while reading here; nothing at the verdict."""
        return {"Parts": "OFF", "Build": "OFF", "Verdict": ""}.get(self.value, "ON")


@dataclass(frozen=True)
class Instruction:
    """One reading to take. `red` and `black` say where the probes go; `after` what to put back.

    `setup` names the state of the circuit, where a run has several.
    """

    station: Station
    title: str
    before: tuple[str, ...]
    dial: str
    red: str
    black: str
    after: str = ""
    setup: str = ""

    @property
    def power(self) -> str:
        """OFF or ON while reading."""
        return self.station.power


def station(target: Target, sheet: Sheet) -> Station:
    """The station at which a target is read."""
    if isinstance(target, PartAlone):
        return Station.SOURCE if sheet.parts[target.part].kind.drives else Station.PARTS
    if isinstance(target, TouchedLeads):
        return Station.PARTS
    if target.measurand is RESISTANCE:
        return Station.BUILD
    return Station.VOLTS if target.measurand is VOLTAGE else Station.AMPS


def instruction(target: Target, sheet: Sheet, expected: float | None = None, *, simulated: bool = False) -> Instruction:
    """How to take one reading; `expected` is its calculated value in SI units, which picks the ammeter's jack.

    Off a screen nothing is switched, opened or put back.
    """
    plain = _instruction(target, sheet, expected)
    if simulated:
        plain = replace(plain, before=(), after="")
    setup = sheet.setups.get(target.setup or "")
    if setup is None:
        return plain
    named = setup.name if sheet.several else ""
    return replace(plain, before=(*_state(setup, sheet), *plain.before), setup=named)


def _state(setup: Setup, sheet: Sheet) -> Iterator[str]:
    """What differs in a setup from what stands on the parts."""
    for name in setup.connections:
        if name in setup.sources_off:
            first, second = setup.connections[name]
            if sheet.parts[name].kind.off is Off.WIRE:
                yield f"{name} is taken out; a wire from {first} to {second} in its place."
            else:
                yield f"{name} is taken out; nothing in its place."
        elif name in setup.values:
            yield f"{name} set to {as_read(setup.values[name], sheet.parts[name].kind.unit)} here."


def title(target: Target, sheet: Sheet) -> str:
    """What is read at a target, as a heading says it.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
    >>> title(Across(VOLTAGE, ("B", "gnd"), "main"), sheet), title(Through("R1", "main"), sheet)
    ('Voltage across R2 ∥ R3', 'Current through R1')
    """
    if isinstance(target, TouchedLeads):
        return "The meter's own leads"
    if isinstance(target, PartAlone):
        before = station(target, sheet) is Station.SOURCE
        return f"{target.part} before connecting" if before else f"{target.part} by itself"
    if isinstance(target, Through):
        return f"Current through {target.part}{_beside(target)}"
    if target.measurand is RESISTANCE:
        return f"Resistance from {target.red} to {target.black}"
    if target.at:
        first = sheet.setups[target.setup].connections[target.at][0]
        return f"Voltage of {target.at} by itself{'' if first == target.red else ', turned'}"
    return _voltage_title(target, sheet)


def in_a_sentence(title: str) -> str:
    """A title within a sentence: its first word small, unless that is a name."""
    return f"{title[:1].lower()}{title[1:]}" if title[1:2].islower() else title


def _instruction(target: Target, sheet: Sheet, expected: float | None) -> Instruction:
    here = station(target, sheet)
    if isinstance(target, TouchedLeads):
        before = ("Touch the two probes together.",)
        return Instruction(here, title(target, sheet), before, "Ω", "black probe", "red probe")
    if isinstance(target, PartAlone):
        return _alone(target, here, sheet)
    if isinstance(target, Through):
        return _current(target, sheet, expected)
    red, black = (f"node {node}" for node in target.nodes)
    if here is Station.BUILD:
        before = ("Circuit finished, supply disconnected.",)
        return Instruction(here, title(target, sheet), before, "Ω", red, black)
    before = ("Circuit connected and on; meter in parallel, leads in COM and V.",)
    if target.at:
        red, black = (f"lead of {target.at} at {node}" for node in (target.red, target.black))
    return Instruction(here, title(target, sheet), before, "V DC", red, black)


def _alone(target: PartAlone, here: Station, sheet: Sheet) -> Instruction:
    if here is Station.SOURCE:
        dial = "V DC" if target.measurand is VOLTAGE else "A DC"
        before = ("Source on, circuit not connected yet.",)
        return Instruction(here, title(target, sheet), before, dial, f"{target.part} +", f"{target.part} −")
    before = ("Part out of the circuit, nothing powered, fingers off the tips; wait until the reading stands still.",)
    one = f"one lead of {target.part}"
    return Instruction(here, title(target, sheet), before, "Ω", one, "its other lead")


def _current(target: Through, sheet: Sheet, expected: float | None) -> Instruction:
    name = target.at or target.part
    setup = sheet.setups[target.setup]
    first, _ = setup.connections[name]
    jack = "10 A" if expected is not None and abs(expected) > SMALL_JACK_LIMIT else "mA"
    before = (
        f"Power off, open the circuit between node {first} and {name}.",
        f"Meter into the gap, red lead in the {jack} jack; power on.",
    )
    after = f"Power off, join node {first} and {name} again, red lead back in the V jack."
    ends = (
        (f"{name} +", f"node {first}") if sheet.parts[name].kind.drives else (f"node {first}", f"freed lead of {name}")
    )
    return Instruction(
        Station.AMPS,
        title(target, sheet),
        before,
        f"{'mA' if jack == 'mA' else 'A'} DC",
        *ends,
        after,
    )


def _beside(target: Through) -> str:
    return f", opened at {target.at}" if target.at else ""


def _voltage_title(target: Across, sheet: Sheet) -> str:
    """Name the parts that lie across the two nodes, a loaded source as such."""
    across = sheet.setups[target.setup].across(*target.nodes)
    sources = [name for name in across if sheet.parts[name].kind.drives]
    parts = [name for name in across if name not in sources]
    if sources and not parts:
        return f"{sources[0]} under load"
    if not across:
        return f"Voltage from {target.red} to {target.black}"
    loaded = f", {sources[0]} under load" if sources else ""
    return f"Voltage across {' ∥ '.join(parts)}{loaded}"
