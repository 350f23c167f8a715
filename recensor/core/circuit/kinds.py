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
    letter : the letter or letters that the names of such parts begin with.
    unit : the unit of the part's value.
    measured_as : what it is read as by itself.
    off : what is in its place while it is off; None for a part that drives nothing.
    polarised : whether it matters which lead is where.
    rigid : whether it has a body and leads that reach just so far on a board.
    may_be_unmarked : whether there are parts of this kind that do not say their value.
    has_bands : whether its value stands on it in colour bands.
    has_limit : whether a limit of its current can be set on it.
    has_compliance : whether its voltage is only bounded by what it is said to be able to put behind its current.
    ohmic : whether its value is a resistance, the same at every voltage.
    same_out_of_circuit : whether what it reads by itself is what it is in the circuit.
    asked_by_default : whether a sheet asks for it by itself where nothing else is said.
    adjustable_value : whether its value is what it is set to in a setup, and `nominal` only how far that goes.
    is_wire : whether it is to be a wire, with nothing across it.
    can_open : whether it can stand open in a setup.
    lights : whether it can be seen dark, dim or bright.
    has_cold : whether its resistance cold is another than at work, and can be stated.
    stated_by, current_key : the keys in a run document of its value and of the current at which it has that value.
    """

    word: str
    letter: str
    unit: str
    measured_as: Measurand
    off: Off | None = None
    polarised: bool = False
    rigid: bool = False
    may_be_unmarked: bool = False
    has_bands: bool = False
    has_compliance: bool = False
    has_limit: bool = False
    ohmic: bool = False
    same_out_of_circuit: bool = True
    asked_by_default: bool = True
    adjustable_value: bool = False
    is_wire: bool = False
    can_open: bool = False
    lights: bool = False
    has_cold: bool = False
    stated_by: str = "nominal"
    current_key: str | None = None

    @property
    def is_nonlinear(self) -> bool:
        """Whether its current is no straight line over its voltage: stated by a voltage and the current there."""
        return self.current_key is not None

    @property
    def is_source(self) -> bool:
        """Whether the part drives the circuit: a source."""
        return self.off is not None

    def __reduce__(self) -> tuple[object, tuple[str]]:
        return kind_called, (self.word,)


RESISTOR = Kind("resistor", "R", OHM, RESISTANCE, rigid=True, may_be_unmarked=True, has_bands=True, ohmic=True)
VOLTAGE_SOURCE = Kind("voltage source", "V", VOLT, VOLTAGE, off=Off.WIRE, polarised=True, has_limit=True)
CURRENT_SOURCE = Kind("current source", "I", AMPERE, CURRENT, off=Off.NOTHING, polarised=True, has_compliance=True)

RHEOSTAT = Kind("rheostat", "RV", OHM, RESISTANCE, may_be_unmarked=True, ohmic=True, adjustable_value=True)
LAMP = Kind("lamp", "L", VOLT, RESISTANCE, may_be_unmarked=True, same_out_of_circuit=False, lights=True,
            has_cold=True, current_key="current")  # fmt: skip
DIODE = Kind("diode", "D", VOLT, VOLTAGE, polarised=True, rigid=True, may_be_unmarked=True, same_out_of_circuit=False,
             asked_by_default=False, stated_by="drop", current_key="at")  # fmt: skip
LED = Kind("led", "LED", VOLT, VOLTAGE, polarised=True, rigid=True, may_be_unmarked=True, same_out_of_circuit=False,
           asked_by_default=False, lights=True, stated_by="drop", current_key="at")  # fmt: skip
SWITCH = Kind("switch", "S", OHM, RESISTANCE, may_be_unmarked=True, same_out_of_circuit=False, asked_by_default=False,
              is_wire=True, can_open=True)  # fmt: skip
WIRE = Kind("wire", "W", OHM, RESISTANCE, may_be_unmarked=True, same_out_of_circuit=False, asked_by_default=False,
            is_wire=True)  # fmt: skip

# The first of each unit is what a bare value in that unit stands for: 470 Ω a resistor, 9 V a voltage source.
KINDS = {
    kind.word: kind for kind in (RESISTOR, VOLTAGE_SOURCE, CURRENT_SOURCE, RHEOSTAT, LAMP, DIODE, LED, SWITCH, WIRE)
}


def kind_called(word: str) -> Kind:
    """The kind of this word."""
    return KINDS[word]


def kind_of_name(name: str) -> Kind | None:
    """The kind of which a part's name speaks, whichever the case: LED1 a light diode, L1 a lamp, Lamp2 too.

    Of resistors and sources the first letter is enough.

    Examples
    --------
    >>> kind_of_name("LED1").word, kind_of_name("l2").word, kind_of_name("Vane").word, kind_of_name("Load")
    ('led', 'lamp', 'voltage source', None)
    """
    stem = name.rstrip("0123456789").upper()
    plain = [kind for kind in KINDS.values() if stem in (kind.letter, kind.word.upper())]
    return next(iter(plain or [kind for kind in _BY_FIRST_LETTER if kind.letter == stem[:1]]), None)


_BY_FIRST_LETTER = (RESISTOR, VOLTAGE_SOURCE, CURRENT_SOURCE)


def kind_of_unit(unit: str) -> Kind | None:
    """The kind that a bare value in a unit stands for; None for a unit in which no part is stated."""
    return next((kind for kind in KINDS.values() if kind.unit == unit), None)
