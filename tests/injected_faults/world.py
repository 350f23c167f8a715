"""A bench as it really is, on which anything can be wrong, and a person who reads it and writes down what is shown.

Nothing here knows the model that the search for causes works with: circuits are solved one by one, meters err and
disturb, sources drift, contacts have their ohms, and what is shown is written down as people write.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from recensor.core.circuit import RESISTOR, Across, Leads, PartAlone, Setup, Sheet, Target, Through, TouchedLeads
from recensor.core.figures import as_read
from recensor.core.meters import Profile, Range, ranges_of, shown_at
from recensor.core.quantity import CURRENT, RESISTANCE, Measurand, Quantity, parse
from recensor.core.record import Reading, Run
from recensor.core.solving import Element, dead, elements_of, resistance_between, solve, with_meter

# What an open part and a lead in an empty row still conduct through, in ohms.
_OPEN = 1e11

# A range is left for the next at so much of its full scale.
_FULL = 0.98

# What of a meter's accuracy is its function's, its range's, and each reading's own: together it keeps what is stated.
_OF_FUNCTION, _OF_RANGE, _OF_READING = 0.5, 0.35, 0.15


@dataclass
class Setting:
    """One circuit as it really is: values and joints, what is inside its sources, and what limits them."""

    values: dict[str, float]
    connections: dict[str, Leads]
    inside: dict[str, float] = field(default_factory=dict)
    limits: dict[str, float] = field(default_factory=dict)


@dataclass
class World:
    """A bench as it really is, and a person who reads it in order and writes down what is shown.

    `alone` are the parts' values by themselves, in SI units; `circuits` the circuits by the names of their setups.
    `errors` switches everything off that errs by chance. `times` multiplies what sources give, `factors` what the meter
    shows; `shunt`, `shunt_volts` (at full scale) and `input_ohms` are the meter's own; a part is `opened` in a setup.
    `before` is done before each reading, by its number.
    """

    sheet: Sheet
    alone: dict[str, float]
    circuits: dict[str, Setting]
    profile: Profile
    draw: np.random.Generator
    errors: bool = True
    is_named: bool = True
    gains: dict[tuple[str, float], float] = field(default_factory=dict)
    times: dict[str, float] = field(default_factory=dict)
    fuse_is_open: bool = False
    shunt: float | None = None
    shunt_volts: float | None = None
    input_ohms: float | None = None
    opened: tuple[str, str] | None = None
    factors: dict[Measurand, float] = field(default_factory=dict)
    before: Callable[[int], None] = lambda _: None

    def true_value(self, target: Target) -> float:
        """What is really there, with the meter at it, in the SI unit; more than any meter shows where it is open."""
        if isinstance(target, TouchedLeads):
            return 0.0
        if isinstance(target, PartAlone):
            ratio = 1.0
            if target.setup:
                part = self.sheet.parts[target.part]
                ratio = float(self.sheet.setups[target.setup].stated(part) or 1) / float(part.nominal or 1)
            return self.alone[target.part] * ratio
        circuit = self.circuits[target.setup]
        setup = replace(self.sheet.setups[target.setup], connections=circuit.connections)
        values = {name: value * self.times.get(name, 1.0) for name, value in circuit.values.items()}
        if isinstance(target, Across) and target.measurand is RESISTANCE:
            passive = dead(setup, self.sheet.parts, values)
            (seen,) = resistance_between(passive, [target.nodes])
            return seen[0] if seen else 1e12
        elements = self._elements(setup, values, circuit)
        if isinstance(target, Through) and self.fuse_is_open:
            return 0.0
        ohms = self._meter_at(target, elements, setup)
        drawn = with_meter(elements, target, ohms) if ohms else elements
        return self._answer(drawn, setup, target)

    def _elements(self, setup: Setup, values: dict[str, float], circuit: Setting) -> list[Element]:
        found = []
        for element in elements_of(setup, self.sheet.parts, values):
            inside = circuit.inside.get(element.name)
            element = element._replace(internal=inside) if inside else element
            if (element.name, setup.name) == self.opened:
                element = element._replace(second=f"{element.second}\0open")
            found.append(element)
        nodes = {node for e in found for node in (e.first, e.second)}
        ground = setup.reference if setup.reference in nodes else found[0].first
        leaks = [Element(f"\0{node}", RESISTOR, node, ground, _OPEN) for node in sorted(nodes - {ground})]
        found += leaks
        for name, amperes in circuit.limits.items():
            delivered = self._answer(found, setup, Through(name, setup.name))
            if abs(delivered) > amperes:
                k = next(k for k, e in enumerate(found) if e.name == name)
                found[k] = found[k]._replace(value=math.copysign(amperes * 1e9, found[k].value), internal=1e9)
        return found

    def _answer(self, elements: Sequence[Element], setup: Setup, target: Across | Through) -> float:
        nodes = {node for e in elements for node in (e.first, e.second)}
        reference = setup.reference if setup.reference in nodes else elements[0].first
        return float(solve(elements, reference).answer(target))

    def _meter_at(self, target: Across | Through, elements: Sequence[Element], setup: Setup) -> float | None:
        if isinstance(target, Across):
            return self.input_ohms or 1e7
        if self.shunt is not None:
            return self.shunt
        for taken in ranges_of(self.profile, CURRENT):  # the smallest that holds what it lets flow
            ohms = (self.shunt_volts or 0.2) / taken.full if self.shunt_volts or not taken.burden else taken.burden
            if abs(self._answer(with_meter(elements, target, ohms), setup, target)) < _FULL * taken.full:
                break
        return ohms

    def range(self, measurand: Measurand, value: float) -> Range:
        """The range that the meter takes for a value."""
        ranges = ranges_of(self.profile, measurand)
        return next((one for one in ranges if abs(value) < _FULL * one.full), ranges[-1])

    def read(self, target: Target) -> Quantity:
        """What the meter shows at a target."""
        value = self.true_value(target)
        if self.errors:
            value = self._erring(target, value)
        value *= self.factors.get(target.measurand, 1.0)
        return shown_at(value, target.measurand, self.range(target.measurand, value), self.profile.over_range[0])

    def _erring(self, target: Target, value: float) -> float:
        """The value with contacts, drift, and the meter's own errors."""
        draw, measurand = self.draw, target.measurand
        if measurand is RESISTANCE:
            value += float(draw.uniform(0.0, 0.1))
        elif not isinstance(target, TouchedLeads):
            value *= 1.0 + float(draw.normal(0.0, 5e-4))
        taken = self.range(measurand, value)
        stated = taken.accuracy
        for place, share in (((measurand.value, 0.0), _OF_FUNCTION), ((measurand.value, taken.full), _OF_RANGE)):
            if place not in self.gains:
                self.gains[place] = float(draw.uniform(-share, share)) * stated.ratio
        gain = self.gains[measurand.value, 0.0] + self.gains[measurand.value, taken.full]
        gain += float(draw.uniform(-_OF_READING, _OF_READING)) * stated.ratio
        return value * (1.0 + gain) + stated.digits * taken.step * float(draw.uniform(-0.7, 0.7))

    def write(self, target: Target) -> Reading:
        """One reading as it is written down."""
        shown = self.read(target)
        return Reading(target, self._as_typed(shown, target.unit) if self.errors else shown)

    def _as_typed(self, shown: Quantity, unit: str) -> Quantity:
        """The same value as some people type it: bare, with its prefix, or with its unit."""
        if shown.value is None:
            return shown
        way = int(self.draw.integers(0, 3))
        engineering = as_read(shown, unit).replace("−", "-").replace("\u202f", " ")
        if way == 0:
            return parse(engineering, unit)
        if way == 1:
            return parse(engineering.replace(" ", "").removesuffix(unit), unit)
        return parse(f"{shown.value:f}", unit)

    def run(self, targets: Sequence[Target]) -> Run:
        """Read these in order."""
        readings = []
        for k, target in enumerate(targets):
            self.before(k)
            readings.append(self.write(target))
        return Run(self.sheet, tuple(readings), meters={"bench": self.profile} if self.is_named else {})
