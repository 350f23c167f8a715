"""What corrects a fault: a reading or value is stated anew, or hands do something and points are read again."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from enum import StrEnum

from recensor.core.circuit import Leads, Part, PartAlone, Setup, Sheet, Target
from recensor.core.editing import setup_changes
from recensor.core.figures import to_four_figures
from recensor.core.meters import ORDINARY_HANDHELD, UNDESCRIBED, AsFound, Profile
from recensor.core.quantity import CURRENT, OHM, RESISTANCE, Measurand, Quantity
from recensor.core.record import Reading, RecordError, Run, Strike, check
from recensor.core.sentences import Sentence, say

WHY = "corrected"


@dataclass(frozen=True)
class Correction:
    """One act that corrects a fault, in the words of its button."""

    words: Sentence

    def applied(self, run: Run) -> Run:
        """The run as its books would stand."""
        return run

    def with_value(self, value: float, unit: str, written: str) -> "Correction":
        """The same with the value that was fitted, in its unit and as it is written."""
        return self


@dataclass(frozen=True)
class Reentered(Correction):
    """Readings are struck and entered again, each with its right text at its right point."""

    readings: Mapping[int, tuple[Target, Quantity]] = field(default_factory=dict)

    def applied(self, run: Run) -> Run:
        """The run with each of them as it should have been entered."""
        readings = list(run.readings)
        for index, (target, value) in self.readings.items():
            readings[index] = replace(readings[index], target=target, value=value, range=self._range(run, index, value))
        return replace(run, readings=tuple(readings))

    def _range(self, run: Run, index: int, value: Quantity) -> Quantity | None:
        old: Reading = run.readings[index]
        return old.range if value.value == old.value.value else None


@dataclass(frozen=True)
class Struck(Correction):
    """Readings say nothing: they are struck, and their points are read again."""

    indexes: tuple[int, ...] = ()

    def applied(self, run: Run) -> Run:
        """The run without them."""
        readings = [
            replace(reading, struck=Strike(WHY)) if k in self.indexes else reading
            for k, reading in enumerate(run.readings)
        ]
        return replace(run, readings=tuple(readings))


@dataclass(frozen=True)
class Restated(Correction):
    """A part is what was fitted, not what its sheet says: the sheet is corrected; in one `setup`, or everywhere.

    `inside`: the value is the source's own resistance.
    """

    part: str = ""
    value: Quantity | None = None
    setup: str | None = None
    inside: bool = False

    def applied(self, run: Run) -> Run:
        """The run with the part as it is."""
        return replace(run, sheet=self.sheet(run.sheet))

    def with_value(self, value: float, unit: str, written: str) -> "Restated":
        """The part being what was fitted, where it is not known what it is."""
        return replace(self, words=self.words.filled(written), value=self.value or to_four_figures(value, unit))

    def sheet(self, sheet: Sheet) -> Sheet:
        """The sheet with the part as it is."""
        part: Part = sheet.parts[self.part]
        if self.inside:
            return replace(sheet, parts={**sheet.parts, self.part: replace(part, internal=self.value)})
        if self.setup is not None and self.value is not None:
            setup = sheet.setups[self.setup]
            stated = replace(setup, values={**setup.values, self.part: self.value})
            return replace(sheet, setups={**sheet.setups, self.setup: stated})
        part = replace(part, nominal=self.value or part.nominal)
        return replace(sheet, parts={**sheet.parts, self.part: part})


class MeterProperty(StrEnum):
    """What is found of a meter: what it does to a circuit, and how far off it shows."""

    BURDEN = "burden"
    DROP = "drop"
    INPUT = "input"
    GAIN = "gain"
    OFFSET = "offset"


@dataclass(frozen=True)
class MeterFound(Correction):
    """A run's meter is as it was found, which its profile does not say: all that was read with it is judged so.

    `meter` by its name in the run, None for the only one, or one that nobody described. A burden that is told by the
    `full` scale in amperes of a range is a drop in volts there, and in every other range.
    """

    meter: str | None = None
    what: MeterProperty = MeterProperty.BURDEN
    measurand: Measurand = CURRENT
    value: float = 0.0
    full: float = 1.0

    def applied(self, run: Run) -> Run:
        """The run with its meter as it is."""
        name, profile = self.profile(run)
        return replace(run, meters={**run.meters, name: profile})

    def with_value(self, value: float, unit: str, written: str) -> "MeterFound":
        """The meter being as it was fitted."""
        return replace(self, words=self.words.filled(written), value=float(f"{value:.4g}"))

    def profile(self, run: Run) -> tuple[str, Profile]:
        """The meter's name in the run, and its profile with what was found."""
        name = self.meter or next(iter(run.meters), UNDESCRIBED)
        profile = run.meters.get(name, ORDINARY_HANDHELD)
        return name, replace(profile, found=profile.found.beside(self._found()))

    def _found(self) -> AsFound:
        match self.what:
            case MeterProperty.BURDEN:
                return AsFound(burden=self.value)
            case MeterProperty.DROP:
                return AsFound(drop=self.value * self.full)
            case MeterProperty.INPUT:
                return AsFound(input_resistance=self.value)
            case MeterProperty.GAIN:
                return AsFound(gains={self.measurand: self.value})
            case MeterProperty.OFFSET:
                return AsFound(offsets={self.measurand: self.value})


@dataclass(frozen=True)
class Rebuilt(Correction):
    """Something is done by hand. What was read before stays with the circuit as it was built.

    As built, parts stood for these `ohms`, had their `leads` at these nodes, a source was `turned`, or parts were
    `exchanged` (`by_part`: what is told of a part was read where it stands, not where it is drawn); in one `setup`, or
    in all. `points` are to be read again, where they are not all that was read in those setups.
    """

    ohms: Mapping[str, float] = field(default_factory=dict)
    leads: Mapping[str, Leads] = field(default_factory=dict)
    exchanged: tuple[str, str] | None = None
    by_part: bool = False
    turned: str | None = None
    setup: str | None = None
    points: tuple[Target, ...] = ()

    def applied(self, run: Run) -> Run:
        """The run held against the circuit as it was built."""
        built = {
            name: self._as_built(setup, run) for name, setup in run.sheet.setups.items() if self.setup in (None, name)
        }
        return replace(run, sheet=replace(run.sheet, setups={**run.sheet.setups, **built}))

    def _as_built(self, setup: Setup, run: Run) -> Setup:
        connections = {name: self.leads.get(name, leads) for name, leads in setup.connections.items()}
        values = {name: _exactly(ohms, OHM) for name, ohms in self.ohms.items() if name in connections}
        if self.turned in connections:
            stated = setup.stated(run.sheet.parts[self.turned])
            if stated is not None:
                values[self.turned] = _exactly(-float(stated), run.sheet.parts[self.turned].kind.unit)
        if self.exchanged and connections.keys() >= set(self.exchanged):
            one, other = self.exchanged
            if self.by_part:
                connections[one], connections[other] = connections[other], connections[one]
            else:
                known = {one: _known(other, run), other: _known(one, run)}
                values |= {name: value for name, value in known.items() if value is not None}
        return replace(setup, connections=connections, values={**setup.values, **values})

    def planned(self, run: Run) -> Sheet:
        """The sheet as it is from now on.

        What was read before stays with the circuit as it was built; all that was asked there is asked once more of the
        circuit as it is drawn, in a setup of its own.
        """
        built, sheet = self.applied(run).sheet, run.sheet
        for name in built.setups if self.setup is None else [self.setup]:
            if not any(target.setup == name for target in self.again(run)):
                continue
            sheet, _ = setup_changes.new_state(
                sheet, name, say("faults.corrected", name=name), lambda changed, _: changed
            )
            corrected = replace(sheet, setups={**sheet.setups, name: built.setups[name]})
            try:
                check(replace(run, sheet=corrected))
            except RecordError:
                continue  # as built it has no place for something that was read: it stays as it is drawn
            sheet = corrected
        return sheet

    def again(self, run: Run) -> tuple[Target, ...]:
        """The points to be read again."""
        if self.points:
            return self.points
        read = dict.fromkeys(reading.target.key for reading in run.readings if reading.struck is None)
        return tuple(
            target
            for target in read
            if target.setup is not None and self.setup in (None, target.setup) and not target.is_part_alone
        )


def _known(part: str, run: Run) -> Quantity | None:
    """What a part was read to be by itself, or is marked."""
    read = [r.value for r in run.readings if r.struck is None and r.target == PartAlone(part, RESISTANCE)]
    return next((value for value in reversed(read) if value.value is not None), run.sheet.parts[part].nominal)


def _exactly(value: float, unit: str) -> Quantity:
    exact = Decimal(f"{value:.6g}")
    return Quantity(f"{exact:f}", exact, None, unit)
