"""What to do for one reading: station, power, dial, where the probes go, what to put back.

The rules are common practice, no source: ohms only on a dead circuit, voltmeter in parallel,
ammeter in series at a break, red toward the higher potential.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit import Kind, Setup
from recensor.core.quantity import as_read
from recensor.core.record import LEADS, RESISTANCE, VOLTAGE, Run, Target

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


def station(target: Target, run: Run) -> Station:
    """The station at which a target is read."""
    if target.of is not None:
        return Station.SOURCE if target.of in run.parts and run.parts[target.of].kind.is_source else Station.PARTS
    if target.quantity == RESISTANCE:
        return Station.BUILD
    return Station.VOLTS if target.quantity == VOLTAGE else Station.AMPS


def instruction(target: Target, run: Run, expected: float | None = None) -> Instruction:
    """How to take one reading; `expected` is its calculated value in SI units, which picks the ammeter's jack."""
    plain = _instruction(target, run, expected)
    setup = run.setups.get(target.setup or "")
    if setup is None:
        return plain
    named = setup.name if len(run.setups) > 1 else ""
    return replace(plain, before=(*_state(setup, run), *plain.before), setup=named)


def _state(setup: Setup, run: Run) -> Iterator[str]:
    """What differs in a setup from what stands on the parts."""
    for name in setup.connections:
        if name in setup.sources_off:
            first, second = setup.connections[name]
            if run.parts[name].kind is Kind.VOLTAGE_SOURCE:
                yield f"{name} is taken out; a wire from {first} to {second} in its place."
            else:
                yield f"{name} is taken out; nothing in its place."
        elif name in setup.values:
            yield f"{name} set to {as_read(setup.values[name], run.parts[name].kind.unit)} here."


def _instruction(target: Target, run: Run, expected: float | None) -> Instruction:
    here = station(target, run)
    if target.of == LEADS and LEADS not in run.parts:
        return Instruction(
            here, "The meter's own leads", ("Touch the two probes together.",), "Ω", "black probe", "red probe"
        )
    if here is Station.PARTS:
        before = (
            "Part out of the circuit, nothing powered, fingers off the tips; wait until the reading stands still.",
        )
        return Instruction(here, f"{target.of} by itself", before, "Ω", f"one lead of {target.of}", "its other lead")
    if here is Station.BUILD:
        red, black = target.across or ("", "")
        before = ("Circuit finished, supply disconnected.",)
        return Instruction(here, f"Resistance from {red} to {black}", before, "Ω", f"node {red}", f"node {black}")
    if here is Station.SOURCE:
        dial = "V DC" if target.quantity == VOLTAGE else "A DC"
        before = ("Source on, circuit not connected yet.",)
        return Instruction(here, f"{target.of} before connecting", before, dial, f"{target.of} +", f"{target.of} −")
    if here is Station.VOLTS:
        red, black = target.across or ("", "")
        before = ("Circuit connected and on; meter in parallel, leads in COM and V.",)
        return Instruction(here, _voltage_title(target, run), before, "V DC", f"node {red}", f"node {black}")
    return _current(target, run, expected)


def _current(target: Target, run: Run, expected: float | None) -> Instruction:
    name = target.through or ""
    first, _ = run.setups[target.setup or ""].connections[name]
    jack = "10 A" if expected is not None and abs(expected) > SMALL_JACK_LIMIT else "mA"
    before = (
        f"Power off, open the circuit between node {first} and {name}.",
        f"Meter into the gap, red lead in the {jack} jack; power on.",
    )
    after = f"Power off, join node {first} and {name} again, red lead back in the V jack."
    ends = (
        (f"{name} +", f"node {first}") if run.parts[name].kind.is_source else (f"node {first}", f"freed lead of {name}")
    )
    return Instruction(
        Station.AMPS, f"Current through {name}", before, f"{'mA' if jack == 'mA' else 'A'} DC", *ends, after
    )


def _voltage_title(target: Target, run: Run) -> str:
    """Name the parts that lie across the two nodes, a loaded source as such."""
    setup = run.setups[target.setup or ""]
    pair = set(target.across or ())
    across = [name for name, leads in setup.connections.items() if set(leads) == pair]
    sources = [name for name in across if run.parts[name].kind is not Kind.RESISTOR]
    parts = [name for name in across if name not in sources]
    if sources and not parts:
        return f"{sources[0]} under load"
    if not across:
        return f"Voltage from {(target.across or ('', ''))[0]} to {(target.across or ('', ''))[1]}"
    loaded = f", {sources[0]} under load" if sources else ""
    return f"Voltage across {' ∥ '.join(parts)}{loaded}"
