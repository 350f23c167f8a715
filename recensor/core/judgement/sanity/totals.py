"""Totals: what a resistance read across two nodes must be, by how the parts are joined."""

from collections.abc import Iterator
from dataclasses import replace

from recensor.core.circuit import Across, Setup
from recensor.core.figures import rounded
from recensor.core.judgement.measurements import Measurement
from recensor.core.judgement.sanity.bench import Bench, BestKnown, SanityCheck, indexes_of, margin_of, mean, shown
from recensor.core.quantity import OHM, RESISTANCE


def _totals(bench: Bench, setup: Setup) -> Iterator[tuple[Measurement, list[tuple[str, ...]]]]:
    """Every resistance read across two nodes of the setup, with the chains between them."""
    for measurement in bench.measurements.by_target.values():
        target = measurement.target
        if not isinstance(target, Across) or target.setup != setup.name or measurement.mean is None:
            continue
        if target.measurand is RESISTANCE:
            chains = bench.chains(target.nodes, setup)
            if chains:
                yield measurement, chains


def series_total(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """A chain resists more than its largest part."""
    for total, chains in _totals(bench, setup):
        values = [bench.resistance(name, setup) for name in chains[0]]
        known = [value for value in values if value]
        if len(chains) > 1 or len(values) < 2 or len(known) < len(values):
            continue
        largest = max(known)
        text = f"{shown(total)} in series, the largest part alone is {rounded(largest.value, None, OHM)}"
        yield SanityCheck("series total exceeds its largest part", setup.name, indexes_of(total, known),
                          mean(total) + margin_of(total) + largest.margin > largest.value, f"{text}.")  # fmt: skip


def parallel_total(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """Branches side by side resist less than the smallest of them."""
    for total, chains in _totals(bench, setup):
        known = [value for name in sum(chains, ()) if (value := bench.resistance(name, setup))]
        if len(chains) < 2 or len(known) < sum(map(len, chains)):
            continue
        sums = [[bench.resistance(name, setup) or BestKnown(0.0, 0.0) for name in chain] for chain in chains]
        smallest, margin = min((sum(k.value for k in chain), sum(k.margin for k in chain)) for chain in sums)
        text = f"{shown(total)} in parallel, the smallest branch alone is {rounded(smallest, None, OHM)}"
        yield SanityCheck("parallel total is below its smallest branch", setup.name, indexes_of(total, known),
                          mean(total) - margin_of(total) - margin < smallest, f"{text}.")  # fmt: skip


def read_one_by_one(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """The whole is what its parts, each read by itself, make together."""
    for total, chains in _totals(bench, setup):
        known = [value for name in sum(chains, ()) if (value := bench.resistance(name, setup)) and value.indexes]
        if len(known) < max(2, sum(map(len, chains))):
            continue
        sums = [sum((bench.resistance(name, setup) or BestKnown(0.0, 0.0)).value for name in chain) for chain in chains]
        if min(sums) <= 0:
            continue
        together = 1.0 / sum(1.0 / chain for chain in sums)
        margin = margin_of(total) + sum(part.margin for part in known)
        by_parts = rounded(together, margin, OHM)
        text = f"the parts read one by one give {by_parts}, the whole reads {shown(total)}"
        yield SanityCheck("total agrees with the parts read one by one", setup.name, indexes_of(total, known),
                          bench.close(mean(total) - together, together, margin), f"{text}.")  # fmt: skip


def added_branch(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """A branch more, and the total is lower."""
    for smaller in bench.sheet.setups.values():
        added = [name for name in setup.connections if name not in smaller.connections]
        kept = {name: leads for name, leads in setup.connections.items() if name not in added}
        same = (
            kept == dict(smaller.connections)
            and setup.sources_off == smaller.sources_off
            and setup.values == smaller.values
        )
        if not added or not same or any(bench.sheet.parts[name].kind.drives for name in added):
            continue
        for total, _ in _totals(bench, setup):
            before = bench.read(replace(total.target, setup=smaller.name)) if isinstance(total.target, Across) else None
            if before:
                margin = margin_of(total) + margin_of(before)
                text = f"{shown(before)} without {', '.join(added)}, {shown(total)} with it"
                indexes = tuple(sorted(total.indexes + before.indexes))
                yield SanityCheck("adding a branch lowers the total", setup.name, indexes,
                                  mean(total) < mean(before) + margin, f"{text}.")  # fmt: skip
