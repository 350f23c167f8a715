"""Sentences to begin a conclusion with, out of the facts of a run; the person makes them their own."""

from collections.abc import Iterable, Iterator

from recensor.core.circuit import Sheet
from recensor.core.figures import rounded
from recensor.core.judgement import Account, AccountVerdict, Assessment, Outcome
from recensor.core.quantity import OHM, VOLTAGE
from recensor.core.sweeps import assess_lines
from recensor.ledger import account_in_setup
from recensor.runs.queries import RunSnapshot

# So many sentences are offered of one kind.
_MOST = 6

_ENDS = {
    AccountVerdict.BALANCES: "is no more than the meter explains",
    AccountVerdict.CLOSE: "is within the limit, and more than the meter explains",
    AccountVerdict.OUT: "is more than the meter explains",
}


def starters(loaded: RunSnapshot) -> list[str]:
    """The sentences, laws first."""
    assessment, sheet = loaded.judged(), loaded.core.sheet
    laws = [text for account in assessment.laws if (text := _of_account(account, sheet))]
    return [*laws[:_MOST], *_of_lines(assessment), *_of_readings(assessment), *_of_comparisons(assessment)]


def _of_account(account: Account, sheet: Sheet) -> str:
    end = _ENDS.get(account.verdict)
    if end is None or account.rises is None or account.drops is None or account.residual is None:
        return ""
    digits, unit = account.expanded or None, account.law.unit
    rises, drops, left = (rounded(one, digits, unit) for one in (account.rises, account.drops, abs(account.residual)))
    where = account_in_setup(account, sheet)
    if account.law is VOLTAGE:
        return f"{where}: the drops add up to {drops}, the source gives {rises}; the difference of {left} {end}."
    return f"{where}: {rises} flow in, {drops} flow out; the difference of {left} {end}."


def _of_lines(assessment: Assessment) -> Iterator[str]:
    for line in assess_lines(assessment):
        if line.resistance is not None and line.spread is not None and line.part:
            far = 2 * line.spread.standard
            yield f"By its line {line.part} has {rounded(line.resistance, far, OHM)} ± {rounded(far, far, OHM)}."
        elif line.straight is False and line.part:
            yield f"No straight line describes {line.part}."


def _of_readings(assessment: Assessment) -> Iterator[str]:
    outcomes = [target_assessment.judged.outcome for target_assessment in assessment.targets.values()]
    outside, agrees = outcomes.count(Outcome.OUTSIDE), outcomes.count(Outcome.AGREES)
    limit = assessment.against.run.sheet.judge.limit.text
    if agrees:
        yield f"{agrees} of {len(outcomes)} readings agree with the calculation within {limit}, {outside} do not."


def _of_comparisons(assessment: Assessment) -> Iterator[str]:
    yield from (held.reason for held in assessment.comparisons if held.difference is not None)


def left_as_suggested(text: str, sentences: Iterable[str]) -> list[str]:
    """The sentences that stand in a text just as they were suggested."""
    return [sentence for sentence in sentences if sentence in text]
