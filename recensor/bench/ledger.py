"""The bench page as a view model: ledger, stations and the next reading, from a judged run."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.utils import timezone

from recensor.bench.comparison import Comparison, side_by_side
from recensor.bench.ledger_rows import Row, Rows, Section, account_in_setup, shown
from recensor.bench.marks import OUTSIDE, UNDECIDED, Mark, mark
from recensor.core import plan, safety
from recensor.core.circuit import Part
from recensor.core.judgement import Assessment
from recensor.core.meter import USUAL_COUNTS, displayed_limits
from recensor.core.plan import Instruction, Station
from recensor.core.quantity import (
    AMPERE,
    OHM,
    VOLT,
    WATT,
    fraction,
    prefixed_unit,
    rounded,
)
from recensor.core.record import LEADS, NOMINAL, Run, Target
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
    comparison: Comparison | None


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
        names = ", ".join(account_in_setup(account, run) for account in out)
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
    rows = Rows(run, points, assessment, chosen)
    powers = safety.dissipations(run)
    read = sum(target.key in assessment.targets for target in points)
    return Bench(
        sections=tuple(section for section in rows.sections() if section.rows or section.note),
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
        comparison=side_by_side(run, points, assessment),
    )


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
            yield None, f"{account_in_setup(account, run)}: {account.reason}"
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


def _next(run: Run, points: Sequence[Target], assessment: Assessment, chosen: int, rows: Rows) -> Next:
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
