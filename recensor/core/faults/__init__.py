"""What would explain a run that does not fit, how sure that is, and which reading would settle it."""

from recensor.core.faults.causes import Cause, Explanation, Rival, books, explain
from recensor.core.faults.coincidences import Coincidence, Coincidences, coincidences
from recensor.core.faults.kinds import Family, FaultKind
from recensor.core.faults.mends import Mend, Rebuilt, Reentered, Restated, Struck
from recensor.core.faults.settle import Settling

__all__ = [
    "Cause", "Coincidence", "Coincidences", "Explanation", "Family", "FaultKind", "Mend", "Rebuilt", "Reentered",
    "Restated", "Rival", "Settling", "Struck", "books", "coincidences", "explain",
]  # fmt: skip
