"""A value that was worked out by hand: what there is to say of its arithmetic, its unit and its rounding."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from recensor.core.circuit import Across, PartAlone, Sheet, Target
from recensor.core.entries.formula import Named, Result, evaluate
from recensor.core.figures import rounded, with_digits
from recensor.core.judgement import Assessment, Calculated
from recensor.core.quantity import VOLTAGE, Quantity, QuantityError, parse
from recensor.core.sentences import say

_SLIPS = (3, -3, 6, -6, 1, -1)

# So far the steps of a formula may be apart without their numbers saying it (common practice, no source).
_SAME = 0.005


@dataclass(frozen=True)
class Remark:
    """One thing to say of a value that was worked out; `holds` is None where it cannot be told."""

    holds: bool | None
    text: str


# What names stand for: as far as they were read, and by what is marked alone.
Names = tuple[Mapping[str, Named], Mapping[str, Named]]
NO_NAMES: Names = ({}, {})


def names_of(sheet: Sheet, assessment: Assessment, setup: str | None) -> Names:
    """What the names of a setup's parts and nodes stand for, as read and as marked; a node by its potential, if read.

    A node that is called as a part is does not count.
    """
    here = sheet.setup(setup)
    marked: dict[str, Named] = {}
    read: dict[str, Named] = {}
    for name in here.connections:
        part = sheet.parts[name]
        if stated := here.stated(part):
            marked[name] = Named(float(stated), part.kind.unit, say("entries.name_as_marked", name=name))
        known = assessment.of(PartAlone(name, part.kind.measured_as)) if part.kind.same_out_of_circuit else None
        if known and known.measurement.mean is not None and name not in here.values:
            read[name] = Named(known.measurement.mean, part.kind.unit, say("entries.name_as_read", name=name))
    for node in here.nodes:
        known = assessment.of(Across(VOLTAGE, (node, here.reference), here.name)) if node != here.reference else None
        if node not in here.connections and known and known.measurement.mean is not None:
            read[node] = Named(known.measurement.mean, VOLTAGE.unit, say("entries.name_as_read", name=node))
    return {**marked, **read}, {**read, **marked}


def worked_out(
    value: Quantity, formula: str, target: Target, calculated: Calculated | None, names: Names
) -> list[Remark]:
    """What there is to say of a value worked out by hand: against its own formula, and how it was rounded.

    By what was read, unless it is what is marked that gives the value. Raises `FormulaError`.
    """
    if value.value is None:
        return []
    remarks: list[Remark] = []
    number, digit, unit = float(value), float(value.resolution or 0), target.unit
    if formula.strip():
        found = [(evaluate(formula, unit, known), known) for known in names]
        result, known = min(found, key=lambda way: abs(way[0].value - number) > 0.5 * digit * (1 + 1e-9))
        remarks += _of_steps(result, unit)
        remarks += _against(result.value, number, digit, unit)
        said = ", ".join(known[name].how for name in result.named)
        remarks += [Remark(True, say("entries.formula_with", known=said))] if said else []
    elif calculated and calculated.value is not None:
        remarks += _rounding(calculated.value, number, digit, unit)
    return remarks


def is_same_value(one: Quantity, other: Quantity) -> bool:
    """Whether two values that were worked out are one, to the last digit of the coarser."""
    digit = max(float(one.resolution or 0), float(other.resolution or 0))
    return abs(float(one) - float(other)) <= digit * (1 + 1e-9)


def _of_steps(result: Result, unit: str) -> Iterator[Remark]:
    """The steps that do not come to what stands before them."""
    before = result.value
    for text, value in result.steps:
        if abs(value - before) > max(_half_digit(text), _SAME * abs(before)) * (1 + 1e-9):
            shown, came = rounded(value, None, unit), rounded(before, None, unit)
            yield Remark(False, say("entries.step_is_not", text=text, shown=shown, came=came))
        before = value


def _half_digit(text: str) -> float:
    """Half a unit of the last digit of a step that is a plain number; nothing for any other."""
    try:
        return 0.5 * float(parse(text).resolution or 0)
    except QuantityError:
        return 0.0


def _against(result: float, number: float, digit: float, unit: str) -> Iterator[Remark]:
    shown = rounded(result, min(digit, abs(result) / 10.0) or None, unit)
    if abs(number - result) <= 0.5 * digit * (1 + 1e-9):
        yield Remark(True, say("entries.your_formula_gives_arithmetic", shown=shown))
    elif remark := next(_rounding(result, number, digit, unit), None):
        yield remark
    elif power := _slip(number, result):
        yield Remark(False, say("entries.your_formula_gives_same", shown=shown, power=power))
    else:
        yield Remark(
            False, say("entries.your_formula_gives_not", shown=shown, number=with_digits(number, digit or 1.0, unit))
        )


def _rounding(exact: float, number: float, digit: float, unit: str) -> Iterator[Remark]:
    """Said only where a digit was dropped that rounds up."""
    if not digit or abs(number - exact) <= 0.5 * digit * (1 + 1e-9):
        return
    dropped = math.copysign(math.floor(abs(exact) / digit + 1e-9) * digit, exact)
    if abs(number - dropped) < 1e-6 * digit + 1e-15:
        nearest = round(exact / digit) * digit
        yield Remark(False, say("entries.digit_dropped_rather_than", nearest=with_digits(nearest, digit, unit)))


def _slip(number: float, result: float) -> int:
    """The power of ten by which the same digits are off; 0 where they are not the same."""
    if not number or not result:
        return 0
    for power in _SLIPS:
        if abs(number * 10.0**power / result - 1.0) < 0.01:
            return -power
    return 0
