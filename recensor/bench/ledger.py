"""The bench page as a view model: ledger, stations and the next reading, from a judged run."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.utils import timezone

from recensor.bench.marks import OUTSIDE, UNDECIDED, Mark, mark
from recensor.core import plan, safety
from recensor.core.circuit import Part
from recensor.core.judgement import Account, Assessment, TargetAssessment
from recensor.core.judgement.calculated import Calculated, basis_order
from recensor.core.judgement.measurements import Measurement
from recensor.core.meter import USUAL_COUNTS, displayed_limits
from recensor.core.plan import Instruction, Station
from recensor.core.quantity import (
    AMPERE,
    OHM,
    VOLT,
    WATT,
    as_read,
    engineering,
    fraction,
    prefixed_unit,
    rounded,
    signed_percent,
)
from recensor.core.record import CURRENT, LEADS, MEASURED, NOMINAL, RESISTANCE, UNITS, VOLTAGE, Reading, Run, Target
from recensor.core.uncertainty import expanded
from recensor.drawing.resistor import BandedResistor
from recensor.library.bands import resistor_of

UNIT_CHOICES = {OHM: ("Ω", "kΩ", "MΩ"), VOLT: ("mV", "V"), AMPERE: ("µA", "mA", "A")}

_CAUTIONS = {
    safety.Caution.NONE: "",
    safety.Caution.WARNING: f"This circuit reaches more than {safety.WARNING_ABOVE:.0f} V DC. "
    "Connect it with the supply off, and keep off bare leads while it is on.",
    safety.Caution.PAPER_ONLY: f"This circuit reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: for paper only.",
}


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


@dataclass(frozen=True)
class Stop:
    """A station in the strip: done, now or to do."""

    name: str
    power: str
    state: str


@dataclass(frozen=True)
class Entry:
    """One reading of a point as the page lists it."""

    index: int
    text: str
    when: str
    by: str
    struck: str = ""


@dataclass(frozen=True)
class Next:
    """The reading to take now."""

    point: int
    instruction: Instruction
    expected: str
    unit: str
    units: tuple[str, ...]
    entries: tuple[Entry, ...]
    mark: Mark
    before: int | None
    after: int | None
    others: tuple[tuple[int, str], ...]
    resistor: BandedResistor | None


@dataclass(frozen=True)
class Bench:
    """Everything that the bench page shows beside the drawing."""

    sections: tuple[Section, ...]
    stations: tuple[Stop, ...]
    next: Next | None
    read: int
    asked: int
    checks: tuple[tuple[str, Mark], ...]
    books: Mark
    misfits: tuple[tuple[int | None, str], ...]
    warnings: tuple[str, ...]
    cautions: tuple[str, ...]
    powers: tuple[tuple[str, Mark], ...]
    recorded: Row | None


def next_point(points: Sequence[Target], assessment: Assessment, after: int = -1) -> int | None:
    """The first point without a reading, looking on from `after` and then from the start."""
    unread = [k for k, target in enumerate(points) if target.key not in assessment.targets]
    return next((k for k in unread if k > after), unread[0] if unread else None)


def books(run: Run, points: Sequence[Target], assessment: Assessment) -> Mark:
    """The state of the run's books in one mark."""
    unread = sum(target.key not in assessment.targets for target in points)
    verdicts = [target.comparison.verdict for target in assessment.targets.values()]
    out = [account for account in assessment.laws if account.verdict == "out"]
    outside = sum(mark(verdict).kind == OUTSIDE for verdict in verdicts)
    if out:
        names = ", ".join(_account_name(account) for account in out)
        return mark("out", f"{names} {'is' if len(out) == 1 else 'are'} out")
    if outside:
        return mark("outside", f"{outside} of {len(verdicts)} outside")
    if unread:
        return mark("unread", f"{len(points) - unread} of {len(points)} read")
    if any(mark(verdict).kind == UNDECIDED for verdict in verdicts):
        return mark("undecided", "too coarse to decide")
    return mark("balances", "everything agrees" if not assessment.laws else "the books balance")


def build(
    run: Run, points: Sequence[Target], assessment: Assessment, chosen: int | None, recorded: int | None = None
) -> Bench:
    """Lay the whole page out; `chosen` is the point to read next, None when all is read; `recorded` was just read."""
    rows = _Rows(run, points, assessment, chosen)
    powers = safety.dissipations(run)
    read = sum(target.key in assessment.targets for target in points)
    return Bench(
        sections=tuple(rows.sections()),
        stations=tuple(_stations(run, points, assessment, chosen)),
        next=_next(run, points, assessment, chosen, rows) if chosen is not None else None,
        read=read,
        asked=len(points),
        checks=tuple((c.reason, mark("holds" if c.holds else "fails", c.rule)) for c in assessment.sanity),
        books=books(run, points, assessment),
        misfits=tuple(_misfits(run, points, assessment)),
        warnings=tuple(warning.text for warning in assessment.warnings if warning.at.startswith("setups.")),
        cautions=tuple(_cautions(run, powers)),
        powers=tuple(_powers(run, powers)),
        recorded=rows.row(recorded) if recorded is not None else None,
    )


class _Rows:
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
        """Parts, total and source, then an account for each loop and node, then what stands in no account."""
        at = {
            station: [k for k, t in enumerate(self.points) if plan.station(t, self.run) is station]
            for station in Station
        }
        yield Section("Parts, each by itself", self._rows(at[Station.PARTS]))
        yield Section("Total resistance", self._rows(at[Station.BUILD]))
        yield Section("Source before connecting", self._rows(at[Station.SOURCE]))
        for law, station, title in ((VOLTAGE, Station.VOLTS, "Voltages"), (CURRENT, Station.AMPS, "Currents")):
            used: set[int] = set()
            alike = []
            for account in self.assessment.laws:
                places = {self.index[term.wanted.key] for term in account.terms if term.wanted.key in self.index}
                if account.law == law and len(places) > 1:
                    used |= places
                    yield Section(_account_name(account), self._account_rows(account), _closing(account))
                elif account.law == law:
                    alike.append(_account_name(account))
            rest = [k for k in at[station] if k not in used]
            note = (
                f"{', '.join(alike)}: parts side by side share two nodes, so one reading serves them." if alike else ""
            )
            if rest or note:
                yield Section(title if rest else "", self._rows(rest), note=note)

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
        return Row(
            point=k,
            label=label,
            place=place,
            nominal=_calculated_text(nominal, unit) if target.of is None else self._stated(target),
            measured=_calculated_text(measured, unit) if target.of is None else "",
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
    """A single reading with its own digits; a mean with one digit more."""
    measurement = assessed.measurement
    if measurement.mean is None:
        return "over-range"
    if measurement.count > 1:
        return engineering(measurement.mean, measurement.resolution / 10, unit)
    finite = [run.readings[k] for k in measurement.indexes if not run.readings[k].value.over_range]
    return shown(finite[0])


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


def _account_name(account: Account) -> str:
    return f"Node {account.at}" if account.at is not None else f"Loop {' · '.join(account.around)}"


def _closing(account: Account) -> Closing:
    unit = UNITS[account.law]
    names = ("rises", "drops") if account.law == VOLTAGE else ("in", "out")
    if account.rises is None or account.drops is None or account.residual is None:
        return Closing((), "", mark(account.verdict, account.reason))
    digits = account.uncertainty or None
    sums = ((names[0], rounded(account.rises, digits, unit)), (names[1], rounded(account.drops, digits, unit)))
    return Closing(sums, rounded(account.residual, digits, unit), mark(account.verdict, account.reason))


def _cautions(run: Run, powers: Sequence[safety.Dissipation]) -> Iterable[str]:
    """What to know before power comes on."""
    if said := _CAUTIONS[safety.caution(run)]:
        yield said
    for taken in powers:
        if taken.is_over:
            yield (
                f"{taken.part} takes {rounded(taken.power, None, WATT)}, more than {_rating(taken, run)}: "
                "lower the supply or take a larger part."
            )


def _rating(taken: safety.Dissipation, run: Run) -> str:
    whose = "its" if run.parts[taken.part].rating else "the usual"
    return f"{whose} {rounded(taken.rating, None, WATT)}"


def _powers(run: Run, powers: Sequence[safety.Dissipation]) -> Iterable[tuple[str, Mark]]:
    """What each resistor takes before power comes on, in words."""
    for taken in powers:
        where = f" in {taken.setup}" if len(run.setups) > 1 else ""
        share = f"{taken.power / taken.rating * 100.0:.2g} %"
        text = f"{taken.part}{where}: {rounded(taken.power, None, WATT)}, {share} of {_rating(taken, run)}"
        yield text, mark("over rating" if taken.is_over else "within rating")


def _misfits(run: Run, points: Sequence[Target], assessment: Assessment) -> Iterable[tuple[int | None, str]]:
    """What does not agree, in words; with the point to read again where there is one."""
    for account in assessment.laws:
        if account.verdict == "out":
            yield None, f"{_account_name(account)}: {account.reason}"
    for k, target in enumerate(points):
        assessed = assessment.targets.get(target.key)
        if assessed and mark(assessed.comparison.verdict).kind == OUTSIDE:
            yield k, f"{plan.instruction(target, run).title}: {assessed.comparison.reason}"


def _stations(run: Run, points: Sequence[Target], assessment: Assessment, chosen: int | None) -> Iterable[Stop]:
    """Each station's state; the verdict is open once everything is read."""
    now = plan.station(points[chosen], run) if chosen is not None else Station.VERDICT
    for station in Station:
        here = [target for target in points if plan.station(target, run) is station]
        if not here and station is not Station.VERDICT:
            continue
        done = bool(here) and all(target.key in assessment.targets for target in here)
        yield Stop(station.value, station.power, "now" if station is now else "done" if done else "to do")


def _limits(part: Part | None) -> str:
    """What a usual meter may show of a resistor by itself; empty where value or tolerance is not stated."""
    if part is None or part.kind.is_source or part.nominal is None or part.tolerance is None:
        return ""
    nominal, allowed = float(part.nominal), float(part.nominal) * fraction(part.tolerance)
    return " to ".join(displayed_limits(nominal - allowed, nominal + allowed, USUAL_COUNTS))


def _next(run: Run, points: Sequence[Target], assessment: Assessment, chosen: int, rows: _Rows) -> Next:
    target = points[chosen]
    expected = rows.expected(target)
    row = rows.row(chosen)
    entries = tuple(
        Entry(
            index=k,
            text=shown(reading),
            when=timezone.localtime(reading.time).strftime("%H:%M") if reading.time else "",
            by=reading.by or "",
            struck=reading.struck.reason if reading.struck else "",
        )
        for k, reading in enumerate(run.readings)
        if reading.target.key == target.key
    )
    by_nominal = target.of is not None or run.judge.against == NOMINAL
    return Next(
        point=chosen,
        instruction=plan.instruction(target, run, expected),
        expected=_limits(run.parts.get(target.of or "")) or (row.nominal if by_nominal else row.measured),
        unit=prefixed_unit(expected or 0.0, target.unit),
        units=UNIT_CHOICES[target.unit],
        entries=entries,
        mark=row.mark,
        resistor=resistor_of(run.parts.get(target.of or "")),
        before=chosen - 1 if chosen > 0 else None,
        after=chosen + 1 if chosen + 1 < len(points) else None,
        others=tuple(
            (k, plan.instruction(other, run).title)
            for k, other in enumerate(points)
            if k != chosen and other.quantity == target.quantity and other.of != LEADS
        ) if entries else (),
    )  # fmt: skip
