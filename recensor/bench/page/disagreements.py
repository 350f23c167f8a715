"""Readings that cannot both be right, as the page asks why: one press each."""

from collections.abc import Iterator
from dataclasses import dataclass

from django.utils import timezone

from recensor.core.circuit import Target
from recensor.core.entries import levels
from recensor.core.judgement import Assessment, Disagreement
from recensor.core.plan import title_in_setup
from recensor.core.record import DisagreementReason, Reading
from recensor.ledger import shown
from recensor.runs.queries import RunSnapshot

_WORDS = {
    DisagreementReason.CONTACT: "bad contact",
    DisagreementReason.KNOB: "knob turned",
    DisagreementReason.REWIRED: "rewired in between",
    DisagreementReason.UNKNOWN: "not known",
}


@dataclass(frozen=True)
class OpenDisagreement:
    """A reading that contradicts an earlier one: both in words, and what may be said of it.

    `drops` are the readings of which one may be dropped as a slip: the key of each, and its text. `is_at_levels`: they
    may be volts, or amps, at two levels of the source, rows of a table.
    """

    reading: int
    title: str
    text: str
    answers: tuple[tuple[str, str], ...]
    drops: tuple[tuple[int, str], ...]
    is_at_levels: bool


def disagreements(
    loaded: RunSnapshot, assessment: Assessment, here: Target | None = None
) -> Iterator[OpenDisagreement]:
    """What is still to be said why, of the whole run or `here`."""
    for one in assessment.disagreements:
        if one.is_open and (here is None or here.key == one.target.key):
            at_levels = levels(loaded.core.sheet, one.target, assessment.against.measurements)
            yield _asked(loaded, one, is_at_levels=at_levels is not None)


def _text(now: Reading, before: Reading) -> str:
    when = f"at {timezone.localtime(before.time):%H:%M}" if before.time else "before"
    return f"{shown(now)} now, {shown(before)} {when}: they do not agree"


def _asked(loaded: RunSnapshot, one: Disagreement, *, is_at_levels: bool) -> OpenDisagreement:
    readings = loaded.core.readings
    both = [k for k in (one.earlier, one.index) if readings[k].struck is None]
    return OpenDisagreement(
        loaded.reading_ids[one.index],
        title_in_setup(one.target, loaded.core.sheet),
        _text(readings[one.index], readings[one.earlier]),
        tuple(
            (reason.value, words)
            for reason, words in _WORDS.items()
            if reason is not DisagreementReason.REWIRED or one.target.in_circuit
        ),
        tuple((loaded.reading_ids[k], shown(readings[k])) for k in both) if len(both) > 1 else (),
        is_at_levels,
    )
