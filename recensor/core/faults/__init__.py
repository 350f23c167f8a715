"""What would explain a run that does not fit, how sure that is, and which reading would settle it."""

from recensor.core.faults.after_correction import anything_outside, outcome_in_words
from recensor.core.faults.cause import Cause, Explanation, Rival
from recensor.core.faults.causes import explain
from recensor.core.faults.correction import Correction, MeterFound, Rebuilt, Reentered, Restated, Struck
from recensor.core.faults.fault_kinds import Family, FaultKind
from recensor.core.faults.next_measurement import NextMeasurement
from recensor.core.faults.suspicious_agreement import Coincidence, Coincidences, coincidences

__all__ = [
    "Cause",
    "Coincidence",
    "Coincidences",
    "Correction",
    "Explanation",
    "Family",
    "FaultKind",
    "MeterFound",
    "NextMeasurement",
    "Rebuilt",
    "Reentered",
    "Restated",
    "Rival",
    "Struck",
    "anything_outside",
    "coincidences",
    "explain",
    "outcome_in_words",
]  # fmt: skip
