"""What came of what was done last at the bench, as the page shows it and as it is said aloud."""

from dataclasses import dataclass, replace

from recensor.bench.page.drawing import setup_of
from recensor.core.circuit import slug
from recensor.core.entries import CorrectionKind, Repeat
from recensor.core.judgement import Assessment, Outcome
from recensor.ledger import Row, Rows, shown
from recensor.ledger.marks import Mark
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.record import Recorded


@dataclass(frozen=True)
class ReadingAnswer:
    """What came of a reading: its row, its own mark, how it stands, and what one press makes of it instead.

    `stands` says what its measurement comes to where that is another number than the one just typed.
    """

    reading: int
    row: Row
    mark: Mark
    stands: str
    text: str
    setup: str
    address: str
    standing: str = ""
    swap: str = ""
    swap_words: str = ""
    leads_turned: bool = False
    is_source: bool = False
    is_look: bool = False

    @property
    def repeats(self) -> bool:
        """Whether one press may read it once more."""
        return not self.is_look

    @property
    def is_outside(self) -> bool:
        """Whether it is to be read again."""
        return not self.is_look and self.mark.outcome is Outcome.OUTSIDE

    @property
    def may_be_taken(self) -> bool:
        """Whether it is a source that is not what it should be, and may be taken as what it is."""
        return self.is_source and self.is_outside

    @property
    def say(self) -> str:
        """The same in a sentence."""
        if self.is_look:
            return f"{self.row.label} {self.text}: kept as a look."
        stands = f" {self.stands} stands here: {self.row.mark.word}." if self.stands else ""
        return f"{self.row.label} {self.text}: {self.mark.word or 'read'}.{stands}"


@dataclass(frozen=True)
class AnswerLine:
    """What came of what was done last: of a reading, or in words; `next_title` is what is read next."""

    reading: ReadingAnswer | None = None
    text: str = ""
    refused: bool = False
    next_title: str = ""

    @property
    def say(self) -> str:
        """All of it in words, for who does not look."""
        said = self.reading.say if self.reading else self.text
        return f"{said} Next: {self.next_title}." if said and self.next_title else said


def answer_to(recorded: Recorded, loaded: RunSnapshot, assessment: Assessment, rows: Rows) -> ReadingAnswer:
    """What came of an entry that was just recorded, and what may be made of it in one press."""
    core, kind = loaded.core, recorded.entered.repeat
    replaced = recorded.entered.replaced
    old = shown(core.readings[replaced]) if replaced is not None else ""
    standing, swap, words = {
        Repeat.INSTEAD: (f"stands instead of {old}", CorrectionKind.TRIAL, "make it a trial"),
        Repeat.TRIAL: ("another trial", CorrectionKind.INSTEAD, "instead of the last"),
        Repeat.LATER: ("read again: it stands now", CorrectionKind.LOOK, "let the one before stand"),
        Repeat.CONFIRMS: ("confirms what stands", CorrectionKind.INSTEAD, "let this one stand"),
        Repeat.BESIDE: ("kept beside, by another meter", CorrectionKind.INSTEAD, "let this one stand"),
        Repeat.LOOK: ("", CorrectionKind.COUNT, "let it count"),
    }.get(kind, ("", "", ""))
    answer = _answer(recorded.row.pk, loaded, assessment, rows, is_look=kind is Repeat.LOOK)
    return replace(answer, standing=standing, swap=swap, swap_words=words)


def answer_about(reading_id: int, loaded: RunSnapshot, assessment: Assessment, rows: Rows) -> ReadingAnswer | None:
    """How a reading stands after it was asked about; None where the run has no such reading, or it was struck."""
    index = loaded.index_of(reading_id)
    if index is None or loaded.core.readings[index].struck:
        return None
    return _answer(reading_id, loaded, assessment, rows, is_look=loaded.core.readings[index].counted is False)


def _answer(
    reading_id: int, loaded: RunSnapshot, assessment: Assessment, rows: Rows, *, is_look: bool
) -> ReadingAnswer:
    index = loaded.reading_ids.index(reading_id)
    reading = loaded.core.readings[index]
    row = rows.row_of(loaded.as_point(reading.target))
    expected = assessment.expected(reading.target)
    value = None if reading.value.value is None else float(reading.value)
    turned = bool(expected and expected.value and value and value * expected.value < 0)
    return ReadingAnswer(
        reading_id,
        row,
        row.mark if is_look else rows.mark_of_reading(index),  # a look tells nothing of a sealed run
        "" if is_look or rows.stands_alone(index) else row.read,
        shown(reading),
        setup_of(loaded.core.sheet, reading.target).name,
        slug(reading.target),
        leads_turned=turned and not loaded.is_sealed,
        is_source=loaded.core.sheet.source_read_at(reading.target) is not None and value is not None,
        is_look=is_look,
    )
