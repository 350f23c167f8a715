"""The head of the bench page: which run it is, how far it is, how it stands, and what is special about it."""

from dataclasses import dataclass

from django.utils import timezone
from django.utils.formats import date_format

from recensor.core.judgement import AccountVerdict, Assessment, Outcome
from recensor.ledger import Ledger
from recensor.ledger.marks import Mark
from recensor.runs.models import RunRow
from recensor.runs.queries import RunSnapshot

_SO_FAR = Mark(Outcome.AGREES, "agrees so far")


@dataclass(frozen=True)
class Head:
    """The line above the bench; `notes` say whether it is sealed, simulated or signed, each once."""

    title: str
    read: int
    asked: int
    mark: Mark | None
    notes: tuple[str, ...]


def head(run: RunRow, loaded: RunSnapshot, assessment: Assessment, ledger: Ledger) -> Head:
    """The head of a run."""
    mark: Mark | None = ledger.books
    if ledger.books.outcome is Outcome.UNREAD:
        mark = _SO_FAR if _agrees_so_far(assessment) else None
    notes = []
    if assessment.against.run.sheet.rounds > 1 and not run.closed:
        notes.append(f"Round {assessment.rounds.number} of {assessment.against.run.sheet.rounds}.")
    if run.simulated:
        notes.append("Simulated: readings come from a simulator.")
    if loaded.is_sealed:
        notes.append("Sealed: what is expected shows once it is read.")
    if run.closed:
        when = date_format(timezone.localtime(run.closed), "j F Y, H:i")
        notes.append(f"Signed on {when}, and locked.")
    return Head(run.title, ledger.read, ledger.asked, mark, tuple(notes))


def _agrees_so_far(assessment: Assessment) -> bool:
    outcomes = {judged.judged.outcome for judged in assessment.targets.values()}
    undecided = any(account.verdict is AccountVerdict.UNDECIDED for account in assessment.laws)
    return outcomes == {Outcome.AGREES} and not undecided
