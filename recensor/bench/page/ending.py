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
    `remarks` is what is worth knowing all the same, `waived` what was left out on purpose; `put_back` is done before
    leaving the bench.
    """

    title: str
    text: str
    open: tuple[tuple[str, str], ...]
    remarks: tuple[str, ...]
    waived: tuple[str, ...]
    put_back: tuple[str, ...]


_TEXT = {
    Outcome.OUTSIDE: "This does not agree:",
    Outcome.UNDECIDED: "This cannot be decided yet; read it again, in a finer range where there is one:",
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
        return Ending(title, _CLOSED, (), (), ledger.waived, ())
    listed: Iterable[tuple[str, str]] = ledger.misfits
    if outcome is Outcome.UNDECIDED:
        listed = ledger.undecided
    waived = ledger.waived
    read = f"{len(waived)} not measured, everything else is." if waived else "Everything is measured."
    if outcome is Outcome.AGREES:
        comes_to = "What was read agrees within what was asked."
    elif ledger.disagrees:
        comes_to = "These readings cannot both be right; say why, and the run is decided:"
    else:
        comes_to = _TEXT.get(outcome, "")
    return Ending(
        title=title,
        text=f"{read} {comes_to}".strip(),
        open=tuple(listed),
        waived=waived,
        remarks=() if ledger.misfits else ledger.worth_a_look,
        put_back=tuple(move.words for step in bench.put_back(stands) for move in step.moves),
    )
