"""The end of a run at the bench: what came out, what is open with its press, and what is put back."""

from collections.abc import Iterable
from dataclasses import dataclass

from recensor.core.judgement import Outcome
from recensor.core.plan import Bench, State
from recensor.ledger import Ledger


@dataclass(frozen=True)
class Ending:
    """What a run came to, once nothing is left to read.

    `open` is what does not agree or is not decided, each in words behind the address at which it is read again;
    `remarks` is what is worth knowing all the same; `put_back` is done before one leaves the bench.
    """

    title: str
    text: str
    open: tuple[tuple[str, str], ...]
    remarks: tuple[str, ...]
    put_back: tuple[str, ...]


_TEXT = {
    Outcome.OUTSIDE: "Everything is read. This does not agree:",
    Outcome.UNDECIDED: "Everything is read. This cannot be decided yet; read it again, in a finer range where there is "
    "one:",
    Outcome.AGREES: "Parts, totals and Kirchhoff’s laws agree within what was asked.",
}
_CLOSED = (
    "Nothing is changed here any more. The report has the signatures, and opens a revision where something must be "
    "changed."
)


def ending(ledger: Ledger, bench: Bench, stands: State, *, is_closed: bool) -> Ending:
    """The end of a run whose measurements have all been read, or that is signed: then nothing is open any more."""
    outcome = ledger.books.outcome
    title = f"{ledger.books.reason[:1].upper()}{ledger.books.reason[1:]}"
    if is_closed:
        return Ending(title, _CLOSED, (), (), ())
    listed: Iterable[tuple[str, str]] = ledger.misfits
    if outcome is Outcome.UNDECIDED:
        listed = ledger.undecided
    return Ending(
        title=title,
        text=_TEXT.get(outcome, "Everything is read."),
        open=tuple(listed),
        remarks=() if ledger.misfits else ledger.worth_a_look,
        put_back=tuple(move.words for step in bench.put_back(stands) for move in step.moves),
    )
