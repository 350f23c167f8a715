"""A bench with hidden true values: every target of its sheet can be read with a meter."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from decimal import Decimal

import numpy as np

from recensor.core.circuit import PartAlone, Setup, Sheet, Target
from recensor.core.meters import disturbs_by
from recensor.core.quantity import RESISTANCE, Quantity, as_ratio
from recensor.core.record import Reading, Run
from recensor.core.simulation.simulated_meter import SimulatedMeter
from recensor.core.solving import Filament, Solution, dead, operate, resistance_between, solve, with_meter

# On a rough bench: the figures that are written, how many readings are odd, and by how much, as ratios.
_FIGURES, _ODD, _ODD_BY = 3, 0.125, (0.02, 0.05)


def draw_values(sheet: Sheet, draw: np.random.Generator) -> dict[str, float]:
    """True values of all parts in SI units, anywhere within their tolerances; what has none is as marked."""
    return {
        name: float(part.nominal) * (1.0 + float(draw.uniform(-1.0, 1.0)) * as_ratio(part.tolerance))
        if part.tolerance
        else float(part.nominal)
        for name, part in sheet.parts.items()
        if part.nominal
    }


def _with_figures(shown: Quantity) -> Quantity:
    """What is shown, as it is written with three figures."""
    value = shown.value or Decimal(0)
    step = max(shown.resolution or Decimal(0), Decimal(1).scaleb(value.adjusted() - _FIGURES + 1))
    rounded = value.quantize(step)
    return replace(shown, text=f"{rounded:f}", value=rounded, resolution=step)


class SimulatedBench:
    """A sheet as it really is, with a meter beside it; `disturbed` by it where that is asked for.

    `true` has every part's value in SI units, a source's as it is set where a setup does not say otherwise; `leads`
    is the resistance of the meter's own leads in ohms. Of a `rough` bench, who reads it writes three figures down, and
    one reading in eight is off by 2 to 5 % for no reason that anyone knows.
    """

    def __init__(
        self,
        sheet: Sheet,
        true: Mapping[str, float],
        meter: SimulatedMeter,
        leads: float = 0.0,
        *,
        disturbed: bool = False,
        rough: np.random.Generator | None = None,
    ) -> None:
        self.sheet = sheet
        self.true = true
        self.meter = meter
        self.leads = leads
        self.disturbed = disturbed
        self.rough = rough
        self._solved: dict[tuple[str, int | None], Solution] = {}

    def true_value(self, target: Target) -> float | None:
        """What a perfect meter would show at a target, in the SI unit; None where the circuit is open there."""
        if target.is_leads:
            return self.leads
        off = self.leads if target.measurand is RESISTANCE else 0.0
        if target.is_part_alone:
            return self._alone(target) + off
        setup = self.sheet.state_of(target) or self.sheet.setups[target.setup]
        if target.is_across and target.needs_dead_circuit:
            passive = dead(setup, self.sheet.parts, self._values(setup))
            (seen,) = resistance_between(passive, [target.nodes])
            return seen[0] + off if seen else None
        state = setup.name, target.step
        if state not in self._solved:
            self._solved[state] = operate(self.sheet, setup, self._values(setup)).solution
        value = float(self._solved[state].answer(target))
        ohms = disturbs_by(self.meter.profile, target.measurand, value) if self.disturbed else None
        if ohms is None:
            return value
        elements = operate(self.sheet, setup, self._values(setup)).elements
        return float(solve(with_meter(elements, target, ohms), setup.reference).answer(target))

    def _alone(self, target: PartAlone) -> float:
        """What a part is by itself: a lamp cold, what is set as it is set; of a wire and of an open switch no ohms."""
        part = self.sheet.parts[target.part]
        if part.kind.has_cold and part.nominal and part.current:
            hot = float(part.nominal) / float(part.current)
            return float(part.cold) if part.cold else Filament.COLD_SHARE * hot
        if part.kind.is_wire:
            return 0.0
        return self._values(self.sheet.setup_alone(target.part, target.setup))[target.part]

    def _values(self, setup: Setup | None) -> dict[str, float]:
        """The true values in a setup: what is set differently there is off by the same share as elsewhere."""
        found = dict(self.true)
        for name in setup.connections if setup else ():
            part = self.sheet.parts[name]
            value = setup.stated(part) if setup else None
            if value and value != part.nominal:
                found[name] = float(value) * (self.true[name] / float(part.nominal) if part.nominal else 1.0)
        return found

    def read(self, target: Target, *, named: bool = False, factor: float = 1.0) -> Reading:
        """One reading; `named` writes the range down, a `factor` puts off what the meter is given to show."""
        value = self.true_value(target)
        if value is None:
            return Reading(target, Quantity(self.meter.profile.over_range[0], None, None, target.unit))
        shown, taken = self.meter.show(factor * self._oddness() * value, target.measurand)
        if self.rough is not None and shown.value:
            shown = _with_figures(shown)
        full = Decimal(f"{taken.full:.6g}")
        return Reading(target, shown, range=Quantity(f"{full:f}", full, None, target.unit) if named else None)

    def _oddness(self) -> float:
        """What a reading of a rough bench is times what it should be."""
        if self.rough is None or self.rough.random() >= _ODD:
            return 1.0
        return 1.0 + float(self.rough.uniform(*_ODD_BY)) * float(self.rough.choice([-1.0, 1.0]))

    def run(self, targets: Iterable[Target] | None = None, *, named: bool = False) -> Run:
        """A run in which every asked target, or each of `targets`, was read once, in order."""
        wanted = self.sheet.asked if targets is None else targets
        return Run(self.sheet, tuple(self.read(target, named=named) for target in wanted))
