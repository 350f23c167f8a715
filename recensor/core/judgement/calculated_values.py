"""Calculated values with what is uncertain about them, and what could not be calculated."""

from dataclasses import dataclass, field, replace

from recensor.core.circuit import MEASURED, NOMINAL, Basis, PartAlone, Sheet, Target
from recensor.core.judgement.sources import Given
from recensor.core.judgement.starting_values import stated_alone
from recensor.core.uncertainty import Spread


@dataclass(frozen=True)
class Calculated:
    """A calculated value in SI units with what is uncertain about it; None where unknown.

    `open` says that the circuit is open there, `zero` that the value counts as zero, `small` that it is a
    difference of much larger ones, `grouped` that it hangs on which part of a group stands where.
    """

    value: float | None = None
    spread: Spread | None = None
    open: bool = False
    zero: bool = False
    small: bool = False
    grouped: bool = False

    @property
    def standard(self) -> float | None:
        """Its standard uncertainty."""
        return self.spread.standard if self.spread else None

    def turned(self) -> "Calculated":
        """The same with the leads reversed."""
        if self.value is None:
            return self
        return replace(self, value=-self.value, spread=self.spread.times(-1.0) if self.spread else None)


UNKNOWN = Calculated()


@dataclass(frozen=True)
class TrueParts:
    """The variable of what is not known, each by itself, of the parts that make up a calculated value."""

    target: Target


@dataclass(frozen=True)
class Warned:
    """A warning and its place in the run, such as ``parts.V1``."""

    at: str
    text: str


@dataclass(frozen=True)
class Calculations:
    """The calculated values of targets on both bases, and what could not be calculated, and why.

    `given` says what each source of a setup was taken to give. Where a source was read again later, `at` has the
    value that a single reading is judged against, by its index.
    """

    answers: dict[tuple[Basis, Target], Calculated]
    warnings: dict[Warned, None] = field(default_factory=dict)
    given: dict[tuple[str, str], Given] = field(default_factory=dict)
    at: dict[int, Calculated] = field(default_factory=dict)

    def add(self, others: "Calculations") -> None:
        """Take over what others have."""
        self.answers.update(others.answers)
        self.warnings.update(others.warnings)
        self.given.update(others.given)
        self.at.update(others.at)

    def of(self, target: Target, basis: Basis) -> Calculated:
        """The value at one of the targets that were asked for."""
        return self.answers.get((basis, target), UNKNOWN)

    def both(self, target: Target) -> tuple[Calculated, Calculated]:
        """From nominal and from measured values."""
        return self.of(target, NOMINAL), self.of(target, MEASURED)


def stated_calculated(sheet: Sheet, target: PartAlone) -> Calculated:
    """What a part by itself should read, by what stands on it, with its tolerance."""
    known = stated_alone(sheet, target)
    return Calculated(known.size, None if known.standard is None else Spread({TrueParts(target): known.standard}))
