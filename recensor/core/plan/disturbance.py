"""What the meter itself does to the circuit where it reads, and what to read instead where that is too much."""

from dataclasses import dataclass, replace

from recensor.core.circuit import Across, Sheet, Target, Through
from recensor.core.figures import plainly, rounded
from recensor.core.judgement import Assessment, values_of
from recensor.core.meters import Profile, disturbs_by
from recensor.core.quantity import VOLTAGE, as_ratio
from recensor.core.sentences import say
from recensor.core.solving import NetworkError, operate, solve, with_meter

# Less than this share is not worth a word: no such meter shows it.
_WORTH_A_WORD = 1e-3


@dataclass(frozen=True)
class Disturbance:
    """A meter of so many `ohms` makes of a value `without` it the one `within`; both in the SI unit.

    `limit` is the share that judges.
    """

    target: Across | Through
    ohms: float
    without: float
    within: float
    limit: float

    @property
    def share(self) -> float:
        """By what share it changes the value: −0.06 is 6 % lower."""
        return self.within / self.without - 1.0

    @property
    def is_too_much(self) -> bool:
        """Whether the meter alone puts the reading outside."""
        return abs(self.share) > self.limit

    @property
    def text(self) -> str:
        """What it does, in words."""
        unit = self.target.unit
        meter, side = "voltmeter" if self.target.is_across else "ammeter", "lower" if self.share < 0 else "higher"
        without, within = (rounded(value, None, unit) for value in (self.without, self.within))
        size = plainly(float(f"{self.ohms:.3g}"), "Ω")
        change = abs(self.share) * 100
        return say(f"plan.{meter}_makes_it_{side}", size=size, change=change, within=within, without=without)

    def instead(self, sheet: Sheet) -> str:
        """What to do where the meter disturbs too much; empty where it does not."""
        if not self.is_too_much:
            return ""
        limit = self.limit * 100
        if self.target.is_across:
            return say("plan.take_meter_higher_input", limit=limit)
        part = sheet.parts[self.target.part]
        beside = self.target.part if not part.kind.is_source else _in_its_branch(self.target, sheet)
        if beside:
            return say("plan.read_voltage_across_instead", limit=limit, beside=beside)
        return say("plan.take_higher_range_or", limit=limit)


def disturbance(sheet: Sheet, target: Target, assessment: Assessment, profile: Profile) -> Disturbance | None:
    """What a meter does where a target is read; None where nothing is known, or it is not worth a word."""
    if not target.in_circuit or (target.is_across and target.measurand is not VOLTAGE):
        return None
    setup = sheet.state_of(target) or sheet.setups[target.setup]
    values = values_of(sheet, setup, assessment.against.measurements, sheet.judge.against)
    sweep = sheet.sweep_of(target)
    known = {**values.known, **({sweep.source: float(setup.values[sweep.source])} if sweep and sweep.settings else {})}
    if set(values.missing) - set(known):
        return None
    operating = operate(sheet, setup, known)
    if operating.problem:
        return None
    plain = replace(target, at=None) if target.is_through else target
    try:
        without = float(operating.solution.answer(plain))
        ohms = disturbs_by(profile, target.measurand, without)
        if ohms is None or not without:
            return None
        within = float(solve(with_meter(operating.elements, target, ohms), setup.reference).answer(plain))
    except NetworkError:
        return None
    found = Disturbance(target, ohms, without, within, as_ratio(sheet.judge.limit))
    return found if abs(found.share) >= _WORTH_A_WORD else None


def _in_its_branch(target: Through, sheet: Sheet) -> str:
    """A resistor that carries the whole current of a source: the only one at its first lead."""
    setup = sheet.setups[target.setup]
    node = setup.connections[target.part][0]
    others = [name for name, leads in setup.connections.items() if node in leads and name != target.part]
    return others[0] if len(others) == 1 and not sheet.parts[others[0]].kind.is_source else ""
