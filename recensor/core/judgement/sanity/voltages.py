"""Voltages: equal across parts side by side, shared as the resistances along a chain."""

from collections.abc import Iterator
from itertools import pairwise

from recensor.core.circuit import Setup, loops
from recensor.core.figures import engineering
from recensor.core.judgement.sanity.bench import Bench, SanityCheck, margin_of, mean
from recensor.core.quantity import VOLT, VOLTAGE


def parallel_voltage(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """Parts side by side share two nodes, and one voltage."""
    pairs: dict[tuple[str, ...], list[str]] = {}
    for name, leads in setup.connections.items():
        if name not in setup.sources_off:
            pairs.setdefault(tuple(sorted(leads)), []).append(name)
    for pair, names in pairs.items():
        voltage = bench.across(VOLTAGE, (pair[0], pair[1]), setup)
        if len(names) < 2 or voltage is None or voltage.count < 2:
            continue
        apart = max(voltage.values) - min(voltage.values)
        apart_text = engineering(apart, voltage.resolution, VOLT)
        text = f"{', '.join(names)} share two nodes; their voltages lie {apart_text} apart"
        yield SanityCheck("parallel parts have equal voltages", setup.name, voltage.indexes,
                          bench.close(apart, mean(voltage), voltage.resolution), f"{text}.")  # fmt: skip


def divider(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """Neighbours in a chain share its voltage as they share its resistance."""
    for branch in loops.branches(setup.joined(bench.sheet.parts)):
        names = [passage.part for passage in branch.passages if not bench.sheet.parts[passage.part].kind.drives]
        for upper, lower in pairwise(names):
            volts = [bench.across(VOLTAGE, setup.connections[name], setup) for name in (upper, lower)]
            ohms = [bench.resistance(name, setup) for name in (upper, lower)]
            if not (volts[0] and volts[1] and ohms[0] and ohms[1] and ohms[0].indexes and ohms[1].indexes):
                continue
            v1, v2, r1, r2 = abs(mean(volts[0])), abs(mean(volts[1])), ohms[0].value, ohms[1].value
            if not (v1 and v2 and r1 > 0 and r2 > 0):
                continue
            ratio = r1 / r2
            relative = margin_of(volts[0]) / v1 + margin_of(volts[1]) / v2 + ohms[0].margin / r1 + ohms[1].margin / r2
            text = f"{upper} to {lower}: voltages {v1 / v2:.4g} to 1, resistances {ratio:.4g} to 1"
            indexes = tuple(sorted({*volts[0].indexes, *volts[1].indexes, *ohms[0].indexes, *ohms[1].indexes}))
            yield SanityCheck("divider ratio is the resistance ratio", setup.name, indexes,
                              bench.close(v1 / v2 - ratio, ratio, relative * ratio), f"{text}.")  # fmt: skip
