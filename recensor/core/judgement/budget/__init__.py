"""Where uncertainty comes from: each contribution, what would decide a reading, Ohm's law, a source's resistance."""

from recensor.core.judgement.budget.contributions import (
    Budget,
    Contribution,
    of_account,
    of_calculated,
    of_reading,
    worst_case,
)
from recensor.core.judgement.budget.internal_resistance import Internal, internal_resistances
from recensor.core.judgement.budget.ohms_law import ByOhmsLaw, Derived, by_ohms_law
from recensor.core.judgement.budget.what_decides import what_decides

__all__ = [
    "Budget", "ByOhmsLaw", "Contribution", "Derived", "Internal", "by_ohms_law", "internal_resistances", "of_account",
    "of_calculated", "of_reading", "what_decides", "worst_case",
]  # fmt: skip
