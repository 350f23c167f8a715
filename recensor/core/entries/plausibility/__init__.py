"""What cannot be, or fits another place far better: asked about before it stands, with what fits in one press each.

At most one question for an entry, none for a plausible one, none for a turned sign. In a sealed run a question uses
only what the person has entered and what cannot be at all, and offers no number.
"""

from collections.abc import Callable
from dataclasses import replace

from recensor.core.entries.plausibility import meter_settings, other_places, part_values, source_values
from recensor.core.entries.plausibility.entry_check import AGAIN, AS_TYPED, Answer, AnswerKind, EntryCheck, Query

__all__ = ["Answer", "AnswerKind", "EntryCheck", "Query", "plausibility_query"]

# Tried in this order: the first that asks is the one question.
_CHECKS: tuple[Callable[[EntryCheck], Query | None], ...] = (
    meter_settings.power,
    other_places.turned_again,
    part_values.unit,
    part_values.part_by_itself,
    source_values.moved,
    source_values.off_its_label,
    source_values.above_the_sources,
    other_places.not_of_its_parts,
    other_places.fits_elsewhere,
    other_places.of_another_size,
    meter_settings.beyond_its_range,
)


def plausibility_query(tried: EntryCheck) -> Query | None:
    """The one question about an entry, None for a plausible one. That it was a slip is always among the answers."""
    if tried.reading.value.value is None or tried.target.is_leads:
        return None
    query = next(filter(None, (check(tried) for check in _CHECKS)), None)
    if query is None or AGAIN in query.answers:
        return query
    others = tuple(answer for answer in query.answers if answer != AS_TYPED)
    return replace(query, answers=(*others, AGAIN, *query.answers[len(others) :]))
