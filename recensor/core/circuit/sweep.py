"""A sweep: one circuit at several settings of a source, with a voltage and a current read at each."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit.parts import Part
from recensor.core.circuit.setup import Setup
from recensor.core.circuit.target import Across, Target, Through
from recensor.core.quantity import VOLTAGE, Quantity

# So many rows has a sweep at most.
MOST_STEPS = 200


class TableMeters(StrEnum):
    """The meters that a table is read with: two, the voltmeter across what it is of alone or across the ammeter too; or
    one, with which all volts are read and then all amps.
    """

    APART = "apart"
    AROUND_AMMETER = "around ammeter"
    ONE = "one"


@dataclass(frozen=True)
class Sweep:
    """A table of settings of one source in one setup: at each a voltage and a current are read.

    `settings` are planned, in the source's unit; a sweep without any is free: each row's setting is what was read.
    """

    name: str
    setup: str
    source: str
    volts: Across
    amps: Through
    settings: tuple[Quantity, ...] = ()
    meters: TableMeters = TableMeters.APART

    @property
    def around_ammeter(self) -> bool:
        """Whether its volts have the ammeter's share in them."""
        return self.meters is TableMeters.AROUND_AMMETER

    def volts_at(self, step: int) -> Across:
        """The voltage of one row."""
        return replace(self.volts, step=step)

    def amps_at(self, step: int) -> Through:
        """The current of one row."""
        return replace(self.amps, step=step)

    def source_at(self, step: int, setup: Setup) -> Across:
        """The source's own voltage in one row."""
        return Across(VOLTAGE, setup.connections[self.source], self.setup, step=step)

    def asks(self, target: Target) -> bool:
        """Whether a target of a row is its voltage or its current."""
        if not target.in_circuit or target.setup != self.setup:
            return False
        return replace(target, step=None).key in (self.volts.key, self.amps.key)

    def at(self, step: int, setup: Setup) -> Setup:
        """The setup as it is in one row; without a planned setting as it is anyway."""
        if step >= len(self.settings):
            return setup
        return replace(setup, values={**setup.values, self.source: self.settings[step]})

    def part(self, setup: Setup, parts: Mapping[str, Part]) -> str | None:
        """The part of which this is the line: the only one across which the voltage lies, if the current is its own."""
        across = [name for name in setup.across(*self.volts.nodes) if not parts[name].kind.is_source]
        return self.amps.part if across == [self.amps.part] else None
