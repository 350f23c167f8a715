"""A part of the box: what it should be."""

import math
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum
from typing import Any

from recensor.core.circuit.kinds import PERCENT, Kind, Stated
from recensor.core.quantity import Quantity, parse_percent, positive

# What 0 °C is in kelvins.
ZERO_CELSIUS = 273.15


def read_stated(stated: Stated, text: str) -> Quantity | None:
    """What is typed of a quantity that is stated; None for nothing. A percentage needs no sign.

    Raises `QuantityError`.
    """
    if not text:
        return None
    if stated.unit == PERCENT:
        return parse_percent(text if "%" in text else f"{text} %")
    return positive(text, stated.unit)


class SourceType(StrEnum):
    """What a source is, as a document names it.

    A battery, or cells, cannot be set, sags, and is above its label when fresh; a wall pack without regulation gives
    more than its label; a bench supply has a knob and holds until its limit (common practice, no source).
    """

    BATTERY = "battery"
    PACK = "pack"
    SUPPLY = "supply"


# What each is called besides, where a circuit is written.
SOURCE_WORDS = {**{kind.value: kind for kind in SourceType}, "cell": SourceType.BATTERY, "cells": SourceType.BATTERY}


@dataclass(frozen=True)
class Part:
    """One part of the box: what it should be, in ohms, volts or amperes.

    `tolerance` is a percentage, `rating` in watts, `internal` a source's own resistance in ohms, `compliance` the
    largest voltage that a current source can put behind its current. A source that is `adjustable` has a knob: it is
    turned to its value. `source` says what a source is, None where nobody did. `maybe` are the values that doubtful
    bands leave open, as a line writes them. `limit` is the largest current in amperes that a voltage source is set to
    deliver. `current` is that at which a lamp or a diode has its nominal voltage, `cold` a lamp's resistance in the
    dark, `b` a thermistor's B value in kelvins.
    """

    name: str
    kind: Kind
    nominal: Quantity | None = None
    tolerance: Quantity | None = None
    rating: Quantity | None = None
    internal: Quantity | None = None
    compliance: Quantity | None = None
    adjustable: bool = False
    source: SourceType | None = None
    maybe: tuple[str, ...] = ()
    limit: Quantity | None = None
    current: Quantity | None = None
    cold: Quantity | None = None
    b: Quantity | None = None

    def saying(self, typed: Mapping[str, str]) -> "Part":
        """The part with what is typed of its kind's quantities, by their names; empty says nothing.

        What is not among them stays. Raises `QuantityError`.
        """
        said = (stated for stated in self.kind.states if stated.name in typed)
        quantities: dict[str, Any] = {stated.name: read_stated(stated, typed[stated.name].strip()) for stated in said}
        return replace(self, **quantities)

    def stated(self, name: str) -> Quantity | None:
        """What is stated under the name of one of its fields; None where nothing is."""
        quantity: Quantity | None = getattr(self, name)
        return quantity

    @property
    def has_knob(self) -> bool:
        """Whether it is a source that can be set."""
        return self.adjustable or self.source is SourceType.SUPPLY

    @property
    def marked(self) -> Quantity | None:
        """What it should be by itself, as it is marked; None where it is unmarked, or to be set."""
        return None if self.kind.adjustable_value else self.nominal

    def marked_at(self, temperature: Quantity | None) -> Quantity | None:
        """What it should be by itself at a temperature in °C, as it is marked; None where that is not known.

        A thermistor follows R = R₂₅ · exp(B (1/T − 1/T₂₅)), its value being stated at 25 °C (IEC 60539-1, from memory).
        """
        marked = self.marked
        if marked is None or temperature is None or self.b is None:
            return marked
        warmer = 1.0 / (float(temperature) + ZERO_CELSIUS) - 1.0 / (25.0 + ZERO_CELSIUS)
        ohms = Decimal(repr(float(marked) * math.exp(float(self.b) * warmer)))
        return Quantity(f"{ohms:.4g}", ohms, Decimal(1).scaleb(ohms.adjusted() - 3), marked.unit)

    @property
    def doubtful(self) -> str:
        """The values that doubtful bands leave open, in one word; empty where none are."""
        return "/".join(text.split()[0] for text in self.maybe[:3])

    @property
    def internal_resistance(self) -> float:
        """The source's own resistance in ohms, 0 when none is stated."""
        return float(self.internal) if self.internal else 0.0


def one_of(names: Iterable[str], typed: str) -> str:
    """The name that was typed: exactly, else whichever its case where only one fits."""
    known = list(names)
    if typed in known:
        return typed
    alike = [name for name in known if name.lower() == typed.lower()]
    return alike[0] if len(alike) == 1 else ""


def first_free(letter: str, taken: Collection[str]) -> str:
    """The first name of a letter and a number that is not taken, such as R4."""
    return next(name for k in range(1, len(taken) + 2) if (name := f"{letter}{k}") not in taken)
