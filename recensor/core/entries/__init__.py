"""What is typed at the bench: where it belongs, what it is beside what stands, what is odd, how it is corrected."""

from recensor.core.entries.circuits_typed import MOST_AT_ONCE, TypedCircuit, split_circuits, typed_circuit
from recensor.core.entries.correction import CorrectionKind, ReadingCorrection, corrections, likeliest, words
from recensor.core.entries.formula import FormulaError, Named, evaluate
from recensor.core.entries.levels import Levels, levels
from recensor.core.entries.location import PlaceError, named, of_part, place
from recensor.core.entries.on_purpose import on_purpose
from recensor.core.entries.own_value import NO_NAMES, Remark, is_same_value, names_of, worked_out
from recensor.core.entries.plausibility import Answer, AnswerKind, EntryCheck, Query, plausibility_query
from recensor.core.entries.recording import Entered, enter, found_otherwise, is_turned_up, setting_of, turned_at
from recensor.core.entries.repeat import Repeat, classify_repeat, nothing
from recensor.core.entries.typed_change import ChangeKind, TypedChange, typed_change
from recensor.core.entries.units import bare_units
from recensor.core.entries.zero_search import WalkStep, ZeroSearch, zero_search

__all__ = [
    "MOST_AT_ONCE",
    "NO_NAMES",
    "Answer",
    "AnswerKind",
    "ChangeKind",
    "CorrectionKind",
    "Entered",
    "EntryCheck",
    "FormulaError",
    "Levels",
    "Named",
    "PlaceError",
    "Query",
    "ReadingCorrection",
    "Remark",
    "Repeat",
    "TypedChange",
    "TypedCircuit",
    "WalkStep",
    "ZeroSearch",
    "bare_units",
    "classify_repeat",
    "corrections",
    "enter",
    "evaluate",
    "found_otherwise",
    "is_same_value",
    "is_turned_up",
    "levels",
    "likeliest",
    "named",
    "names_of",
    "nothing",
    "of_part",
    "on_purpose",
    "place",
    "plausibility_query",
    "setting_of",
    "split_circuits",
    "turned_at",
    "typed_change",
    "typed_circuit",
    "words",
    "worked_out",
    "zero_search",
]  # fmt: skip
