"""The ledger's rows, gathered into sections: parts, totals, an account for each loop and node."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from recensor.core import plan
from recensor.core.circuit import NOMINAL, Setup, Sheet, Target, slug
from recensor.core.figures import as_read, engineering, how_far, rounded, sum_figures
from recensor.core.judgement import (
    Account,
    AccountVerdict,
    Assessment,
    Calculated,
    Judged,
    Measurement,
    PartVerdict,
    TargetAssessment,
)
from recensor.core.plan import Stage
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from recensor.core.record import Reading, Run
from recensor.core.standing import Standing
from recensor.core.uncertainty import expanded
from recensor.ledger.marks import UNREAD, Mark, mark
from recensor.ledger.means import mean_text

# What stands in place of a calculated value until its point has been read.
SEALED = "sealed"

_SIGNS = {1: "+", -1: "−"}


@dataclass(frozen=True)
class Row:
    """One measurement of the ledger, by its `address` and whole `name`. `sign` is its sign in the account it stands in.

    `earlier` was read before what stands, or beside it; `own` was worked out by hand, with how that stands against the
    calculation.
    """

    address: str
    name: str
    label: str
    place: str
    nominal: str
    measured: str
    read: str
    trials: str
    error: str
    mark: Mark
    lights: str
    sign: str = ""
    struck: tuple[str, ...] = ()
    earlier: tuple[str, ...] = ()
    own: tuple[str, Mark] | None = None


@dataclass(frozen=True)
class Closing:
    """The foot of an account."""

    sums: tuple[tuple[str, str], ...]
    residual: str
    mark: Mark

    @property
    def says_why(self) -> bool:
        """Whether its reason stands below it: wherever it does not plainly balance."""
        return self.mark.word not in (AccountVerdict.BALANCES.value, AccountVerdict.NEEDS_READINGS.value)


@dataclass(frozen=True)
class LedgerSection:
    """An account, or a group of points that belong together, in a `setup` or out of every circuit.

    `number` tells it from every other section of its run.
    """

    title: str
    rows: tuple[Row, ...]
    closing: Closing | None = None
    note: str = ""
    setup: str = ""
    number: int = 0


@dataclass(frozen=True)
class _Entries:
    """A section before its rows are made: the places of its points with their signs, and the account that it is."""

    title: str
    places: Sequence[tuple[int, str]]
    account: Account | None = None
    note: str = ""
    setup: str = ""


def _group(title: str, places: Sequence[int], note: str = "") -> _Entries:
    return _Entries(title, [(k, "") for k in places], note=note)


# What is said of readings that do not stand.
_NOT_STANDING = {Standing.EARLIER: "before", Standing.CONFIRMS: "also", Standing.BESIDE: "other meter"}


class Rows:
    """Makes rows and gathers them into sections."""

    def __init__(self, run: Run, points: Sequence[Target], assessment: Assessment, present: str = "") -> None:
        self.run = run
        self.present = present
        self.sheet = run.sheet
        self.points = points
        self.assessment = assessment
        self.index: dict[Target, int] = {target.key: k for k, target in enumerate(points)}
        self.part_ids = {name: f"part-{k}" for k, name in enumerate(run.sheet.parts)}
        self.struck: dict[Target, list[str]] = {}
        self.earlier: dict[Target, list[str]] = {}
        for reading, standing in zip(run.readings, assessment.against.measurements.standings, strict=True):
            if reading.struck:
                self.struck.setdefault(reading.target.key, []).append(shown(reading))
            elif words := _NOT_STANDING.get(standing):
                self.earlier.setdefault(reading.target.key, []).append(f"{words} {shown(reading)}")
        self._made: dict[int, Row] = {}
        self.own = {claim.claim.target.key: claim for claim in assessment.claims}

    def sections(self) -> Iterable[LedgerSection]:
        """Parts and sources by themselves; then each setup's total, its accounts of loops and nodes, and the rest."""
        return (replace(self._section(entries), number=k) for k, entries in enumerate(self._outline()))

    def section_of(self, target: Target) -> LedgerSection | None:
        """The loop, node or group in which a measurement stands first; None where it is not among the points."""
        here = self.index.get(target.key)
        found = (entries for entries in self._outline() if here in [k for k, _ in entries.places])
        return next((self._section(entries) for entries in found), None)

    def _section(self, entries: "_Entries") -> LedgerSection:
        rows = tuple(self.row(k, sign) for k, sign in entries.places)
        closing = _closing(entries.account) if entries.account is not None else None
        return LedgerSection(entries.title, rows, closing, entries.note, entries.setup)

    def _outline(self) -> Iterable["_Entries"]:
        """What stands in which section, before any row is made."""
        out_of_circuit = [k for k, target in enumerate(self.points) if target.setup is None]
        parts = [k for k in out_of_circuit if plan.stage_of(self.points[k], self.sheet) is Stage.PARTS]
        sources = _group("Source before connecting", [k for k in out_of_circuit if k not in parts])
        yield _group("Parts, each by itself", parts)
        if self.sheet.several:
            yield sources
        for setup in sorted(self.sheet.setups, key=lambda name: name != self.present):
            heading = f"{setup}: " if self.sheet.several else ""
            here = {stage: self._at(stage, setup) for stage in Stage}
            yield replace(_group(_title(heading, "total resistance"), here[Stage.BUILD]), setup=setup)
            if not heading:
                yield sources
            yield replace(_group(_title(heading, "source before connecting"), here[Stage.SOURCE]), setup=setup)
            yield from (replace(entries, setup=setup) for entries in self._accounts(setup, heading, here))

    def _at(self, stage: Stage, setup: str) -> list[int]:
        return [
            k
            for k, target in enumerate(self.points)
            if target.setup == setup and plan.stage_of(target, self.sheet) is stage
        ]

    def _accounts(self, setup: str, heading: str, here: Mapping[Stage, Sequence[int]]) -> Iterable["_Entries"]:
        """One section for each loop and node of a setup, and the readings that stand in none."""
        for law, stage, title in ((VOLTAGE, Stage.VOLTS, "voltages"), (CURRENT, Stage.AMPS, "currents")):
            used: set[int] = set()
            alike = []
            for account in self.assessment.laws:
                if account.law is not law or account.setup != setup:
                    continue
                terms = [(self.index[t.wanted.key], t.sign) for t in account.terms if t.wanted.key in self.index]
                places = {k for k, _ in terms}
                if len(places) > 1:
                    used |= places
                    name = f"{heading}{_account_name(account)}"
                    yield _Entries(name, [(k, _SIGNS[sign]) for k, sign in terms], account)
                elif _is_bank(account, self.sheet.setups[setup]) and (places or not heading):
                    alike.append(_account_name(account))
            rest = [k for k in here[stage] if k not in used]
            note = (
                f"{', '.join(alike)}: parts side by side share two nodes, so one reading serves them." if alike else ""
            )
            if rest or note:
                yield _group(_title(heading, title) if rest else "", rest, note)

    def row_of(self, target: Target) -> Row:
        """The ledger row of a measurement, which must be one of the points."""
        return self.row(self.index[target.key])

    def stands_alone(self, index: int) -> bool:
        """Whether the reading at this place of the run is all that its measurement comes to."""
        assessed = self.assessment.of(self.run.readings[index].target)
        return assessed is not None and assessed.measurement.indexes == (index,)

    def mark_of_reading(self, index: int) -> Mark:
        """How the reading at this place of the run stands by itself, whatever its measurement comes to."""
        if self.stands_alone(index):
            return self.row_of(self.run.readings[index].target).mark
        return next((_mark(reading.judged) for reading in self.assessment.readings if reading.index == index), UNREAD)

    def row(self, k: int, sign: str = "") -> Row:
        """The ledger row of one point."""
        if k not in self._made:
            self._made[k] = self._row(k)
        return replace(self._made[k], sign=sign) if sign else self._made[k]

    def _row(self, k: int) -> Row:
        target = self.points[k]
        unit, alone = target.unit, not target.in_circuit
        assessed = self.assessment.of(target)
        nominal, measured = self._calculated(target, assessed)
        label, place, parts = self._names(target)
        if (said := self.sheet.handout.get(target.key)) and said.label:
            label = f"{said.label}: {label}"
        sealed = SEALED if self.sheet.sealed and assessed is None else ""
        return Row(
            address=slug(target),
            name=plan.title_in_setup(target, self.sheet),
            label=label,
            place=place,
            nominal=self._stated(target) if alone else sealed or _calculated_text(nominal, unit),
            measured="" if alone else sealed or _calculated_text(measured, unit),
            read=_read_text(assessed, unit, self.run) if assessed else "",
            trials=_trials(assessed.measurement, unit) if assessed else "",
            error=self._error(assessed),
            mark=_mark(assessed.judged) if assessed else UNREAD,
            lights=" ".join(self.part_ids[name] for name in parts if name in self.part_ids),
            struck=tuple(self.struck.get(target.key, ())),
            earlier=tuple(self.earlier.get(target.key, ())),
            own=self._own(target, is_sealed=bool(sealed)),
        )

    def _own(self, target: Target, *, is_sealed: bool) -> tuple[str, Mark] | None:
        """What was worked out by hand; how it stands is said once the point may be seen."""
        claimed = self.own.get(target.key)
        if claimed is None:
            return None
        stands = UNREAD if is_sealed else _mark(claimed.judged)
        return as_read(claimed.claim.value, target.unit), stands

    def _calculated(self, target: Target, assessed: TargetAssessment | None) -> tuple[Calculated, Calculated]:
        if assessed:
            return assessed.judged.nominal, assessed.judged.measured
        return self.assessment.calculations.both(target)

    def _stated(self, target: Target) -> str:
        if not target.is_part_alone:
            return ""
        part = self.sheet.parts[target.part]
        if not part.kind.same_out_of_circuit:
            return as_read(part.cold, target.unit) if part.cold else ""
        stated = self.sheet.alone(target.part, target.setup)
        return as_read(stated, target.unit) if stated else part.doubtful

    def _names(self, target: Target) -> tuple[str, str, list[str]]:
        """Label, place and the parts concerned."""
        if target.is_leads:
            return "Touched leads", "", []
        if target.is_part_alone:
            tolerance = self.sheet.parts[target.part].tolerance
            return plan.called(target.part, self.sheet), f"± {tolerance.value:f} %" if tolerance else "", [target.part]
        if target.is_through:
            return (
                plan.called(target.part, self.sheet),
                f"current, at {target.at}" if target.at else "current",
                [target.part],
            )
        place = f"{target.red} to {target.black}"
        parts = self.sheet.setups[target.setup].across(*target.nodes)
        if target.measurand is RESISTANCE:
            is_total = any(self.sheet.parts[name].kind.is_source for name in parts)
            return ("Total", place, []) if is_total else (place, "resistance", [])
        if target.at:
            return target.at, "by itself", [target.at]
        label = self._label(parts, place)
        return label, "" if label == place else place, parts

    def _label(self, parts: Sequence[str], place: str) -> str:
        """The parts that lie across two nodes."""
        passive = [name for name in parts if not self.sheet.parts[name].kind.is_source]
        if passive:
            return " ∥ ".join(plan.called(name, self.sheet) for name in passive)
        return f"{parts[0]} under load" if parts else place

    def _error(self, assessed: TargetAssessment | None) -> str:
        if assessed is None:
            return ""
        errors, basis = assessed.judged.percent_error, self.sheet.judge.against
        if not assessed.measurement.target.in_circuit:
            basis = NOMINAL
        value = errors[basis] if errors[basis] is not None else errors[basis.other]
        return "" if value is None else how_far(value).removesuffix(" from")


def _mark(judged: Judged) -> Mark:
    if judged.verdict in (PartVerdict.NO_TOLERANCE, PartVerdict.NO_NOMINAL):
        return Mark(judged.outcome, "", judged.reason)  # nothing to be held against is no verdict
    return Mark(judged.outcome, judged.verdict.value, judged.reason)


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
    """How many readings the mean is of, and their spread; and what a reading makes without the meter's leads."""
    texts = []
    if measurement.deviation is not None:
        texts.append(
            f"mean of {measurement.count}, s {engineering(measurement.deviation, measurement.resolution / 10, unit)}"
        )
    if measurement.leads and measurement.count == 1:
        texts.append(f"without leads {mean_text(measurement, unit)}")
    elif measurement.leads:
        texts.append("without leads")
    return ", ".join(texts)


def _calculated_text(calculated: Calculated, unit: str) -> str:
    if calculated.open:
        return "open"
    if calculated.value is None:
        return "–"
    if calculated.zero:
        return f"0 {unit}"
    return rounded(calculated.value, expanded(calculated.standard), unit)


def _is_bank(account: Account, setup: Setup) -> bool:
    """Whether the parts of an account lie side by side, so that one reading serves them all."""
    around = account.around if account.at is None else ()
    return len({frozenset(setup.connections[name]) for name in around}) == 1


def _title(heading: str, text: str) -> str:
    """A section's title behind its setup's name, or alone with a capital."""
    return f"{heading}{text}" if heading else f"{text[:1].upper()}{text[1:]}"


def _account_name(account: Account) -> str:
    return f"Node {account.at}" if account.at is not None else f"Loop {' · '.join(account.around)}"


def account_in_setup(account: Account, sheet: Sheet) -> str:
    """An account's name, with its setup where there are several."""
    return _title(f"{account.setup}: " if sheet.several else "", _account_name(account))


def _closing(account: Account) -> Closing:
    names = ("rises", "drops") if account.law is VOLTAGE else ("in", "out")
    if account.rises is None or account.drops is None or account.residual is None:
        return Closing((), "", mark(account.verdict, account.reason))
    shown = sum_figures(account.rises, account.drops, account.expanded or 0.0, account.law.unit)
    sums = ((names[0], shown.rises), (names[1], shown.drops))
    return Closing(sums, shown.left, mark(account.verdict, account.reason))
