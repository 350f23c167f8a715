"""A circuit in one line as it is spoken: values as colour bands, tolerances without their sign.

``9V: blue grey brown + red/orange violet red gold; 5`` is ``9V: 680 + ? ; 5%``, where the part that is ``?`` is 2.7 kΩ
or 3.7 kΩ: a doubtful band keeps both values until the part is measured, which settles it.
"""

import re
from dataclasses import replace
from itertools import product

from recensor.core.circuit import UNMARKED, NotationError, Part, Sheet, one_line
from recensor.core.quantity import Quantity, as_ratio, parse, parse_percent
from recensor.core.resistors import BandError, Coded, Colour, colour_code

_WORD = "|".join(colour.word for colour in Colour)
_ONE = rf"(?:{_WORD}|gray|purple)"
_BANDS = re.compile(rf"(?<![A-Za-z]){_ONE}(?:(?:\s*/\s*|[\s-]+){_ONE})+(?![A-Za-z])", re.IGNORECASE)
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
    maybe: list[tuple[str, ...]] = []
    pieces: list[str] = []
    at = 0
    for match in _BANDS.finditer(line):
        pieces.append(line[at : match.start()])
        values = _values(match.group(), match.start(), match.end())
        pieces.append(values[0] if len(values) == 1 else UNMARKED)
        maybe += [()] * _unmarked("".join(pieces[-2:-1])) + ([values] if len(values) > 1 else [])
        at = match.end()
    pieces.append(_BARE_TOLERANCE.sub(r"; \1%", line[at:]))
    sheet = one_line.read("".join(pieces), title)
    unmarked = [name for name, part in sheet.parts.items() if part.nominal is None]
    parts = {name: replace(sheet.parts[name], maybe=values) for name, values in zip(unmarked, maybe, strict=False)}
    return replace(sheet, parts={**sheet.parts, **parts})


def _unmarked(text: str) -> int:
    return text.count(UNMARKED)


def _values(bands: str, start: int, end: int) -> tuple[str, ...]:
    """What the bands say, as a line writes it; several values where a band is one of two."""
    words = re.sub(r"\s*/\s*", "/", bands.replace("-", " ")).split()
    choices = [word.split("/") for word in words]
    found: dict[str, None] = {}
    try:
        for spoken in list(product(*choices))[:_MOST_VALUES]:
            found[_written(colour_code.decode(colour_code.parse(" ".join(spoken))))] = None
    except BandError as error:
        raise NotationError(str(error), start, end) from None
    return tuple(found)


def _written(coded: Coded) -> str:
    value = coded.value
    for prefix, power in (("M", 6), ("k", 3)):
        if value >= 10**power:
            text = f"{value.scaleb(-power).normalize():f}{prefix}"
            break
    else:
        text = f"{value.normalize():f}"
    return f"{text} {coded.tolerance.normalize():f}%" if coded.tolerance else text


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
