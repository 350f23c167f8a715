"""What cannot be, or fits another place far better: asked about before it stands, with what fits in one press each.

At most one question for an entry, none for a plausible one, none for a turned sign. In a sealed run a doubt makes use
only of what the person has entered and of what cannot be at all, and offers no number.
"""

from collections.abc import Callable

from recensor.core.circuit import TouchedLeads
from recensor.core.entries.doubts import elsewhere, parts, settings, sources
from recensor.core.entries.doubts.tried import Answer, Doubted, Means, Tried, source_at

__all__ = ["Answer", "Doubted", "Means", "Tried", "doubt", "source_at"]

# Tried in this order: the first that asks is the one question.
_CHECKS: tuple[Callable[[Tried], Doubted | None], ...] = (
    settings.power,
    parts.unit,
    parts.part_by_itself,
    sources.moved,
    sources.off_its_label,
    sources.above_the_sources,
    elsewhere.not_of_its_parts,
    elsewhere.fits_elsewhere,
    settings.beyond_its_range,
)


def doubt(tried: Tried) -> Doubted | None:
    """The one question about an entry, None for a plausible one."""
    if tried.reading.value.value is None or isinstance(tried.target, TouchedLeads):
        return None
    return next(filter(None, (check(tried) for check in _CHECKS)), None)
