"""Quantities as people type them.

A quantity keeps the typed text, its exact value and its *resolution*: one unit of the last typed
digit. Letter-coded values (``4k7``, ``R47``) follow IEC 60062. What could mean two things is never
guessed: it is read by the plain rule and carries a `Ambiguity` that says what else it could mean.
"""

import re
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from functools import lru_cache

from recensor.core.errors import Refused
from recensor.core.sentences import say

OHM, VOLT, AMPERE, WATT, PERCENT = "Ω", "V", "A", "W", "%"
SIEMENS, CELSIUS, KELVIN = "S", "°C", "K"
QUANTITY_NAMES = {
    OHM: "resistance", VOLT: "voltage", AMPERE: "current", WATT: "power", PERCENT: "percentage",
    CELSIUS: "temperature", KELVIN: "B value",
}  # fmt: skip
EXAMPLES = {
    OHM: "4.7k or 4k7", VOLT: "9.04 or 120m", AMPERE: "12.4m or 0.0124", WATT: "0.25", PERCENT: "5 %", CELSIUS: "21",
    KELVIN: "3950",
}  # fmt: skip

LONGEST_TEXT = 40
LARGEST, SMALLEST, FINEST = Decimal("1e12"), Decimal("1e-12"), Decimal("1e-15")

_PREFIX_EXPONENTS = {"p": -12, "n": -9, "u": -6, "µ": -6, "m": -3, "": 0, "k": 3, "K": 3, "M": 6, "G": 9, "T": 12}
_UNIT_WORDS = {
    "ω": OHM, "ohm": OHM, "ohms": OHM, "r": OHM,
    "v": VOLT, "volt": VOLT, "volts": VOLT,
    "a": AMPERE, "amp": AMPERE, "amps": AMPERE, "ampere": AMPERE, "amperes": AMPERE,
    "w": WATT, "watt": WATT, "watts": WATT,
    "%": PERCENT,
}  # fmt: skip
_PREFIX_WORDS = {"giga": "G", "mega": "M", "kilo": "k", "milli": "m", "micro": "µ", "nano": "n", "pico": "p"}
_SAME_SIGN = str.maketrans({
    **dict.fromkeys("−–\u2010\u2011\ufe63\uff0d", "-"), "Ω": "Ω", "μ": "µ", **dict.fromkeys("\u00a0\u202f\u2009", " "),
})  # fmt: skip

_PLAIN = re.compile(
    r"(?P<sign>[+-]?) ?(?P<whole>[0-9]+(?: [0-9]{3})*|)(?:[.,](?P<fraction>[0-9]*))?"
    r"(?:[eE](?P<exponent>[+-]?[0-9]{1,3}))? ?(?P<suffix>[^0-9.,+\- ]*)"
)
_LETTER_CODED = re.compile(
    r"(?P<sign>[+-]?)(?P<whole>[0-9]*)(?P<letter>[RrkKMmGTuµnVvAa])(?P<fraction>[0-9]+) ?(?P<suffix>[^0-9.,+\- ]*)"
)
_COMMA_OF_THOUSANDS = re.compile(r"[+-]?[1-9][0-9]{0,2},[0-9]{3} ?(?P<suffix>[^0-9.,+\- ]*)")
_PREFIX_WORD = re.compile(rf"(?<![^\W\d])({'|'.join(_PREFIX_WORDS)})[ -]?(?=[^\W\d]|$)", re.IGNORECASE)
# Between a prefix and its unit a blank says nothing: 1k ohm.
_PREFIX_APART = re.compile(
    rf"(?<=[\d ])([{''.join(_PREFIX_EXPONENTS)}]) (?=(?:{'|'.join(word for word in _UNIT_WORDS if word != PERCENT)})$)",
    re.IGNORECASE,
)
# Units that take no prefix, so that the K of 3950 K is no kilo; they are taken off before the number is read.
_BARE = {CELSIUS: re.compile(r" ?(?:°|deg)? ?[Cc]$"), KELVIN: re.compile(r" ?[Kk]$")}
_OVER_RANGE = re.compile(r"[+-]?(?:[0O]\.?L\.?|OVER|OVERLOAD) ?(?P<suffix>[^0-9.,+\- ]*)", re.IGNORECASE)


class Measurand(StrEnum):
    """What is read at a bench, named as in a run document."""

    RESISTANCE = "resistance"
    VOLTAGE = "voltage"
    CURRENT = "current"

    @property
    def unit(self) -> str:
        """The SI unit it is read in."""
        return _UNITS[self]


RESISTANCE, VOLTAGE, CURRENT = Measurand
_UNITS = {RESISTANCE: OHM, VOLTAGE: VOLT, CURRENT: AMPERE}

# Below this share of what it stands beside a value counts as zero.
ZERO_SHARE = 1e-9


def counts_as_zero(value: float, scale: float) -> bool:
    """Whether a value is nothing beside others of the size `scale` in the same unit: round-off, not a quantity."""
    return abs(value) <= ZERO_SHARE * abs(scale)


class QuantityError(Refused):
    """The text is not a quantity that was asked for. The message says why and gives an example."""


@dataclass(frozen=True, slots=True)
class Ambiguity:
    """What a text could also mean: a question in words, and one unmistakable text for each meaning.

    A meaning names its unit where the text named a prefix or unit, and leaves it to its context where the text did.
    """

    question: str
    meanings: tuple[str, str]


@dataclass(frozen=True, slots=True)
class Quantity:
    """A typed quantity: text, value and resolution in the SI unit, unit or None when none was said.

    Value and resolution are None when the meter showed over-range. `beside` is the unit that was
    written beside the text, as it was written.
    """

    text: str
    value: Decimal | None
    resolution: Decimal | None
    unit: str | None = None
    ambiguity: Ambiguity | None = None
    beside: str = ""

    @property
    def over_range(self) -> bool:
        """Whether the meter showed that the value is beyond its range."""
        return self.value is None

    def __float__(self) -> float:
        if self.value is None:
            raise QuantityError(say("quantity.over_range_not_number", text=self.text))
        return float(self.value)


# The same digits are typed often, and every page reads them again.
@lru_cache(maxsize=8192)
def parse(text: str, unit: str | None = None, beside: str = "", *, one_is_over_range: bool = False) -> Quantity:
    """Read one typed quantity.

    Parameters
    ----------
    text : what was typed, such as ``4k7``, ``12.4mA``, ``−9,83`` or ``OL``.
    unit : the SI unit that the place asks for (`OHM`, `VOLT`, ...), or None where any will do.
    beside : a unit written in a field of its own (``mA``); it must agree with one in the text.
    one_is_over_range : whether this meter shows over-range as a bare ``1``.

    Raises
    ------
    QuantityError : the text is not understood, or is of another quantity, or is out of all range.

    Examples
    --------
    >>> parse("4.70k", OHM)
    Quantity(text='4.70k', value=Decimal('4700'), resolution=Decimal('10'), unit='Ω', ambiguity=None, beside='')
    >>> parse("−9,83", VOLT).value
    Decimal('-9.83')
    """
    typed = text.strip()
    if not typed:
        raise QuantityError(say("quantity.nothing_written_here_write", example=_example(unit)))
    if len(typed) > LONGEST_TEXT:
        raise QuantityError(say("quantity.characters_long_value_at", typed=len(typed), longest_text=LONGEST_TEXT))
    plain = _plain_text(typed)
    if unit in _BARE:
        plain = _BARE[unit].sub("", plain)
    beside_prefix, beside_unit = _split_suffix(_plain_text(beside.strip()), beside)

    if (match := _OVER_RANGE.fullmatch(plain)) or (one_is_over_range and plain == "1"):
        words = _split_suffix(match["suffix"], typed)[1] if match else None
        return Quantity(typed, None, None, _agreed(typed, words, beside_unit, unit), beside=beside)

    digits, decimals, exponent, prefix, words = _read_number(plain, typed, unit)
    if prefix and beside_prefix and prefix != beside_prefix:
        raise QuantityError(say("quantity.and_unit_beside_name", typed=typed, beside=beside))
    if words and beside_prefix and not prefix:
        raise QuantityError(say("quantity.says_unit_beside_says", typed=typed, words=words, beside=beside))
    agreed = _agreed(typed, words, beside_unit, unit)
    prefix = prefix or beside_prefix
    shift = exponent + _PREFIX_EXPONENTS[prefix]
    value, resolution = digits.scaleb(shift), Decimal(1).scaleb(shift - decimals)
    _check_magnitude(typed, value, resolution, agreed)
    value, resolution = _plain_decimal(value), _plain_decimal(resolution)
    return Quantity(typed, value, resolution, agreed, _ambiguity(plain, digits, prefix, agreed), beside)


def parse_beside_chooser(text: str, unit: str, beside: str) -> Quantity:
    """Read what was typed beside a unit chooser: a prefix or unit in the text itself wins over the chooser.

    Examples
    --------
    >>> float(parse_beside_chooser("1.89", AMPERE, "mA")), float(parse_beside_chooser("2k2", OHM, "MΩ"))
    (0.00189, 2200.0)
    """
    alone = parse(text, unit)
    says_more_than_digits = any(character.isalpha() for character in text.lower().replace("e", ""))
    return alone if alone.over_range or says_more_than_digits else parse(text, unit, beside)


def parse_percent(text: str) -> Quantity:
    """Read a percentage, such as ``5%`` or ``0,5 %``; its value is the number before the sign.

    Examples
    --------
    >>> parse_percent("5 %").value
    Decimal('5')
    """
    quantity = parse(text, PERCENT)
    if PERCENT not in quantity.text:
        raise QuantityError(say("quantity.needs_sign_write_like", text=text))
    if quantity.value is None or not 0 <= quantity.value <= 100:
        raise QuantityError(say("quantity.must_lie_between_and", text=text))
    return quantity


def positive(text: str, unit: str | None) -> Quantity:
    """A stated value above zero and without ambiguity. Raises `QuantityError`."""
    quantity = parse(text, unit)
    if quantity.over_range or float(quantity) <= 0:
        raise QuantityError(say("quantity.not_above_zero", quantity=quantity.text))
    if quantity.ambiguity:
        first, second = quantity.ambiguity.meanings
        raise QuantityError(say("quantity.write_or", question=quantity.ambiguity.question, first=first, second=second))
    return quantity


def as_ratio(percentage: Quantity) -> float:
    """The percentage as a plain ratio: 5 % is 0.05."""
    return float(percentage) / 100.0


def _read_number(plain: str, typed: str, unit: str | None) -> tuple[Decimal, int, int, str, str | None]:
    """Digits, how many of them are decimals, power of ten, prefix and unit of a typed number."""
    if match := _LETTER_CODED.fullmatch(plain):
        letter = match["letter"]
        prefix, text = ("", _UNIT_WORDS[letter.lower()]) if letter in "RrVvAa" else (letter, None)
        more_prefix, more_unit = _split_suffix(match["suffix"], typed)
        if more_prefix or (text and more_unit and text != more_unit):
            raise QuantityError(say("quantity.names_unit_twice_write", typed=typed, example=_example(unit)))
        digits = Decimal(f"{match['sign']}{match['whole'] or '0'}.{match['fraction']}")
        return digits, len(match["fraction"]), 0, prefix, text or more_unit
    match = _PLAIN.fullmatch(plain)
    if not match or not (match["whole"] or match["fraction"]):
        raise QuantityError(say("quantity.not_understood_write_number", typed=typed, example=_example(unit)))
    whole = match["whole"]
    if " " in whole and len(whole.split(" ")[0]) > 3:
        raise QuantityError(say("quantity.not_understood_digits_grouped", typed=typed))
    prefix, text = _split_suffix(match["suffix"], typed)
    number = f"{match['sign']}{whole.replace(' ', '') or '0'}"
    fraction = match["fraction"] or ""
    if fraction:
        number += f".{fraction}"
    return Decimal(number), len(fraction), int(match["exponent"] or 0), prefix, text


def _plain_text(text: str) -> str:
    """The text with one kind of minus and space, and a prefix that is written out as its letter before the unit."""
    plain = _PREFIX_WORD.sub(lambda match: _PREFIX_WORDS[match[1].lower()], text.translate(_SAME_SIGN))
    return _PREFIX_APART.sub(r"\1", plain)


def _split_suffix(suffix: str, typed: str) -> tuple[str, str | None]:
    """Prefix and unit of what follows the digits: ``mA`` is (``m``, ``A``)."""
    if not suffix:
        return "", None
    if suffix.lower() in _UNIT_WORDS:
        return "", _UNIT_WORDS[suffix.lower()]
    if suffix.lower().startswith("meg"):
        prefix, rest = "M", suffix[3:]
    else:
        prefix, rest = suffix[0], suffix[1:]
    if prefix in _PREFIX_EXPONENTS and (not rest or rest.lower() in _UNIT_WORDS) and rest != PERCENT:
        return prefix, _UNIT_WORDS.get(rest.lower())
    raise QuantityError(say("quantity.in_no_unit_or", suffix=suffix, typed=typed))


def _agreed(typed: str, text: str | None, beside: str | None, wanted: str | None) -> str | None:
    """The one unit that text, neighbouring field and place agree on."""
    if text and beside and text != beside:
        raise QuantityError(say("quantity.in_unit_beside_write", typed=typed, text=text, beside=beside))
    unit = text or beside
    if unit and wanted and unit != wanted:
        raise QuantityError(
            say(
                "quantity.in_here_in_asked",
                typed=typed,
                quantity_names=QUANTITY_NAMES[unit],
                unit=unit,
                wanted_name=QUANTITY_NAMES[wanted],
                wanted=wanted,
                example=_example(wanted),
            )
        )
    return unit or wanted


def _check_magnitude(typed: str, value: Decimal, resolution: Decimal, unit: str | None) -> None:
    size = abs(value)
    if size > LARGEST or resolution > LARGEST:
        raise QuantityError(say("quantity.larger_than_anything_bench", typed=typed, example=_example(unit)))
    if 0 < size < SMALLEST or resolution < FINEST:
        raise QuantityError(say("quantity.finer_than_anything_bench", typed=typed, example=_example(unit)))


def _ambiguity(plain: str, digits: Decimal, prefix: str, unit: str | None) -> Ambiguity | None:
    """What the text could also mean, by the three rules of two-way reading."""
    match = _COMMA_OF_THOUSANDS.fullmatch(plain)
    if match and match["suffix"].lower() in ("", *_UNIT_WORDS):
        said = match["suffix"] and (unit or "")
        point, thousand = f"{digits:f}{said}", f"{digits.scaleb(3):f}{said}"
        question = say("quantity.does_comma_stand_decimal", point=point, thousand=thousand)
        return Ambiguity(question, (point, thousand))
    if prefix == "m" and unit == OHM:
        return Ambiguity(say("quantity.meant_milli_or_mega"), (f"{digits.scaleb(-3):f}{unit}", f"{digits:f}M{unit}"))
    if prefix == "M" and unit in (VOLT, AMPERE):
        return Ambiguity(say("quantity.meant_mega_or_milli"), (f"{digits.scaleb(6):f}{unit}", f"{digits:f}m{unit}"))
    return None


def _plain_decimal(number: Decimal) -> Decimal:
    """The same number without a positive exponent, so that it prints as digits."""
    exponent = number.as_tuple().exponent
    return number.quantize(Decimal(1)) if isinstance(exponent, int) and 0 < exponent <= 15 else number


def _example(unit: str | None) -> str:
    return EXAMPLES.get(unit or "", "4.7k or 12.4m")
