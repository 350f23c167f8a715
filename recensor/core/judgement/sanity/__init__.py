"""Checks that follow from the shape of the circuit alone, before any calculation: one list of rules."""

from collections.abc import Callable, Iterator

from recensor.core.circuit import Setup
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.sanity.bench import Bench, SanityCheck
from recensor.core.judgement.sanity.currents import series_current
from recensor.core.judgement.sanity.superposition import superposition
from recensor.core.judgement.sanity.totals import added_branch, parallel_total, read_one_by_one, series_total
from recensor.core.judgement.sanity.voltages import divider, parallel_voltage
from recensor.core.record import Run

__all__ = ["RULES", "Bench", "SanityCheck", "assess_sanity"]

RULES: tuple[Callable[[Bench, Setup], Iterator[SanityCheck]], ...] = (
    series_total,
    parallel_total,
    read_one_by_one,
    added_branch,
    parallel_voltage,
    series_current,
    divider,
    superposition,
)


def assess_sanity(run: Run, measurements: Measurements) -> list[SanityCheck]:
    """Every rule that has the readings it needs, in every setup."""
    bench = Bench(run, measurements)
    return [check for setup in run.sheet.setups.values() for rule in RULES for check in rule(bench, setup)]
