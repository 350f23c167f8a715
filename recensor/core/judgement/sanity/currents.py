"""Currents: one and the same all along a chain."""

from collections.abc import Iterator

from recensor.core.circuit import Setup, Through, loops
from recensor.core.figures import rounded
from recensor.core.judgement.sanity.bench import Bench, SanityCheck, margin_of, mean
from recensor.core.quantity import AMPERE


def series_current(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """One current runs through every part of a chain."""
    for branch in loops.branches(setup.joined(bench.sheet.parts)):
        read = []
        for passage in branch.passages:
            measured = bench.read(Through(passage.part, setup.name))
            if measured:
                turned = passage.forward == bench.sheet.parts[passage.part].kind.drives
                read.append((passage.part, -mean(measured) if turned else mean(measured), measured))
        if len(read) < 2:
            continue
        values = [value for _, value, _ in read]
        apart, margin = max(values) - min(values), sum(margin_of(m) for _, _, m in read)
        names = ", ".join(name for name, _, _ in read)
        text = f"one current runs through {names}; readings lie {rounded(apart, margin, AMPERE)} apart"
        indexes = tuple(sorted(k for _, _, m in read for k in m.indexes))
        yield SanityCheck("series parts carry equal currents", setup.name, indexes,
                          bench.close(apart, max(map(abs, values)), margin), f"{text}.")  # fmt: skip
