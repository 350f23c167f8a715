"""A cause, and all that can be said of why a run does not fit."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from recensor.core.circuit import Target
from recensor.core.faults.correction import Correction
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.next_measurement import NextMeasurement, Prediction
from recensor.core.figures import rounded, stated
from recensor.core.judgement import Warned
from recensor.core.sentences import say


@dataclass(frozen=True)
class Cause:
    """One cause.

    Attributes
    ----------
    targets : what is concerned, as places of a run document.
    value : what was fitted or is proposed, in the SI `unit`, with its expanded uncertainty; None where there is none.
    explains, leaves : indexes of readings that do not fit by themselves: those that do with it, and the others.
    agreeing : those of `explains` that agree once it is corrected.
    score : its share of all weight, nothing wrong included.
    same : other kinds and targets that come to the same by what was read; `more` counts those that are not listed.
    predicts : what it predicts at the next reading; None for over-range, or no reading.
    fits : how many of all readings fit with it, out of `of`.
    """

    kind: FaultKind
    targets: tuple[str, ...]
    value: float | None
    uncertainty: float | None
    unit: str
    explains: tuple[int, ...]
    leaves: tuple[int, ...]
    score: float
    text: str
    same: tuple[tuple[FaultKind, str], ...] = ()
    more: int = 0
    agreeing: tuple[int, ...] = ()
    correction: Correction | None = None
    next: Target | None = None
    predicts: Prediction = None
    fits: int = 0
    of: int = 0
    together: bool = False

    @property
    def token(self) -> str:
        """What names it among the causes of its run."""
        return f"{self.kind}:{','.join(self.targets)}"

    @property
    def written(self) -> str:
        """Its value with its unit, down to the digits that mean something; empty where there is none."""
        return value_written(self.value, self.uncertainty, self.unit)

    @property
    def name(self) -> str:
        """It in a few words: what is concerned, its kind and its value."""
        words = named(self.kind, self.targets)
        return f"{words}, {self.written}" if self.written else words


def named(kind: FaultKind, targets: Sequence[str]) -> str:
    """A kind with the parts that are concerned."""
    parts = dict.fromkeys(t.split(".")[1] for t in targets if not t.startswith(("readings", "claims")))
    return f"{' and '.join(parts)}: {kind}" if parts else str(kind)


def value_written(value: float | None, expanded: float | None, unit: str) -> str:
    """A value down to the digits that mean something; empty where there is none."""
    if value is None:
        return ""
    if not unit:
        return f"{value:.3g}"
    return stated(Decimal(f"{value:.6g}"), unit) if expanded is None else rounded(value, expanded, unit)


@dataclass(frozen=True)
class Rival:
    """What the next reading tells from the first cause: another, in a few words, and what that predicts there."""

    name: str
    predicts: Prediction


@dataclass(frozen=True)
class Explanation:
    """What can be said of why a run does not fit.

    `nothing_wrong` and `none_of_these` are shares of all weight. `is_outside`: whether anything is; else causes are no
    more than remarks. `left_out` counts hypotheses that there was no room to weigh.
    """

    causes: tuple[Cause, ...] = ()
    nothing_wrong: float = 1.0
    none_of_these: float = 0.0
    is_outside: bool = True
    next: NextMeasurement | None = None
    rival: Rival | None = None
    left_out: int = 0

    @property
    def is_explained(self) -> bool:
        """Whether the first cause is one, rather than readings that nothing explains."""
        return not self.causes or self.causes[0].kind is not FaultKind.UNEXPLAINED

    @property
    def told(self) -> tuple[Cause, ...]:
        """The causes of what is outside; none where nothing is."""
        return self.causes if self.is_outside else ()

    @property
    def remarks(self) -> tuple[str, ...]:
        """What may be said although nothing is outside."""
        return () if self.is_outside else tuple(say("faults.remark", text=cause.text) for cause in self.causes[:1])

    @property
    def warnings(self) -> tuple[Warned, ...]:
        """What is to be said of the search itself, and what is no more than a remark."""
        found = [Warned("readings", remark) for remark in self.remarks]
        if self.left_out:
            found.append(Warned("readings", say("faults.causes_or_parts_left", left_out=self.left_out)))
        return tuple(found)
