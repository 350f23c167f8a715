"""Voltages: equal across parts side by side, shared as the resistances along a chain."""

from collections import defaultdict
from collections.abc import Iterator
from itertools import pairwise

from recensor.core.circuit import Across, Setup, loops
from recensor.core.figures import rounded
from recensor.core.judgement.sanity.bench import Amount, SanityCheck, SanityReadings, mean_of, readings_of
from recensor.core.quantity import VOLT, VOLTAGE


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
        most, least = max(read, key=lambda one: one.value), min(read, key=lambda one: one.value)
        holds = bench.are_equal(most, least, max(abs(known.value) for known in read))
        if holds is not None:
            names = [
                name
                for name, leads in setup.connections.items()
                if name not in setup.sources_off and {merged.top(leads[0]), merged.top(leads[1])} == set(pair)
            ]
            apart = most - least
            said = rounded(apart.value, apart.margin, VOLT)
            text = f"{', '.join(names)} share two nodes; the voltages read there lie {said} apart"
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
            one, other = _product(volts[0], ohms[1]), _product(volts[1], ohms[0])
            holds = bench.are_equal(one, other, max(one.value, other.value))
            if holds is not None:
                by_volts, by_ohms = abs(volts[0].value / volts[1].value), ohms[0].value / ohms[1].value
                text = f"voltages {by_volts:.4g} to 1, resistances {by_ohms:.4g} to 1"
                yield SanityCheck("divider ratio is the resistance ratio", setup.name, readings_of(one, other),
                                  holds, f"{upper} to {lower}: {text}.")  # fmt: skip


def _product(volts: Amount, ohms: Amount) -> Amount:
    """A voltage's size times a resistance."""
    size = volts if volts.value > 0 else volts.times(-1.0)
    spread = size.spread.times(ohms.value) + ohms.spread.times(size.value)
    return Amount(size.value * ohms.value, spread, volts.indexes + ohms.indexes)
