"""Parts that are marked alike: loose, they cannot be told apart, so that they are tagged or taken as one group."""

from collections.abc import Collection
from dataclasses import replace

from recensor.core.circuit import Sheet, marking
from recensor.core.editing.edits import EditError
from recensor.core.sentences import say


def marked_alike(sheet: Sheet) -> list[tuple[str, ...]]:
    """The marked resistors of which another looks the same, by what is marked on them; groups too.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> marked_alike(one_line.read("9V: 1k + 1k + 2k2 + ? + ?"))
    [('R1', 'R2')]
    """
    found: dict[tuple[object, ...], list[str]] = {}
    for name, part in sheet.parts.items():
        if part.kind.has_bands and part.nominal:
            found.setdefault(marking(part), []).append(name)
    return [tuple(names) for names in found.values() if len(names) > 1]


def as_group(sheet: Sheet, names: Collection[str]) -> Sheet:
    """The sheet with parts that nobody can tell apart; they leave other groups.

    Raises `EditError` for parts that are not marked alike.
    """
    if len(names) < 2 or not any(set(names) <= set(same) for same in marked_alike(sheet)):
        raise EditError(say("editing.only_alike_make_a_group"), tuple(names))
    others = told_apart(sheet, names).groups
    return replace(sheet, groups=(*others, tuple(names)))


def told_apart(sheet: Sheet, names: Collection[str]) -> Sheet:
    """The sheet on which these parts are in no group."""
    left = (tuple(name for name in group if name not in names) for group in sheet.groups)
    return replace(sheet, groups=tuple(group for group in left if len(group) > 1))
