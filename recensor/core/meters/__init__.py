"""Multimeters: what is known of them, what their displays show, and how far they may be off."""

from recensor.core.meters.accuracy import Accuracy, AccuracyError, parse_accuracy
from recensor.core.meters.advice import usual_range
from recensor.core.meters.display import DISPLAYS, USUAL_COUNTS, display_step, displayed_limits, shown_at
from recensor.core.meters.profile import EXACT, ORDINARY_HANDHELD, SHIPPED, Instrument, Precision, Profile, Range

__all__ = [
    "DISPLAYS", "EXACT", "ORDINARY_HANDHELD", "SHIPPED", "USUAL_COUNTS", "Accuracy", "AccuracyError", "Instrument",
    "Precision", "Profile", "Range", "display_step", "displayed_limits", "parse_accuracy", "shown_at",
    "usual_range",
]  # fmt: skip
