"""What a person can be told: the parent of every error that says why something cannot be."""

from collections.abc import Iterable


class Refused(ValueError):
    """Something that cannot be. The message is for the person who asked for it, and nothing was changed.

    `parts` and `nodes` name what is concerned; `place` is where in a document or form it stands, such as
    ``readings[3].across``, None where the message has no place of its own.
    """

    def __init__(
        self, message: str, parts: Iterable[str] = (), nodes: Iterable[str] = (), *, place: str | None = None
    ) -> None:
        super().__init__(message)
        self.message = message
        self.parts = tuple(parts)
        self.nodes = tuple(nodes)
        self.place = place
