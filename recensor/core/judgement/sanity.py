"""Checks that follow from the shape of the circuit alone, before any calculation: one list of rules, `RULES`."""

from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from recensor.core import graph
from recensor.core.circuit import MEASURED, Across, JudgedBy, Leads, PartAlone, Setup, Target, Through, loops
from recensor.core.figures import rounded, with_digits
from recensor.core.judgement.calculated_values import Warned
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.starting_values import values_of
from recensor.core.judgement.verdicts import BEYOND
from recensor.core.quantity import AMPERE, OHM, RESISTANCE, VOLT, VOLTAGE, as_ratio
from recensor.core.record import Light, Run
from recensor.core.sentences import say
from recensor.core.solving import operate
from recensor.core.uncertainty import NO_SPREAD, Spread, tolerance_uncertainty

_PROBE = "\0probe"


@dataclass(frozen=True)
class SanityCheck:
    """One rule held against readings; `indexes` are the readings it rests on."""

    rule: str
    setup: str
    indexes: tuple[int, ...]
    holds: bool
    reason: str


@dataclass(frozen=True)
class Amount:
    """A number with what is uncertain about it, in SI units, and the readings it comes from."""

    value: float = 0.0
    spread: Spread = NO_SPREAD
    indexes: tuple[int, ...] = ()

    def __add__(self, other: "Amount") -> "Amount":
        return Amount(self.value + other.value, self.spread + other.spread, self.indexes + other.indexes)

    def __sub__(self, other: "Amount") -> "Amount":
        return self + other.times(-1.0)

    def times(self, factor: float) -> "Amount":
        """It times an exact factor."""
        return Amount(factor * self.value, self.spread.times(factor), self.indexes)

    @property
    def margin(self) -> float:
        """Its expanded uncertainty."""
        return 2.0 * self.spread.standard

    def shown(self, unit: str) -> str:
        """It in words, down to the digits that mean something."""
        return rounded(self.value, self.margin or None, unit)


class SanityReadings:
    """The readings as the rules ask for them."""

    def __init__(self, run: Run, measurements: Measurements) -> None:
        self.sheet = run.sheet
        self.measurements = measurements

    def read(self, target: Target) -> Amount | None:
        """A target as it was read, with the sign it has in the target's direction; None where it was not."""
        measurement = self.measurements.read(target)
        if measurement is None:
            return None
        known = mean_of(measurement)
        return known.times(-1.0) if target.reversed_against(measurement.target) else known

    def resistance(self, name: str, setup: Setup) -> Amount | None:
        """What a part is best known to be; without readings when only its marking says so."""
        part = self.sheet.parts[name]
        if not part.kind.ohmic:
            return None
        if part.kind.differs_by_setup and (measured := self.read(PartAlone(name, RESISTANCE, setup.name))):
            return measured
        if part.kind.adjustable_value:
            return None
        if name not in setup.values:
            measured = self.read(PartAlone(name, RESISTANCE))
            if measured:
                return measured
        value = setup.stated(part)
        if value is None:
            return None
        standard = tolerance_uncertainty(float(value), as_ratio(part.tolerance)) if part.tolerance else 0.0
        return Amount(float(value), Spread({part.name: standard}))

    def chains(self, across: Leads, setup: Setup) -> list[tuple[str, ...]] | None:
        """The resistor chains that join two nodes side by side; None when the network is anything else."""
        merged = self.merged(setup)
        red, black = merged.top(across[0]), merged.top(across[1])
        if red == black:
            return None
        connections = {
            name: (merged.top(first), merged.top(second))
            for name, (first, second) in setup.closed.items()
            if not self.sheet.parts[name].kind.is_source and not self.sheet.parts[name].kind.is_wire
        }
        branches = loops.branches({**connections, _PROBE: (red, black)})
        steps = [(branch, [passage.part for passage in branch.passages]) for branch in branches]
        if len(steps) == 1 and _PROBE in steps[0][1]:
            return [tuple(name for name in steps[0][1] if name != _PROBE)]
        chains = [tuple(names) for _, names in steps if names != [_PROBE]]
        direct = all({branch.start, branch.end} == {red, black} for branch, _ in steps)
        return chains if direct and len(chains) == len(steps) - 1 else None

    def merged(self, setup: Setup) -> graph.Groups[str]:
        """The nodes of a setup, those joined by a wire or by a source that is off as one."""
        merged: graph.Groups[str] = graph.Groups()
        for wire in setup.wires(self.sheet.parts):
            merged.join(*setup.connections[wire])
        return merged

    def are_equal(self, first: Amount, second: Amount, scale: float) -> bool | None:
        """Whether two numbers are one, by the run's own rule; None where that cannot be said."""
        apart = first - second
        size, margin = abs(apart.value), apart.margin
        if self.sheet.judge.by is JudgedBy.UNCERTAINTY:
            return _sure(size <= margin, size > BEYOND * margin)
        allowed = as_ratio(self.sheet.judge.limit) * abs(scale)
        return _sure(margin <= allowed and size <= allowed, size > allowed + margin)

    def is_above(self, larger: Amount, smaller: Amount) -> bool | None:
        """Whether one number is above another; None where that cannot be said."""
        above = larger - smaller
        return _sure(above.value > above.margin, above.value < -BEYOND * above.margin)


def _sure(holds: bool, fails: bool) -> bool | None:
    return True if holds else False if fails else None


def mean_of(measurement: Measurement) -> Amount:
    """The mean of a measurement that has one."""
    return Amount(measurement.mean or 0.0, measurement.spread, measurement.indexes)


def shown(measurement: Measurement) -> str:
    """The mean of a target's readings with their own digits."""
    return with_digits(measurement.mean or 0.0, measurement.resolution, measurement.target.unit)


def readings_of(*known: Amount) -> tuple[int, ...]:
    """The readings that numbers come from, in order."""
    return tuple(sorted({index for amount in known for index in amount.indexes}))


# The parts of each chain between two nodes, as far as their values are known.
_Chains = list[list[Amount | None]]


def _totals(bench: SanityReadings, setup: Setup) -> Iterator[tuple[Measurement, _Chains]]:
    """Every resistance read across two nodes of the setup, with the chains between them."""
    for measurement in bench.measurements.by_target.values():
        target = measurement.target
        if not target.is_across or target.setup != setup.name or measurement.mean is None:
            continue
        if target.measurand is RESISTANCE:
            chains = bench.chains(target.nodes, setup)
            if chains:
                yield measurement, [[bench.resistance(name, setup) for name in chain] for chain in chains]


def _known(chains: _Chains) -> list[list[Amount]] | None:
    """The chains with all their parts known, else None."""
    known = [[part for part in chain if part is not None] for chain in chains]
    return known if [len(chain) for chain in known] == [len(chain) for chain in chains] else None


def series_total(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """A chain resists more than its largest part."""
    for total, chains in _totals(bench, setup):
        known = _known(chains)
        if known is None or len(known) > 1 or len(known[0]) < 2:
            continue
        largest, whole = max(known[0], key=lambda part: part.value), mean_of(total)
        holds = bench.is_above(whole, largest)
        if holds is not None:
            text = say("judgement.in_series_largest_part", shown=shown(total), alone=largest.shown(OHM))
            yield SanityCheck("series total exceeds its largest part", setup.name, readings_of(whole, *known[0]),
                              holds, f"{text}.")  # fmt: skip


def parallel_total(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """Branches side by side resist less than the smallest of them."""
    for total, chains in _totals(bench, setup):
        known = _known(chains)
        if known is None or len(known) < 2:
            continue
        smallest, whole = (
            min((sum(chain, Amount()) for chain in known), key=lambda amount: amount.value),
            mean_of(total),
        )
        holds = bench.is_above(smallest, whole)
        if holds is not None:
            text = say("judgement.in_parallel_smallest_branch", shown=shown(total), alone=smallest.shown(OHM))
            indexes = readings_of(whole, *(part for chain in known for part in chain))
            yield SanityCheck("parallel total is below its smallest branch", setup.name, indexes, holds, f"{text}.")


def read_one_by_one(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """The whole is what its parts, each read by itself, make together."""
    for total, chains in _totals(bench, setup):
        known = _known(chains)
        if known is None or sum(map(len, known)) < 2 or not all(part.indexes for chain in known for part in chain):
            continue
        sums = [sum(chain, Amount()) for chain in known]
        if min(chain.value for chain in sums) <= 0:
            continue
        together = 1.0 / sum(1.0 / chain.value for chain in sums)
        # Each branch counts with the square of its share of the current.
        shares = [chain.times((together / chain.value) ** 2) for chain in sums]
        parts, whole = replace(sum(shares, Amount()), value=together), mean_of(total)
        holds = bench.are_equal(whole, parts, together)
        if holds is not None:
            text = say("judgement.parts_read_one_one", shown=parts.shown(OHM), total_shown=shown(total))
            yield SanityCheck("total agrees with the parts read one by one", setup.name, readings_of(whole, parts),
                              holds, f"{text}.")  # fmt: skip


def added_branch(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """A branch more, and the total is lower."""
    for smaller in bench.sheet.setups.values():
        added = [name for name in setup.connections if name not in smaller.connections]
        kept = {name: leads for name, leads in setup.connections.items() if name not in added}
        same = (
            kept == dict(smaller.connections)
            and setup.sources_off == smaller.sources_off
            and (setup.values, setup.open) == (smaller.values, smaller.open)
        )
        if not added or not same or not all(bench.sheet.parts[name].kind.ohmic for name in added):
            continue
        for total, _ in _totals(bench, setup):
            target = total.target
            before = bench.measurements.read(replace(target, setup=smaller.name)) if target.is_across else None
            holds = bench.is_above(mean_of(before), mean_of(total)) if before else None
            if before and holds is not None:
                text = say(
                    "judgement.without_with", shown=shown(before), added=", ".join(added), total_shown=shown(total)
                )
                indexes = readings_of(mean_of(total), mean_of(before))
                yield SanityCheck("adding a branch lowers the total", setup.name, indexes, holds, f"{text}.")


def parallel_voltage(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """Parts side by side share two nodes, and one voltage, as far as it was read at several of them."""
    merged = bench.merged(setup)
    across: dict[tuple[str, str], list[Amount]] = defaultdict(list)
    for measurement in bench.measurements.by_target.values():
        target = measurement.target
        if not target.is_across or (target.setup, target.step) != (setup.name, None):
            continue
        if target.measurand is not VOLTAGE:
            continue
        red, black = merged.top(target.red), merged.top(target.black)
        if red != black and measurement.mean is not None:
            known = mean_of(measurement)
            across[min(red, black), max(red, black)].append(known if red < black else known.times(-1.0))
    for pair, read in across.items():
        if len(read) < 2:
            continue
        most, least = max(read, key=lambda amount: amount.value), min(read, key=lambda amount: amount.value)
        holds = bench.are_equal(most, least, max(abs(known.value) for known in read))
        if holds is not None:
            names = [
                name
                for name, leads in setup.connections.items()
                if name not in setup.sources_off and {merged.top(leads[0]), merged.top(leads[1])} == set(pair)
            ]
            apart = most - least
            words = rounded(apart.value, apart.margin, VOLT)
            text = say("judgement.share_two_nodes_voltages", names=", ".join(names), words=words)
            yield SanityCheck("parallel parts have equal voltages", setup.name, readings_of(*read), holds, f"{text}.")


def divider(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """Neighbours in a chain share its voltage as they share its resistance."""
    for branch in loops.branches(setup.joined(bench.sheet.parts)):
        names = [passage.part for passage in branch.passages if not bench.sheet.parts[passage.part].kind.is_source]
        for upper, lower in pairwise(names):
            volts = [bench.read(Across(VOLTAGE, setup.connections[name], setup.name)) for name in (upper, lower)]
            ohms = [bench.resistance(name, setup) for name in (upper, lower)]
            if not (volts[0] and volts[1] and ohms[0] and ohms[1] and ohms[0].indexes and ohms[1].indexes):
                continue
            if not (volts[0].value and volts[1].value and ohms[0].value > 0 and ohms[1].value > 0):
                continue
            # Multiplied across, so that a voltage of a digit or two does not have to be divided by.
            amount, other = _product(volts[0], ohms[1]), _product(volts[1], ohms[0])
            holds = bench.are_equal(amount, other, max(amount.value, other.value))
            if holds is not None:
                by_volts, by_ohms = abs(volts[0].value / volts[1].value), ohms[0].value / ohms[1].value
                text = say("judgement.ratio_between", upper=upper, lower=lower, by_volts=by_volts, by_ohms=by_ohms)
                indexes = readings_of(amount, other)
                yield SanityCheck("divider ratio is the resistance ratio", setup.name, indexes, holds, text)


def _product(volts: Amount, ohms: Amount) -> Amount:
    """A voltage's size times a resistance."""
    size = volts if volts.value > 0 else volts.times(-1.0)
    spread = size.spread.times(ohms.value) + ohms.spread.times(size.value)
    return Amount(size.value * ohms.value, spread, volts.indexes + ohms.indexes)


def series_current(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """One current runs through every part of a chain, and past every place in it."""
    through: dict[str, list[Amount]] = defaultdict(list)
    for measurement in bench.measurements.by_target.values():
        target = measurement.target
        if not target.is_through or (target.setup, target.step) != (setup.name, None):
            continue
        if measurement.mean is not None:
            through[target.part].append(mean_of(measurement))
    for branch in loops.branches(setup.joined(bench.sheet.parts)):
        read, names = [], []
        for passage in branch.passages:
            turned = passage.forward == bench.sheet.parts[passage.part].kind.is_source
            for known in through[passage.part]:
                read.append(known.times(-1.0) if turned else known)
                names.append(passage.part)
        if len(read) < 2:
            continue
        most, least = max(read, key=lambda amount: amount.value), min(read, key=lambda amount: amount.value)
        holds = bench.are_equal(most, least, max(abs(known.value) for known in read))
        if holds is not None:
            apart = most - least
            words = rounded(apart.value, apart.margin, AMPERE)
            text = say("judgement.one_current_runs_through", fromkeys=", ".join(dict.fromkeys(names)), words=words)
            yield SanityCheck("series parts carry equal currents", setup.name, readings_of(*read), holds, f"{text}.")


# Shares of the rated power, of a filament, and of the stated current, of a light diode: below the first no light is
# seen, above the second nobody calls it dark, and from the third on it may be called bright (common practice, no
# source).
_FILAMENT, _DIODE = (0.01, 0.4, 0.05), (0.001, 0.05, 0.05)


def seen_light(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """What lights is as bright as it should be, by what the circuit should give it."""
    seen = {one.part: one.light for one in bench.measurements.run.seen if one.setup == setup.name}
    if not seen:
        return
    operating = operate(bench.sheet, setup, values_of(bench.sheet, setup, bench.measurements, MEASURED).known)
    for name, light in seen.items():
        part = bench.sheet.parts[name]
        if part.current is None or part.nominal is None or name not in operating.parts:
            continue
        state, amperes = operating.parts[name], float(part.current)
        if part.kind.polarised:
            share, what, limits = state.amperes / amperes, say("judgement.current_stated_at"), _DIODE
        else:
            share, what, limits = state.watts / (float(part.nominal) * amperes), say("judgement.rated_power"), _FILAMENT
        unseen, lit, bright = limits
        fits = {Light.DARK: share < lit, Light.DIM: share > unseen, Light.BRIGHT: share > bright}[light]
        text = say("judgement.seen_what_circuit_gives", name=name, light=light, max=max(share, 0.0), what=what)
        yield SanityCheck("what lights is as bright as it should be", setup.name, (), fits, f"{text}.")


def superposition(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """With every source together a resistor shows what it shows with each alone, added up with signs.

    Silent where a source has something inside: that goes out with it, and each circuit is another one.
    """
    alone = each_alone(bench, setup)
    if not alone or has_something_inside(bench, setup, alone) or bends(bench, setup):
        return
    setups = (setup, *alone)
    for name, leads in setup.connections.items():
        if bench.sheet.parts[name].kind.is_source:
            continue
        across: list[Target] = [Across(VOLTAGE, leads, other.name) for other in setups]
        through: list[Target] = [Through(name, other.name) for other in setups]
        for targets in (across, through):
            unit = targets[0].unit
            read = [known for target in targets if (known := bench.read(target))]
            if len(read) < len(targets):
                continue
            together, *each = read
            total = sum(each, Amount())
            holds = bench.are_equal(
                total, together, max(abs(together.value), sum(abs(amount.value) for amount in each))
            )
            if holds is not None:
                text = say(
                    "judgement.alone_make_together_reads",
                    name=name,
                    shown=" and ".join(amount.shown(unit) for amount in each),
                    unit_shown=total.shown(unit),
                    shown_2=together.shown(unit),
                )
                yield SanityCheck("readings with each source alone add up to those with all", setup.name,
                                  readings_of(*read), holds, f"{text}.")  # fmt: skip


def each_alone(bench: SanityReadings, setup: Setup) -> Sequence[Setup]:
    """The setups that have one of the sources each, the others off; none unless there is one for every source."""
    driving = set(setup.driving(bench.sheet.parts))
    alone = [
        other
        for name in setup.connections if name in driving
        for other in bench.sheet.setups.values()
        if other.sources_off == setup.sources_off | (driving - {name})
        and (other.connections, other.values, other.open) == (setup.connections, setup.values, setup.open)
    ]  # fmt: skip
    return alone if len(driving) > 1 and len(alone) == len(driving) else ()


def bends(bench: SanityReadings, setup: Setup) -> bool:
    """Whether a part of the setup is no straight line: then sources do not simply add up."""
    return any(bench.sheet.parts[name].kind.is_nonlinear for name in setup.connections)


def has_something_inside(bench: SanityReadings, setup: Setup, alone: Sequence[Setup]) -> bool:
    """Whether a source that is off in one of the setups has an internal resistance, which goes out with it."""
    return any(
        bench.sheet.parts[name].internal_resistance for other in alone for name in other.sources_off - setup.sources_off
    )


RULES: tuple[Callable[[SanityReadings, Setup], Iterator[SanityCheck]], ...] = (
    series_total,
    parallel_total,
    read_one_by_one,
    added_branch,
    parallel_voltage,
    series_current,
    divider,
    seen_light,
    superposition,
)


def assess_sanity(run: Run, measurements: Measurements) -> tuple[list[SanityCheck], list[Warned]]:
    """Every rule that has the readings it needs, in every setup; and where one does not hold by its nature."""
    bench, setups = SanityReadings(run, measurements), run.sheet.setups.values()
    checks = [check for setup in setups for rule in RULES for check in rule(bench, setup)]
    unsaid = [
        Warned(
            f"setups.{setup.name}",
            say("judgement.sources_internal_resistance_goes"),
        )
        for setup in setups
        if has_something_inside(bench, setup, each_alone(bench, setup))
    ]
    unsaid += [
        Warned(f"setups.{setup.name}", say("judgement.lamp_or_diode_bends"))
        for setup in setups
        if each_alone(bench, setup) and bends(bench, setup)
    ]
    return checks, unsaid
