"""A target as one short word for an address, and back: ``v.A.gnd@main``, ``i.R2@main~R1``, ``of.R1``, ``leads``.

Before the ``@`` stands what is read, behind it the setup, then ``~`` the part that it is read at, then ``!`` the row of
a sweep. Names may hold anything: what is no letter, digit or underscore of ASCII is written as its code between two
hyphens, so that no two targets have one slug.
"""

import re

from recensor.core.circuit.sheet import RecordError, Sheet, check_target
from recensor.core.circuit.target import Columns, Target, target_of
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE

_LETTERS = {VOLTAGE.value: "v", RESISTANCE.value: "r", CURRENT.value: "i"}
_QUANTITIES = {letter: quantity for quantity, letter in _LETTERS.items()}
_LEADS, _ALONE = "leads", "of"

_ODD = re.compile(r"[^A-Za-z0-9_]")
_CODE = re.compile(r"-([0-9a-f]{1,6})-")
_NAME = r"(?:[A-Za-z0-9_]|-[0-9a-f]{1,6}-)+"
_SLUG = re.compile(
    rf"(?P<read>{_NAME}(?:\.{_NAME}){{1,2}})(?:@(?P<setup>{_NAME}))?(?:~(?P<at>{_NAME}))?(?:!(?P<step>[0-9]{{1,6}}))?"
)

# No slug is longer: four names of sixty letters, each of them a code.
LONGEST_SLUG = 2_200


def slug(target: Target) -> str:
    """The slug of a target.

    Examples
    --------
    >>> from recensor.core.circuit.target import Across, PartAlone, Through
    >>> slug(Across(VOLTAGE, ("A", "gnd"), "main")), slug(PartAlone("R1'", RESISTANCE))
    ('v.A.gnd@main', 'of.r.R1-27-')
    """
    columns = target.columns
    if target.is_leads:
        return _LEADS
    letter = _LETTERS[columns.quantity]
    names = [_escaped(name) for name in (columns.of, columns.red, columns.black, columns.through) if name]
    read = ".".join([*([_ALONE] if columns.of else []), letter, *names])
    setup = f"@{_escaped(columns.setup)}" if columns.setup else ""
    at = f"~{_escaped(columns.at)}" if columns.at else ""
    return f"{read}{setup}{at}{'' if columns.step is None else f'!{columns.step}'}"


def target_of_slug(text: str, sheet: Sheet) -> Target | None:
    """The target of a slug; None where it is none, or none of this sheet."""
    target = read_slug(text)
    return target if target is not None and has_place(target, sheet) else None


def read_slug(text: str) -> Target | None:
    """The target of a slug, whatever circuit it may be of; None where it is no slug."""
    if text == _LEADS:
        return target_of(Columns())
    match = _SLUG.fullmatch(text) if len(text) <= LONGEST_SLUG else None
    if match is None:
        return None
    names = [_plain(name) for name in match["read"].split(".")]
    setup, at = _plain(match["setup"] or ""), _plain(match["at"] or "")
    step = int(match["step"]) if match["step"] else None
    match names:
        case ["of", letter, part] if letter in _QUANTITIES and not at and step is None:
            target = target_of(Columns(_QUANTITIES[letter], of=part, setup=setup))
        case [letter, red, black] if letter in ("v", "r") and setup:
            target = target_of(Columns(_QUANTITIES[letter], red=red, black=black, setup=setup, at=at, step=step))
        case ["i", part] if setup:
            target = target_of(Columns(CURRENT.value, through=part, setup=setup, at=at, step=step))
        case _:
            return None
    return target if slug(target) == text else None  # a name is written in one way only


def has_place(target: Target, sheet: Sheet) -> bool:
    """Whether a sheet has what a target names."""
    try:
        check_target("", target, sheet)
    except RecordError:
        return False
    return True


def _escaped(name: str) -> str:
    return _ODD.sub(lambda odd: f"-{ord(odd[0]):x}-", name)


def _plain(text: str) -> str:
    return _CODE.sub(lambda code: chr(min(int(code[1], 16), 0x10FFFF)), text)
