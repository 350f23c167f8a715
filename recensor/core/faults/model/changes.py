"""What a hypothesis says is otherwise than it seems: in the circuit, in the meter, or in what was written down.

A hypothesis is a few of these together; each writes itself into a row of a batch. A number that is to be fitted is
given by where its logarithm lies beforehand and how broadly (`Fitted`).
"""

from abc import ABC, abstractmethod
from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from recensor.core.circuit import Target
from recensor.core.faults.model.batch import Batch
from recensor.core.quantity import CURRENT, RESISTANCE, Measurand
from recensor.core.solving import MovedLead


@dataclass(frozen=True)
class Fitted:
    """A number of the hypothesis's own, by its logarithm: where it lies beforehand, and where to look for it."""

    mean: float
    spread: float
    starts: tuple[float, ...] = (0.0,)

    def slot(self, batch: Batch, h: int, start: int) -> int:
        """Its place in the batch, looked for from one of its starts."""
        return batch.slot(h, self.mean, self.spread, self.starts[start % len(self.starts)])


class Change(ABC):
    """One thing that is otherwise. `fitted` is the number that it leaves open; `solves` whether a circuit changes."""

    fitted: Fitted | None = None
    solves = False

    @property
    def about(self) -> tuple[int, ...]:
        """The places of the readings that it says are otherwise than they stand."""
        return ()

    @abstractmethod
    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into row `h` of a batch; `start` says where to begin the search for its number."""


@dataclass(frozen=True)
class ResistanceIs(Change):
    """A part stands for other ohms: in the circuits (of one setup, or all), read by itself, or both.

    `ohms` in place of its own, or its own times `factor`; times the number that is fitted.
    """

    part: str
    ohms: float | None = None
    factor: float = 1.0
    fitted: Fitted | None = None
    in_circuit: bool = True
    out_of_circuit: bool = True
    setup: str | None = None
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        p = batch.names.parts.index(self.part)
        places = batch.names.places(self.setup) if self.in_circuit else []
        places += [batch.names.alone] if self.out_of_circuit else []
        if self.ohms is not None:
            batch.fixed[h, places, p] = self.ohms
        batch.factor[h, places, p] *= self.factor
        if self.fitted:
            batch.of_parts[h, self.fitted.slot(batch, h, start), places, p] = 1.0
        batch.touched[h, places] = True


@dataclass(frozen=True)
class Exchanged(Change):
    """Two parts stand in each other's places."""

    parts: tuple[str, str]
    setup: str | None = None
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        one, other = (batch.names.parts.index(name) for name in self.parts)
        for place in batch.names.places(self.setup):
            standing = batch.stands[h, place]
            standing[one], standing[other] = standing[other], standing[one]
            batch.touched[h, place] = True


@dataclass(frozen=True)
class LeadElsewhere(Change):
    """A lead (0 or 1) of a part is at another node, or in an empty row (None)."""

    part: str
    lead: int
    node: str | None
    setup: str | None = None
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch; the elements of a setup are numbered where it is solved."""
        for place in batch.names.places(self.setup):
            batch.moved.setdefault(place, []).append(MovedLead(h, self.part, self.lead, self.node))
            batch.touched[h, place] = True


@dataclass(frozen=True)
class SourceGives(Change):
    """A source gives its value times the number that is fitted."""

    source: str
    fitted: Fitted
    setup: str | None = None
    out_of_circuit: bool = False
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        s = batch.names.sources.index(self.source)
        places = batch.names.places(self.setup) + ([batch.names.alone] if self.out_of_circuit else [])
        batch.of_emf[h, self.fitted.slot(batch, h, start), places, s] = 1.0
        batch.touched[h, places] = True


@dataclass(frozen=True)
class SourceReversed(Change):
    """A source is in the circuit the wrong way round."""

    source: str
    setup: str | None = None
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        places = batch.names.places(self.setup)
        batch.turned[h, places, batch.names.sources.index(self.source)] = -1.0
        batch.touched[h, places] = True


@dataclass(frozen=True)
class SourceResistance(Change):
    """A source has a resistance of its own, which is fitted in ohms."""

    source: str
    fitted: Fitted
    setup: str | None = None
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        s, places = batch.names.sources.index(self.source), batch.names.places(self.setup)
        batch.inner[h, places, s] = 1.0
        batch.of_inner[h, self.fitted.slot(batch, h, start), places, s] = 1.0
        batch.touched[h, places] = True


@dataclass(frozen=True)
class CurrentLimited(Change):
    """A voltage source delivers a current that is fitted in amperes, whatever the voltage."""

    source: str
    fitted: Fitted
    setup: str | None = None
    solves = True

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        s, places = batch.names.sources.index(self.source), batch.names.places(self.setup)
        batch.of_limit[h, self.fitted.slot(batch, h, start), places, s] = 1.0
        batch.touched[h, places] = True


@dataclass(frozen=True)
class SourceDrifts(Change):
    """What a source gives changes from reading to reading: `weights` say how much of it each reading has.

    What is read next in these setups has as much of it as the last one.
    """

    source: str
    setups: tuple[str, ...]
    weights: tuple[tuple[int, float], ...]
    fitted: Fitted

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        slot, s = self.fitted.slot(batch, h, start), batch.names.sources.index(self.source)
        for place, weight in self.weights:
            batch.of_drift[h, slot, s, place] = weight
        for place in batch.observed.asked:
            if is_driven(batch.observed.target(place), self.setups):
                batch.of_drift[h, slot, s, place] = self.weights[-1][1]


@dataclass(frozen=True)
class SinceReading(Change):
    """What the other changes say of the circuit holds from one reading on."""

    place: int

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.since[h] = self.place


@dataclass(frozen=True)
class MeterGain(Change):
    """A meter shows so many times what is there, which is fitted, in all readings of a quantity."""

    measurand: Measurand
    fitted: Fitted

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.of_gain[h, self.fitted.slot(batch, h, start), batch.observed.of(self.measurand)] = 1.0


@dataclass(frozen=True)
class AddedToAll(Change):
    """A meter adds the same amount to all readings of a quantity: a number that is fitted, times the `scale`."""

    measurand: Measurand
    scale: float
    fitted: Fitted

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.of_offset[h, self.fitted.slot(batch, h, start), batch.observed.of(self.measurand)] = self.scale


@dataclass(frozen=True)
class NoCurrent(Change):
    """No current flows while one is read, from one reading on."""

    place: int

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.shares[h, [k for k in batch.observed.of(CURRENT) if k >= self.place]] = 0.0


@dataclass(frozen=True)
class AmmeterBurden(Change):
    """An ammeter puts in a resistance that is fitted: volts at full scale, or `same_ohms` in every range."""

    fitted: Fitted
    same_ohms: bool = False

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.of_burden[h, self.fitted.slot(batch, h, start)] = 1.0
        batch.same_ohms[h] = self.same_ohms


@dataclass(frozen=True)
class VoltmeterLoading(Change):
    """A voltmeter puts across a resistance that is fitted in ohms."""

    fitted: Fitted

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.of_loading[h, self.fitted.slot(batch, h, start)] = 1.0


@dataclass(frozen=True)
class IdealMeters(Change):
    """No meter disturbs the circuit."""

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.ideal[h] = True


@dataclass(frozen=True)
class Rewritten(Change):
    """The meter showed another value than the one that was written, with the digits and gains of that value.

    `stretch` is how many times finer the written text is than the shown one. One that `is_firm` must fit as it is.
    `burden` is what an ammeter then put in, in ohms, by its full scale in amperes; `part` one that nobody marked, of
    which all is known by this reading.
    """

    place: int
    value: float
    by_digits: float
    gains: tuple[int, int]
    stretch: float = 1.0
    is_firm: bool = False
    burden: tuple[float, float] = (0.0, 0.0)
    part: str = ""

    @property
    def about(self) -> tuple[int, ...]:
        """Its reading."""
        return (self.place,)

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.firm[h, self.place] = self.is_firm
        batch.values[h, self.place] = self.value
        batch.by_digits[h, self.place] = self.by_digits
        batch.gains[h, self.place] = self.gains
        batch.burden[h, self.place], batch.full[h, self.place] = self.burden
        if self.part:
            batch.begin[h, batch.names.parts.index(self.part)] = np.log(
                abs(self.value / batch.observed.values[self.place])
            )
        batch.extra[h] += np.log(self.stretch)


@dataclass(frozen=True)
class OtherTarget(Change):
    """A reading is really one of another point: `share` times as much, and off by a ratio of `loose` more."""

    place: int
    row: int
    share: float = 1.0
    loose: float = 0.0

    @property
    def about(self) -> tuple[int, ...]:
        """Its reading."""
        return (self.place,)

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.rows[h, self.place] = self.row
        batch.shares[h, self.place] = self.share
        more = self.loose * abs(batch.values[h, self.place])
        batch.by_digits[h, self.place] = np.hypot(batch.by_digits[h, self.place], more)


@dataclass(frozen=True)
class Uninformative(Change):
    """Readings say nothing of the circuit; texts like theirs have this probability, by the unit, as a logarithm."""

    places: tuple[int, ...]
    density: float

    @property
    def about(self) -> tuple[int, ...]:
        """Its readings."""
        return self.places

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.counts[h, list(self.places)] = False
        batch.extra[h] += self.density


@dataclass(frozen=True)
class RangeTooSmall(Change):
    """An over-range reading says nothing but that its range was too small."""

    over: int

    def write(self, batch: Batch, h: int, start: int) -> None:
        """Put it into a row of the batch."""
        batch.is_over[h, self.over] = False


def is_driven(target: Target, setups: Collection[str]) -> bool:
    """Whether the sources of one of these setups make what is read there."""
    return target.setup in setups and not target.is_part_alone and target.measurand is not RESISTANCE
