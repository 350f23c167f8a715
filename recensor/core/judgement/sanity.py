"""Checks that follow from the shape of the circuit alone, before any calculation."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise

from recensor.core import loops
from recensor.core.circuit import Kind, Setup
from recensor.core.judgement.measurements import Key, Measurement
from recensor.core.quantity import engineering, fraction, rounded
from recensor.core.record import CURRENT, PERCENT, RESISTANCE, UNITS, VOLTAGE, Run, Target

_PROBE = "\0probe"


@dataclass(frozen=True)
class SanityCheck:
    """One rule held against readings; `indexes` are the readings it rests on."""

    rule: str
    setup: str
    indexes: tuple[int, ...]
    holds: bool
    reason: str


def assess_sanity(run: Run, measurements: Mapping[Key, Measurement]) -> list[SanityCheck]:
    """Every rule that has the readings it needs, in every setup."""
    bench = _Bench(run, measurements)
    return [check for setup in run.setups.values() for rule in _RULES for check in rule(bench, setup)]


class _Bench:
    """The readings as the rules ask for them."""

    def __init__(self, run: Run, measurements: Mapping[Key, Measurement]) -> None:
        self.run = run
        self.measurements = measurements

    def read(self, target: Target) -> Measurement | None:
        measurement = self.measurements.get(target.key)
        return measurement if measurement and measurement.mean is not None else None

    def across(self, quantity: str, leads: tuple[str, str], setup: Setup) -> Measurement | None:
        return self.read(Target(quantity, across=leads, setup=setup.name))

    def resistance(self, name: str, setup: Setup) -> tuple[float, float, tuple[int, ...]] | None:
        """Best known value in ohms, its expanded uncertainty, and the readings it comes from."""
        part = self.run.parts[name]
        if name not in setup.values:
            measured = self.read(Target(RESISTANCE, of=name))
            if measured:
                return _mean(measured), _margin(measured), measured.indexes
        value = setup.stated(part)
        if value is None:
            return None
        return float(value), float(value) * fraction(part.tolerance) if part.tolerance else 0.0, ()

    def chains(self, across: tuple[str, str], setup: Setup) -> list[tuple[str, ...]] | None:
        """The resistor chains that join two nodes side by side; None when the network is anything else."""
        merged = _merged(setup, self.run)
        red, black = merged(across[0]), merged(across[1])
        connections = {name: (merged(a), merged(b)) for name, (a, b) in setup.connections.items()
                       if self.run.parts[name].kind is Kind.RESISTOR}  # fmt: skip
        branches = loops.branches({**connections, _PROBE: (red, black)})
        steps = [(branch, [step.part for step in branch.steps]) for branch in branches]
        if len(steps) == 1 and _PROBE in steps[0][1]:
            return [tuple(name for name in steps[0][1] if name != _PROBE)]
        chains = [tuple(names) for _, names in steps if names != [_PROBE]]
        direct = all({branch.start, branch.end} == {red, black} for branch, _ in steps)
        return chains if direct and len(chains) == len(steps) - 1 else None

    def close(self, difference: float, scale: float, margin: float) -> bool:
        """Whether two values are one, by the run's own rule."""
        by_percent = fraction(self.run.judge.limit) * abs(scale) + margin
        return abs(difference) <= (by_percent if self.run.judge.by == PERCENT else margin)


def _totals(bench: _Bench, setup: Setup) -> Iterator[tuple[Measurement, list[tuple[str, ...]]]]:
    """Every resistance read across two nodes of the setup, with the chains between them."""
    for measurement in bench.measurements.values():
        target = measurement.target
        if (
            target.setup == setup.name
            and target.quantity == RESISTANCE
            and target.across
            and measurement.mean is not None
        ):
            chains = bench.chains(target.across, setup)
            if chains:
                yield measurement, chains


def _series_total(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    for total, chains in _totals(bench, setup):
        values = [bench.resistance(name, setup) for name in chains[0]]
        known = [value for value in values if value]
        if len(chains) > 1 or len(values) < 2 or len(known) < len(values):
            continue
        largest, margin, _ = max(known)
        text = f"{_shown(total)} in series, the largest part alone is {rounded(largest, None, 'Ω')}"
        yield SanityCheck("series total exceeds its largest part", setup.name, _indexes(total, known),
                          _mean(total) + _margin(total) + margin > largest, f"{text}.")  # fmt: skip


def _parallel_total(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    for total, chains in _totals(bench, setup):
        known = [value for name in sum(chains, ()) if (value := bench.resistance(name, setup))]
        if len(chains) < 2 or len(known) < sum(map(len, chains)):
            continue
        sums = [[bench.resistance(name, setup) or (0.0, 0.0, ()) for name in chain] for chain in chains]
        smallest, margin = min((sum(v for v, _, _ in chain), sum(m for _, m, _ in chain)) for chain in sums)
        text = f"{_shown(total)} in parallel, the smallest branch alone is {rounded(smallest, None, 'Ω')}"
        yield SanityCheck("parallel total is below its smallest branch", setup.name, _indexes(total, known),
                          _mean(total) - _margin(total) - margin < smallest, f"{text}.")  # fmt: skip


def _read_one_by_one(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    for total, chains in _totals(bench, setup):
        known = [value for name in sum(chains, ()) if (value := bench.resistance(name, setup)) and value[2]]
        if len(known) < max(2, sum(map(len, chains))):
            continue
        sums = [sum((bench.resistance(name, setup) or (0.0,))[0] for name in chain) for chain in chains]
        if min(sums) <= 0:
            continue
        together = 1.0 / sum(1.0 / chain for chain in sums)
        margin = _margin(total) + sum(m for _, m, _ in known)
        by_parts = rounded(together, margin, "Ω")
        text = f"the parts read one by one give {by_parts}, the whole reads {_shown(total)}"
        yield SanityCheck("total agrees with the parts read one by one", setup.name, _indexes(total, known),
                          bench.close(_mean(total) - together, together, margin), f"{text}.")  # fmt: skip


def _added_branch(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    for smaller in bench.run.setups.values():
        added = [name for name in setup.connections if name not in smaller.connections]
        kept = {name: leads for name, leads in setup.connections.items() if name not in added}
        same = (
            kept == dict(smaller.connections)
            and setup.sources_off == smaller.sources_off
            and setup.values == smaller.values
        )
        if not added or not same or any(bench.run.parts[name].kind.is_source for name in added):
            continue
        for total, _ in _totals(bench, setup):
            before = bench.across(RESISTANCE, total.target.across or ("", ""), smaller)
            if before:
                margin = _margin(total) + _margin(before)
                text = f"{_shown(before)} without {', '.join(added)}, {_shown(total)} with it"
                indexes = tuple(sorted(total.indexes + before.indexes))
                yield SanityCheck("adding a branch lowers the total", setup.name, indexes,
                                  _mean(total) < _mean(before) + margin, f"{text}.")  # fmt: skip


def _parallel_voltage(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    pairs: dict[tuple[str, ...], list[str]] = {}
    for name, leads in setup.connections.items():
        if name not in setup.sources_off:
            pairs.setdefault(tuple(sorted(leads)), []).append(name)
    for pair, names in pairs.items():
        voltage = bench.across(VOLTAGE, (pair[0], pair[1]), setup)
        if len(names) < 2 or voltage is None or voltage.count < 2:
            continue
        apart = max(voltage.values) - min(voltage.values)
        apart_text = engineering(apart, voltage.resolution, "V")
        text = f"{', '.join(names)} share two nodes; their voltages lie {apart_text} apart"
        yield SanityCheck("parallel parts have equal voltages", setup.name, voltage.indexes,
                          bench.close(apart, _mean(voltage), voltage.resolution), f"{text}.")  # fmt: skip


def _series_current(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    for branch in loops.branches(_live(setup, bench.run)):
        read = []
        for step in branch.steps:
            measured = bench.read(Target(CURRENT, through=step.part, setup=setup.name))
            if measured:
                turned = step.forward == bench.run.parts[step.part].kind.is_source
                read.append((step.part, -_mean(measured) if turned else _mean(measured), measured))
        if len(read) < 2:
            continue
        values = [value for _, value, _ in read]
        apart, margin = max(values) - min(values), sum(_margin(m) for _, _, m in read)
        names = ", ".join(name for name, _, _ in read)
        text = f"one current runs through {names}; readings lie {rounded(apart, margin, 'A')} apart"
        indexes = tuple(sorted(k for _, _, m in read for k in m.indexes))
        yield SanityCheck("series parts carry equal currents", setup.name, indexes,
                          bench.close(apart, max(map(abs, values)), margin), f"{text}.")  # fmt: skip


def _divider(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    for branch in loops.branches(_live(setup, bench.run)):
        names = [step.part for step in branch.steps if bench.run.parts[step.part].kind is Kind.RESISTOR]
        for upper, lower in pairwise(names):
            volts = [bench.across(VOLTAGE, setup.connections[name], setup) for name in (upper, lower)]
            ohms = [bench.resistance(name, setup) for name in (upper, lower)]
            if not (volts[0] and volts[1] and ohms[0] and ohms[1] and ohms[0][2] and ohms[1][2]):
                continue
            v1, v2, (r1, m1, _), (r2, m2, _) = abs(_mean(volts[0])), abs(_mean(volts[1])), ohms[0], ohms[1]
            if not (v1 and v2 and r1 > 0 and r2 > 0):
                continue
            ratio = r1 / r2
            relative = _margin(volts[0]) / v1 + _margin(volts[1]) / v2 + m1 / r1 + m2 / r2
            text = f"{upper} to {lower}: voltages {v1 / v2:.4g} to 1, resistances {ratio:.4g} to 1"
            indexes = tuple(sorted({*volts[0].indexes, *volts[1].indexes, *ohms[0][2], *ohms[1][2]}))
            yield SanityCheck("divider ratio is the resistance ratio", setup.name, indexes,
                              bench.close(v1 / v2 - ratio, ratio, relative * ratio), f"{text}.")  # fmt: skip


def _superposition(bench: _Bench, setup: Setup) -> Iterator[SanityCheck]:
    """With every source together a resistor shows what it shows with each alone, added up with signs."""
    parts = bench.run.parts
    driving = {name for name in setup.connections if parts[name].kind.is_source} - setup.sources_off
    alone = [
        other
        for name in setup.connections if name in driving
        for other in bench.run.setups.values()
        if other.sources_off == setup.sources_off | (driving - {name})
        and (other.connections, other.values) == (setup.connections, setup.values)
    ]  # fmt: skip
    if len(driving) < 2 or len(alone) != len(driving):
        return
    setups = (setup, *alone)
    for name, leads in setup.connections.items():
        if parts[name].kind is not Kind.RESISTOR:
            continue
        for targets, unit in (
            ([Target(VOLTAGE, across=leads, setup=one.name) for one in setups], "V"),
            ([Target(CURRENT, through=name, setup=one.name) for one in setups], "A"),
        ):
            read = [bench.read(target) for target in targets]
            found = [(m, _towards(target, m)) for target, m in zip(targets, read, strict=True) if m is not None]
            if len(found) < len(targets):
                continue
            (_, together), *each = found
            margin = sum(_margin(m) for m, _ in found)
            total = sum(value for _, value in each)
            text = (
                f"{name}: {' and '.join(rounded(value, margin, unit) for _, value in each)} alone "
                f"make {rounded(total, margin, unit)}, together it reads {rounded(together, margin, unit)}"
            )
            indexes = tuple(sorted(k for m, _ in found for k in m.indexes))
            scale = max(abs(together), sum(abs(value) for _, value in each))
            yield SanityCheck("readings with each source alone add up to those with all", setup.name, indexes,
                              bench.close(total - together, scale, margin), f"{text}.")  # fmt: skip


def _towards(target: Target, measurement: Measurement) -> float:
    """A mean, with the sign it has in the target's direction."""
    return -_mean(measurement) if target.turned_against(measurement.target) else _mean(measurement)


_RULES: tuple[Callable[[_Bench, Setup], Iterator[SanityCheck]], ...] = (
    _series_total, _parallel_total, _read_one_by_one, _added_branch, _parallel_voltage, _series_current, _divider,
    _superposition,
)  # fmt: skip


def _live(setup: Setup, run: Run) -> dict[str, tuple[str, str]]:
    """The setup's connections without current sources that are off."""
    return {name: leads for name, leads in setup.connections.items()
            if not (name in setup.sources_off and run.parts[name].kind is Kind.CURRENT_SOURCE)}  # fmt: skip


def _merged(setup: Setup, run: Run) -> Callable[[str], str]:
    """A node's name once voltage sources that are off have become wires."""
    joined: dict[str, str] = {}

    def top(node: str) -> str:
        while joined.get(node, node) != node:
            node = joined[node]
        return node

    for name in setup.sources_off:
        if run.parts[name].kind is Kind.VOLTAGE_SOURCE:
            first, second = setup.connections[name]
            joined[top(first)] = top(second)
    return top


def _indexes(total: Measurement, known: list[tuple[float, float, tuple[int, ...]]]) -> tuple[int, ...]:
    return tuple(sorted({*total.indexes, *(index for _, _, indexes in known for index in indexes)}))


def _mean(measurement: Measurement) -> float:
    return measurement.mean or 0.0


def _margin(measurement: Measurement) -> float:
    return 2.0 * (measurement.uncertainty or 0.0)


def _shown(measurement: Measurement) -> str:
    """The mean of a target's readings with their own digits."""
    return engineering(_mean(measurement), measurement.resolution, UNITS[measurement.target.quantity])
