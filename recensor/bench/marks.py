"""Verdict marks: each verdict has a sign, a word and a kind for the style sheet, never colour alone."""

from dataclasses import dataclass

AGREES, OUTSIDE, UNDECIDED, NEUTRAL, UNREAD = "agrees", "outside", "undecided", "neutral", "unread"

_SIGNS = {AGREES: "=", OUTSIDE: "≠", UNDECIDED: "≈?", NEUTRAL: "·", UNREAD: "○"}
_KINDS = {
    "agrees": AGREES,
    "within tolerance": AGREES,
    "balances": AGREES,
    "holds": AGREES,
    "within rating": AGREES,
    "outside": OUTSIDE,
    "out of tolerance": OUTSIDE,
    "out": OUTSIDE,
    "fails": OUTSIDE,
    "over rating": OUTSIDE,
    "undecided": UNDECIDED,
    "cannot tell": UNDECIDED,
    "unread": UNREAD,
    "needs readings": UNREAD,
}


@dataclass(frozen=True)
class Mark:
    """A verdict as it is shown: sign, word, kind, and its reason in plain words."""

    sign: str
    word: str
    kind: str
    reason: str = ""


def mark(verdict: str, reason: str = "") -> Mark:
    """The mark of a verdict of the core."""
    kind = _KINDS.get(verdict, NEUTRAL)
    return Mark(_SIGNS[kind], verdict, kind, reason)
