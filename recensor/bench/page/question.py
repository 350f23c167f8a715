"""What is asked about a doubtful reading, as the page shows it: why, and one press for each thing that it may be."""

import json
from dataclasses import dataclass, replace

from recensor.core import plan
from recensor.core.circuit import Sheet, slug, target_of_slug
from recensor.core.entries import (
    Answer,
    AnswerKind,
    EntryCheck,
    Query,
    found_otherwise,
    plausibility_query,
)
from recensor.core.judgement import assess
from recensor.core.quantity import LONGEST_TEXT
from recensor.core.standing import standing_at
from recensor.ledger import shown
from recensor.runs.bench_state import is_powered
from recensor.runs.models import ReadingRow
from recensor.runs.queries import RunSnapshot


@dataclass(frozen=True)
class AnswerButton:
    """One answer to a question: the words on its button, and what it sends."""

    words: str
    value: str


@dataclass(frozen=True)
class Question:
    """What is asked about a reading that is kept as a look until it is answered; `title` names its measurement."""

    reading: int
    title: str
    typed: str
    why: str
    answers: tuple[AnswerButton, ...]


def question_about(loaded: RunSnapshot, reading_id: int) -> Question | None:
    """What is asked about a doubtful reading, worked out anew from what is known by now."""
    index = loaded.index_of(reading_id)
    if index is None or reading_id not in loaded.questions:
        return None
    run, reading = loaded.core, loaded.core.readings[index]
    before = run.readings[:index]
    place = standing_at(before, reading.target)
    if loaded.questions[reading_id] == ReadingRow.Question.MEANWHILE:
        doubted = found_otherwise(before, reading)
    else:
        counted = replace(reading, counted=None)
        run_with = replace(run, readings=(*before, counted, *run.readings[index + 1 :]))
        earlier = before[place] if place is not None else None
        powered = None if run.simulated else is_powered(loaded)
        doubted = plausibility_query(
            EntryCheck(
                run_with,
                assess(run_with),
                counted,
                loaded.points,
                before,
                loaded.is_sealed,
                earlier=earlier,
                powered=powered,
            )
        )
    doubted = doubted or Query("It was doubtful when it was typed.", (_AGAIN, _AS_TYPED))
    return question_of(loaded, reading_id, doubted)


_AGAIN, _AS_TYPED = Answer(AnswerKind.AGAIN), Answer(AnswerKind.AS_TYPED)
_SAID = {
    AnswerKind.AS_TYPED: "as typed: {}",
    AnswerKind.AGAIN: "a slip: drop it",
    AnswerKind.TURNING: "still being turned up",
    AnswerKind.SET_ANEW: "it was set anew",
    AnswerKind.TRIAL: "both stand, as trials",
    AnswerKind.INSTEAD: "this one stands",
    AnswerKind.SWITCHED: "power was switched: it counts",
}


def question_of(loaded: RunSnapshot, reading_id: int, doubted: Query) -> Question:
    """What is odd about an entry, as the page asks about it."""
    index = loaded.reading_ids.index(reading_id)
    reading = loaded.core.readings[index]
    typed = shown(reading)
    stands = standing_at(loaded.core.readings, reading.target)
    newer = stands if stands is not None and stands > index else None  # it was read again since

    def words(answer: Answer) -> str:
        if answer.target is not None:
            there = plan.in_a_sentence(plan.title_in_setup(answer.target, loaded.core.sheet))
            dropped = [shown(loaded.core.readings[k]) for k in loaded.asked_at(answer.target) if k != index]
            is_there = f"it is {there}, {answer.text}" if answer.text else f"it is {there}"
            return f"{is_there}; drop {' and '.join(dropped)}" if dropped else is_there
        if answer == _AGAIN and newer is not None:
            return f"drop it: {shown(loaded.core.readings[newer])} stands"
        if answer.means is AnswerKind.RANGE:
            return f"it was the {answer.text} range"
        return answer.text or _SAID[answer.means].format(typed)

    given = sorted(doubted.answers, key=lambda answer: newer is not None and answer != _AGAIN)
    answers = tuple(AnswerButton(words(answer), token_of_answer(answer)) for answer in given)
    title = plan.title_in_setup(reading.target, loaded.core.sheet)
    return Question(reading_id, title, typed, doubted.why, answers)


def token_of_answer(answer: Answer) -> str:
    """An answer as one text, for a request."""
    address = slug(answer.target) if answer.target is not None else ""
    return json.dumps([answer.means, answer.text, address], ensure_ascii=False)


def answer_of_token(token: str, sheet: Sheet) -> Answer | None:
    """The answer that a text says; None where it says none."""
    try:
        means, text, address = json.loads(token)
        target = target_of_slug(str(address), sheet) if address else None
        known = Answer(AnswerKind(means), str(text)[:LONGEST_TEXT], target)
    except (ValueError, TypeError):
        return None
    return None if address and target is None else known
