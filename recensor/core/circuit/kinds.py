"""What a kind of part is: one description for each, looked up and never compared with another.

A new kind takes an entry here, a law (`recensor.core.solving.laws`) and a symbol (`recensor.drawing.symbols`).
"""

from dataclasses import dataclass
from enum import Enum

from recensor.core.quantity import AMPERE, CURRENT, OHM, RESISTANCE, VOLT, VOLTAGE, Measurand


class Off(Enum):
    """What takes the place of a part that drives the circuit when it is off."""

    WIRE = "a wire"
    NOTHING = "nothing"


@dataclass(frozen=True, eq=False)
class Kind:
    """A kind of part, named by its `word` in a run document.

    Attributes
    ----------
    letter : what the names of such parts begin with.
    unit : the unit of the part's value.
    alone_as : what it is read as by itself.
    off : what is in its place while it is off; None for a part that drives nothing.
    polarised : whether it matters which lead is where.
    rigid : whether it has a body and leads that reach just so far on a board.
    may_be_unmarked : whether there are parts of this kind that do not say their value.
    has_bands : whether its value stands on it in colour bands.
    has_limit : whether a limit of its current can be set on it.
    has_compliance : whether its voltage is only bounded by what it is said to be able to put behind its current.
    """

    word: str
    letter: str
    unit: str
    alone_as: Measurand
    off: Off | None = None
    polarised: bool = False
    rigid: bool = False
    may_be_unmarked: bool = False
    has_bands: bool = False
    has_compliance: bool = False
    has_limit: bool = False

    @property
    def drives(self) -> bool:
        """Whether the part drives the circuit: a source."""
        return self.off is not None

    def __reduce__(self) -> tuple[object, tuple[str]]:
        return kind_called, (self.word,)


RESISTOR = Kind("resistor", "R", OHM, RESISTANCE, rigid=True, may_be_unmarked=True, has_bands=True)
VOLTAGE_SOURCE = Kind("voltage source", "V", VOLT, VOLTAGE, off=Off.WIRE, polarised=True, has_limit=True)
CURRENT_SOURCE = Kind("current source", "I", AMPERE, CURRENT, off=Off.NOTHING, polarised=True, has_compliance=True)

# The first of each unit is what a bare value in that unit stands for: 470 Ω a resistor, 9 V a voltage source.
KINDS = {kind.word: kind for kind in (RESISTOR, VOLTAGE_SOURCE, CURRENT_SOURCE)}


def kind_called(word: str) -> Kind:
    """The kind of this word."""
    return KINDS[word]


def kind_of_letter(letter: str) -> Kind | None:
    """The kind whose parts' names begin with a letter, whichever its case."""
    return next((kind for kind in KINDS.values() if kind.letter == letter.upper()), None)


def kind_of_unit(unit: str) -> Kind | None:
    """The kind that a bare value in a unit stands for; None for a unit in which no part is stated."""
    return next((kind for kind in KINDS.values() if kind.unit == unit), None)
