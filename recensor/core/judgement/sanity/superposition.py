"""Superposition: what each source makes alone adds up to what all make together."""

from collections.abc import Iterator

from recensor.core.circuit import Across, Setup, Target, Through
from recensor.core.figures import rounded
from recensor.core.judgement.measurements import Measurement
from recensor.core.judgement.sanity.bench import Bench, SanityCheck, margin_of, mean
from recensor.core.quantity import VOLTAGE


def superposition(bench: Bench, setup: Setup) -> Iterator[SanityCheck]:
    """With every source together a resistor shows what it shows with each alone, added up with signs."""
    parts = bench.sheet.parts
    driving = set(setup.driving(parts))
    alone = [
        other
        for name in setup.connections if name in driving
        for other in bench.sheet.setups.values()
        if other.sources_off == setup.sources_off | (driving - {name})
        and (other.connections, other.values) == (setup.connections, setup.values)
    ]  # fmt: skip
    if len(driving) < 2 or len(alone) != len(driving):
        return
    setups = (setup, *alone)
    for name, leads in setup.connections.items():
        if parts[name].kind.drives:
            continue
        across: list[Target] = [Across(VOLTAGE, leads, other.name) for other in setups]
        through: list[Target] = [Through(name, other.name) for other in setups]
        for targets in (across, through):
            unit = targets[0].unit
            read = [bench.read(target) for target in targets]
            found = [(m, _towards(target, m)) for target, m in zip(targets, read, strict=True) if m is not None]
            if len(found) < len(targets):
                continue
            (_, together), *each = found
            margin = sum(margin_of(m) for m, _ in found)
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
    return -mean(measurement) if target.turned_against(measurement.target) else mean(measurement)
