"""A bench with hidden true values, and what an ideal meter shows of it."""

from collections.abc import Mapping, Sequence

from recensor.core.circuit import Across, PartAlone, Sheet, Target
from recensor.core.quantity import RESISTANCE, parse
from recensor.core.record import Reading, Run
from recensor.core.solving import dead, operate, resistance_between


def off_by(sheet: Sheet, factors: Sequence[float]) -> dict[str, float]:
    """True values: each part off its nominal one by its own factor."""
    return {
        name: float(part.nominal) * factor for (name, part), factor in zip(sheet.parts.items(), factors, strict=False)
    }


def true_value(target: Target, sheet: Sheet, true: Mapping[str, float]) -> float:
    """What an ideal meter would show at a target of any setup, in SI units."""
    if isinstance(target, PartAlone):
        return true[target.part]
    setup = sheet.setups[target.setup]
    here = {name: true[name] for name in setup.connections}
    if isinstance(target, Across) and target.measurand is RESISTANCE:
        (seen,) = resistance_between(dead(setup, sheet.parts, here), [target.nodes])
        return seen[0]
    return float(operate(sheet, setup, here).solution.answer(target))


def honest(sheet: Sheet, true: Mapping[str, float], digits: int = 5, slip: tuple[int, float] | None = None) -> Run:
    """One reading at every asked point, rounded to a meter's digits; a `slip` multiplies one of them."""
    readings = []
    for k, target in enumerate(sheet.asked):
        value = true_value(target, sheet, true) * (slip[1] if slip and slip[0] == k else 1.0)
        readings.append(Reading(target, parse(f"{value:.{digits - 1}e}", target.unit)))
    return Run(sheet, tuple(readings))
