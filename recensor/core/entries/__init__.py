"""What is typed at the bench: where it belongs, what it is beside what stands, what is doubtful, how it is mended."""

from recensor.core.entries.again import Again, again, nothing, standing_at
from recensor.core.entries.doubts import Answer, Doubted, Means, Tried, doubt, source_at
from recensor.core.entries.entering import Entered, enter, found_another, is_turned_up, setting_of, turned_at
from recensor.core.entries.mending import Mended, ReadingMend, mends, words
from recensor.core.entries.places import PlaceError, named, of_part, place
from recensor.core.entries.units import bare_units
from recensor.core.entries.working import LONGEST_FORMULA, FormulaError, Remark, evaluate, worked_out

__all__ = [
    "LONGEST_FORMULA",
    "Again",
    "Answer",
    "Doubted",
    "Entered",
    "FormulaError",
    "Means",
    "Mended",
    "PlaceError",
    "ReadingMend",
    "Remark",
    "Tried",
    "again",
    "bare_units",
    "doubt",
    "enter",
    "evaluate",
    "found_another",
    "is_turned_up",
    "mends",
    "named",
    "nothing",
    "of_part",
    "place",
    "setting_of",
    "source_at",
    "standing_at",
    "turned_at",
    "words",
    "worked_out",
]  # fmt: skip
