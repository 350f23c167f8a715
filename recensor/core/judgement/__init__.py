"""Judging a run: what was read held against what was calculated, part by part, law by law, claim by claim."""

from recensor.core.judgement.assess import Assessment, ReadingAssessment, TargetAssessment, assess
from recensor.core.judgement.at_settings import AtSettings, SettingRow, at_settings
from recensor.core.judgement.budget import (
    ByOhmsLaw,
    Derived,
    Internal,
    by_ohms_law,
    internal_resistances,
    what_decides,
)
from recensor.core.judgement.calculated import calculate
from recensor.core.judgement.calculated_values import Calculated, Warned, stated_calculated
from recensor.core.judgement.claims import ClaimAssessment
from recensor.core.judgement.comparisons import SetupsCompared
from recensor.core.judgement.disagreements import Disagreement
from recensor.core.judgement.free_rows import ammeter_ohms, resistance_of_table
from recensor.core.judgement.laws import Account, AccountVerdict
from recensor.core.judgement.measurements import Measurement, Measurements, gather
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.parts import PartAssessment
from recensor.core.judgement.precision import SHARED_GAIN, Gain, Own, ReadingPrecision
from recensor.core.judgement.same_values import SameValue, Shared, same_values
from recensor.core.judgement.sanity_readings import SanityCheck
from recensor.core.judgement.starting_values import values_of
from recensor.core.judgement.verdicts import Judged, PartVerdict, Read, Verdict, judged

__all__ = [
    "SHARED_GAIN",
    "Account",
    "AccountVerdict",
    "Assessment",
    "AtSettings",
    "ByOhmsLaw",
    "Calculated",
    "ClaimAssessment",
    "Derived",
    "Disagreement",
    "Gain",
    "Internal",
    "Judged",
    "Measurement",
    "Measurements",
    "Outcome",
    "Own",
    "PartAssessment",
    "PartVerdict",
    "Read",
    "ReadingAssessment",
    "ReadingPrecision",
    "SameValue",
    "SanityCheck",
    "SettingRow",
    "SetupsCompared",
    "Shared",
    "TargetAssessment",
    "Verdict",
    "Warned",
    "ammeter_ohms",
    "assess",
    "at_settings",
    "budget",
    "by_ohms_law",
    "calculate",
    "gather",
    "internal_resistances",
    "judged",
    "resistance_of_table",
    "same_values",
    "stated_calculated",
    "values_of",
    "what_decides",
]  # fmt: skip
