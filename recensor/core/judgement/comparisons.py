"""Setups held against each other: what a change of the circuit changes, as it was read and as it was calculated."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from recensor.core.circuit import (
    MEASURED,
    NOMINAL,
    Across,
    Comparison,
    JudgedBy,
    PartAlone,
    Rule,
    Setup,
    Sheet,
    Target,
    Through,
)
from recensor.core.figures import rounded
from recensor.core.judgement.calculated_values import Calculations
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.verdicts import EDGE
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand, as_ratio
from recensor.core.sentences import say, several
from recensor.core.uncertainty import COVERAGE_FACTOR, NO_SPREAD

# What is looked at first, by what setups are held against each other for.
_LOADS = (VOLTAGE, CURRENT, RESISTANCE)
_TOTALS = (RESISTANCE, CURRENT, VOLTAGE)
_FIRST: Mapping[Rule, tuple[Measurand, ...]] = {
    Rule.EXCHANGE: (CURRENT, VOLTAGE, RESISTANCE),
    Rule.SERIES_AND_PARALLEL: _TOTALS,
    Rule.BRANCH_ADDED: _TOTALS,
    Rule.LOADED: _LOADS,
    Rule.EQUIVALENT: _LOADS,
    Rule.SUPERPOSITION: (CURRENT, VOLTAGE, RESISTANCE),
}

AGREES, OUTSIDE, UNDECIDED, NEEDS_READINGS = "agrees", "outside", "undecided", say("judgement.needs_readings")
_OUTCOMES = {
    AGREES: Outcome.AGREES,
    OUTSIDE: Outcome.OUTSIDE,
    UNDECIDED: Outcome.UNDECIDED,
    NEEDS_READINGS: Outcome.UNREAD,
}


@dataclass(frozen=True)
class SetupsCompared:
    """Setups held against each other at one thing that was read in each; SI units, `expanded` at k = 2.

    `targets` are what is read in each setup, `values` what was. The difference is the second's value less the first's;
    of superposition what all sources make together, less what each makes alone.
    """

    comparison: Comparison
    targets: tuple[Target, ...]
    values: tuple[float | None, ...]
    calculated_difference: float | None
    difference: float | None
    expanded: float | None
    verdict: str
    reason: str

    @property
    def outcome(self) -> Outcome:
        """What it comes to."""
        return _OUTCOMES[self.verdict]

    @property
    def unit(self) -> str:
        """The SI unit of its values; empty while nothing is known of what to read."""
        return self.targets[0].unit if self.targets else ""


def hold(sheet: Sheet, measurements: Measurements, calculations: Calculations) -> list[SetupsCompared]:
    """Every comparison of a sheet."""
    return [_Comparing(comparison, sheet, measurements, calculations).held() for comparison in sheet.compare]


def wanted(sheet: Sheet) -> Iterator[Target]:
    """What the comparisons of a sheet need to be calculated: whatever may be read alike in their setups."""
    for comparison in sheet.compare:
        for together in _alike(comparison, sheet):
            yield from together


def _alike(comparison: Comparison, sheet: Sheet) -> Iterator[tuple[Target, ...]]:
    """What can be read alike in the setups held against each other, the most telling first."""
    setups = _compared(comparison, sheet)
    for measurand in _FIRST[comparison.rule]:
        for name, leads in setups[0].connections.items():
            targets = [_of_part(name, measurand, setup) for setup in setups]
            if measurand is not RESISTANCE or sheet.parts[name].kind.is_source:
                found = [
                    t if t else _of_nodes(leads, measurand, setup) for t, setup in zip(targets, setups, strict=True)
                ]
                if all(found):
                    yield tuple(target for target in found if target)
        if measurand is not CURRENT:
            nodes = [node for node in setups[0].nodes if all(node in setup.nodes for setup in setups)]
            for k, first in enumerate(nodes):
                for second in nodes[k + 1 :]:
                    yield tuple(Across(measurand, (first, second), setup.name) for setup in setups)


def _compared(comparison: Comparison, sheet: Sheet) -> list[Setup]:
    """The setups whose readings are compared: of an equivalent source the first and the last."""
    setups = [sheet.setups[name] for name in comparison.setups]
    return [setups[0], setups[-1]] if comparison.rule is Rule.EQUIVALENT else setups


def _of_part(name: str, measurand: Measurand, setup: Setup) -> Target | None:
    """A part's own voltage, current or, between its leads, resistance in a setup that has it."""
    if name not in setup.connections:
        return None
    if measurand is CURRENT:
        return Through(name, setup.name)
    return Across(measurand, setup.connections[name], setup.name)


def _of_nodes(leads: tuple[str, str], measurand: Measurand, setup: Setup) -> Target | None:
    """What lies where a part was: its nodes, where the setup has them and the part no longer; a current nowhere."""
    if measurand is CURRENT or not all(node in setup.nodes for node in leads):
        return None
    return Across(measurand, leads, setup.name)


class _Comparing:
    """One comparison with what was read for it."""

    def __init__(
        self, comparison: Comparison, sheet: Sheet, measurements: Measurements, calculations: Calculations
    ) -> None:
        self.comparison = comparison
        self.sheet = sheet
        self.measurements = measurements
        self.calculations = calculations
        self.shares = _shares(comparison, len(_compared(comparison, sheet)))

    def held(self) -> SetupsCompared:
        """The comparison at the first thing that was read in all its setups, else what is still to be read."""
        most: tuple[int, tuple[Target, ...]] = (-1, ())
        for together in _alike(self.comparison, self.sheet):
            count = sum(self.measurements.read(target) is not None for target in together)
            asked = sum(target.key in {one.key for one in self.sheet.asked} for target in together)
            if count == len(together) and self._changes(together):
                return self._judged(together)
            if 2 * count + asked > most[0]:
                most = 2 * count + asked, together
        return self._unread(most[1])

    def _changes(self, together: Sequence[Target]) -> bool:
        """Whether what was read alike is more than the source's own voltage, which no change of a circuit changes."""
        first = together[0]
        if not first.is_across or first.measurand is not VOLTAGE:
            return True
        across = self.sheet.setups[first.setup].across(*first.nodes)
        return not any(self.sheet.parts[name].kind.is_source for name in across)

    def _unread(self, together: Sequence[Target]) -> SetupsCompared:
        values = tuple(self._value(target) for target in together)
        missing = [t for t, value in zip(together, values, strict=True) if value is None]
        still = ", ".join(
            say("judgement.target_in_setup", target=target.words, setup=target.setup) for target in missing
        )
        text = say("judgement.still_read", still=still) if still else say("judgement.nothing_read_alike_in")
        return SetupsCompared(self.comparison, tuple(together), values, None, None, None, NEEDS_READINGS, text)

    def _value(self, target: Target) -> float | None:
        read = self.measurements.read(target)
        if read is None or read.mean is None:
            return None
        return -read.mean if target.reversed_against(read.target) else read.mean

    def _calculated(self, target: Target) -> float | None:
        """What a target should read, from the values that judge, else from the others."""
        against = self.sheet.judge.against
        for basis in (against, MEASURED if against is NOMINAL else NOMINAL):
            calculated = self.calculations.of(self._asked(target), basis)
            if calculated.value is not None:
                return -calculated.value if target.reversed_against(self._asked(target)) else calculated.value
        return None

    def _asked(self, target: Target) -> Target:
        """The target with its leads as they were when it was read, by which calculations are kept."""
        read = self.measurements.of(target)
        return read.target if read else target

    def _judged(self, together: Sequence[Target]) -> SetupsCompared:
        values = [value for target in together if (value := self._value(target)) is not None]
        spread = NO_SPREAD
        for target, share in zip(together, self.shares, strict=True):
            read = self.measurements.read(target)
            if read:
                spread = spread + read.spread.times(-share if target.reversed_against(read.target) else share)
        difference = sum(share * value for share, value in zip(self.shares, values, strict=True))
        calculated = [self._calculated(target) for target in together]
        expanded = COVERAGE_FACTOR * spread.standard
        should = None
        if self.comparison.rule in _SAME:
            should = 0.0
        elif all(one is not None for one in calculated):
            should = sum(share * (one or 0.0) for share, one in zip(self.shares, calculated, strict=True))
        verdict, reason = self._weigh(together, values, difference, should, expanded)
        return SetupsCompared(
            self.comparison, tuple(together), tuple(values), should, difference, expanded, verdict, reason
        )

    def _weigh(
        self, together: Sequence[Target], values: Sequence[float], difference: float, should: float | None, u: float
    ) -> tuple[str, str]:
        """The change as it was read against the change as calculated; its tolerance is a share of what is compared."""
        unit, judge = together[0].unit, self.sheet.judge
        shown = [rounded(value, u or None, unit) for value in values]
        where = _what(together, self.sheet)
        if self.comparison.rule is Rule.SUPERPOSITION:
            sums = " and ".join(shown[1:])
            text = say(
                "judgement.together_alone_apart",
                where=where,
                shown=shown[0],
                sums=sums,
                difference=rounded(difference, u or None, unit),
            )
        else:
            text = say(
                "judgement.in_in",
                where=where,
                shown=shown[0],
                setup=together[0].setup,
                shown_2=shown[1],
                together_setup=together[1].setup,
            )
        if should is None:
            return UNDECIDED, several(say("judgement.what_change_should_not", text=text), *self._as_set())
        off = abs(difference - should)
        changed, ought = rounded(difference, u or None, unit), rounded(should, u or None, unit)
        is_same = self.comparison.rule in _SAME
        sentence = (
            text if is_same else say("judgement.change_where_calculated", text=text, changed=changed, ought=ought)
        )
        allowed = as_ratio(judge.limit) * max(abs(value) for value in values) * (1.0 + EDGE)
        tells = say("judgement.readings_tell", u=rounded(u, u or None, unit))
        if abs(should) > COVERAGE_FACTOR * u and difference * should <= 0 and abs(difference) <= abs(should):
            return OUTSIDE, several(say("judgement.nothing_changed_should", sentence=sentence), *self._as_set())
        if judge.by is JudgedBy.UNCERTAINTY:
            allowed = 0.0
        if off > allowed + u:
            reason = say("judgement.more_than", sentence=sentence, limit=_limit(self.sheet), tells=tells)
            return OUTSIDE, several(reason, *self._as_set())
        if judge.by is JudgedBy.UNCERTAINTY:
            return AGREES, say("judgement.alike_as_told", sentence=sentence, tells=tells)
        if u > allowed:
            return UNDECIDED, several(say("judgement.too_coarse", sentence=sentence, tells=tells), *self._as_set())
        if off <= allowed:
            return AGREES, several(say("judgement.alike_as_told", sentence=sentence, tells=tells), *self._as_set())
        reason = say("judgement.on_neither_side_sure", sentence=sentence, tells=tells, limit=_limit(self.sheet))
        return UNDECIDED, several(reason, *self._as_set())

    def _as_set(self) -> Iterator[str]:
        """Of an equivalent source: how far its voltage and resistance are from what was read of the original."""
        if self.comparison.rule is Rule.EQUIVALENT:
            yield from self._off_what_was_read()

    def _off_what_was_read(self) -> Iterator[str]:
        last = self.sheet.setups[self.comparison.setups[-1]]
        first = self.sheet.setups[self.comparison.setups[0]]
        loads = [name for name in last.connections if name in first.connections]
        if not loads:
            return
        leads = last.connections[loads[0]]
        for name in last.connections:
            kind = self.sheet.parts[name].kind
            if name in loads or not (kind.is_source or kind.ohmic):
                continue
            measurand = VOLTAGE if kind.is_source else RESISTANCE
            read = next((value for value in self._read_open(leads, measurand)), None)
            own = self._own(name, last)
            if read and own is not None:
                off = (own - read) / abs(read) * 100.0
                is_set = kind.is_source or kind.adjustable_value
                side = "as_it_was_read" if abs(off) < 0.5 else "high" if off > 0 else "low"
                yield say(
                    f"judgement.{'set' if is_set else 'chosen'}_{side}",
                    name=name,
                    off=abs(off),
                    read=rounded(read, None, measurand.unit),
                )

    def _read_open(self, leads: tuple[str, str], measurand: Measurand) -> Iterator[float]:
        """What was read of the original, its load out: the open voltage, or the resistance looking back."""
        for name in self.comparison.setups[:-1] + tuple(self.sheet.setups):
            setup = self.sheet.setups[name]
            if name == self.comparison.setups[-1] or not all(node in setup.nodes for node in leads):
                continue
            if any(name in self.sheet.setups[self.comparison.setups[-1]].connections for name in setup.across(*leads)):
                continue
            value = self._value(Across(measurand, leads, setup.name))
            if value is not None:
                yield value

    def _own(self, name: str, setup: Setup) -> float | None:
        """What a part of the equivalent source is: as read by itself, else as set or marked."""
        alone = PartAlone(name, self.sheet.parts[name].kind.measured_as)
        for target in (replace(alone, setup=setup.name), alone):
            if (value := self._value(target)) is not None:
                return value
        stated = setup.stated(self.sheet.parts[name])
        return float(stated) if stated else None


# The rules by which two things should be the same.
_SAME = (Rule.EQUIVALENT, Rule.SUPERPOSITION)


def _shares(comparison: Comparison, count: int) -> tuple[float, ...]:
    """How each setup's value counts in the difference."""
    if comparison.rule is Rule.SUPERPOSITION:
        return (1.0, *(-1.0 for _ in range(count - 1)))
    return (-1.0, 1.0, *(0.0 for _ in range(count - 2)))


def _limit(sheet: Sheet) -> str:
    return f"{sheet.judge.limit.value:f} %" if sheet.judge.by is JudgedBy.PERCENT else say("judgement.readings_explain")


def _what(together: Sequence[Target], sheet: Sheet) -> str:
    """What is read alike, in words."""
    first = together[0]
    if first.is_through:
        return say("judgement.current_through", part=first.part)
    if not first.is_across:
        return first.words
    across = sheet.setups[first.setup].across(*first.nodes)
    if first.measurand is RESISTANCE:
        return (
            say("judgement.total_resistance")
            if any(sheet.parts[n].kind.is_source for n in across)
            else say("judgement.resistance_from", red=first.red, black=first.black)
        )
    return (
        say("judgement.voltage_across", across=across[0])
        if len(across) == 1
        else say("judgement.voltage_from", red=first.red, black=first.black)
    )
