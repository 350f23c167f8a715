"""The table of volts over amps: what each part comes to by Ohm's law, beside bands and ohmmeter."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Sheet
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment, Derived, Outcome, by_ohms_law
from recensor.core.quantity import AMPERE, OHM, WATT
from recensor.ledger.marks import Mark


@dataclass(frozen=True)
class OhmsRow:
    """One part, or the whole, in words."""

    name: str
    resistance: str
    ohmmeter: str
    marked: str
    power: str
    current: str
    mark: Mark


def ohms_rows(sheet: Sheet, assessment: Assessment) -> Iterator[OhmsRow]:
    """A row for each part, and each whole, whose voltage and current were read."""
    for found in by_ohms_law(sheet, assessment):
        where = f"{found.setup}: " if sheet.several else ""
        yield OhmsRow(
            f"{where}{found.part or 'the whole'}",
            _written(found.resistance, OHM),
            rounded(found.ohmmeter, None, OHM) if found.ohmmeter else "",
            rounded(found.nominal, None, OHM) if found.nominal else "",
            _written(found.power, WATT),
            _written(found.current, AMPERE),
            Mark(found.outcome, "" if found.outcome is Outcome.NEUTRAL else found.outcome.value),
        )


def _written(derived: Derived | None, unit: str) -> str:
    if derived is None:
        return ""
    own = rounded(derived.expanded, derived.expanded, unit) if derived.expanded else ""
    return f"{rounded(derived.value, derived.expanded or None, unit)}{f' ± {own}' if own else ''}"
