"""Checks that follow from the shape of the circuit alone, before any calculation: one list of rules."""

from collections.abc import Callable, Iterator

from recensor.core.circuit import Setup
from recensor.core.judgement.calculated import Warned
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.sanity.bench import SanityCheck, SanityReadings
from recensor.core.judgement.sanity.currents import series_current
from recensor.core.judgement.sanity.light import seen_light
from recensor.core.judgement.sanity.superposition import bends, each_alone, has_something_inside, superposition
from recensor.core.judgement.sanity.totals import added_branch, parallel_total, read_one_by_one, series_total
from recensor.core.judgement.sanity.voltages import divider, parallel_voltage
from recensor.core.record import Run

__all__ = ["RULES", "SanityCheck", "SanityReadings", "assess_sanity"]

RULES: tuple[Callable[[SanityReadings, Setup], Iterator[SanityCheck]], ...] = (
    series_total,
    parallel_total,
    read_one_by_one,
    added_branch,
    parallel_voltage,
    series_current,
    divider,
    seen_light,
    superposition,
)


def assess_sanity(run: Run, measurements: Measurements) -> tuple[list[SanityCheck], list[Warned]]:
    """Every rule that has the readings it needs, in every setup; and where one does not hold by its nature."""
    bench, setups = SanityReadings(run, measurements), run.sheet.setups.values()
    checks = [check for setup in setups for rule in RULES for check in rule(bench, setup)]
    unsaid = [
        Warned(
            f"setups.{setup.name}",
            "a source's internal resistance goes out with it: what each source makes alone does not add up",
        )
        for setup in setups
        if has_something_inside(bench, setup, each_alone(bench, setup))
    ]
    unsaid += [
        Warned(f"setups.{setup.name}", "a lamp or a diode bends: what each source makes alone does not add up")
        for setup in setups
        if each_alone(bench, setup) and bends(bench, setup)
    ]
    return checks, unsaid
