"""What the books say once a cause is corrected, and whether that is better than what they say now."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from recensor.core.faults.correction import Correction
from recensor.core.judgement import AccountVerdict, Assessment, Judged, Outcome, Verdict, assess
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from recensor.core.record import RecordError, Run, check
from recensor.core.sentences import say
from recensor.core.solving import NetworkError

# Ohms that every ohmmeter can show.
_WITHIN_REACH = 1e6


@dataclass(frozen=True)
class AfterCorrection:
    """The books before and after corrections; `after` is None where these leave them as they are."""

    before: Assessment
    after: Assessment | None

    @classmethod
    def of(cls, before: Assessment, corrections: Iterable[Correction | None]) -> "AfterCorrection":
        """Correct the run and judge it anew."""
        run = before.against.run
        corrected = _corrected(run, corrections)
        return cls(before, None if corrected is None or corrected == run else assess(corrected))

    @property
    def is_better(self) -> bool:
        """Whether no less agrees than now, readings and sums together, or less is outside, as where some are struck."""
        if self.after is None:
            return True
        (agreed, was_outside), (agree, are_outside) = _counted(self.before), _counted(self.after)
        return agree >= agreed or are_outside < was_outside

    @cached_property
    def outside(self) -> frozenset[int]:
        """The readings that are outside then."""
        judged = (self.after or self.before).readings
        return frozenset(r.index for r in judged if is_outside_reading(r.judged))


def is_outside_reading(judged: Judged) -> bool:
    """Whether a reading's verdict, or what it comes to, is outside."""
    return judged.outcome is Outcome.OUTSIDE or judged.verdict is Verdict.OUTSIDE


def _corrected(run: Run, corrections: Iterable[Correction | None]) -> Run | None:
    """The run with all of it corrected; None where it has no place for something that was read."""
    for correction in corrections:
        run = correction.applied(run) if correction else run
    try:
        check(run)
    except (RecordError, NetworkError):
        return None
    return run


def _counted(assessment: Assessment) -> tuple[int, int]:
    """How many readings and sums agree, and how many are outside."""
    outcomes = [one.judged.outcome for one in assessment.targets.values()]
    verdicts = [account.verdict for account in assessment.laws]
    close = sum(verdict in (AccountVerdict.BALANCES, AccountVerdict.CLOSE) for verdict in verdicts)
    return (
        outcomes.count(Outcome.AGREES) + close,
        outcomes.count(Outcome.OUTSIDE) + verdicts.count(AccountVerdict.OUT),
    )


def anything_outside(assessment: Assessment) -> bool:
    """Whether any row, part, sum or check is outside."""
    judged = [one.judged.outcome for one in assessment.targets.values()]
    over = [key for key, one in assessment.targets.items() if key.measurand is RESISTANCE and one.judged.over_range]
    judged += [part.verdict.outcome for part in assessment.alone.values()]
    return bool(
        Outcome.OUTSIDE in judged
        or any(_is_within_reach(assessment.targets[key].judged) for key in over)
        or any(account.verdict is AccountVerdict.OUT for account in assessment.laws)
        or any(not rule.holds for rule in assessment.sanity)
        or any(one.outcome is Outcome.OUTSIDE for one in assessment.comparisons)
        or assessment.disagreements
    )


def _is_within_reach(judged: Judged) -> bool:
    """Whether what is calculated lies well within what any ohmmeter shows."""
    values = (judged.measured.value, judged.nominal.value)
    return any(value is not None and abs(value) < _WITHIN_REACH for value in values)


def outcome_in_words(assessment: Assessment) -> str:
    """How the books stand, in a few words: how many agree, and what the accounts say.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> outcome_in_words(assess(Run(one_line.read("9V: 1k + 2k"))))
    'nothing is judged'
    """
    outcomes = [t.judged.outcome for t in assessment.targets.values()]
    agree = outcomes.count(Outcome.AGREES)
    of = sum(outcome in (Outcome.AGREES, Outcome.OUTSIDE, Outcome.UNDECIDED) for outcome in outcomes)
    if not of:
        return say("faults.nothing_judged")
    texts = [say("faults.agree", agree=agree, of=of)]
    for law, word, words in ((VOLTAGE, "loop", "loops"), (CURRENT, "node", "nodes")):
        verdicts = [account.verdict for account in assessment.laws if account.law is law]
        closed = sum(v in (AccountVerdict.BALANCES, AccountVerdict.CLOSE) for v in verdicts)
        out = verdicts.count(AccountVerdict.OUT)
        if out:
            texts.append(say("faults.out", count=out, of=closed + out, words=words))
        elif closed:
            texts.append(
                say("faults.balances", word=word)
                if closed == 1
                else say("faults.all_balance", closed=closed, words=words)
            )
    return (
        texts[0] if len(texts) == 1 else say("faults.clauses_and_last", texts=", ".join(texts[:-1]), texts_2=texts[-1])
    )
