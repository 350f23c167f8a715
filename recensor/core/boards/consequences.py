"""What a built circuit's differences do to the readings: the drawn one and the built one, both solved."""

from collections.abc import Container
from dataclasses import dataclass

from recensor.core.boards.breadboard import Built
from recensor.core.boards.compare import BoardComparison, Difference, built_setup
from recensor.core.circuit import Setup, Sheet
from recensor.core.solving import Operating, operate, stated


@dataclass(frozen=True)
class Changed:
    """What a part shows as built and as drawn, in volts and amperes; None where the board says nothing definite."""

    part: str
    volts: float | None
    drawn_volts: float
    amperes: float | None
    drawn_amperes: float


@dataclass(frozen=True)
class Consequences:
    """A drawn setup as it works with its stated values, against which changes are told."""

    sheet: Sheet
    setup: Setup
    drawn: Operating

    @classmethod
    def of(cls, sheet: Sheet, setup: Setup) -> "Consequences":
        """Solve the drawn setup once for every question."""
        return cls(sheet, setup, operate(sheet, setup))

    def of_board(self, built: Built, comparison: BoardComparison) -> list[Changed]:
        """The parts whose voltage or current is another on the board, by more than a thousandth.

        Empty when a value is unknown or the drawn circuit cannot be solved.
        """
        actual = built_setup(self.sheet, built, self.setup.reference, comparison.nodes)
        return self._changes(actual, built.nets().connections)

    def of_difference(self, difference: Difference) -> list[Changed]:
        """The same for one difference by itself; empty where it does not make a circuit of its own."""
        if not difference.alone:
            return []
        nodes = {node for leads in difference.alone.values() for node in leads}
        reference = self.setup.reference if self.setup.reference in nodes else min(nodes)
        return self._changes(Setup("so", reference, difference.alone), difference.parts)

    def _changes(self, actual: Setup, idle: Container[str]) -> list[Changed]:
        """Parts that change; those of `idle` that the other circuit does not have carry nothing."""
        operating = operate(self.sheet, actual, stated(self.sheet, self.setup).known) if actual.connections else None
        rows = []
        for name, drawn in self.drawn.parts.items():
            volts, amperes = abs(drawn.volts), abs(drawn.amperes)
            if operating and operating.problem:
                now = None
            elif operating and name in operating.parts:
                now = abs(operating.parts[name].volts), abs(operating.parts[name].amperes)
            else:
                now = (0.0, 0.0) if name in idle else None
            if now is None:
                rows.append(Changed(name, None, volts, None, amperes))
            elif abs(now[0] - volts) > 1e-3 * volts + 1e-9 or abs(now[1] - amperes) > 1e-3 * amperes + 1e-12:
                rows.append(Changed(name, now[0], volts, now[1], amperes))
        return rows
