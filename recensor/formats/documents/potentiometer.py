"""A potentiometer in a run document: one part of three leads there, two rheostats in a sheet.

Its connections are [end, slider, end]; what a setup sets is its lower part. Read by itself it is the lower part.
"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from recensor.core.circuit import Leads, Part, Setup, Sheet, potentiometer
from recensor.core.quantity import OHM, Quantity, QuantityError
from recensor.formats.documents.reader import DocumentPlace, said

WORD = "potentiometer"


def halves_of(parts: Mapping[str, DocumentPlace]) -> dict[str, tuple[str, str]]:
    """The names of both rheostats of each potentiometer among a document's parts. Raises `DocumentError`."""
    found = {}
    for name, place in parts.items():
        if place.member_called("kind").value == WORD:
            upper, lower = potentiometer.halves_called(name)
            for half in (upper, lower):
                if half in parts:
                    raise place.error(f"its halves are called {upper} and {lower}, and there is a part {half}")
            found[name] = upper, lower
    return found


def two_parts(name: str, place: DocumentPlace) -> dict[str, Part]:
    """Both rheostats of a potentiometer."""
    table = place.table(("kind", "nominal"), ("tolerance",))
    tolerance = table["tolerance"].percentage() if "tolerance" in table else None
    return potentiometer.two_parts(name, table["nominal"].number(OHM), tolerance)


def connected(halves: tuple[str, str], place: DocumentPlace) -> dict[str, Leads]:
    """Both rheostats between the three leads."""
    first, slider, second = place.three()
    return {halves[0]: (first, slider), halves[1]: (slider, second)}


def settings(name: str, place: DocumentPlace, whole: Quantity) -> dict[str, Quantity]:
    """What both rheostats are set to where the lower part is. Raises `DocumentError`."""
    try:
        return potentiometer.settings(name, place.number(OHM), whole)
    except QuantityError as error:
        raise place.error(error.message) from None


def as_one(sheet: Sheet) -> tuple[dict[str, Part], dict[str, Setup], dict[str, Any], dict[str, dict[str, Any]]]:
    """The parts and setups that are no halves; and each potentiometer as a part, and in each setup as it is there."""
    hidden = {half for halves in sheet.potentiometers.values() for half in halves}
    parts = {name: part for name, part in sheet.parts.items() if name not in hidden}
    setups, there = {}, {}
    for key, setup in sheet.setups.items():
        here: dict[str, Any] = {}
        for name, (upper, lower) in sheet.potentiometers.items():
            if upper in setup.connections and lower in setup.connections:
                leads = [*setup.connections[upper], setup.connections[lower][1]]
                here[name] = leads, setup.values[lower].text if lower in setup.values else None
        there[key] = here
        setups[key] = replace(
            setup,
            connections={name: leads for name, leads in setup.connections.items() if name not in hidden},
            values={name: value for name, value in setup.values.items() if name not in hidden},
        )
    whole = {}
    for name, (_, lower) in sheet.potentiometers.items():
        part = sheet.parts[lower]
        nominal, tolerance = part.nominal and part.nominal.text, part.tolerance and part.tolerance.text
        whole[name] = {"kind": WORD, **said(nominal=nominal, tolerance=tolerance)}
    return parts, setups, whole, there
