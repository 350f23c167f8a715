"""Superposition: what each source makes alone adds up to what all make together."""

from collections.abc import Iterator, Sequence

from recensor.core.circuit import Across, Setup, Target, Through
from recensor.core.judgement.sanity.bench import Amount, SanityCheck, SanityReadings, readings_of
from recensor.core.quantity import VOLTAGE


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
            holds = bench.are_equal(total, together, max(abs(together.value), sum(abs(one.value) for one in each)))
            if holds is not None:
                text = (
                    f"{name}: {' and '.join(one.shown(unit) for one in each)} alone "
                    f"make {total.shown(unit)}, together it reads {together.shown(unit)}"
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
