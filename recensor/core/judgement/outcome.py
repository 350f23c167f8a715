"""What every verdict comes to: five outcomes, each with a look of its own wherever it is shown."""

from enum import StrEnum


class Outcome(StrEnum):
    """What a verdict comes to."""

    AGREES = "agrees"
    OUTSIDE = "outside"
    UNDECIDED = "undecided"
    NEUTRAL = "neutral"
    UNREAD = "unread"
