"""The band reader as a view model: bands read from both ends, a value's bands, and codes printed on a part."""

from dataclasses import dataclass
from decimal import Decimal

from recensor.core.figures import signed_percent, stated
from recensor.core.meters import displayed_limits
from recensor.core.quantity import OHM
from recensor.core.resistors import (
    BandError,
    BandReading,
    Coded,
    CodeError,
    Colour,
    Lookalike,
    colour_code,
    preferred_values,
    printed_code,
)
from recensor.drawing.resistor import BandedResistor, banded_resistor


@dataclass(frozen=True)
class End:
    """What the bands say from one end."""

    title: str
    value: str
    limits: str
    notes: tuple[str, ...]
    is_likely: bool


@dataclass(frozen=True)
class BandPage:
    """Everything the band reader shows."""

    text: str
    resistor: BandedResistor
    ends: tuple[End, ...]
    advice: str
    lookalikes: tuple[str, ...]
    error: str
    is_full: bool


def band_page(text: str, counts: int) -> BandPage:
    """Read the typed words and put the page together, for a meter of `counts`; an error keeps what was typed."""
    try:
        bands = colour_code.parse(text)
    except BandError as error:
        return BandPage(text, banded_resistor(()), (), "", (), str(error), False)
    words = " ".join(band.word for band in bands)
    is_full = len(bands) >= colour_code.MOST_BANDS
    if len(bands) < 3 and list(bands) != [Colour.BLACK]:
        advice = "Choose or type the bands in order; three at least." if bands else ""
        return BandPage(words, banded_resistor(bands), (), advice, (), "", is_full)
    readings = colour_code.read_both_ways(bands)
    likely = colour_code.likely(readings)
    shown = readings if bands != bands[::-1] else readings[:1]
    titles = ("From the left", "From the right")
    ends = tuple(_end(title, read, read == likely, counts) for title, read in zip(titles, shown, strict=False))
    alike = colour_code.lookalikes(likely.bands) if likely else []
    return BandPage(
        words, banded_resistor(bands), ends, _advice(readings, likely), tuple(map(_lookalike, alike)), "", is_full
    )


@dataclass(frozen=True)
class ValuePage:
    """A value's bands, its place among the preferred values, and what a meter should show."""

    resistor: BandedResistor | None
    words: str
    preferred: str
    nearest: tuple[str, ...]
    limits: str


def value_page(value: Decimal, tolerance: Decimal, counts: int) -> ValuePage:
    """The bands that say a value in ohms and a tolerance in %, for a meter of `counts`."""
    try:
        bands = colour_code.encode(value, tolerance)
    except BandError as error:
        resistor, words = None, str(error)
    else:
        resistor, words = banded_resistor(bands), ", ".join(band.word for band in bands)
    series = preferred_values.series_of(value)
    nearest = () if series else tuple(_neighbours(value, one) for one in (12, 24, 96, 192))
    preferred = f"A preferred value, from E{series} on." if series else "No preferred value. Below and above it:"
    return ValuePage(resistor, words, preferred, nearest, _limits(Coded(value, tolerance), counts))


def _neighbours(value: Decimal, series: int) -> str:
    near = preferred_values.neighbours(value, series)
    said = (f"{stated(one, OHM)} ({signed_percent(float(one / value - 1) * 100.0)})" for one in near)
    return f"E{series}: {' and '.join(said)}"


def _limits(coded: Coded, counts: int) -> str:
    least, most = coded.limits
    low, high = displayed_limits(float(least), float(most), counts)
    return f"A meter should show {low} to {high}."


@dataclass(frozen=True)
class PrintedPage:
    """A typed code and what it may mean: pairs of a value and the code that says it."""

    text: str
    meanings: tuple[tuple[str, str], ...]
    error: str


def printed_page(text: str) -> PrintedPage:
    """Read a printed code; nothing typed gives an empty page."""
    if not text:
        return PrintedPage("", (), "")
    try:
        meanings = printed_code.meanings(text)
    except CodeError as error:
        return PrintedPage(text, (), str(error))
    return PrintedPage(text, tuple((_printed(meaning), meaning.code) for meaning in meanings), "")


def _printed(meaning: printed_code.Meaning) -> str:
    if meaning.value == 0:
        return "0 Ω link"
    return stated(meaning.value, OHM) + (f" ± {meaning.tolerance:f} %" if meaning.tolerance is not None else "")


def _advice(readings: tuple[BandReading, BandReading], likely: BandReading | None) -> str:
    if likely is None and any(reading.coded for reading in readings):
        return "Both ends make sense. The tolerance band stands apart by a wider gap: read toward it, or measure."
    if likely is None:
        return "Neither end makes sense: one of the colours is not what it looks like."
    if likely.against:
        return "Look again under white light, or measure it: this is no usual part."
    return "The other end makes no sense." if readings[0].bands != readings[1].bands else ""


def _end(title: str, reading: BandReading, is_likely: bool, counts: int) -> End:
    if reading.coded is None:
        return End(title, "", "", (reading.error,), False)
    coded = reading.coded
    if coded.value == 0:
        return End(title, "0 Ω link", "A meter should show its leads' resistance and nothing more.", (), is_likely)
    coefficient = f", {coded.coefficient} ppm/K" if coded.coefficient is not None else ""
    if coded.tolerance is None:
        notes = ("Look for a fourth band. A part that really has none is ± 20 %, and old.", *reading.against)
        return End(title, f"{stated(coded.value, OHM)}, tolerance unsaid", _limits(coded, counts), notes, is_likely)
    value = f"{stated(coded.value, OHM)} ± {coded.tolerance:f} %{coefficient}"
    return End(title, value, _limits(coded, counts), reading.against, is_likely)


def _lookalike(lookalike: Lookalike) -> str:
    ratio = f"×{float(lookalike.ratio):.3g}" if lookalike.ratio >= 1 else f"÷{float(1 / lookalike.ratio):.3g}"
    return f"band {lookalike.band + 1} {lookalike.colour.word}: {stated(lookalike.coded.value, OHM)} ({ratio})"
