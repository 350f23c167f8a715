"""What the shape of a circuit demands of a resistance across several of its parts."""

from collections.abc import Iterator
from dataclasses import replace

from recensor.core.circuit import Setup, Sheet
from recensor.core.judgement.measurements import Measurement
from recensor.core.judgement.sanity_readings import Amount, SanityCheck, SanityReadings, mean_of, readings_of, shown
from recensor.core.quantity import OHM, RESISTANCE
from recensor.core.sentences import say

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
                              holds, f"{text}.", is_of_total=True)  # fmt: skip


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
            yield SanityCheck(
                "parallel total is below its smallest branch", setup.name, indexes, holds, f"{text}.", is_of_total=True
            )


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
                              holds, f"{text}.", is_of_total=True)  # fmt: skip


def smaller_setups(sheet: Sheet, setup: Setup) -> Iterator[Setup]:
    """The setups to which nothing but resistors was added to make this one."""
    for smaller in sheet.setups.values():
        added = setup.connections.keys() - smaller.connections.keys()
        if (
            added
            and len(added) + len(smaller.connections) == len(setup.connections)
            and all(setup.connections.get(name) == leads for name, leads in smaller.connections.items())
            and setup.sources_off == smaller.sources_off
            and (setup.values, setup.open) == (smaller.values, smaller.open)
            and all(sheet.parts[name].kind.ohmic for name in added)
        ):
            yield smaller


def added_branch(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """A branch more, and the total is lower."""
    for smaller in smaller_setups(bench.sheet, setup):
        added = [name for name in setup.connections if name not in smaller.connections]
        for total, _ in _totals(bench, setup):
            target = total.target
            before = bench.measurements.read(replace(target, setup=smaller.name)) if target.is_across else None
            holds = bench.is_above(mean_of(before), mean_of(total)) if before else None
            if before and holds is not None:
                text = say(
                    "judgement.without_with", shown=shown(before), added=", ".join(added), total_shown=shown(total)
                )
                indexes = readings_of(mean_of(total), mean_of(before))
                yield SanityCheck(
                    "adding a branch lowers the total", setup.name, indexes, holds, f"{text}.", is_of_total=True
                )
