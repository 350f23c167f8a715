"""What a report says: a judged run in sections, for the page, the PDF and the command line alike."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from django.template.loader import render_to_string

from recensor import __version__
from recensor.core import plan
from recensor.core.boards import compare
from recensor.core.circuit import NOMINAL, Setup, Sheet
from recensor.core.faults import anything_outside, explain
from recensor.core.figures import as_read, plainly, rounded
from recensor.core.judgement import Assessment, assess, values_of
from recensor.core.meters import ORDINARY_HANDHELD, Profile
from recensor.core.record import Happening, Reading, Run, Signature, SignedAs
from recensor.drawing.board import board_view
from recensor.drawing.conventions import Conventions
from recensor.drawing.deviations import Deviations
from recensor.drawing.plot import Plot
from recensor.drawing.resistor import bands_of
from recensor.drawing.worked import Worked, worked
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum, printed
from recensor.formats.documents.kept_assessment import ChangedVerdict, KeptCause
from recensor.ledger import Ledger, books, shown
from recensor.ledger.budget_table import chart
from recensor.ledger.causes import describe_causes, percent_of
from recensor.ledger.marks import Mark, mark
from recensor.ledger.sweeps import LineView, line_views, together
from recensor.reports.starters import left_as_suggested, starters
from recensor.runs import queries
from recensor.runs.queries import RunSnapshot
from recensor.web.drawings import of_setup


class ReportSection(StrEnum):
    """What a report can have in it, in its order; each by the words that choose it."""

    PARTS = "parts"
    INSTRUMENTS = "instruments"
    CIRCUIT = "circuit"
    BOARD = "board"
    DATA = "data and accounts"
    LINES = "lines"
    WORKED = "worked calculation"
    RESULTS = "worked results"
    CHART = "deviations"
    CAUSES = "causes"
    STRUCK = "struck and replaced"
    PHOTOS = "photos"
    NOTES = "notes"
    CONCLUSION = "conclusion"
    HISTORY = "history"
    SIGNATURES = "signatures"


FULL = frozenset(ReportSection)
ONE_PAGE = frozenset((ReportSection.CIRCUIT, ReportSection.DATA, ReportSection.CONCLUSION, ReportSection.SIGNATURES))


@dataclass(frozen=True)
class Pictured:
    """A photo of a reading: what was read, where a page finds the picture, and the picture's sum."""

    title: str
    address: str
    sum: str


@dataclass(frozen=True)
class AsSigned:
    """How a run was judged when it was signed, by which rules, and what today's rules say otherwise of."""

    assessment: Assessment
    rules: str
    causes: tuple[KeptCause, ...]
    changed: tuple[ChangedVerdict, ...]


@dataclass(frozen=True)
class ReportHead:
    """What a report says that no run document has: the aim, who performed it, pictures, and how it was judged."""

    aim: str = ""
    performer: str = ""
    photos: tuple[Pictured, ...] = ()
    as_signed: AsSigned | None = None


# Of a run out of a document nothing more is known.
NOTHING_BESIDE = ReportHead()


@dataclass(frozen=True)
class ReportPart:
    """One part: what it is, what stands on it, what it was read to be."""

    name: str
    kind: str
    bands: str
    nominal: str
    tolerance: str
    measured: str
    mark: Mark


@dataclass(frozen=True)
class UsedMeter:
    """A meter that readings were taken with: its ranges in use with their accuracies, and how it was `found` to be."""

    name: str
    number: str
    calibrated: str
    ranges: tuple[str, ...]
    found: str = ""


@dataclass(frozen=True)
class DrawnSetup:
    """A setup as it is drawn, as it stands on a board, and worked out."""

    setup: str
    schematic: str
    board: str
    worked: Worked | None


@dataclass(frozen=True)
class StruckReading:
    """A reading that was struck, with why, and what stands in its place."""

    title: str
    text: str
    reason: str
    by: str
    instead: str


@dataclass(frozen=True)
class ReportCause:
    """What would explain it: its text, and its share of all that was weighed."""

    text: str
    share: str


@dataclass(frozen=True)
class Report:
    """Everything that a report says; sections that were not chosen, or have nothing to say, are empty."""

    title: str
    about: ReportHead
    begun: datetime | None
    ended: datetime | None
    state: Mark
    simulated: bool
    is_sealed: bool
    chosen: frozenset[ReportSection]
    parts: tuple[ReportPart, ...]
    meters: tuple[UsedMeter, ...]
    drawn: tuple[DrawnSetup, ...]
    ledger: Ledger
    against: str
    lines: tuple[LineView, ...]
    together: Plot | None
    chart: Deviations | None
    causes: tuple[ReportCause, ...]
    seeks_causes: bool
    struck: tuple[StruckReading, ...]
    photos: tuple[Pictured, ...]
    notes: str
    conclusion: str
    suggested: tuple[str, ...]
    history: tuple[Happening, ...]
    signed: tuple[Signature, ...]
    checksum: str
    changed: tuple[ChangedVerdict, ...]
    rules: str
    version: str = __version__

    @property
    def is_short(self) -> bool:
        """Whether it is the form of one page."""
        return self.chosen == ONE_PAGE

    @property
    def unsigned(self) -> list[SignedAs]:
        """As what nobody has signed yet: a line on paper stands for each."""
        return [
            signed_as for signed_as in SignedAs if signed_as not in {signature.signed_as for signature in self.signed}
        ]

    def has(self, section: str) -> bool:
        """Whether a section was chosen."""
        return section in self.chosen


def loaded_from(run: Run) -> RunSnapshot:
    """A run out of a document, as pages take it, judged."""
    return RunSnapshot(tuple(range(len(run.readings))), run, queries.points(run), assessment=assess(run))


def report(
    loaded: RunSnapshot,
    conventions: Conventions,
    about: ReportHead = NOTHING_BESIDE,
    chosen: Collection[ReportSection] = FULL,
    *,
    causes_later: bool = False,
) -> Report:
    """Write a run's report. While a run is sealed it says nothing that was calculated.

    A page asks for the causes by itself later: what would explain a misfit takes longer than all else.
    """
    run, wanted = loaded.core, frozenset(chosen)
    assessment = loaded.judged()
    times = [reading.time for reading in run.readings if reading.time]
    sealed = loaded.is_sealed
    tells = (
        wanted
        if not sealed
        else wanted - {ReportSection.WORKED, ReportSection.RESULTS, ReportSection.CHART, ReportSection.CAUSES}
    )
    suggested = [] if sealed or not run.conclusion else left_as_suggested(run.conclusion, starters(loaded))
    return Report(
        title=run.sheet.title or "Run",
        about=replace(about, performer=about.performer or _performers(run)),
        begun=min(times, default=None),
        ended=max(times, default=None),
        state=books(run, loaded.points, assessment),
        simulated=run.simulated,
        is_sealed=sealed,
        chosen=tells,
        parts=tuple(_parts(run.sheet, assessment)) if ReportSection.PARTS in tells else (),
        meters=tuple(_meters(run)) if ReportSection.INSTRUMENTS in tells else (),
        drawn=tuple(_drawn(assessment, setup, conventions, tells) for setup in run.sheet.setups.values()),
        ledger=Ledger(run, loaded.points, assessment),
        against=_against(run, assessment),
        lines=tuple(line_views(assessment, None, conventions, is_sealed=loaded.is_sealed))
        if ReportSection.LINES in tells
        else (),
        together=together(assessment, conventions) if ReportSection.LINES in tells else None,
        chart=chart(assessment) if ReportSection.CHART in tells else None,
        causes=causes(loaded, about.as_signed) if ReportSection.CAUSES in tells and not causes_later else (),
        seeks_causes=causes_later and ReportSection.CAUSES in tells and anything_outside(assessment),
        changed=about.as_signed.changed if about.as_signed else (),
        struck=tuple(_struck(run)) if ReportSection.STRUCK in tells else (),
        photos=about.photos if ReportSection.PHOTOS in tells else (),
        notes=run.notes,
        conclusion=run.conclusion,
        suggested=tuple(suggested),
        history=run.history if ReportSection.HISTORY in tells else (),
        signed=run.signed,
        checksum=printed(checksum(run_document.to_tree(run))),
        rules=about.as_signed.rules if about.as_signed else __version__,
    )


def causes(loaded: RunSnapshot, as_signed: AsSigned | None = None) -> tuple[ReportCause, ...]:
    """What would explain what does not fit, as it was signed; nothing is looked for where everything does."""
    if as_signed is not None:
        return tuple(ReportCause(cause.text, percent_of(cause.score)) for cause in as_signed.causes)
    assessment = loaded.judged()
    if not anything_outside(assessment):
        return ()
    described = describe_causes(loaded.core, explain(assessment), is_sealed=loaded.is_sealed)
    return tuple(ReportCause(cause.text, cause.share) for cause in described.causes)


def _performers(run: Run) -> str:
    return ", ".join(dict.fromkeys(reading.by for reading in run.readings if reading.by))


def _parts(sheet: Sheet, assessment: Assessment) -> Iterator[ReportPart]:
    for name, assessed in assessment.parts.items():
        part = sheet.parts[name]
        unit = part.kind.measured_as.unit
        bands = " ".join(colour.name.lower() for colour in bands_of(part)) if part.kind.has_bands else ""
        yield ReportPart(
            name,
            part.kind.word,
            bands,
            as_read(part.nominal, part.kind.unit) if part.nominal else "not marked",
            f"± {part.tolerance.value:f} %" if part.tolerance and part.tolerance.value is not None else "",
            "" if assessed.measured is None else rounded(assessed.measured, None, unit),
            mark(assessed.verdict, assessed.reason),
        )


def _meters(run: Run) -> Iterator[UsedMeter]:
    """Every meter with the ranges that readings were taken in, in their order."""
    used: dict[str, tuple[Profile, dict[str, None]]] = {}
    for reading in run.readings:
        profile = run.profile_of(reading) or ORDINARY_HANDHELD
        name = reading.meter or (next(iter(run.meters)) if len(run.meters) == 1 else profile.name)
        ranges = used.setdefault(name, (profile, {}))[1]
        if reading.value.value is not None:
            ranges[_range(profile, reading)] = None
    for name, (profile, ranges) in used.items():
        instrument = profile.instrument
        found = ", ".join(profile.found.words())
        yield UsedMeter(name, instrument.number or "", instrument.calibrated or "", tuple(ranges), found)


def _range(profile: Profile, reading: Reading) -> str:
    """The range of a reading with its accuracy, as a meter's sheet has it."""
    measurand, unit = reading.target.measurand, reading.target.unit
    digit, named = float(reading.value.resolution or 0), float(reading.range) if reading.range else None
    found = profile.range_for(measurand, float(reading.value), digit, named)
    accuracy = profile.precision(measurand, float(reading.value), digit, named).accuracy
    where = f"{measurand} {plainly(found.full, unit)}" if found else str(measurand)
    exact = not accuracy.percent and not accuracy.digits
    return f"{where}: {'exact' if exact else f'± ({accuracy.percent:g} % + {accuracy.digits})'}"


def _drawn(
    assessment: Assessment, setup: Setup, conventions: Conventions, tells: Collection[ReportSection]
) -> DrawnSetup:
    run = assessment.against.run
    sheet, built = run.sheet, run.boards.get(setup.name)
    board = ""
    if ReportSection.BOARD in tells and built and built.placements:
        view = board_view(built, sheet.parts, compare(sheet, setup, built).nodes, whole=False)
        board = render_to_string("drawing/board.svg", {"board": view})
    calculation = None
    if ReportSection.WORKED in tells or ReportSection.RESULTS in tells:
        values = values_of(sheet, setup, assessment.against.measurements, sheet.judge.against)
        calculation = worked(sheet, setup, values.known, "", conventions)
    schematic = of_setup(sheet, setup, conventions) if ReportSection.CIRCUIT in tells else ""
    return DrawnSetup(setup.name if sheet.several else "", schematic, board, calculation)


def _against(run: Run, assessment: Assessment) -> str:
    """What the calculated values start from, in a word: nominal ones, too, where nothing was read that they could."""
    read = any(target.is_part_alone for target in assessment.targets)
    return run.sheet.judge.against.value if read else NOMINAL.value


def _struck(run: Run) -> Iterator[StruckReading]:
    instead = {reading.instead_of: shown(reading) for reading in run.readings if reading.instead_of is not None}
    for k, reading in enumerate(run.readings):
        if reading.struck:
            yield StruckReading(plan.title(reading.target, run.sheet), shown(reading), reading.struck.reason,
                                reading.struck.by or "", instead.get(k, ""))  # fmt: skip
