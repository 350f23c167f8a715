"""Cautions that several pages give in the same words."""

from collections.abc import Sequence


def unbounded_caution(names: Sequence[str]) -> str:
    """What is to be said of current sources whose voltage nothing bounds."""
    return (
        f"{' and '.join(names)}: its compliance, the most volts that it can reach, is not stated. "
        "Opened for the ammeter it goes as high as it can: state it, as in 12 V."
    )
