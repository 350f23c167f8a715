"""A meter's profile as part of a run document: the name of a shipped one, or in braces, perhaps by its name alone."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from typing import Any

from recensor.core.meters import (
    NOTHING_FOUND,
    SHIPPED,
    Accuracy,
    AccuracyError,
    AsFound,
    Instrument,
    Profile,
    Range,
    parse_accuracy,
)
from recensor.core.quantity import AMPERE, OHM, VOLT, Measurand
from recensor.formats.documents.reader import DocumentPlace, said


def read_profile(place: DocumentPlace) -> Profile:
    """The profile of a document's member. Raises `DocumentError`.

    A name that is not known here is kept: it says nothing about the meter, which then is nobody's.
    """
    if isinstance(place.value, str):
        return _called(place)
    if not isinstance(place.value, dict):
        raise place.error("must be a profile's name or a profile in braces {…}")
    if "profile" in place.value:
        named = place.table(("profile",), ("instrument", "found"))
        instrument = _instrument(named["instrument"]) if "instrument" in named else Instrument()
        return replace(_called(named["profile"]), instrument=instrument, found=_found(named))
    table = place.table(("functions",), ("jacks", "over_range", "auto_range", "instrument", "found"))
    jacks = table["jacks"].named() if "jacks" in table else []
    ranges = {}
    for name, function in table["functions"].named():
        measurand = DocumentPlace(function.path, name).member(Measurand)
        ranges[measurand] = tuple(sorted((_range(item, measurand) for item in function.items()), key=lambda r: r.full))
        if not ranges[measurand]:
            raise function.error("needs at least one range")
    return Profile(
        place.path.rpartition(".")[2],
        ranges,
        fuses={name: _fuse(jack) for name, jack in jacks},
        over_range=tuple(item.text() for item in table["over_range"].items()) if "over_range" in table else ("OL",),
        auto_range=table["auto_range"].boolean() if "auto_range" in table else True,
        instrument=_instrument(table["instrument"]) if "instrument" in table else Instrument(),
        found=_found(table),
    )


def profile_tree(profile: Profile) -> str | dict[str, Any]:
    """A profile as it stands in a document: a shipped one by its name, and so is one that nothing is known of."""
    instrument = said(number=profile.instrument.number, calibrated=profile.instrument.calibrated)
    if SHIPPED.get(profile.name) is profile or not profile.ranges:
        more = said(instrument=instrument, found=_found_tree(profile.found))
        return {"profile": profile.name, **more} if more else profile.name
    jacks = {name: said(fuse=fuse and _written(fuse, AMPERE)) for name, fuse in profile.fuses.items()}
    return {
        "functions": {
            measurand.value: [_range_tree(one, measurand) for one in ranges]
            for measurand, ranges in profile.ranges.items()
        },
        "jacks": jacks,
        "over_range": list(profile.over_range),
        "auto_range": profile.auto_range,
        **said(instrument=instrument, found=_found_tree(profile.found)),
    }


def _found(table: Mapping[str, DocumentPlace]) -> AsFound:
    """What was found of the meter itself."""
    if "found" not in table:
        return NOTHING_FOUND
    found = table["found"].table((), ("burden", "drop", "input", "gains", "offsets"))
    if "burden" in found and "drop" in found:
        raise found["drop"].error("a burden is told in ohms or as a drop, not both")
    gains = dict(_of_quantities(found.get("gains"), lambda place, _: _size(place, "")))
    offsets = dict(_of_quantities(found.get("offsets"), lambda place, unit: float(place.number(unit))))
    return AsFound(
        _size(found["burden"], OHM) if "burden" in found else None,
        _size(found["drop"], VOLT) if "drop" in found else None,
        _size(found["input"], OHM) if "input" in found else None,
        gains,
        offsets,
    )


def _of_quantities(
    place: DocumentPlace | None, number: Callable[[DocumentPlace, str], float]
) -> Iterator[tuple[Measurand, float]]:
    """A number for each of some quantities."""
    for name, one in place.named() if place else ():
        measurand = DocumentPlace(one.path, name).member(Measurand)
        yield measurand, number(one, measurand.unit)


def _found_tree(found: AsFound) -> dict[str, Any]:
    """What was found of the meter itself."""
    return said(
        burden=found.burden and _written(found.burden, OHM),
        drop=found.drop and _written(found.drop, VOLT),
        input=found.input_resistance and _written(found.input_resistance, OHM),
        gains={measurand.value: f"{gain:.12g}" for measurand, gain in found.gains.items()},
        offsets={measurand.value: _written(size, measurand.unit) for measurand, size in found.offsets.items()},
    )


def _range(place: DocumentPlace, measurand: Measurand) -> Range:
    table = place.table(("full", "step"), ("accuracy", "input", "burden", "jack"))
    full, step = _size(table["full"], measurand.unit), _size(table["step"], measurand.unit)
    if step >= full:
        raise table["step"].error("one digit is smaller than the full scale")
    return Range(
        full,
        step,
        _accuracy(table["accuracy"]) if "accuracy" in table else Accuracy(0.0, 0),
        _size(table["input"], OHM) if "input" in table else None,
        _size(table["burden"], OHM) if "burden" in table else None,
        table["jack"].text() if "jack" in table else None,
    )


def _size(place: DocumentPlace, unit: str) -> float:
    quantity = place.number(unit)
    if float(quantity) <= 0:
        raise place.error("must be above zero")
    return float(quantity)


def _accuracy(place: DocumentPlace) -> Accuracy:
    try:
        return parse_accuracy(place.text())
    except AccuracyError as error:
        raise place.error(str(error)) from None


def _called(place: DocumentPlace) -> Profile:
    return SHIPPED.get(place.text()) or Profile(place.text())


def _fuse(place: DocumentPlace) -> float | None:
    table = place.table((), ("fuse",))
    return _size(table["fuse"], AMPERE) if "fuse" in table else None


def _instrument(place: DocumentPlace) -> Instrument:
    table = place.table((), ("number", "calibrated"))
    return Instrument(
        table["number"].text(empty=True) if "number" in table else None,
        table["calibrated"].text(empty=True) if "calibrated" in table else None,
    )


def _range_tree(one: Range, measurand: Measurand) -> dict[str, Any]:
    accuracy = f"{one.accuracy.percent:g}% + {one.accuracy.digits}"
    return {
        "full": _written(one.full, measurand.unit),
        "step": _written(one.step, measurand.unit),
        "accuracy": accuracy,
        **said(
            input=one.input_resistance and _written(one.input_resistance, OHM),
            burden=one.burden and _written(one.burden, OHM),
            jack=one.jack,
        ),
    }


def _written(size: float, unit: str) -> str:
    return f"{size:.12g}{unit}"
