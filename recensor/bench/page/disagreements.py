"""Readings that cannot both be right, as the page asks why: one press each."""

from collections.abc import Iterator
from dataclasses import dataclass

from django.utils import timezone

from recensor.core.circuit import Target, slug
from recensor.core.judgement import Assessment, Disagreeing
from recensor.core.plan import title_in_setup
from recensor.core.record import Reading, WhyOtherwise
from recensor.ledger import shown
from recensor.runs.queries import RunSnapshot

_WORDS = {
    WhyOtherwise.CONTACT: "bad contact",
    WhyOtherwise.KNOB: "knob turned",
    WhyOtherwise.REWIRED: "rewired in between",
    WhyOtherwise.UNKNOWN: "not known",
}


@dataclass(frozen=True)
class Why:
    """A reading that contradicts an earlier one: both in words, and what may be said of it.

    `drops` are the readings of which one may be dropped as a slip: the key of each, and its text.
    """

    reading: int
    address: str
    title: str
    text: str
    answers: tuple[tuple[str, str], ...]
    drops: tuple[tuple[int, str], ...]


def disagreements(loaded: RunSnapshot, assessment: Assessment, here: Target | None = None) -> Iterator[Why]:
    """What is still to be said why, of the whole run or `here`."""
    for one in assessment.disagreements:
        if one.is_open and (here is None or here.key == one.target.key):
            yield _why(loaded, one)


def _text(now: Reading, before: Reading) -> str:
    when = f"at {timezone.localtime(before.time):%H:%M}" if before.time else "before"
    return f"{shown(now)} now, {shown(before)} {when}: they do not agree"


def _why(loaded: RunSnapshot, one: Disagreeing) -> Why:
    readings = loaded.core.readings
    both = [k for k in (one.earlier, one.index) if readings[k].struck is None]
    return Why(
        loaded.reading_ids[one.index],
        slug(one.target),
        title_in_setup(one.target, loaded.core.sheet),
        _text(readings[one.index], readings[one.earlier]),
        tuple(
            (why.value, words)
            for why, words in _WORDS.items()
            if why is not WhyOtherwise.REWIRED or one.target.in_circuit
        ),
        tuple((loaded.reading_ids[k], shown(readings[k])) for k in both) if len(both) > 1 else (),
    )
