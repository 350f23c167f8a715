"""Currents: one and the same all along a chain."""

from collections import defaultdict
from collections.abc import Iterator

from recensor.core.circuit import Setup, loops
from recensor.core.figures import rounded
from recensor.core.judgement.sanity.bench import Amount, SanityCheck, SanityReadings, mean_of, readings_of
from recensor.core.quantity import AMPERE


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
        most, least = max(read, key=lambda one: one.value), min(read, key=lambda one: one.value)
        holds = bench.are_equal(most, least, max(abs(known.value) for known in read))
        if holds is not None:
            apart = most - least
            said = rounded(apart.value, apart.margin, AMPERE)
            text = f"one current runs through {', '.join(dict.fromkeys(names))}; readings lie {said} apart"
            yield SanityCheck("series parts carry equal currents", setup.name, readings_of(*read), holds, f"{text}.")
