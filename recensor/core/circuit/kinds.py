"""What a kind of part is: one description for each, looked up and never compared with another.

What else a new kind takes is told in CONTRIBUTING.md, *A kind of part*.
"""

from dataclasses import dataclass
from enum import Enum

from recensor.core.quantity import AMPERE, CURRENT, KELVIN, OHM, RESISTANCE, VOLT, VOLTAGE, WATT, Measurand


class Off(Enum):
    """What takes the place of a part that drives the circuit when it is off."""

    WIRE = "a wire"
    NOTHING = "nothing"


@dataclass(frozen=True)
class Stated:
    """A quantity that can be stated of a part; whatever reads, writes or asks for one goes by this.

    Attributes
    ----------
    name : its field of `Part`.
    unit : its unit; `PERCENT` for a share.
    words : what a form calls it.
    key : its key in a run document.
    keyword : the word before it in a line of a circuit; empty where the unit tells what it is.
    what : what a kind that has none of it is told it has not, by its sentence.
    most : the most that it can be; 0 for no such bound.
    """

    name: str
    unit: str
    words: str
    key: str
    keyword: str = ""
    what: str = ""
    most: float = 0.0


PERCENT = "%"
TOLERANCE = Stated("tolerance", PERCENT, "Tolerance", "tolerance")
RATING = Stated("rating", WATT, "Rating", "rating")
INTERNAL = Stated("internal", OHM, "Internal resistance", "internal", "internal", "circuit.internal_resistance")
COMPLIANCE = Stated("compliance", VOLT, "Compliance", "compliance", "compliance", "circuit.compliance_voltage")
LIMIT = Stated("limit", AMPERE, "Current limit", "x-limit", "limit", "circuit.current_limit")
COLD = Stated("cold", OHM, "Cold resistance", "cold", "cold", "circuit.cold_resistance")
B_VALUE = Stated("b", KELVIN, "B value", "b", "b", "circuit.b_value", most=20_000)

# Said of any kind in a document, though not every kind is asked for it.
_OF_ANY = (TOLERANCE, RATING, INTERNAL, COMPLIANCE)


def _value(unit: str, words: str = "Value", key: str = "nominal") -> Stated:
    return Stated("nominal", unit, words, key)


def _current(words: str, key: str) -> Stated:
    return Stated("current", AMPERE, words, key, what="circuit.current_own")


@dataclass(frozen=True, eq=False)
class Kind:
    """A kind of part, named by its `word` in a run document.

    Attributes
    ----------
    letter : the letter or letters that the names of such parts begin with.
    states : what is stated of it, its value first; of a wire nothing is.
    measured_as : what it is read as by itself.
    off : what is in its place while it is off; None for a part that drives nothing.
    polarised : whether it matters which lead is where.
    rigid : whether it has a body and leads that reach just so far on a board.
    may_be_unmarked : whether there are parts of this kind that do not say their value.
    has_bands : whether its value stands on it in colour bands.
    ohmic : whether its value is a resistance, the same at every voltage.
    same_out_of_circuit : whether what it reads by itself is what it is in the circuit.
    asked_by_default : whether a sheet asks for it by itself where nothing else is said.
    adjustable_value : whether its value is what it is set to in a setup, and `nominal` only how far that goes.
    is_wire : whether it is to be a wire, with nothing across it.
    can_open : whether it can stand open in a setup.
    lights : whether it can be seen dark, dim or bright.
    warms : whether its value is that at 25 °C, and another at the temperature of a setup.
    example : how it is written in one line; empty where a bare value in its unit stands for it.
    """

    word: str
    letter: str
    states: tuple[Stated, ...]
    measured_as: Measurand
    off: Off | None = None
    polarised: bool = False
    rigid: bool = False
    may_be_unmarked: bool = False
    has_bands: bool = False
    ohmic: bool = False
    same_out_of_circuit: bool = True
    asked_by_default: bool = True
    adjustable_value: bool = False
    is_wire: bool = False
    can_open: bool = False
    lights: bool = False
    warms: bool = False
    example: str = ""

    @property
    def value(self) -> Stated:
        """Its value."""
        return self.states[0]

    @property
    def unit(self) -> str:
        """The unit of its value."""
        return self.value.unit

    @property
    def documented(self) -> tuple[Stated, ...]:
        """What a run document may say of it: its own first, then what is said of any kind."""
        return (*(stated for stated in self.states if stated not in _OF_ANY), *_OF_ANY)

    def can_state(self, name: str) -> bool:
        """Whether this is stated of such a part, by its field's name."""
        return any(stated.name == name for stated in self.states)

    @property
    def differs_by_setup(self) -> bool:
        """Whether what it should be by itself depends on the setup: on what it is set to, or on the temperature."""
        return self.adjustable_value or self.warms

    @property
    def has_cold(self) -> bool:
        """Whether its resistance cold is another than at work, and can be stated."""
        return COLD in self.states

    @property
    def is_nonlinear(self) -> bool:
        """Whether its current is no straight line over its voltage: stated by a voltage and the current there."""
        return self.can_state("current")

    @property
    def is_source(self) -> bool:
        """Whether the part drives the circuit: a source."""
        return self.off is not None

    def __reduce__(self) -> tuple[object, tuple[str]]:
        return kind_called, (self.word,)


RESISTOR = Kind("resistor", "R", (_value(OHM), TOLERANCE, RATING), RESISTANCE, rigid=True, may_be_unmarked=True,
                has_bands=True, ohmic=True)  # fmt: skip
VOLTAGE_SOURCE = Kind("voltage source", "V", (_value(VOLT), TOLERANCE, INTERNAL, LIMIT), VOLTAGE, off=Off.WIRE,
                      polarised=True)  # fmt: skip
CURRENT_SOURCE = Kind("current source", "I", (_value(AMPERE), TOLERANCE, INTERNAL, COMPLIANCE), CURRENT,
                      off=Off.NOTHING, polarised=True)  # fmt: skip

RHEOSTAT = Kind("rheostat", "RV", (_value(OHM), TOLERANCE, RATING), RESISTANCE, may_be_unmarked=True, ohmic=True,
                adjustable_value=True, example="rheostat 1k set 470")  # fmt: skip
THERMISTOR = Kind("thermistor", "TH", (_value(OHM, "Value at 25 °C"), B_VALUE, TOLERANCE, RATING), RESISTANCE,
                  may_be_unmarked=True, ohmic=True, warms=True, example="thermistor 10k b 3950")  # fmt: skip
LAMP = Kind("lamp", "L", (_value(VOLT, "Rated volts"), _current("Current at that", "current"), COLD, TOLERANCE, RATING),
            RESISTANCE, may_be_unmarked=True, same_out_of_circuit=False, lights=True,
            example="lamp 6V 50mA cold 12")  # fmt: skip
_DROP = (_value(VOLT, "Drop", "drop"), _current("At a current of", "at"), TOLERANCE, RATING)
DIODE = Kind("diode", "D", _DROP, VOLTAGE, polarised=True, rigid=True, may_be_unmarked=True, same_out_of_circuit=False,
             asked_by_default=False, example="diode 0.7V 10mA")  # fmt: skip
LED = Kind("led", "LED", _DROP, VOLTAGE, polarised=True, rigid=True, may_be_unmarked=True, same_out_of_circuit=False,
           asked_by_default=False, lights=True, example="led 1.9V 10mA")  # fmt: skip
SWITCH = Kind("switch", "S", (_value(OHM),), RESISTANCE, may_be_unmarked=True, same_out_of_circuit=False,
              asked_by_default=False, is_wire=True, can_open=True, example="switch or open switch")  # fmt: skip
WIRE = Kind("wire", "W", (_value(OHM),), RESISTANCE, may_be_unmarked=True, same_out_of_circuit=False,
            asked_by_default=False, is_wire=True, example="wire")  # fmt: skip

# The first of each unit is what a bare value in that unit stands for: 470 Ω a resistor, 9 V a voltage source.
KINDS = {kind.word: kind for kind in (RESISTOR, VOLTAGE_SOURCE, CURRENT_SOURCE, RHEOSTAT, THERMISTOR, LAMP, DIODE, LED,
                                      SWITCH, WIRE)}  # fmt: skip

# What is said of a part behind a word of its own, in the order in which it is written.
KEYWORDED = tuple(sorted(
    {stated for kind in KINDS.values() for stated in kind.states if stated.keyword}, key=lambda stated: stated.keyword
))  # fmt: skip


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
