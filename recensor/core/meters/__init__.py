"""Multimeters: what is known of them, what their displays show, and how far they may be off."""

from recensor.core.meters.accuracy import Accuracy, AccuracyError, parse_accuracy
from recensor.core.meters.advice import Setting, disturbs_by, fuse_of, ranges_of, setting, usual_range
from recensor.core.meters.as_found import NOTHING_FOUND, UNDESCRIBED, AsFound
from recensor.core.meters.contradictions import Contradiction, contradictions
from recensor.core.meters.display import (
    DISPLAYS,
    USUAL_COUNTS,
    Display,
    display,
    display_step,
    displayed_limits,
    shown_at,
    unit_of,
)
from recensor.core.meters.profile import (
    EXACT,
    ORDINARY_HANDHELD,
    SHIPPED,
    Instrument,
    Precision,
    Profile,
    Range,
    written_out,
)

__all__ = [
    "DISPLAYS", "EXACT", "NOTHING_FOUND", "ORDINARY_HANDHELD", "SHIPPED", "UNDESCRIBED", "USUAL_COUNTS", "Accuracy",
    "AccuracyError", "AsFound", "Contradiction", "Display", "Instrument", "Precision", "Profile", "Range", "Setting",
    "contradictions", "display", "display_step", "displayed_limits", "disturbs_by", "fuse_of", "parse_accuracy",
    "ranges_of", "setting", "shown_at", "unit_of", "usual_range", "written_out",
]  # fmt: skip
