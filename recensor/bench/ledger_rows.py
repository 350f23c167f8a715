"""The ledger's rows, gathered into sections: parts, totals, an account for each loop and node."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from recensor.bench.marks import Mark, mark
from recensor.bench.means import mean_text
from recensor.core import plan
from recensor.core.judgement import Account, Assessment, TargetAssessment
from recensor.core.judgement.calculated import Calculated, basis_order
from recensor.core.judgement.measurements import Measurement
from recensor.core.plan import Station
from recensor.core.quantity import as_read, engineering, rounded, signed_percent
from recensor.core.record import CURRENT, LEADS, MEASURED, NOMINAL, RESISTANCE, UNITS, VOLTAGE, Reading, Run, Target
from recensor.core.uncertainty import expanded

# What stands in place of a calculated value until its point has been read.
SEALED = "sealed"


@dataclass(frozen=True)
class Row:
    """One point of the ledger. `sign` is its sign in the account it stands in."""

    point: int
    label: str
    place: str
    nominal: str
    measured: str
    read: str
    trials: str
    error: str
    mark: Mark
    lights: str
    current: bool
    sign: str = ""
    struck: tuple[str, ...] = ()


@dataclass(frozen=True)
class Closing:
    """The foot of an account."""

    sums: tuple[tuple[str, str], ...]
    residual: str
    mark: Mark


@dataclass(frozen=True)
class Section:
    """An account, or a group of points that belong together."""

    title: str
    rows: tuple[Row, ...]
    closing: Closing | None = None
    note: str = ""


class Rows:
    """Makes rows and gathers them into sections."""

    def __init__(self, run: Run, points: Sequence[Target], assessment: Assessment, chosen: int | None) -> None:
        self.run = run
        self.points = points
        self.assessment = assessment
        self.chosen = chosen
        self.index = {target.key: k for k, target in enumerate(points)}
        self.part_ids = {name: f"part-{k}" for k, name in enumerate(run.parts)}
        self.struck: dict[object, list[str]] = {}
        for reading in run.readings:
            if reading.struck:
                self.struck.setdefault(reading.target.key, []).append(shown(reading))

    def sections(self) -> Iterable[Section]:
        """Parts and sources by themselves; then each setup's total, its accounts of loops and nodes, and the rest."""
        by_itself = [k for k, target in enumerate(self.points) if target.setup is None]
        parts = [k for k in by_itself if plan.station(self.points[k], self.run) is Station.PARTS]
        sources = Section("Source before connecting", self._rows(k for k in by_itself if k not in parts))
        yield Section("Parts, each by itself", self._rows(parts))
        if len(self.run.setups) > 1:
            yield sources
        for setup in self.run.setups:
            heading = f"{setup}: " if len(self.run.setups) > 1 else ""
            here = {station: self._at(station, setup) for station in Station}
            yield Section(_title(heading, "total resistance"), self._rows(here[Station.BUILD]))
            if not heading:
                yield sources
            yield Section(_title(heading, "source before connecting"), self._rows(here[Station.SOURCE]))
            yield from self._accounts(setup, heading, here)

    def _at(self, station: Station, setup: str) -> list[int]:
        return [
            k
            for k, target in enumerate(self.points)
            if target.setup == setup and plan.station(target, self.run) is station
        ]

    def _accounts(self, setup: str, heading: str, here: Mapping[Station, Sequence[int]]) -> Iterable[Section]:
        """One section for each loop and node of a setup, and the readings that stand in none."""
        for law, station, title in ((VOLTAGE, Station.VOLTS, "voltages"), (CURRENT, Station.AMPS, "currents")):
            used: set[int] = set()
            alike = []
            for account in self.assessment.laws:
                if account.law != law or account.setup != setup:
                    continue
                places = {self.index[term.wanted.key] for term in account.terms if term.wanted.key in self.index}
                if len(places) > 1:
                    used |= places
                    name = f"{heading}{_account_name(account)}"
                    yield Section(name, self._account_rows(account), _closing(account))
                elif places or not heading:
                    alike.append(_account_name(account))
            rest = [k for k in here[station] if k not in used]
            note = (
                f"{', '.join(alike)}: parts side by side share two nodes, so one reading serves them." if alike else ""
            )
            if rest or note:
                yield Section(_title(heading, title) if rest else "", self._rows(rest), note=note)

    def _rows(self, indexes: Iterable[int]) -> tuple[Row, ...]:
        return tuple(self.row(k) for k in indexes)

    def _account_rows(self, account: Account) -> tuple[Row, ...]:
        signs = {1: "+", -1: "−"}
        return tuple(
            self.row(self.index[term.wanted.key], signs[term.sign])
            for term in account.terms
            if term.wanted.key in self.index
        )

    def row(self, k: int, sign: str = "") -> Row:
        """The ledger row of one point."""
        target = self.points[k]
        unit = target.unit
        assessed = self.assessment.targets.get(target.key)
        nominal, measured = self._calculated(target, assessed)
        label, place, parts = self._names(target)
        sealed = SEALED if self.run.sealed and assessed is None else ""
        return Row(
            point=k,
            label=label,
            place=place,
            nominal=self._stated(target) if target.of is not None else sealed or _calculated_text(nominal, unit),
            measured="" if target.of is not None else sealed or _calculated_text(measured, unit),
            read=_read_text(assessed, unit, self.run) if assessed else "",
            trials=_trials(assessed.measurement, unit) if assessed else "",
            error=self._error(assessed),
            mark=mark(assessed.comparison.verdict, assessed.comparison.reason) if assessed else mark("unread"),
            lights=" ".join(self.part_ids[name] for name in parts if name in self.part_ids),
            current=k == self.chosen,
            sign=sign,
            struck=tuple(self.struck.get(target.key, ())),
        )

    def expected(self, target: Target) -> float | None:
        """The value to expect at a target, in SI units."""
        nominal, measured = self._calculated(target, self.assessment.targets.get(target.key))
        by_basis = {NOMINAL: nominal.value, MEASURED: measured.value}
        first, second = basis_order(self.run.judge.against)
        return by_basis[first] if by_basis[first] is not None else by_basis[second]

    def _calculated(self, target: Target, assessed: TargetAssessment | None) -> tuple[Calculated, Calculated]:
        if assessed:
            return assessed.comparison.nominal, assessed.comparison.measured
        return self.assessment.asked.get(target.key, (Calculated(), Calculated()))

    def _stated(self, target: Target) -> str:
        part = self.run.parts.get(target.of or "")
        return as_read(part.nominal, target.unit) if part and part.nominal else ""

    def _names(self, target: Target) -> tuple[str, str, list[str]]:
        """Label, place and the parts concerned."""
        if target.of is not None:
            tolerance = self.run.parts[target.of].tolerance if target.of in self.run.parts else None
            label = "Touched leads" if target.of == LEADS else target.of
            return label, f"± {tolerance.value:f} %" if tolerance else "", [target.of]
        if target.through is not None:
            return target.through, "current", [target.through]
        red, black = target.across or ("", "")
        parts = [
            n for n, leads in self.run.setups[target.setup or ""].connections.items() if set(leads) == {red, black}
        ]
        if target.quantity == RESISTANCE:
            return "Total", f"{red} to {black}", []
        resistors = [name for name in parts if not self.run.parts[name].kind.is_source]
        sources = [name for name in parts if name not in resistors]
        label = " ∥ ".join(resistors) if resistors else f"{sources[0]} under load" if sources else f"{red} to {black}"
        return label, f"{red} to {black}", parts

    def _error(self, assessed: TargetAssessment | None) -> str:
        if assessed is None:
            return ""
        comparison = assessed.comparison
        first, second = basis_order(self.run.judge.against)
        if assessed.measurement.target.of is not None:
            first = second = NOMINAL
        value = comparison.percent_error[first]
        value = comparison.percent_error[second] if value is None else value
        return "" if value is None else signed_percent(value)


def shown(reading: Reading) -> str:
    """A reading with the digits that were typed."""
    return as_read(reading.value, reading.target.unit)


def _read_text(assessed: TargetAssessment, unit: str, run: Run) -> str:
    """A single reading with its own digits, as it was typed; else the mean."""
    measurement = assessed.measurement
    if measurement.count != 1:
        return mean_text(measurement, unit)
    return shown(next(run.readings[k] for k in measurement.indexes if not run.readings[k].value.over_range))


def _trials(measurement: Measurement, unit: str) -> str:
    """How many readings the mean is of, and their spread."""
    if measurement.deviation is None:
        return ""
    spread = engineering(measurement.deviation, measurement.resolution / 10, unit)
    return f"mean of {measurement.count}, s {spread}"


def _calculated_text(calculated: Calculated, unit: str) -> str:
    if calculated.open:
        return "open"
    if calculated.value is None:
        return "–"
    if calculated.zero:
        return f"0 {unit}"
    return rounded(calculated.value, expanded(calculated.uncertainty), unit)


def _title(heading: str, text: str) -> str:
    """A section's title behind its setup's name, or alone with a capital."""
    return f"{heading}{text}" if heading else f"{text[:1].upper()}{text[1:]}"


def _account_name(account: Account) -> str:
    return f"Node {account.at}" if account.at is not None else f"Loop {' · '.join(account.around)}"


def account_in_setup(account: Account, run: Run) -> str:
    """An account's name, with its setup where there are several."""
    return _title(f"{account.setup}: " if len(run.setups) > 1 else "", _account_name(account))


def _closing(account: Account) -> Closing:
    unit = UNITS[account.law]
    names = ("rises", "drops") if account.law == VOLTAGE else ("in", "out")
    if account.rises is None or account.drops is None or account.residual is None:
        return Closing((), "", mark(account.verdict, account.reason))
    digits = account.uncertainty or None
    sums = ((names[0], rounded(account.rises, digits, unit)), (names[1], rounded(account.drops, digits, unit)))
    return Closing(sums, rounded(account.residual, digits, unit), mark(account.verdict, account.reason))
