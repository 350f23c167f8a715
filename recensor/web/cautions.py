"""Cautions that several pages give in the same words."""

from collections.abc import Sequence


def unbounded_caution(names: Sequence[str]) -> str:
    """What is to be said of current sources whose voltage nothing bounds."""
    return (
        f"{' and '.join(names)}: the volts that it can reach are not stated. Opened for the ammeter it goes as high as "
        "it can. State its compliance voltage."
    )
