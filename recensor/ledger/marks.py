"""Verdict marks: each outcome has a sign and a look, each verdict its word; never colour alone."""

from dataclasses import dataclass
from typing import Protocol

from recensor.core.judgement import Outcome

_SIGNS = {
    Outcome.AGREES: "=",
    Outcome.OUTSIDE: "≠",
    Outcome.UNDECIDED: "≈?",
    Outcome.NEUTRAL: "·",
    Outcome.UNREAD: "○",
}


class HasOutcome(Protocol):
    """A verdict of the core: its word, and what it comes to."""

    @property
    def value(self) -> str:
        """The word."""

    @property
    def outcome(self) -> Outcome:
        """What it comes to."""


@dataclass(frozen=True)
class Mark:
    """A verdict as it is shown: its outcome, word, and reason in plain words."""

    outcome: Outcome
    word: str
    reason: str = ""

    @property
    def sign(self) -> str:
        """The sign that tells outcomes apart without colour; none beside no word."""
        return _SIGNS[self.outcome] if self.word else ""

    @property
    def kind(self) -> str:
        """The outcome's name, for the style sheet."""
        return self.outcome.value


def mark(verdict: HasOutcome, reason: str = "") -> Mark:
    """The mark of a verdict of the core."""
    return Mark(verdict.outcome, verdict.value, reason)


UNREAD = Mark(Outcome.UNREAD, "unread")
