"""The colour code of resistors, IEC 60062 (tables from memory): bands to value and tolerance, and back."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum

from recensor.core.errors import Refused
from recensor.core.resistors import preferred_values
from recensor.core.sentences import say

MOST_BANDS = 6
NO_BAND_TOLERANCE = Decimal(20)
USUAL_TOLERANCE = Decimal(5)


class Colour(Enum):
    """A band's colour: its digit, power of ten, tolerance in % and temperature coefficient in 10⁻⁶/K."""

    BLACK = ("black", 0, 0, None, 250)
    BROWN = ("brown", 1, 1, Decimal(1), 100)
    RED = ("red", 2, 2, Decimal(2), 50)
    ORANGE = ("orange", 3, 3, Decimal("0.05"), 15)
    YELLOW = ("yellow", 4, 4, Decimal("0.02"), 25)
    GREEN = ("green", 5, 5, Decimal("0.5"), 20)
    BLUE = ("blue", 6, 6, Decimal("0.25"), 10)
    VIOLET = ("violet", 7, 7, Decimal("0.1"), 5)
    GREY = ("grey", 8, 8, Decimal("0.01"), 1)
    WHITE = ("white", 9, 9, None, None)
    GOLD = ("gold", None, -1, Decimal(5), None)
    SILVER = ("silver", None, -2, Decimal(10), None)

    def __init__(
        self, word: str, digit: int | None, exponent: int, tolerance: Decimal | None, coefficient: int | None
    ) -> None:
        self.word = word
        self.digit = digit
        self.exponent = exponent
        self.tolerance = tolerance
        self.coefficient = coefficient


# Colours that are taken for one another under a lamp or with weak colour vision (common practice, no source).
CONFUSABLE = (
    frozenset({Colour.RED, Colour.ORANGE, Colour.BROWN}),
    frozenset({Colour.BLUE, Colour.VIOLET, Colour.GREY}),
    frozenset({Colour.YELLOW, Colour.GOLD}),
    frozenset({Colour.WHITE, Colour.GREY, Colour.SILVER}),
)

# The finest series that parts of a tolerance (in %) come in (IEC 60063, from memory); finer tolerances: E192.
_FINEST_SERIES = {Decimal(20): 6, Decimal(10): 12, Decimal(5): 24, Decimal(2): 48, Decimal(1): 96}


class BandError(Refused):
    """The bands are no colour code; `band` is the place of the wrong one, counted from 0, None for all of them."""

    def __init__(self, message: str, band: int | None = None) -> None:
        super().__init__(message)
        self.band = band


# Larger than this, in ohms, and of these tolerances, in %, parts are hardly ever met (common practice, no source).
_LARGEST_USUAL = Decimal(22_000_000)
_RARE_TOLERANCES = frozenset({Decimal("0.01"), Decimal("0.02"), Decimal("0.05")})


@dataclass(frozen=True)
class Coded:
    """What bands say: ohms, tolerance in %, temperature coefficient in 10⁻⁶/K or None.

    Without a tolerance it was left unsaid: three colours are spoken, and a fourth may be on the part all the same.
    """

    value: Decimal
    tolerance: Decimal | None
    coefficient: int | None = None

    @property
    def series(self) -> int | None:
        """The coarsest E series that has the value, None when it is no preferred value."""
        return preferred_values.series_of(self.value)

    @property
    def limits(self) -> tuple[Decimal, Decimal]:
        """Smallest and largest resistance in ohms within tolerance, or within that of a part without such a band."""
        allowed = self.value * (NO_BAND_TOLERANCE if self.tolerance is None else self.tolerance) / 100
        return self.value - allowed, self.value + allowed


@dataclass(frozen=True)
class BandReading:
    """The bands read from one end: what they say or why they say nothing, and what speaks against this end."""

    bands: tuple[Colour, ...]
    coded: Coded | None
    error: str = ""
    against: tuple[str, ...] = ()


@dataclass(frozen=True)
class Lookalike:
    """The preferred value that one band taken for another would hide, and its ratio to the value read."""

    band: int
    colour: Colour
    coded: Coded
    ratio: Decimal


def parse(text: str) -> tuple[Colour, ...]:
    """Read colour words, or beginnings of them that fit one colour only, as in ``ye v r go``.

    Raises `BandError` with the place of the word that is not understood.
    """
    words = text.lower().replace("gray", "grey").replace("purple", "violet").replace(",", " ").replace("-", " ").split()
    if len(words) > MOST_BANDS:
        raise BandError(say("resistors.these_bands_resistor_at", words=len(words), most_bands=MOST_BANDS), MOST_BANDS)
    bands = []
    for place, word in enumerate(words):
        fitting = [colour for colour in Colour if colour.word.startswith(word)]
        if len(fitting) != 1:
            said = " or ".join(colour.word for colour in fitting) or ", ".join(colour.word for colour in Colour)
            raise BandError(
                say("resistors.could", word=word[:20], said=said)
                if fitting
                else say("resistors.no_band_colour", word=word[:20], said=said),
                place,
            )
        bands.append(fitting[0])
    return tuple(bands)


def decode(bands: Sequence[Colour]) -> Coded:
    """What the bands say, read from the first to the last. Raises `BandError`.

    Examples
    --------
    >>> decode(parse("yellow violet red gold"))
    Coded(value=Decimal('4700'), tolerance=Decimal('5'), coefficient=None)
    """
    if list(bands) == [Colour.BLACK]:
        return Coded(Decimal(0), Decimal(0))
    if not 3 <= len(bands) <= MOST_BANDS:
        raise BandError(say("resistors.resistor_bands_or_single", most_bands=MOST_BANDS, bands=len(bands)))
    count = 2 if len(bands) <= 4 else 3
    digits = 0
    for place, band in enumerate(bands[:count]):
        if band.digit is None:
            raise BandError(say("resistors.band_digit_and_none", place=place + 1, word=band.word), place)
        digits = digits * 10 + band.digit
    if bands[0] is Colour.BLACK:
        raise BandError(say("resistors.band_black_value_does"), 0)
    value = Decimal(digits).scaleb(bands[count].exponent)
    value = value.quantize(Decimal(1)) if value == value.to_integral() else value
    if len(bands) == 3:
        return Coded(value, None)
    tolerance = bands[count + 1].tolerance
    if tolerance is None:
        raise BandError(say("resistors.band_tolerance_and_no", count=count + 2, word=bands[count + 1].word), count + 1)
    if len(bands) < 6:
        return Coded(value, tolerance)
    if bands[5].coefficient is None:
        raise BandError(say("resistors.band_temperature_coefficient_and", word=bands[5].word), 5)
    return Coded(value, tolerance, bands[5].coefficient)


def encode(value: Decimal, tolerance: Decimal, coefficient: int | None = None) -> tuple[Colour, ...]:
    """The bands that say this value in ohms and tolerance in %. Raises `BandError` when none do.

    Parts finer than 5 % carry a third digit where they can (common practice, no source); others the fewest bands.

    Examples
    --------
    >>> [band.word for band in encode(Decimal(4700), Decimal(5))]
    ['yellow', 'violet', 'red', 'gold']
    """
    if value == 0:
        return (Colour.BLACK,)
    by_tolerance = {colour.tolerance: colour for colour in Colour if colour.tolerance is not None}
    if tolerance not in by_tolerance and tolerance != NO_BAND_TOLERANCE:
        raise BandError(say("resistors.no_band_says", tolerance=tolerance))
    by_digit = {colour.digit: colour for colour in Colour if colour.digit is not None}
    by_exponent = {colour.exponent: colour for colour in Colour}
    counts = (3,) if coefficient is not None else (3, 2) if tolerance < USUAL_TOLERANCE else (2, 3)
    for count in counts:
        exponent = value.adjusted() - count + 1
        digits = value.scaleb(-exponent)
        if value <= 0 or digits != digits.to_integral() or exponent not in by_exponent:
            continue
        bands = [by_digit[int(figure)] for figure in str(int(digits))] + [by_exponent[exponent]]
        if tolerance == NO_BAND_TOLERANCE:
            if count == 3:
                break
            return tuple(bands)
        bands.append(by_tolerance[tolerance])
        if coefficient is not None:
            bands.append(next(colour for colour in Colour if colour.coefficient == coefficient))
        return tuple(bands)
    raise BandError(say("resistors.no_bands_say", value=value, tolerance=tolerance))


def bands_saying(value: Decimal | None, tolerance: Decimal | None) -> tuple[Colour, ...]:
    """The bands that say a value in ohms and a tolerance in %; none when one is missing or no bands say them."""
    if value is None or tolerance is None:
        return ()
    try:
        return encode(value, tolerance)
    except BandError:
        return ()


def read_both_ways(bands: Sequence[Colour]) -> tuple[BandReading, BandReading]:
    """The bands from the first end and from the other, each with what speaks against it."""
    return _read(tuple(bands)), _read(tuple(reversed(bands)))


def likely(readings: Sequence[BandReading]) -> BandReading | None:
    """The one reading that nothing, or less, speaks against; None when neither end makes sense or both do alike.

    Without a tolerance band it is the first, in the order in which the colours were said.
    """
    sensible = [reading for reading in readings if reading.coded]
    if not sensible:
        return None
    fewest = min(len(reading.against) for reading in sensible)
    best = [reading for reading in sensible if len(reading.against) == fewest]
    if all(reading.coded and reading.coded.tolerance is None for reading in best):
        return best[0]  # three colours are spoken in their order
    return best[0] if len({(reading.coded, reading.bands) for reading in best}) == 1 else None


def lookalikes(bands: Sequence[Colour]) -> list[Lookalike]:
    """The preferred values that lie one confusable colour away from the value read, largest ratio first."""
    read = decode(bands)
    if read.value == 0:
        return []
    found = [
        Lookalike(place, colour, coded, coded.value / read.value) for place, colour, coded in _one_band_off(bands, read)
    ]
    return sorted(found, key=lambda lookalike: (-max(lookalike.ratio, 1 / lookalike.ratio), lookalike.band))


def _one_band_off(bands: Sequence[Colour], read: Coded) -> Iterator[tuple[int, Colour, Coded]]:
    for place, band in enumerate(bands):
        alike = {colour for group in CONFUSABLE if band in group for colour in group} - {band}
        for colour in sorted(alike, key=lambda colour: colour.word):
            try:
                coded = decode([*bands[:place], colour, *bands[place + 1 :]])
            except BandError:
                continue
            if coded.value != read.value and coded.series is not None:
                yield place, colour, coded


def _read(bands: tuple[Colour, ...]) -> BandReading:
    try:
        coded = decode(bands)
    except BandError as error:
        return BandReading(bands, None, str(error))
    against = []
    series = coded.series
    if coded.value and series is None:
        against.append(say("resistors.no_preferred_value", coded=coded.value))
    elif series is not None and coded.tolerance is not None and series > _FINEST_SERIES.get(coded.tolerance, 192):
        against.append(
            say("resistors.value_which_parts_do", coded=coded.value, series=series, tolerance=coded.tolerance)
        )
    if coded.value > _LARGEST_USUAL:
        against.append(say("resistors.more_than_parts_usually", coded=coded.value))
    if coded.tolerance in _RARE_TOLERANCES:
        against.append(say("resistors.parts_rare", tolerance=coded.tolerance))
    return BandReading(bands, coded, against=tuple(against))
