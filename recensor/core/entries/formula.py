"""A value worked out by hand, with its formula if the person likes: checked for arithmetic, unit and rounding.

``9.02/4.7k`` is a formula: numbers as people type them with ``+ - * /``, ``|`` for two resistances in parallel, and
parentheses. Where its numbers name their units the result must come out in the unit that is asked for.
"""

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.core.figures import rounded, with_digits
from recensor.core.judgement import Calculated
from recensor.core.quantity import AMPERE, OHM, VOLT, WATT, Quantity, QuantityError, parse
from recensor.core.sentences import say

_TOKEN = re.compile(r"\s*(?:([-+*/|()])|([^-+*/|()\s][^-+*/|()]*))")
_SAME_SIGNS = str.maketrans({"×": "*", "·": "*", "÷": "/", ":": "/", "−": "-", "–": "-", "∥": "|", "=": " "})

# The dimension of each unit, in volts and amperes.
_DIMENSIONS = {VOLT: (1, 0), AMPERE: (0, 1), OHM: (1, -1), WATT: (1, 1)}

_SLIPS = (3, -3, 6, -6, 1, -1)


class FormulaError(Refused):
    """The formula cannot be worked out; the message says why."""


@dataclass(frozen=True)
class _Term:
    """A number in SI units with its dimension; None where no unit was written."""

    value: float
    dimension: tuple[int, int] | None


@dataclass(frozen=True)
class Remark:
    """One thing to say of a value that was worked out; `holds` is None where it cannot be told."""

    holds: bool | None
    text: str


def worked_out(value: Quantity, formula: str, unit: str, calculated: Calculated | None) -> list[Remark]:
    """What there is to say of a value worked out by hand: against its own formula, and how it was rounded.

    Raises `FormulaError`. `unit` is the SI unit that is asked for.
    """
    if value.value is None:
        return []
    remarks: list[Remark] = []
    number, digit = float(value), float(value.resolution or 0)
    if formula.strip():
        remarks += _against(evaluate(formula, unit), number, digit, unit)
    elif calculated and calculated.value is not None:
        remarks += _rounding(calculated.value, number, digit, unit)
    return remarks


def _against(result: float, number: float, digit: float, unit: str) -> Iterator[Remark]:
    shown = rounded(result, digit or None, unit)
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


def evaluate(formula: str, unit: str) -> float:
    """The value of a formula in the SI unit that is asked for. Raises `FormulaError`.

    Examples
    --------
    >>> round(evaluate("9.02/4.7k", AMPERE), 7), round(evaluate("1k + (2k2 | 3k3)", OHM))
    (0.0019191, 2320)
    """
    if len(formula) > lengths.FORMULA:
        raise FormulaError(say("entries.formula_at_most_characters", longest_formula=lengths.FORMULA))
    tokens = _tokens(formula.translate(_SAME_SIGNS))
    term = _FormulaReader(tokens).whole()
    wanted = _DIMENSIONS.get(unit)
    if term.dimension is not None and wanted is not None and term.dimension != wanted:
        made = next((name for name, dimension in _DIMENSIONS.items() if dimension == term.dimension), None)
        kind = "entries.formula_in_other_unit" if made else "entries.formula_in_no_unit"
        raise FormulaError(say(kind, made=made, unit=unit))
    if not math.isfinite(term.value):
        raise FormulaError(say("entries.formula_comes_no_number"))
    return term.value


def _tokens(formula: str) -> list[str]:
    found, at = [], 0
    text = formula.strip()
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            raise FormulaError(say("entries.not_understood_in_formula", text=text[at : at + 10]))
        found.append((match[1] or match[2]).strip())
        at = match.end()
    return [token for token in found if token]


@dataclass
class _FormulaReader:
    """Recursive descent: sums of products of numbers; ``|`` binds as products do."""

    tokens: list[str]
    at: int = 0
    depth: int = 0

    def whole(self) -> _Term:
        term = self._sum()
        if self.at < len(self.tokens):
            raise FormulaError(say("entries.not_understood_there", tokens=self.tokens[self.at]))
        return term

    def _next(self, *wanted: str) -> str:
        if self.at < len(self.tokens) and self.tokens[self.at] in wanted:
            self.at += 1
            return self.tokens[self.at - 1]
        return ""

    def _sum(self) -> _Term:
        sign = -1.0 if self._next("-") else 1.0
        term = self._product()
        term = _Term(sign * term.value, term.dimension)
        while operator := self._next("+", "-"):
            other = self._product()
            if None not in (term.dimension, other.dimension) and term.dimension != other.dimension:
                raise FormulaError(say("entries.two_different_units_cannot"))
            value = term.value + (other.value if operator == "+" else -other.value)
            term = _Term(value, term.dimension or other.dimension)
        return term

    def _product(self) -> _Term:
        term = self._number()
        while operator := self._next("*", "/", "|"):
            other = self._number()
            if operator == "/" and other.value == 0.0:
                raise FormulaError(say("entries.nothing_divided_zero"))
            term = _combined(term, other, operator)
        return term

    def _number(self) -> _Term:
        if self._next("("):
            self.depth += 1
            if self.depth > lengths.FORMULA // 2:
                raise FormulaError(say("entries.too_many_parentheses"))
            term = self._sum()
            if not self._next(")"):
                raise FormulaError(say("entries.parenthesis_not_closed"))
            return term
        if self.at >= len(self.tokens):
            raise FormulaError(say("entries.formula_ends_too_early"))
        token = self.tokens[self.at]
        self.at += 1
        try:
            quantity = parse(token)
        except QuantityError as error:
            raise FormulaError(error.message) from None
        if quantity.value is None:
            raise FormulaError(say("entries.over_range_and_no", token=token))
        return _Term(float(quantity), _DIMENSIONS.get(quantity.unit or ""))


def _combined(first: _Term, second: _Term, operator: str) -> _Term:
    known = first.dimension is not None and second.dimension is not None
    if operator == "|":
        total = first.value + second.value
        return _Term(first.value * second.value / total if total else 0.0, first.dimension if known else None)
    sign = 1 if operator == "*" else -1
    dimension = None
    if first.dimension is not None and second.dimension is not None:
        dimension = (
            first.dimension[0] + sign * second.dimension[0],
            first.dimension[1] + sign * second.dimension[1],
        )
    value = first.value * second.value if operator == "*" else first.value / second.value
    return _Term(value, dimension)
