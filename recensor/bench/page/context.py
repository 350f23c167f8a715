"""The bench page: one builder of everything that its templates show."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property

from recensor.bench.forms import LineTableForm, OwnValueForm, ReadingForm
from recensor.bench.page import drawing
from recensor.bench.page.answer import AnswerLine, answer_about, answer_to
from recensor.bench.page.card import NextReading, PastReading, history, next_reading
from recensor.bench.page.disagreements import OpenDisagreement, disagreements
from recensor.bench.page.drawing import Drawing
from recensor.bench.page.ending import Ending, ending
from recensor.bench.page.head import Head, head
from recensor.bench.page.lights import Lit, lit
from recensor.bench.page.nothing_shown import NothingShown, nothing_shown
from recensor.bench.page.own_value import OwnCalculation, own_calculation
from recensor.bench.page.panes import Pane, Tab, tabs
from recensor.bench.page.parts_in_hand import PartsPane, TypedInPane, parts_pane
from recensor.bench.page.question import Question, question_about, question_of
from recensor.core import entries
from recensor.core.circuit import TableMeters, Target, slug
from recensor.core.entries import TypedChange
from recensor.core.faults import anything_outside
from recensor.core.judgement import Assessment, assess
from recensor.core.plan import (
    Bench,
    Order,
    State,
    before_power,
    in_a_sentence,
    in_order,
    sources_to_read_again,
    title_in_setup,
)
from recensor.core.quantity import Measurand
from recensor.drawing.plot import Plot
from recensor.experiments.queries import content_of
from recensor.ledger import Ledger, LedgerSection, books
from recensor.ledger import shown as shown_reading
from recensor.ledger.stages import StageSign, next_point, stages, unread
from recensor.ledger.sweeps import LineView, line_views, together
from recensor.people.models import User
from recensor.people.requests import SignedIn
from recensor.runs import queries
from recensor.runs.bench_state import bench_of, proved, state_of, was_on
from recensor.runs.models import DrawnPart, RunRow
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.record import Recorded
from recensor.web.forms import new_key


@dataclass(frozen=True)
class BenchState:
    """Where a person stands at the bench: what is read next, what was just recorded, done or refused.

    `came` is what came of the entry that was just recorded, `answered` the reading that a question was answered about.
    `looks_back` says that what was read here before is to be seen, `left_out` that something was left out just now.
    `sought` is what was typed for where the probes go; `proposed` the change of the circuit that it means instead.
    `pane` is opened by what was done, with what was typed `in_pane`; as the page has it where that is None. `drew` says
    that parts came out of a kit just now.
    """

    chosen: Target | None = None
    recorded: Target | None = None
    came: Recorded | None = None
    answered: int | None = None
    correcting: int | None = None
    looks_back: bool = False
    left_out: bool = False
    form: ReadingForm | None = None
    own_form: OwnValueForm | None = None
    message: str = ""
    done: str = ""
    sought: str = ""
    sought_refused: str = ""
    proposed: TypedChange | None = None
    pane: Pane | None = None
    in_pane: TypedInPane = field(default_factory=TypedInPane)
    table_form: LineTableForm | None = None
    drew: bool = False

    @classmethod
    def after(cls, came: Recorded, target: Target) -> "BenchState":
        """After an entry: on to the next measurement, unless it is a look or is asked about."""
        return cls(chosen=target if came.entered.stays else None, recorded=target, came=came)


@dataclass(frozen=True)
class BenchView:
    """All that the bench page shows, each part made once: templates read it and decide nothing.

    `card` is what is read now; None once everything is, and then `ending` says what came out. `filled` is the loop,
    node or group in which it stands, `lines` the V–I tables that are shown, several of them also `together` in one
    plot. `picture` is None where the readings stand at the left. `names_cause` says that what would explain the run is
    looked for beside the entry. `held` are the pieces that the page has already, `is_whole` says that it has none, not
    even its menu.
    """

    run: RunRow
    head: Head
    stages: tuple[StageSign, ...]
    card: NextReading | None
    ending: Ending | None
    form: ReadingForm | None
    answer: AnswerLine
    questions: tuple[Question, ...]
    unanswered: int
    own: OwnCalculation | None
    own_form: OwnValueForm | None
    state: BenchState
    lights: tuple[Lit, ...]
    again: tuple[tuple[str, str], ...]
    powered: bool | None
    ledger: Ledger
    filled: LedgerSection | None
    lines: tuple[LineView, ...]
    together: Plot | None
    entries: tuple[PastReading, ...]
    at_levels: int | None
    corrections: tuple[tuple[str, str, str], ...]
    pane: Pane
    tabs: tuple[Tab, ...]
    picture: Drawing | None
    shown: str
    held: frozenset[str]
    key: str
    undoes: str
    names_cause: bool
    drawn: tuple[DrawnPart, ...] | None
    is_whole: bool
    present: str
    speaks: bool
    disagreements: tuple[OpenDisagreement, ...]
    left: int
    is_wanted: bool
    nothing_shown: NothingShown | None
    predicts: bool
    is_predicted: bool
    in_hand: PartsPane | None
    table_form: LineTableForm | None

    shown_choices = drawing.SHOWN
    quantities = tuple(measurand.value for measurand in Measurand)

    @property
    def unfocused(self) -> bool:
        """Whether something else is typed or pressed before the reading."""
        return self.predicts or self.state.proposed is not None

    @property
    def address(self) -> str:
        """The address of what is read now; empty at the end of the run."""
        return self.card.address if self.card else ""


def shown_beside(request: SignedIn) -> str:
    """What the drawing shows beside the parts, kept from one page part to the next."""
    asked = request.GET.get("show") or request.POST.get("show")
    return asked if asked in drawing.SHOWN else drawing.STEP


def held_by(request: SignedIn) -> frozenset[str]:
    """What the page has already, by the ids of its pieces, which need not be sent again."""
    return frozenset(request.headers.get("X-Bench-Holds", "").split()) if request.htmx else frozenset()


def opened_pane(request: SignedIn) -> Pane:
    """The pane that is open: of a link the one it names, else the one that the page says it has open."""
    asked = request.GET.get("pane", request.headers.get("X-Bench-Pane", ""))
    return Pane(asked) if asked in set(Pane) else Pane.FILLED


# Where a V–I table can be begun.
_BEGINS_TABLES = (Pane.LINES, Pane.PARTS)

# So many of the questions that are open are shown.
_MOST_QUESTIONS = 3


def _is_known(target: Target, loaded: RunSnapshot) -> bool:
    """Whether a measurement is among those that are asked for or were read: what it should read is worked out then."""
    return any(point.key == target.key for point in loaded.points)


@dataclass(frozen=True)
class BenchPage:
    """A judged run at the measurement that is read next."""

    run: RunRow
    loaded: RunSnapshot
    assessment: Assessment
    chosen: Target | None
    state: BenchState
    person: User
    bench: Bench
    stands: State
    ways: list[int]

    @classmethod
    def of(cls, run: RunRow, loaded: RunSnapshot, state: BenchState, person: User) -> "BenchPage":
        """Judge the run, and find what is next where nothing was chosen."""
        chosen = state.chosen
        assessment = loaded.judged() if chosen is None or _is_known(chosen, loaded) else assess(loaded.core, (chosen,))
        bench = bench_of(run, loaded, assessment, person)
        if chosen is not None:
            chosen, loaded = loaded.as_point(chosen), loaded.with_point(chosen)
        ways: list[int] = []
        if chosen is not None or unread(loaded.core, loaded.points, assessment):
            ways = in_order(loaded.points, loaded.core.sheet, Order(person.reading_order), bench)
        if chosen is None and ways:
            asked_about = {loaded.target_of(pk).key for pk in loaded.questions}
            chosen = next_point(loaded.core, loaded.points, assessment, ways, state.recorded, asked_about)
        if run.closed:
            chosen = None  # nothing is read any more
        stands = state_of(loaded, bench)
        if chosen is not None and chosen.is_through:
            stands = proved(run, stands)
        return cls(run, loaded, assessment, chosen, state, person, bench, stands, ways)

    @property
    def address(self) -> str:
        """The address of the page at this measurement."""
        asked = "" if self.chosen is None else f"?measurement={slug(self.chosen)}"
        return f"{self.run.get_absolute_url()}{asked}"

    def view(self, request: SignedIn) -> "BenchView":
        """All that the page shows."""
        loaded, books = self.loaded, Ledger(self.loaded.core, self.loaded.points, self.assessment, self.present)
        card = self._card()
        at_left = self.person.bench_shows == "readings"
        corrections = tuple(self._corrections())
        pane = self._pane(request, at_left=at_left)
        past = history(loaded, self.assessment, self.chosen) if self.chosen and pane is Pane.HISTORY else ()
        disagreeing = tuple(self._disagreements(card))
        shown = shown_beside(request)
        seeks_cause = not self.run.closed and anything_outside(self.assessment)
        there = {
            Pane.READINGS: not at_left,
            Pane.CHECKS: True,
            Pane.LINES: bool(loaded.core.sheet.sweeps),
            Pane.CAUSES: seeks_cause,
            Pane.HISTORY: self._has_history,
            Pane.PARTS: not self.run.closed,
        }
        return BenchView(
            run=self.run,
            head=head(self.run, loaded, self.assessment, books),
            stages=tuple(stages(loaded.core, loaded.points, self.assessment, self.chosen)),
            card=card,
            ending=None if card else ending(books, self.bench, self.stands, is_closed=self.run.closed is not None),
            form=self.state.form,
            answer=self._answer(books, card),
            questions=tuple(self._questions()),
            unanswered=max(len(loaded.questions) - _MOST_QUESTIONS, 0),
            own=None if self.chosen is None else own_calculation(loaded, self.assessment, self.chosen),
            own_form=self.state.own_form,
            state=self.state,
            lights=tuple(lit(loaded.core, self.chosen.setup if self.chosen else None)),
            again=self._again(),
            powered=None if self.run.simulated else self.stands.powered,
            ledger=books,
            filled=books.rows.section_of(self.chosen) if self.chosen and pane is Pane.FILLED else None,
            lines=self._lines(pane),
            together=together(self.assessment, self.person.conventions) if pane is Pane.LINES else None,
            entries=tuple(past),
            at_levels=self._at_levels() if past and not disagreeing else None,
            corrections=corrections,
            pane=pane,
            tabs=tabs(pane, there),
            picture=None if at_left else self._drawing(shown),
            shown=shown,
            held=held_by(request),
            key=new_key(),
            undoes="" if self.run.closed else queries.last_done(loaded, self.person),
            names_cause=seeks_cause and pane is not Pane.CAUSES,
            drawn=self._drawn(request),
            is_whole=not request.htmx,
            present=self.present,
            speaks=self.person.speaks,
            disagreements=disagreeing,
            left=0 if self.run.closed else books.asked - books.read,
            is_wanted=self._is_wanted,
            nothing_shown=nothing_shown(loaded) if card else None,
            predicts=self._predicts,
            is_predicted=self._is_predicted,
            in_hand=self._in_hand(books) if pane is Pane.PARTS else None,
            table_form=self._table_form() if pane in _BEGINS_TABLES and not self.run.closed else None,
        )

    @cached_property
    def present(self) -> str:
        """The setup that is on the board: that of the card; else as it was read last, or changed to since."""
        if self.chosen is not None and self.chosen.setup:
            return self.chosen.setup
        sheet, points = self.loaded.core.sheet, self.loaded.points
        left = set(unread(self.loaded.core, points, self.assessment)) if sheet.several else set()
        setups = [points[k].setup for k in self.ways if k in left and points[k].in_circuit]
        built = self.stands.setup if self.stands.setup in sheet.setups else None
        if built is not None and (built in setups or not setups):
            return built
        return next((name for name in setups if name), sheet.setup().name)

    @property
    def _is_wanted(self) -> bool:
        """Whether what is shown is asked for and not read yet."""
        wanted = self.loaded.core.sheet.wanted
        if self.chosen is None or self.assessment.is_read(self.chosen):
            return False
        return any(target.key == self.chosen.key for target in wanted)

    @property
    def _is_predicted(self) -> bool:
        """Whether what is expected here is written down before it is read."""
        return self.chosen is not None and self.chosen.key in self.loaded.core.sheet.predicted

    @property
    def _predicts(self) -> bool:
        """Whether that is still to be done."""
        if self.chosen is None or not self._is_predicted or self.chosen.key in self.assessment.targets:
            return False
        return not (self.loaded.own or {}).get(self.chosen.key)

    def _disagreements(self, card: NextReading | None) -> Iterator[OpenDisagreement]:
        """What two readings do not agree on: at the end all of it, before that what was just read, or is shown."""
        if self.run.closed or self.loaded.is_sealed:
            return
        for here in dict.fromkeys((self.state.recorded, self.chosen)) if card else (None,):
            if here is not None or not card:
                yield from disagreements(self.loaded, self.assessment, here)

    def _drawn(self, request: SignedIn) -> tuple[DrawnPart, ...] | None:
        """The parts that are out of a kit: the page keeps what it has of them, and shows it at the end of the run."""
        if request.htmx and not self.state.drew:
            return None
        return tuple(self.run.drawn_parts.filter(put_back=None).select_related("bin__kit"))

    def _pane(self, request: SignedIn, *, at_left: bool) -> Pane:
        """What is open: of a measurement that was read before, and is looked at again, its history."""
        pane = opened_pane(request) if self.state.pane is None else self.state.pane
        if pane is Pane.PARTS and self.state.came:
            pane = Pane.FILLED  # the work goes on
        comes_back = pane is Pane.FILLED and request.method == "GET" and "pane" not in request.GET
        looks_back = comes_back or self.state.looks_back or self.state.correcting is not None
        if looks_back and self._has_history:
            return Pane.HISTORY
        if pane is Pane.HISTORY and not self._has_history:
            pane = Pane.FILLED
        if pane is Pane.FILLED and self.chosen is None:
            pane = Pane.LINES if self.loaded.core.sheet.sweeps else Pane.READINGS
        return Pane.FILLED if pane is Pane.READINGS and at_left else pane

    def _in_hand(self, books: Ledger) -> PartsPane:
        """What the pane of parts and circuits shows."""
        core = queries.with_boards_of(self.run, self.loaded).core
        return parts_pane(core, self.present, books, self.person.conventions, self.state.in_pane)

    def _table_form(self) -> LineTableForm:
        """What begins another V–I table in the circuit on the board."""
        tables = list(self.loaded.core.sheet.sweeps.values())
        initial = {"setup": self.present, "meters": tables[-1].meters if tables else TableMeters.APART}
        return self.state.table_form or LineTableForm(initial=initial, auto_id="table-%s")

    @cached_property
    def _has_history(self) -> bool:
        """Whether anything was ever read at the measurement that is shown."""
        key = self.chosen and self.chosen.key
        return any(reading.target.key == key for reading in self.loaded.core.readings)

    def _at_levels(self) -> int | None:
        """A reading of what is shown that was read at several levels of the source, which can become rows."""
        if self.chosen is None or self.run.closed or self.loaded.is_sealed:
            return None
        found = entries.levels(self.loaded.core.sheet, self.chosen, self.assessment.against.measurements)
        return self.loaded.reading_ids[next(iter(found.rows))] if found else None

    def _lines(self, pane: Pane) -> tuple[LineView, ...]:
        """The V–I tables where they are open, or the one whose row is read now."""
        in_row = self.chosen is not None and self.chosen.step is not None
        if pane is not Pane.LINES and not (pane is Pane.FILLED and (in_row or self.chosen is None)):
            return ()
        views = line_views(self.assessment, self.chosen, self.person.conventions, is_sealed=self.loaded.is_sealed)
        return tuple(view for view in views if view.is_here or pane is Pane.LINES or self.chosen is None)

    def _card(self) -> NextReading | None:
        """The card of what is read, with what is looked at before power comes on for the first time."""
        if self.chosen is None:
            return None
        reading = next_reading(self.loaded, self.assessment, self.chosen, self.ways, self.bench, self.stands)
        if self._predicts:
            reading = replace(reading, expected="")  # nobody copies it
        setup = reading.target.setup
        if reading.card.switch != "ON" or setup is None or was_on(self.run, setup):
            return reading
        core = self.loaded.core
        return replace(reading, checks=tuple(before_power(core, core.sheet.setups[setup], self.assessment, self.bench)))

    def _again(self) -> tuple[tuple[str, str], ...]:
        """Sources whose drift would change what is said: read them once more; name and address."""
        if self.stands.powered is False:
            return ()
        targets = sources_to_read_again(self.loaded.core, self.assessment)
        return tuple((in_a_sentence(title_in_setup(t, self.loaded.core.sheet)), slug(t)) for t in targets)

    def _questions(self) -> Iterator[Question]:
        """What is asked, the newest first; no more than a few are worked out."""
        if self.run.closed:
            return
        came = self.state.came
        for pk in sorted(self.loaded.questions, reverse=True)[:_MOST_QUESTIONS]:
            if came and came.entered.doubted and pk == came.row.pk:
                yield question_of(self.loaded, pk, came.entered.doubted)
            elif question := question_about(self.loaded, pk):
                yield question

    def _answer(self, books: Ledger, card: NextReading | None) -> AnswerLine:
        """What came of what was done last."""
        state, loaded, rows = self.state, self.loaded, books.rows
        next_title = card.card.title if card else ""
        if state.message:
            return AnswerLine(text=state.message, refused=True)
        if state.came and state.came.entered.doubted:
            typed = shown_reading(loaded.core.readings[loaded.reading_ids.index(state.came.row.pk)])
            return AnswerLine(text=f"{typed} is not counted until its question is answered.", next_title=next_title)
        if state.came and state.recorded:
            return AnswerLine(answer_to(state.came, loaded, self.assessment, rows), next_title=next_title)
        if state.answered is not None:
            reading = answer_about(state.answered, loaded, self.assessment, rows)
            return AnswerLine(reading, "" if reading else "It does not count: it was struck.", next_title=next_title)
        return AnswerLine(text=state.done)

    def _corrections(self) -> Iterator[tuple[str, str, str]]:
        """The corrections of the reading that is looked at: name, words, and what the run says after the likeliest."""
        index = self.loaded.index_of(self.state.correcting)
        if index is None or self.loaded.core.readings[index].struck is not None:
            return
        core, points = self.loaded.core, self.loaded.points
        offered = list(entries.corrections(core, points, index))
        best = None if self.loaded.is_sealed else entries.likeliest(offered, index, self.assessment)
        for correction in sorted(offered, key=lambda correction: correction is not best):
            title = "" if correction.target is None else title_in_setup(correction.target, core.sheet)
            says = books(correction.run, points, assess(correction.run)).reason if correction is best else ""
            yield correction.name, entries.words(correction, core.readings[index], title), says

    def _drawing(self, shown: str) -> Drawing:
        """The drawing with what was read beside its parts: of the present step, unless something else was chosen."""
        if shown == drawing.STEP:
            shown = drawing.of_step(self.chosen, self.loaded.core.sheet)
        content, conventions = content_of(self.run.sheet_id), self.person.conventions
        return drawing.with_readings(content, self.assessment, self.chosen, conventions, shown, self.present)
