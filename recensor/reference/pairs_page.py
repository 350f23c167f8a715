"""A wanted value made from two parts, as a view model."""

from dataclasses import dataclass
from decimal import Decimal

from recensor.core.figures import rounded, signed_percent, stated
from recensor.core.quantity import OHM
from recensor.core.resistors import Arrangement, Combination, Stocked, combinations
from recensor.core.resistors.preferred_values import mantissas
from recensor.kits.models import Bin

# What parts of a series usually come as, in %, and the decades a drawer spans: 10 Ω to 1 MΩ.
_USUAL_TOLERANCES = {6: 20, 12: 10, 24: 5, 96: 1}
_DECADES = range(-1, 4)


@dataclass(frozen=True)
class PairSolution:
    """One way to make the value."""

    parts: str
    value: str
    error: str
    tolerance: str
    limits: str


def stock(name: str) -> list[Stocked]:
    """The parts of ``kit-7``, or of ``E24``."""
    if name.startswith("kit-"):
        rows = Bin.objects.filter(kit=int(name.removeprefix("kit-")), count__gt=0)
        return [Stocked(float(row.value), float(row.tolerance) / 100.0, row.count) for row in rows]
    series = int(name.removeprefix("E"))
    tolerance = _USUAL_TOLERANCES[series] / 100.0
    return [Stocked(m * 10.0**decade, tolerance) for decade in _DECADES for m in mantissas(series)]


def solutions(wanted: float, name: str) -> list[PairSolution]:
    """The best ways to make `wanted` ohms out of the named stock."""
    return [_solution(combination) for combination in combinations(wanted, stock(name))]


def _solution(combination: Combination) -> PairSolution:
    sign = " + " if combination.joined is Arrangement.SERIES else " ∥ "
    return PairSolution(
        parts=sign.join(stated(Decimal(f"{part.value:.6g}"), OHM) for part in combination.parts),
        value=rounded(combination.value, None, OHM),
        error=signed_percent(combination.error * 100.0),
        tolerance=f"± {combination.tolerance * 100.0:.2g} %",
        limits=" to ".join(rounded(limit, None, OHM) for limit in combination.limits),
    )
