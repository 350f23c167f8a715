"""A circuit in one line as it is spoken: values as colour bands, tolerances without their sign.

``9V: blue grey brown + red/orange violet red gold; 5`` is ``9V: 680 + ? ; 5%``, where the part that is ``?`` is 2.7 kΩ
or 3.7 kΩ: a doubtful band keeps both values until the part is measured, which settles it.
"""

import re
from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal
from itertools import product
from typing import NamedTuple

from recensor.core.circuit import UNMARKED, NotationError, Part, Sheet, one_line
from recensor.core.quantity import Quantity, as_ratio, parse, parse_percent
from recensor.core.resistors import BandError, Colour, colour_code, printed_code
from recensor.core.resistors.colour_code import NO_BAND_TOLERANCE

_WORD = "|".join(colour.word for colour in Colour)
_ONE = rf"(?:{_WORD}|gray|purple)"
_BANDS = re.compile(rf"(?<![A-Za-z]){_ONE}(?:(?:\s*/\s*|[\s-]+){_ONE})+(?![A-Za-z])", re.IGNORECASE)
# A value with the letter of its tolerance; those that begin with a letter are names.
_LETTERS = re.compile(r"(?<![\w.])[0-9]{1,3}[RKMGk][0-9]{0,3}[BCDFGJKM](?!\w)")
_BARE_TOLERANCE = re.compile(r";\s*([0-9]+(?:[.,][0-9]+)?)\s*$")
_MOST_VALUES = 8

# A part that was measured settles which of two values it has once it is this near to just one of them.
_NEAR = 0.15


def read(line: str, title: str) -> Sheet:
    """The circuit of a line as it is spoken, as a sheet that asks for nothing. Raises `NotationError`.

    Examples
    --------
    >>> sheet = read("9V: blue grey brown + red/orange violet red gold; 5", "Spoken")
    >>> sheet.parts["R1"].nominal.text, sheet.parts["R1"].tolerance.text, sheet.parts["R2"].maybe
    ('680', '5%', ('2.7k 5%', '3.7k 5%'))
    """
    spoken = _as_values(line)
    sheet = one_line.read(_BARE_TOLERANCE.sub(r"; \1%", spoken.line), title)
    return replace(sheet, parts=spoken.doubtful(sheet.parts))


class SpokenLine(NamedTuple):
    """A line whose bands are written as values; of each part that is ``?`` in it, the values left open, if any."""

    line: str
    maybe: tuple[tuple[str, ...], ...]

    def doubtful(self, parts: Mapping[str, Part]) -> dict[str, Part]:
        """The parts of this line, those of doubtful bands with the values that are left open."""
        unmarked = [name for name, part in parts.items() if part.nominal is None]
        left_open = zip(unmarked, self.maybe, strict=False)
        return {**parts, **{name: replace(parts[name], maybe=values) for name, values in left_open}}


def of_parts(line: str) -> SpokenLine:
    """A line with what is on single parts written as values: bands, three of which are 20 %, and letters.

    Raises `NotationError`.

    Examples
    --------
    >>> of_parts("R1 | brown black red + 4K7J").line
    'R1 | 1k 20% + 4.7k 5%'
    """
    return _as_values(_LETTERS.sub(lambda code: _letters(code.group()), line), NO_BAND_TOLERANCE)


def _letters(code: str) -> str:
    meant = printed_code.meanings(code)[0]
    return _written(meant.value, meant.tolerance)


def _as_values(line: str, unsaid: Decimal | None = None) -> SpokenLine:
    """A line with bands written as values, `unsaid` in % where three of them say no tolerance."""
    maybe: list[tuple[str, ...]] = []
    pieces: list[str] = []
    at = 0
    for match in _BANDS.finditer(line):
        pieces.append(line[at : match.start()])
        values = _values(match.group(), match.start(), match.end(), unsaid)
        maybe += [()] * pieces[-1].count(UNMARKED) + ([values] if len(values) > 1 else [])
        pieces.append(values[0] if len(values) == 1 else UNMARKED)
        at = match.end()
    return SpokenLine("".join([*pieces, line[at:]]), tuple(maybe))


def _values(bands: str, start: int, end: int, unsaid: Decimal | None) -> tuple[str, ...]:
    """What the bands say, as a line writes it; several values where a band is one of two."""
    words = re.sub(r"\s*/\s*", "/", bands.replace("-", " ")).split()
    choices = [word.split("/") for word in words]
    found: dict[str, None] = {}
    try:
        for spoken in list(product(*choices))[:_MOST_VALUES]:
            coded = colour_code.decode(colour_code.parse(" ".join(spoken)))
            found[_written(coded.value, coded.tolerance or unsaid)] = None
    except BandError as error:
        raise NotationError(str(error), start, end) from None
    return tuple(found)


def _written(value: Decimal, tolerance: Decimal | None) -> str:
    for prefix, power in (("M", 6), ("k", 3)):
        if value >= 10**power:
            text = f"{value.scaleb(-power).normalize():f}{prefix}"
            break
    else:
        text = f"{value.normalize():f}"
    return f"{text} {tolerance.normalize():f}%" if tolerance else text


def candidates(part: Part) -> list[tuple[Quantity, Quantity | None]]:
    """The values that doubtful bands leave open, each with its tolerance."""
    found = []
    for text in part.maybe:
        value, _, tolerance = text.partition(" ")
        found.append((parse(value, part.kind.unit), parse_percent(tolerance) if tolerance else part.tolerance))
    return found


def fits(ohms: float, value: Quantity, tolerance: Quantity | None) -> bool:
    """Whether a part of such bands may be measured so."""
    return abs(ohms / float(value) - 1.0) <= max(_NEAR, 2.0 * as_ratio(tolerance) if tolerance else 0.0)


def settled(sheet: Sheet, part: str, ohms: float) -> Sheet | None:
    """The sheet once a part of doubtful bands was measured; None where that settles nothing."""
    known = sheet.parts[part]
    fitting = [(value, tolerance) for value, tolerance in candidates(known) if fits(ohms, value, tolerance)]
    if len(fitting) != 1:
        return None
    ((value, tolerance),) = fitting
    parts = {**sheet.parts, part: replace(known, nominal=value, tolerance=tolerance, maybe=())}
    return replace(sheet, parts=parts)
