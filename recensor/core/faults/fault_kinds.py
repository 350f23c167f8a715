"""The kinds of fault, named as in a run document, and how likely each is before anything is read."""

from enum import Enum, StrEnum


class Family(Enum):
    """Where a fault lies: in what is built, in the meter, or in what was written down."""

    CIRCUIT = "circuit"
    INSTRUMENT = "instrument"
    BOOK = "book"


class FaultKind(StrEnum):
    """A kind of fault."""

    PART_OPEN = "part open"
    PART_SHORTED = "part shorted"
    VALUE_OFF = "value off"
    MISREAD_CODE = "misread code"
    EXCHANGED_PARTS = "exchanged parts"
    JOINT_OPEN = "joint open"
    LEAD_ONE_ROW_OFF = "lead one row off"
    LEADS_IN_ONE_ROW = "leads in one row"
    LINK_LEFT_OUT = "link left out"
    PART_REVERSED = "part reversed"
    SOURCE_VALUE = "source value"
    SOURCE_RESISTANCE = "source resistance"
    SOURCE_LIMIT = "source in current limit"
    SOURCE_DRIFT = "source drift"
    AMMETER_RESISTANCE = "ammeter resistance"
    VOLTMETER_LOADING = "voltmeter loading"
    METER_FUSE_OPEN = "meter fuse open"
    METER_GAIN = "meter gain"
    WRONG_RANGE = "wrong range"
    FUNCTION_MIX_UP = "function mix-up"
    PREFIX_SLIP = "prefix slip"
    DECIMAL_SLIP = "decimal slip"
    SIGN = "sign"
    TRANSPOSED_DIGITS = "transposed digits"
    WRONG_TARGET = "wrong target"
    SWAPPED_READINGS = "swapped readings"
    SHIFTED_READINGS = "shifted readings"
    OVER_RANGE_AS_NUMBER = "over-range as number"
    READ_IN_CIRCUIT = "read in circuit"
    CLAIM = "claim does not follow"
    MISREAD_DIGIT = "misread digit"
    LEADS_INTERCHANGED = "leads interchanged"
    ZERO_OFFSET = "zero offset"
    UNEXPLAINED = "unexplained"

    @property
    def family(self) -> Family:
        """Where such a fault lies."""
        return _FAMILIES[self]


_INSTRUMENT = (
    FaultKind.AMMETER_RESISTANCE, FaultKind.VOLTMETER_LOADING, FaultKind.METER_FUSE_OPEN, FaultKind.METER_GAIN,
    FaultKind.WRONG_RANGE, FaultKind.FUNCTION_MIX_UP, FaultKind.LEADS_INTERCHANGED, FaultKind.ZERO_OFFSET,
)  # fmt: skip
_BOOK = (
    FaultKind.PREFIX_SLIP, FaultKind.DECIMAL_SLIP, FaultKind.SIGN, FaultKind.TRANSPOSED_DIGITS, FaultKind.WRONG_TARGET,
    FaultKind.SWAPPED_READINGS, FaultKind.SHIFTED_READINGS, FaultKind.OVER_RANGE_AS_NUMBER, FaultKind.READ_IN_CIRCUIT,
    FaultKind.CLAIM, FaultKind.MISREAD_DIGIT, FaultKind.UNEXPLAINED,
)  # fmt: skip
_FAMILIES = {
    **dict.fromkeys(FaultKind, Family.CIRCUIT),
    **dict.fromkeys(_INSTRUMENT, Family.INSTRUMENT),
    **dict.fromkeys(_BOOK, Family.BOOK),
}

# How likely it is, before anything is read, that nothing is wrong; likewise with a meter that disturbs as an ordinary
# one does, which is no fault; and that single readings are off for reasons of their own (our own, for want of a count).
NOTHING_WRONG, ORDINARY_METER, NONE_OF_THESE = 0.5, 0.1, 0.1

# What is left is shared by the kinds, by how often each happens at a bench, and a kind's share by its instances. The
# classes are judgement and nothing else: what is pressed in, written down and labelled fails before a meter does.
_OF_ALL_KINDS = 0.45
_COMMON, _USUAL, _RARE = 4.0, 1.0, 0.2
_OFTEN = {
    FaultKind.SOURCE_VALUE: _COMMON,
    FaultKind.SOURCE_RESISTANCE: _COMMON,
    FaultKind.JOINT_OPEN: _COMMON,
    FaultKind.LEAD_ONE_ROW_OFF: _COMMON,
    FaultKind.LINK_LEFT_OUT: _COMMON,
    FaultKind.PREFIX_SLIP: _COMMON,
    FaultKind.DECIMAL_SLIP: _COMMON,
    FaultKind.SIGN: _COMMON,
    FaultKind.SOURCE_DRIFT: _RARE,
    FaultKind.METER_GAIN: _RARE,
    FaultKind.WRONG_RANGE: _RARE,
    FaultKind.ZERO_OFFSET: _RARE,
}
_ALL = sum(_OFTEN.get(kind, _USUAL) for kind in FaultKind)


def beforehand(kind: FaultKind) -> float:
    """How likely a kind is before anything is read, all its instances together."""
    return _OF_ALL_KINDS * _OFTEN.get(kind, _USUAL) / _ALL
