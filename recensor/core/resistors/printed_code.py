"""Values printed on resistors: letter-digit codes with tolerance letters (IEC 60062), three- and four-digit chip
markings, and the EIA-96 chip code (all tables from memory)."""

import re
from dataclasses import dataclass
from decimal import Decimal

from recensor.core.errors import Refused
from recensor.core.resistors.preferred_values import mantissas
from recensor.core.sentences import say

TOLERANCE_LETTERS = {
    letter: Decimal(percent)
    for letter, percent in zip("BCDFGJKM", ("0.1", "0.25", "0.5", "1", "2", "5", "10", "20"), strict=True)
}
_POINT_EXPONENTS = {"R": 0, "K": 3, "M": 6, "G": 9}
_EIA_96_EXPONENTS = {
    "Z": -3,
    "Y": -2,
    "R": -2,
    "X": -1,
    "S": -1,
    "A": 0,
    "B": 1,
    "H": 1,
    "C": 2,
    "D": 3,
    "E": 4,
    "F": 5,
}

_LETTER_DIGIT = re.compile(r"(?P<whole>[0-9]{0,3})(?P<point>[RKMG])(?P<fraction>[0-9]{0,3})(?P<tolerance>[BCDFGJKM]?)")
_CHIP = re.compile(r"(?P<digits>[0-9]{2,3})(?P<exponent>[0-9])")
_EIA_96 = re.compile(r"(?P<place>[0-9]{2})(?P<exponent>[ZYRXSABHCDEF])")


class CodeError(Refused):
    """The text is no printed code; the message says what would be."""


@dataclass(frozen=True)
class Meaning:
    """What a printed code may say: ohms, tolerance in % where it says one, and by which code."""

    value: Decimal
    tolerance: Decimal | None
    code: str


def meanings(text: str) -> list[Meaning]:
    """Everything that a printed code may mean, the likeliest first. Raises `CodeError` when nothing fits.

    Examples
    --------
    >>> [(m.value, m.tolerance) for m in meanings("4K7J")]
    [(Decimal('4700'), Decimal('5'))]
    >>> [(m.value, m.code) for m in meanings("473")]
    [(Decimal('47000'), 'chip marking, 3 digits'), (Decimal('473'), 'the value itself')]
    """
    code = text.strip().upper().replace("Ω", "")
    found = [*_letter_digit(code), *_eia_96(code), *_chip(code)]
    if code.isascii() and code.isdigit() and len(code) <= 6:
        found.append(Meaning(Decimal(int(code)), None, "the value itself"))
    if not found:
        raise CodeError(say("resistors.no_printed_code_codes", text=text.strip()[:20]))
    return found


def _letter_digit(code: str) -> list[Meaning]:
    match = _LETTER_DIGIT.fullmatch(code)
    if not match or not (match["whole"] or match["fraction"]):
        return []
    value = Decimal(f"{match['whole'] or 0}.{match['fraction'] or 0}").scaleb(_POINT_EXPONENTS[match["point"]])
    return [Meaning(_plain(value), TOLERANCE_LETTERS.get(match["tolerance"]), "letter for the decimal point")]


def _chip(code: str) -> list[Meaning]:
    match = _CHIP.fullmatch(code)
    if not match:
        return []
    value = Decimal(int(match["digits"])).scaleb(int(match["exponent"]))
    return [Meaning(_plain(value), None, say("resistors.chip_marking_digits", code=len(code)))]


def _eia_96(code: str) -> list[Meaning]:
    match = _EIA_96.fullmatch(code)
    if not match or not 1 <= int(match["place"]) <= 96:
        return []
    value = Decimal(mantissas(96)[int(match["place"]) - 1]).scaleb(_EIA_96_EXPONENTS[match["exponent"]])
    return [Meaning(_plain(value), Decimal(1), "EIA-96 chip code")]


def _plain(value: Decimal) -> Decimal:
    """The same number without a positive exponent or needless zeros."""
    shortest = value.normalize()
    return shortest.quantize(Decimal(1)) if shortest == shortest.to_integral() else shortest
