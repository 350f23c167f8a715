"""An entry tried in a run, to be doubted; what its question may be answered with, and what is known beside it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property

from recensor.core.circuit import Part, Sheet, Target
from recensor.core.judgement import Assessment, Calculated, assess
from recensor.core.quantity import RESISTANCE
from recensor.core.record import Reading, Run

# Before anything tells what the sources give, a reading may be so much of what is calculated from their labels.
UNKNOWN = 0.45, 1.3


class AnswerKind(StrEnum):
    """What an answer to a question says of the entry."""

    AS_TYPED = "as typed"
    MEANT = "meant"
    BELONGS = "belongs"
    TURNING = "turning"
    SET_ANEW = "set anew"
    AGAIN = "again"
    TRIAL = "trial"
    INSTEAD = "instead"
    SWITCHED = "switched"
    RANGE = "range"


@dataclass(frozen=True)
class Answer:
    """One press: its meaning, with the text that was meant, or the point it belongs to."""

    means: AnswerKind
    text: str = ""
    target: Target | None = None


@dataclass(frozen=True)
class Query:
    """Why an entry is asked about, and what it may be; `holds`: it can hurt, and nothing else is read before."""

    why: str
    answers: tuple[Answer, ...]
    holds: bool = False


AS_TYPED, AGAIN = Answer(AnswerKind.AS_TYPED), Answer(AnswerKind.AGAIN)


@dataclass(frozen=True)
class EntryCheck:
    """One reading of a judged run, to be doubted. `points` are all that can be read.

    `powered`: whether the supply is on, as far as was said; None where nobody is to be asked.
    """

    run: Run
    assessment: Assessment
    reading: Reading
    points: Sequence[Target]
    before: Sequence[Reading]
    sealed: bool = False
    unit_is_default: bool = False
    earlier: Reading | None = None
    powered: bool | None = None

    @property
    def sheet(self) -> Sheet:
        """The sheet that is followed."""
        return self.run.sheet

    @property
    def target(self) -> Target:
        """Where it was read."""
        return self.reading.target

    @cached_property
    def size(self) -> float:
        """What was read, without its sign."""
        return abs(float(self.reading.value))

    @cached_property
    def calculated(self) -> Calculated | None:
        """What it is calculated to be; None for what is read by itself, and in a sealed run."""
        return None if self.sealed else self.assessment.expected(self.target)

    @cached_property
    def elsewhere(self) -> Assessment:
        """The run judged without it: what other points are calculated to be must not hang on what is doubted."""
        if not self.target.is_part_alone and not self.source:
            return self.assessment
        return assess(replace(self.run, readings=(*self.before, replace(self.reading, counted=False))))

    @cached_property
    def source(self) -> Part | None:
        """The source whose own voltage or current this reads, before connecting or under load."""
        return self.sheet.source_read_at(self.target)

    @cached_property
    def left(self) -> Reading | None:
        """The reading before it, of another point."""
        others = (r for r in reversed(self.before) if r.struck is None)
        last = next(others, None)
        return last if last and last.target.key != self.target.key else None

    @cached_property
    def scale(self) -> float | None:
        """By what the calculated values of the setup are to be multiplied to be those of its sources as they are.

        1 once they were read; before that what the readings so far have in common; None where nothing tells.
        """
        setup = self.sheet.setups.get(self.target.setup or "")
        if setup is None or self.target.measurand is RESISTANCE:
            return 1.0
        given = {name for name_of, name in self.assessment.calculations.given if name_of == setup.name}
        if set(setup.driving(self.sheet.parts)) <= given:
            return 1.0
        shares = sorted(_shares_of_labels(self, setup.name))
        return shares[len(shares) // 2] if shares else None


def _shares_of_labels(tried: EntryCheck, setup: str) -> Iterator[float]:
    """What each other reading of a setup is of its calculated value, as far as a battery may be off."""
    for key, assessment in tried.elsewhere.targets.items():
        if key.setup != setup or key == tried.target.key or key.is_part_alone or key.measurand is RESISTANCE:
            continue
        expected = tried.elsewhere.expected(key)
        if expected and expected.value and not expected.small and assessment.measurement.mean is not None:
            share = abs(assessment.measurement.mean / expected.value)
            if UNKNOWN[0] <= share <= UNKNOWN[1]:
                yield share
