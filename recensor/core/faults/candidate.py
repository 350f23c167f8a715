"""One hypothesis of a kind, ready to be weighed: what it changes, how likely it is, and how it is said."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from recensor.core.circuit import Across, Leads, Setup, Target, Through
from recensor.core.faults.correction import Correction
from recensor.core.faults.fault_kinds import FaultKind, beforehand
from recensor.core.faults.model.changes import Change
from recensor.core.faults.model.excuses import WILD
from recensor.core.faults.model.observations import Observations, ObservedTarget
from recensor.core.faults.model.prediction import FaultModel
from recensor.core.figures import as_read
from recensor.core.judgement import Assessment
from recensor.core.plan import in_a_sentence, title
from recensor.core.quantity import RESISTANCE, VOLTAGE, Measurand
from recensor.core.record import Reading, Run
from recensor.core.sentences import Sentence, say
from recensor.core.uncertainty import Array

# Of more parts than this those are suspected that are nearest to what does not fit.
MOST_PARTS = 40

# What lies farther from what was known before than this, in standard deviations, is not thought of.
PLAUSIBLE = 5.0


@dataclass(frozen=True)
class Number:
    """What a fitted number stands for: `scale` times its exponential in the `unit`, or `scale` times itself.

    It is the value of a `part` where that part's own deviation comes to it. Nothing is there that lies not between
    `least` and `most`.
    """

    scale: float
    unit: str
    is_log: bool = True
    part: str | None = None
    least: float = -math.inf
    most: float = math.inf

    def of(self, fitted: float) -> float:
        """The value in the unit."""
        return self.scale * (math.exp(fitted) if self.is_log else fitted)

    def is_possible(self, fitted: float) -> bool:
        """Whether there is such a thing."""
        return self.least <= self.of(fitted) <= self.most

    def spread(self, fitted: float, standard: float) -> float:
        """Its standard deviation in the unit."""
        return abs(self.of(fitted) if self.is_log else self.scale) * standard


@dataclass(frozen=True)
class Candidate:
    """One hypothesis.

    Attributes
    ----------
    targets : what is concerned, named as places of a run document.
    changes : what it says is otherwise.
    chances : how many of its kind there are, which share what the kind has beforehand.
    words : it in one sentence; ``{value}`` stands for the fitted or known value.
    number : what the number that it fits stands for; `value` what is known without fitting, in `unit`.
    also : other kinds and targets that come to the same whatever is read.
    """

    kind: FaultKind
    targets: tuple[str, ...]
    changes: tuple[Change, ...]
    words: Sentence
    chances: float = 1.0
    number: Number | None = None
    value: float | None = None
    unit: str = ""
    also: tuple[tuple[FaultKind, str], ...] = ()
    correction: Correction | None = None

    @property
    def log_prior(self) -> float:
        """How likely it is before anything is read, as a logarithm."""
        return math.log(min(beforehand(self.kind) / self.chances, 0.5))

    @property
    def starts(self) -> int:
        """From how many places the search for its number begins."""
        return max((len(change.fitted.starts) for change in self.changes if change.fitted), default=1)

    @property
    def about(self) -> frozenset[int]:
        """The places of the readings that it says are otherwise than they stand."""
        return frozenset(place for change in self.changes for place in change.about)

    @property
    def fitted(self) -> int:
        """How many numbers of its own it fits."""
        return sum(1 for change in self.changes if change.fitted)


@dataclass(frozen=True)
class FaultContext:
    """A judged run as a hypothesis sees it, before anything is said to be wrong.

    `expected` (points,) is what each point should be by what was known before, `broad` how far it may be off, as a
    standard deviation; `odd` (readings,) how far each reading lies from what all others say of it.
    """

    assessment: Assessment
    model: FaultModel
    expected: Array
    broad: Array
    odd: Array

    @property
    def run(self) -> Run:
        """The run that is judged."""
        return self.assessment.against.run

    @property
    def observed(self) -> Observations:
        """What was read."""
        return self.model.observed

    @cached_property
    def setups(self) -> Mapping[str, Setup]:
        """The setups in which anything was read."""
        named = {self.observed.points[row].target.setup for row in (*self.observed.rows, *self._over_rows)}
        return {name: setup for name, setup in self.run.sheet.setups.items() if name in named}

    @cached_property
    def off(self) -> Array:
        """How far each reading may be off at each point by what was known before: (readings, points)."""
        own = self.observed.gain[:, None] * np.abs(self.expected) + self.observed.by_digits[:, None]
        return np.asarray(np.hypot(self.broad, own))

    @cached_property
    def away(self) -> Array:
        """How far each reading lies from what each point should read, in these standard deviations."""
        return np.asarray((self.observed.values[:, None] - self.reads) / self.off)

    @cached_property
    def reads(self) -> Array:
        """What each reading should be were it of each point, each point in its own direction: (readings, points)."""
        reads = np.tile(self.observed.directions * self.expected, (self.observed.count, 1))
        own = np.arange(self.observed.count), self.observed.rows
        reads[own] = self.observed.signs * self.expected[self.observed.rows]
        return reads

    @cached_property
    def wild(self) -> Array:
        """How likely each reading is where it could be anything of the size of what is read, as a logarithm."""
        own = np.abs(self.observed.values) + np.abs(self.expected[self.observed.rows]) + self.observed.by_digits
        return np.asarray(WILD - np.log(np.maximum(own, 1e-12)))

    @cached_property
    def log_density(self) -> Array:
        """How likely each reading is at each point by what was known before, as a logarithm."""
        return np.asarray(-0.5 * np.minimum(self.away**2, 200.0) - np.log(self.off))

    @cached_property
    def _said(self) -> dict[int, str]:
        return {}

    def said(self, place: int) -> str:
        """A reading as a sentence names it."""
        if place not in self._said:
            self._said[place] = self.said_of(self.observed.reading(place))
        return self._said[place]

    def said_of(self, reading: Reading) -> str:
        """The same of any reading, an over-range one too."""
        where = in_a_sentence(title(reading.target, self.run.sheet))
        return f"“{as_read(reading.value, reading.target.unit)}” ({where})"

    @property
    def _over_rows(self) -> Iterable[int]:
        return (over_range.row for over_range in self.observed.over_range)

    def where(self, part: str) -> list[str | None]:
        """Where a part may be at fault: in all circuits together, or where there are several in one of them."""
        having = [name for name, setup in self.setups.items() if part in setup.connections]
        return [None, *having] if len(having) > 1 else [None] if having else []

    def leads(self, part: str, setup: str | None) -> Leads:
        """Where a part is drawn in a setup, or in the first that has it."""
        setups = self.run.sheet.setups if setup is None else {setup: self.run.sheet.setups[setup]}
        return next(one.connections[part] for one in setups.values() if part in one.connections)

    def passive(self) -> list[str]:
        """The parts that drive nothing and were read, or are in a circuit that was; of many the nearest to trouble."""
        return self._passive

    def resistors(self) -> list[str]:
        """Those of them that resist."""
        return [name for name in self._passive if not self.run.sheet.parts[name].kind.is_nonlinear]

    @cached_property
    def _passive(self) -> list[str]:
        alone = {p.target.part for p in self.observed.points if p.target.is_part_alone}
        found = [name for name in self.model.names.parts if self.where(name) or name in alone]
        if len(found) <= MOST_PARTS:
            return found
        trouble = dict.fromkeys(found, 0.0)
        for place, odd in enumerate(np.abs(self.odd).tolist()):
            for name in self.observed.target(place).parts_read(self.run.sheet):
                trouble[name] = max(trouble.get(name, 0.0), odd)
        nearest = sorted(found, key=lambda name: -trouble[name])[:MOST_PARTS]
        return [name for name in found if name in set(nearest)]

    @property
    def parts_left_out(self) -> int:
        """How many parts there was no room to suspect."""
        return max(0, len(self.model.names.parts) - MOST_PARTS)

    @cached_property
    def read_alone(self) -> frozenset[str]:
        """The parts of which a number was read by themselves."""
        targets = (self.observed.target(k) for k in range(self.observed.count))
        return frozenset(target.part for target in targets if target.is_part_alone)

    def unmarked_at(self, place: int) -> str:
        """The part that a reading is of by itself, where nothing else is known of it; empty of any other reading."""
        target = self.observed.target(place)
        if not target.is_part_alone or target.measurand is not RESISTANCE or not self.observed.values[place]:
            return ""
        return "" if self.run.sheet.parts[target.part].nominal else str(target.part)

    def sources(self) -> list[str]:
        """The sources that drive some circuit that was read."""
        return [
            name
            for name in self.model.names.sources
            if any(name in setup.driving(self.run.sheet.parts) for setup in self.setups.values())
        ]

    def row(self, target: Target, *, left_in: bool = False) -> int | None:
        """The row of a point, None where it is none."""
        return self.observed.row_of.get(ObservedTarget(target.key, left_in))

    def should(self, target: Target) -> float | None:
        """What a point should be by what was known before."""
        row = self.row(target)
        return None if row is None else float(self.expected[row])

    def is_plausible(self, place: int, value: float) -> bool:
        """Whether a reading could have been this value by what was known before."""
        if self.unmarked_at(place):
            return True
        row = self.observed.rows[place]
        should = self.observed.signs[place] * self.expected[row]
        return bool(abs(value - should) <= PLAUSIBLE * self.off[place, row])

    def same_quantity(self, measurand: Measurand) -> list[int]:
        """The rows of the points where a quantity is read; a resistance by itself among them."""
        return [
            row
            for row, point in enumerate(self.observed.points)
            if point.target.measurand is measurand and not point.left_in
        ]

    def load(self, source: str, setup: Setup) -> tuple[float, float] | None:
        """What a source gives and delivers in a setup by what was known before: volts and amperes."""
        if source not in setup.connections:
            return None
        volts = self.should(Across(VOLTAGE, setup.connections[source], setup.name))
        amperes = self.through(source, setup)
        return (abs(volts), abs(amperes)) if volts and amperes else None

    def through(self, part: str, setup: Setup) -> float | None:
        """The current through a part of a setup by what was known before, in amperes."""
        return self.should(Through(part, setup.name))

    def nominal(self, part: str) -> float:
        """What stands for a part before anything is fitted, in ohms."""
        return self._nominal[part]

    @cached_property
    def _nominal(self) -> dict[str, float]:
        return {name: self.model.ohms_beforehand(name) for name in self.model.names.parts}


def reading_at(index: int) -> str:
    """The place of a reading in a run document."""
    return f"readings[{index}]"


def part_at(name: str) -> str:
    """The place of a part in a run document."""
    return f"parts.{name}"


def lead_at(name: str, lead: int) -> str:
    """The place of a lead in a run document."""
    return f"leads.{name}.{lead + 1}"


def say_in_setup(kind: str, setup: str | None, **values: Any) -> Sentence:
    """A sentence of a kind, or where it is only in one setup of the kind that names it."""
    return say(f"{kind}_in_setup", setup=setup, **values) if setup else say(kind, **values)
