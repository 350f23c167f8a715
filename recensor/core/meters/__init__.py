"""Multimeters: what their displays show, and how far they may be off."""

from recensor.core.meters.accuracy import Accuracy, AccuracyError, parse_accuracy
from recensor.core.meters.display import DISPLAYS, USUAL_COUNTS, display_step, displayed_limits

__all__ = [
    "DISPLAYS", "USUAL_COUNTS", "Accuracy", "AccuracyError", "display_step", "displayed_limits", "parse_accuracy",
]  # fmt: skip
