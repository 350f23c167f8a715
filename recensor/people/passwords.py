"""Which passwords are refused, beyond Django's own rules."""

import re

from django.conf import settings
from django.core.exceptions import ValidationError

FEWEST_DIFFERENT = 5

# What somebody guesses first who knows what this is for.
_WORDS = (
    "admin", "ammeter", "bench", "board", "breadboard", "circuit", "current", "instructor", "kirchhoff", "lab",
    "letmein", "meter", "multimeter", "ohm", "ohms", "owner", "password", "recensor", "resistance", "resistor",
    "resistors", "school", "student", "supervisor", "teacher", "technician", "volt", "voltage", "voltmeter",
)  # fmt: skip
_ONLY_WORDS = re.compile(f"(?:{'|'.join(sorted(_WORDS, key=len, reverse=True))})+")


class GuessedFirstValidator:
    """Refuses the demo's published password, words of the bench with digits round them, and repetition."""

    def validate(self, password: str, user: object = None) -> None:
        """Raise `ValidationError` with why."""
        lowered = password.lower()
        if settings.DEMO_PASSWORD in lowered:
            raise ValidationError("This has the demo's password in it, which is published.", code="published")
        if len(set(password)) < FEWEST_DIFFERENT:
            raise ValidationError(f"Use at least {FEWEST_DIFFERENT} different characters.", code="repeats")
        if _ONLY_WORDS.fullmatch(re.sub("[^a-z]", "", lowered)):
            raise ValidationError("Words of the bench with digits are guessed first; use others.", code="guessed")

    def get_help_text(self) -> str:
        """The rule in words."""
        return "Neither a word of the bench with digits, nor the demo's password."
