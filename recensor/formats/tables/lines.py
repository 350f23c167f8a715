"""Readings out of a table that somebody brings: line by line what it says, or why it says nothing."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from recensor.core.circuit import Setup, Sheet, Target, check_target
from recensor.core.entries import place
from recensor.core.errors import Refused
from recensor.core.quantity import CURRENT, OHM, RESISTANCE, VOLTAGE, Measurand, QuantityError, parse
from recensor.core.record import Reading, Run
from recensor.formats.documents.reader import DocumentPlace
from recensor.formats.documents.run_document import Readings
from recensor.formats.documents.sheet import target_tree
from recensor.formats.tables.columns import Column, cells
from recensor.formats.tables.grid import Grid

# What a column can be: those of our own tables, and what people write beside a blank sheet.
COLUMNS = (
    Column("number", "number on the blank sheet", ("no.", "no", "nr", "#")),
    Column("point", "where it was read", ("where", "place")),
    Column("setup", "setup"),
    Column("quantity", "voltage, current or resistance", ("measurand",)),
    Column("of", "part by itself", ("part",)),
    Column("red", "node of the red lead", ("red lead",)),
    Column("black", "node of the black lead", ("black lead",)),
    Column("through", "part whose current it is"),
    Column("at", "part whose leads were touched"),
    Column("row", "row of a sweep"),
    Column("typed", "reading as shown", ("reading", "read", "measured")),
    Column("typed_unit", "its unit", ("unit of reading",)),
    Column("value", "value in the SI unit"),
    Column("unit", "unit"),
    Column("range", "meter range", ("meter range",)),
    Column("meter", "meter", ("instrument",)),
    Column("time", "time (ISO 8601)", ("date", "when")),
    Column("note", "note", ("remark",)),
    Column("standing", "how it stands"),
)

# What is put beside a word of ours for what is read.
_QUANTITIES = {
    **{measurand.value: measurand for measurand in Measurand},
    "v": VOLTAGE, "u": VOLTAGE, "volts": VOLTAGE, "i": CURRENT, "a": CURRENT, "amps": CURRENT, "r": RESISTANCE,
    "ohms": RESISTANCE, OHM.lower(): RESISTANCE,
}  # fmt: skip

# Thousands of volts or amperes are read on no such bench: without a unit these are ohms.
_THOUSANDS = re.compile(r"[0-9] ?[kM]")

# A reading that stands so in a table was not one that counts.
_NOT_TAKEN = ("struck", "look", "replaced")


@dataclass(frozen=True)
class ReadingLine:
    """One line of the table: its number in the file, and the reading that it is; None, and why it is none."""

    number: int
    said: str
    reading: Reading | None = None
    why: str = ""


def read_lines(grid: Grid, matching: Sequence[str], run: Run, numbered: Sequence[Target]) -> Iterator[ReadingLine]:
    """Every line of a table as a reading of a run; `matching` names what each column holds, empty for nothing.

    `numbered` are the points as a blank sheet numbers them, from 1.
    """
    table = _Table(run, numbered, unit_is_typed="value" not in matching)
    for row, number in enumerate(grid.numbers):
        said = cells(grid, matching, row)
        shown = " · ".join(cell for cell in grid.rows[row] if cell)[:120]
        try:
            reading = table.reading(said)
        except Refused as error:
            yield ReadingLine(number, shown, why=error.message.removeprefix("."))
        else:
            yield ReadingLine(number, shown, reading)


class _Table:
    """The lines of a table; beside a value in the SI unit, `unit` is that one's and not of the typed reading."""

    def __init__(self, run: Run, numbered: Sequence[Target], *, unit_is_typed: bool) -> None:
        self._sheet: Sheet = run.sheet
        self._numbered = numbered
        self._unit_is_typed = unit_is_typed
        self._readings = Readings(run.sheet, run.meters)
        self._taken = {self._key(reading) for reading in run.readings}

    def reading(self, said: Mapping[str, str]) -> Reading:
        """The reading that a line says. Raises `Refused` with why it is none."""
        text = said.get("typed") or said.get("value")
        if not text:
            raise Refused("Nothing was read: its reading is empty.")
        if (standing := said.get("standing", "")) in _NOT_TAKEN:
            raise Refused(f"It is {standing} in the file.")
        unit = said.get("typed_unit", "")
        if "typed" not in said or (not unit and self._unit_is_typed):
            unit = said.get("unit", "")
        tree: dict[str, Any] = {**self._where(said, text, unit), "value": text}
        tree |= {"unit": unit} if unit else {}
        tree |= {key: said[key] for key in ("range", "meter", "time", "note") if key in said}
        reading = self._readings.one(DocumentPlace("", tree))
        check_target("", reading.target, self._sheet)
        if reading.value.ambiguity:
            raise Refused(reading.value.ambiguity.question)
        if self._key(reading) in self._taken and reading.time:
            raise Refused("It is in this run already.")
        return reading

    @staticmethod
    def _key(reading: Reading) -> tuple[object, ...]:
        return reading.target, reading.value.text, reading.value.beside, reading.time

    def _where(self, said: Mapping[str, str], text: str, unit: str) -> dict[str, Any]:
        """The members of a document's reading that name its target."""
        if "number" in said:
            return target_tree(self._by_number(said["number"]))
        if "point" in said:
            setup = self._setup(said)
            return target_tree(place(said["point"], self._sheet, setup, self._measurand(said, text, unit)))
        tree: dict[str, Any] = {"at": said["at"]} if "at" in said else {}
        if "row" in said:
            tree["step"] = self._whole(said["row"], "row") - 1
        if "of" in said:
            quantity = {"quantity": self._measurand(said, text, unit).value} if "quantity" in said else {}
            return tree | {"of": said["of"], **quantity, **({"setup": said["setup"]} if "setup" in said else {})}
        tree["setup"] = self._setup(said).name
        if "through" in said:
            return tree | {"through": said["through"]}
        if "red" in said:
            black = said.get("black") or self._setup(said).reference
            quantity = {"quantity": self._measurand(said, text, unit).value}
            return tree | {"across": [said["red"], black], **quantity}
        raise Refused("It does not say where it was read.")

    def _by_number(self, text: str) -> Target:
        number = self._whole(text, "number")
        if not 0 < number <= len(self._numbered):
            raise Refused(f"The blank sheet has numbers from 1 to {len(self._numbered)}, not {number}.")
        return self._numbered[number - 1]

    @staticmethod
    def _whole(text: str, what: str) -> int:
        plain = text.rstrip(".").removesuffix(".0")
        if not plain.isascii() or not plain.isdigit() or len(plain) > 6 or plain == "0":
            raise Refused(f"Its {what}, “{text[:20]}”, is no whole number from 1.")
        return int(plain)

    def _setup(self, said: Mapping[str, str]) -> Setup:
        setups = self._sheet.setups
        if "setup" not in said and len(setups) > 1:
            raise Refused(f"Say in which setup: {', '.join(setups)}.")
        name = said.get("setup") or next(iter(setups))
        if name not in setups:
            raise Refused(f"There is no setup {name[:40]}; there are {', '.join(setups)}.")
        return setups[name]

    def _measurand(self, said: Mapping[str, str], text: str, unit: str) -> Measurand:
        """What was read: as the line says, else by the unit beside the digits."""
        word = said.get("quantity", "").lower()
        if word:
            if word not in _QUANTITIES:
                raise Refused(f"“{word[:20]}” is not read here; write voltage, current or resistance.")
            return _QUANTITIES[word]
        for measurand in Measurand:
            try:
                if parse(text, None, unit).unit == measurand.unit:
                    return measurand
            except QuantityError as error:
                raise Refused(str(error)) from None
        if _THOUSANDS.search(text):
            return RESISTANCE
        raise Refused("Say whether it is a voltage, a current or a resistance: no unit stands beside it.")
