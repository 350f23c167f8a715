"""The bench page: one builder of everything that its templates show."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from recensor.bench.forms import OwnValueForm, ReadingForm
from recensor.bench.page import drawing
from recensor.bench.page.card import NextReading, next_reading
from recensor.bench.page.lights import Lit, lit
from recensor.bench.page.own_value import OwnCalculation, own_calculation
from recensor.bench.page.question import Question, question_about, question_of, title_in_setup
from recensor.core import entries
from recensor.core.circuit import Target, slug
from recensor.core.entries import CorrectionKind, Repeat
from recensor.core.judgement import Assessment, Outcome, assess
from recensor.core.plan import Bench, Order, State, before_power, in_a_sentence, in_order, sources_to_read_again
from recensor.core.quantity import Measurand
from recensor.experiments.queries import content_of
from recensor.ledger import Row, Rows, books, ledger
from recensor.ledger import shown as shown_reading
from recensor.ledger.causes import is_worth_asking
from recensor.ledger.marks import Mark
from recensor.ledger.stages import next_point, stages
from recensor.ledger.sweeps import line_views
from recensor.people.models import User
from recensor.people.requests import SignedIn
from recensor.runs.bench_state import bench_of, proved, state_of, was_on
from recensor.runs.models import RunRow
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.record import Recorded
from recensor.web.forms import new_key


@dataclass(frozen=True)
class BenchState:
    """Where a person stands at the bench: what is read next, what was just recorded, done or refused.

    `came` is what came of the entry that was just recorded. `sought` is what was typed for where the probes go.
    """

    chosen: Target | None = None
    recorded: Target | None = None
    came: Recorded | None = None
    correcting: int | None = None
    form: ReadingForm | None = None
    own_form: OwnValueForm | None = None
    message: str = ""
    done: str = ""
    sought: str = ""
    sought_refused: str = ""

    @classmethod
    def after(cls, came: Recorded, target: Target) -> "BenchState":
        """After an entry: on to the next measurement, unless it is a look or is asked about."""
        return cls(chosen=target if came.entered.stays else None, recorded=target, came=came)


def shown_beside(request: SignedIn) -> str:
    """What the drawing shows beside the parts, kept from one page part to the next."""
    asked = request.GET.get("show") or request.POST.get("show")
    return asked if asked in drawing.SHOWN else drawing.NOTHING


def held_by(request: SignedIn) -> frozenset[str]:
    """The sections of the ledger that the page has already, which need not be sent again."""
    return frozenset(request.headers.get("X-Held-Sections", "").split()) if request.htmx else frozenset()


@dataclass(frozen=True)
class Just:
    """What was just recorded: its row, its own mark, how it stands, and what one press makes of it instead.

    `stands` says what its measurement comes to where that is another number than the one just typed.
    """

    reading: int
    row: Row
    mark: Mark
    stands: str
    text: str
    standing: str
    swap: str = ""
    swap_words: str = ""
    address: str = ""
    setup: str = ""
    leads_turned: bool = False
    is_outside: bool = False
    repeats: bool = False


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
        """Judge the run, and find what is next where nothing was chosen: first what is still asked about."""
        assessment, chosen = loaded.judged(), state.chosen
        bench = bench_of(run, loaded, assessment, person)
        if chosen is None and loaded.questions and state.recorded is None:
            chosen = loaded.target_of(max(loaded.questions))
        if chosen is not None:
            chosen, loaded = loaded.as_point(chosen), loaded.with_point(chosen)
        ways = in_order(loaded.points, loaded.core.sheet, Order(person.reading_order), bench)
        if chosen is None:
            chosen = next_point(loaded.core, loaded.points, assessment, ways, state.recorded)
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

    def context(self, request: SignedIn) -> dict[str, Any]:
        """What the templates show."""
        core, points = self.loaded.core, self.loaded.points
        shown, next_one = shown_beside(request), self._next()
        kept = ledger(core, points, self.assessment)
        lines = line_views(self.assessment, self.chosen, self.person.conventions, is_sealed=self.loaded.is_sealed)
        at = slug(self.chosen) if self.chosen else ""
        return {
            "run": self.run,
            "ledger": kept,
            "lines": lines,
            "in_line": any(line.is_here or next_one is None for line in lines),
            "lights": self._lights(),
            "here": next((s for s in kept.sections if any(row.address == at for row in s.rows)), None),
            "stages": list(stages(core, points, self.assessment, self.chosen)),
            "next": next_one,
            "powered": None if self.run.simulated else self.stands.powered,
            "put_back": self._put_back(next_one),
            "again": self._again(),
            "speaks": self.person.speaks,
            "question": self._question(),
            "quantities": [measurand.value for measurand in Measurand],
            "first_setup": core.sheet.setup().name,
            "knows_words": self.person.knows_words,
            "just": self._just(),
            "drawing": self._drawing(shown),
            "shown_choices": drawing.SHOWN,
            "shown": shown,
            "form": self.state.form,
            "own": self._own(),
            "own_form": self.state.own_form,
            "state": self.state,
            "entry_key": new_key(),
            "reading_ids": self.loaded.reading_ids,
            "held": held_by(request),
            "undoes": self.loaded.last.get(self.person.username, ""),
            "corrections": list(self._corrections()),
            "seeks_cause": is_worth_asking(self.assessment),
        }

    def _lights(self) -> list[Lit]:
        """What lights in the setup that is read, and how it was seen."""
        return lit(self.loaded.core, self.chosen.setup if self.chosen else None)

    def _next(self) -> NextReading | None:
        """The card of the point that is shown, with what is looked at before power comes on for the first time."""
        if self.chosen is None:
            return None
        reading = next_reading(self.loaded, self.assessment, self.chosen, self.ways, self.bench, self.stands)
        setup = reading.target.setup
        if reading.card.switch != "ON" or setup is None or was_on(self.run, setup):
            return reading
        core = self.loaded.core
        return replace(reading, checks=tuple(before_power(core, core.sheet.setups[setup], self.assessment, self.bench)))

    def _put_back(self, next_one: NextReading | None) -> tuple[str, ...]:
        """What ends the session once everything is read: each move, power first."""
        if next_one is not None:
            return ()
        return tuple(move.words for step in self.bench.put_back(self.stands) for move in step.moves)

    def _again(self) -> list[tuple[str, str]]:
        """Sources whose drift would change what is said: read them once more; name and address."""
        targets = sources_to_read_again(self.loaded.core, self.assessment)
        return [(in_a_sentence(title_in_setup(t, self.loaded.core.sheet)), slug(t)) for t in targets]

    def _question(self) -> Question | None:
        """What is asked about a reading of the point that is shown."""
        came = self.state.came
        if came and came.entered.doubted:
            return question_of(self.loaded, came.row.pk, came.entered.doubted)
        if self.chosen is None:
            return None
        for pk in sorted(self.loaded.questions, reverse=True):
            if self.loaded.target_of(pk).key == self.chosen.key:
                return question_about(self.loaded, pk)
        return None

    def _own(self) -> OwnCalculation | None:
        if self.chosen is None:
            return None
        return own_calculation(self.loaded, self.assessment, self.chosen)

    def _just(self) -> Just | None:
        """What was just recorded, and what may be made of it in one press."""
        came, target = self.state.came, self.state.recorded
        if came is None or target is None or came.entered.doubted:
            return None
        core, kind = self.loaded.core, came.entered.repeat
        index = self.loaded.reading_ids.index(came.row.pk)
        reading, rows = core.readings[index], Rows(core, self.loaded.points, self.assessment)
        row = rows.row_of(target)
        mark = row.mark if kind is Repeat.LOOK else rows.mark_of_reading(index)  # a look tells nothing of a sealed run
        replaced = came.entered.replaced
        old = shown_reading(core.readings[replaced]) if replaced is not None else ""
        standing, swap, words = {
            Repeat.INSTEAD: (f"stands instead of {old}", CorrectionKind.TRIAL, "make it a trial"),
            Repeat.TRIAL: ("another trial", CorrectionKind.INSTEAD, "instead of the last"),
            Repeat.LATER: ("read later, kept with its time", CorrectionKind.INSTEAD, "instead of the earlier one"),
            Repeat.LOOK: ("kept as a look", CorrectionKind.COUNT, "let it count"),
        }.get(kind, ("", "", ""))
        expected = self.assessment.expected(reading.target)
        value = None if reading.value.value is None else float(reading.value)
        turned = bool(expected and expected.value and value and value * expected.value < 0)
        return Just(
            came.row.pk,
            row,
            mark,
            "" if kind is Repeat.LOOK or rows.stands_alone(index) else row.read,
            shown_reading(reading),
            standing,
            swap,
            words,
            slug(reading.target),
            drawing.setup_of(core.sheet, reading.target).name,
            leads_turned=turned and not self.loaded.is_sealed,
            repeats=kind is not Repeat.LOOK,
            is_outside=kind is not Repeat.LOOK and mark.outcome is Outcome.OUTSIDE,
        )

    def _corrections(self) -> Iterator[tuple[str, str, str]]:
        """The corrections of the reading that is looked at: name, words, and what the books then say."""
        index = self.loaded.index_of(self.state.correcting)
        if index is None or self.loaded.core.readings[index].struck is not None:
            return
        core, points = self.loaded.core, self.loaded.points
        for correction in entries.corrections(core, points, index):
            title = "" if correction.target is None else title_in_setup(correction.target, core.sheet)
            says = books(correction.run, points, assess(correction.run)).reason if not self.loaded.is_sealed else ""
            yield correction.name, entries.words(correction, core.readings[index], title), says

    def _drawing(self, shown: str) -> str:
        target, conventions = self.chosen, self.person.conventions
        if shown == drawing.NOTHING:
            return drawing.of_content(content_of(self.run.sheet_id), target, conventions)
        return drawing.with_readings(self.loaded.core.sheet, self.assessment, target, conventions, shown)
