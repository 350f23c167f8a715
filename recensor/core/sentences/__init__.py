"""Sentences as data: a kind with named values, and its words in the one table there is, `english.ENGLISH`.

A sentence is a text, so that whoever only shows it need not know what it is made of; whoever translates it has its kind
and its values. No sentence is put together out of pieces of others: what differs is another kind.
"""

from collections.abc import Mapping
from typing import Any

from recensor.core.sentences.english import ENGLISH

__all__ = ["ENGLISH", "PENDING", "Sentence", "instruction", "say", "several"]

# A value that is not known yet: `Sentence.filled` gives it.
PENDING = "{value}"

_SEVERAL, _INSTRUCTION = "several", "instruction"


class Sentence(str):
    """A sentence in English, with its `kind` and its `values` by their names."""

    kind: str
    values: Mapping[str, Any]

    def __new__(cls, kind: str, values: Mapping[str, Any]) -> "Sentence":
        """The sentence of a kind. Raises KeyError for a kind or a value that is missing."""
        if kind == _SEVERAL:
            text = " ".join(values.values())
        elif kind == _INSTRUCTION:
            text = "; ".join(values.values())
            text = f"{text[:1].upper()}{text[1:]}."
        else:
            words = ENGLISH[kind]
            text = (words if isinstance(words, str) else words[values["count"] != 1]).format_map(values)
        sentence = super().__new__(cls, text)
        sentence.kind, sentence.values = kind, values
        return sentence

    def __reduce__(self) -> tuple[type["Sentence"], tuple[str, Mapping[str, Any]]]:
        return Sentence, (self.kind, self.values)

    def filled(self, value: str) -> "Sentence":
        """The sentence with the value that was `PENDING` when it was said."""
        known = {
            name: other.filled(value) if isinstance(other, Sentence) else value if other is PENDING else other
            for name, other in self.values.items()
        }
        return Sentence(self.kind, known)


def say(kind: str, /, **values: Any) -> Sentence:
    """A sentence of a kind, with its values. A `count` chooses between singular and plural, where the kind has both.

    Examples
    --------
    >>> sentence = say("circuit.there_is_no_part", part="R9")
    >>> sentence, sentence.kind, sentence.values
    ("there is no part 'R9'", 'circuit.there_is_no_part', {'part': 'R9'})
    """
    return Sentence(kind, values)


def several(*sentences: str) -> Sentence:
    """Whole sentences one after the other; empty ones are left out."""
    whole = [sentence for sentence in sentences if sentence]
    return Sentence(_SEVERAL, {str(number): sentence for number, sentence in enumerate(whole)})


def instruction(*acts: str) -> Sentence:
    """Acts that are done one after the other, as one sentence."""
    return Sentence(_INSTRUCTION, {str(number): act for number, act in enumerate(acts)})
