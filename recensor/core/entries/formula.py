"""A formula as people write one at the bench, worked out: ``9.02/4.7k``, ``V1/(R1+R2)``, ``2k2 || 3k3``, ``2m^2 * R1``.

Numbers as they are typed anywhere, powers of ten and percentages too; names of parts and nodes stand for their values;
``+ - * /``, ``||`` for two resistances in parallel, ``^`` and parentheses. Where the numbers name their units the
result must come out in the unit that is asked for. After ``=`` stand further steps, each to come to the same.
"""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.core.quantity import AMPERE, OHM, PERCENT, VOLT, WATT, QuantityError, parse
from recensor.core.sentences import say

_TOKEN = re.compile(
    r"\s*(?:(?P<sign>[-+*/|()^=])|(?P<number>[0-9.,](?:[eE][-+]?(?=[0-9])|[^-+*/|()^=])*)|(?P<name>[^-+*/|()^=\s]+))"
)
_SAME_SIGNS = str.maketrans({"×": "*", "·": "*", "÷": "/", ":": "/", "−": "-", "–": "-", "∥": "|", "²": "^2"})
_PARALLEL = re.compile(r"\|\||//")

# What a result may be called before the first sign of equality: I = V1/R1.
_RESULT = re.compile(r"\s*[IVURPiur][A-Za-z0-9_]{0,8}\s*=(?!=)")
_LARGEST_POWER = 3

# The dimension of each unit, in volts and amperes.
_DIMENSIONS = {VOLT: (1, 0), AMPERE: (0, 1), OHM: (1, -1), WATT: (1, 1)}


class FormulaError(Refused):
    """The formula cannot be worked out; the message says why."""


@dataclass(frozen=True)
class Named:
    """What a name in a formula stands for: a value in its SI unit, and `how` it is known, in words."""

    value: float
    unit: str
    how: str = ""


@dataclass(frozen=True)
class Result:
    """What a formula comes to, in the SI unit that is asked for: its first step, and the others by their texts.

    `named` are the names that stand in it.
    """

    value: float
    steps: tuple[tuple[str, float], ...] = ()
    named: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Term:
    """A number in SI units with its dimension; None where no unit was written. A share is a percentage."""

    value: float
    dimension: tuple[int, int] | None
    is_share: bool = False


def evaluate(formula: str, unit: str, names: Mapping[str, Named] | None = None) -> Result:
    """What a formula comes to in the SI unit that is asked for. Raises `FormulaError`.

    Examples
    --------
    >>> round(evaluate("9.02/4.7k", AMPERE).value, 7), round(evaluate("1k + (2k2 || 3k3)", OHM).value)
    (0.0019191, 2320)
    >>> known = {"V1": Named(9.0, VOLT), "R1": Named(1000.0, OHM), "R2": Named(2000.0, OHM)}
    >>> evaluate("I = V1/(R1+R2) = 9/3k", AMPERE, known).steps
    (('9/3k', 0.003),)
    """
    if len(formula) > lengths.FORMULA:
        raise FormulaError(say("entries.formula_at_most_characters", longest_formula=lengths.FORMULA))
    known = names or {}
    text = formula.strip().removeprefix("=")
    result = _RESULT.match(text)
    if result and result.group().rstrip("= ").strip() not in known:
        text = text[result.end() :]
    texts = text.split("=")
    readers = [_FormulaReader(_tokens(_plain(step)), known) for step in texts]
    terms = [reader.whole() for reader in readers]
    for term in terms:
        _check(term, unit)
    first, *others = [term.value for term in terms]
    named = tuple(dict.fromkeys(name for reader in readers for name in reader.named))
    written = [step.strip() for step in texts[1:]]
    return Result(first, tuple(zip(written, others, strict=True)), named)


def _plain(text: str) -> str:
    return _PARALLEL.sub("|", text.translate(_SAME_SIGNS))


def _check(term: _Term, unit: str) -> None:
    """Raise `FormulaError` where a step comes out in another unit, or in no number."""
    wanted = _DIMENSIONS.get(unit)
    if term.dimension is not None and wanted is not None and term.dimension != wanted:
        made = next((name for name, dimension in _DIMENSIONS.items() if dimension == term.dimension), None)
        kind = "entries.formula_in_other_unit" if made else "entries.formula_in_no_unit"
        raise FormulaError(say(kind, made=made, unit=unit))
    if not math.isfinite(term.value):
        raise FormulaError(say("entries.formula_comes_no_number"))


def _tokens(formula: str) -> list[str]:
    found, at = [], 0
    text = formula.strip()
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            raise FormulaError(say("entries.not_understood_in_formula", text=text[at : at + 10]))
        found.append(match.group().strip())
        at = match.end()
    return found


@dataclass
class _FormulaReader:
    """Recursive descent: sums of products of powers of numbers; ``|`` binds as products do."""

    tokens: Sequence[str]
    names: Mapping[str, Named]
    at: int = 0
    depth: int = 0
    named: list[str] = field(default_factory=list)

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
        term = _Term(sign * term.value, term.dimension, term.is_share)
        while operator := self._next("+", "-"):
            other = self._product()
            way = 1.0 if operator == "+" else -1.0
            if other.is_share and not term.is_share:  # 1k + 5% is 1050
                term = _Term(term.value * (1.0 + way * other.value), term.dimension)
                continue
            if None not in (term.dimension, other.dimension) and term.dimension != other.dimension:
                raise FormulaError(say("entries.two_different_units_cannot"))
            term = _Term(term.value + way * other.value, term.dimension or other.dimension)
        return term

    def _product(self) -> _Term:
        term = self._power()
        while operator := self._next("*", "/", "|"):
            other = self._power()
            if operator == "/" and other.value == 0.0:
                raise FormulaError(say("entries.nothing_divided_zero"))
            term = _combined(term, other, operator)
        return term

    def _power(self) -> _Term:
        term = self._number()
        if not self._next("^"):
            return term
        text = self.tokens[self.at] if self.at < len(self.tokens) else ""
        if text not in map(str, range(1, _LARGEST_POWER + 1)):
            raise FormulaError(say("entries.powers_are_whole", most=_LARGEST_POWER))
        self.at += 1
        times = int(text)
        dimension = None if term.dimension is None else (times * term.dimension[0], times * term.dimension[1])
        return _Term(term.value**times, dimension)

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
        return self._name(token) if token[0].isalpha() else _typed(token)

    def _name(self, token: str) -> _Term:
        """What a name stands for; never a letter code, which R9 could be as well."""
        alike = [name for name in self.names if name.lower() == token.lower()]
        name = token if token in self.names else alike[0] if len(alike) == 1 else ""
        if name:
            self.named.append(name)
            known = self.names[name]
            return _Term(known.value, _DIMENSIONS.get(known.unit))
        if token.upper().replace(".", "").startswith(("OL", "0L")):
            return _typed(token)
        raise FormulaError(say("entries.no_value_of_that_name", token=token[:20]))


def _typed(token: str) -> _Term:
    try:
        quantity = parse(token)
    except QuantityError as error:
        raise FormulaError(error.message) from None
    if quantity.value is None:
        raise FormulaError(say("entries.over_range_and_no", token=token))
    if quantity.unit == PERCENT:
        return _Term(float(quantity) / 100.0, None, is_share=True)
    return _Term(float(quantity), _DIMENSIONS.get(quantity.unit or ""))


def _combined(first: _Term, second: _Term, operator: str) -> _Term:
    if operator == "|":
        total = first.value + second.value
        return _Term(first.value * second.value / total if total else 0.0, first.dimension or second.dimension)
    sign = 1 if operator == "*" else -1
    value = first.value * second.value if operator == "*" else first.value / second.value
    if first.is_share or second.is_share:
        return _Term(value, first.dimension or second.dimension)
    if first.dimension is None or second.dimension is None:
        return _Term(value, None)
    pairs = zip(first.dimension, second.dimension, strict=True)
    volts, amperes = (one + sign * other for one, other in pairs)
    return _Term(value, (volts, amperes))
