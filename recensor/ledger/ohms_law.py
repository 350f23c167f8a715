"""The table of volts over amps: what each part comes to by Ohm's law, beside bands and ohmmeter."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Sheet
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment, Derived, Outcome, by_ohms_law
from recensor.core.plan import called
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
    for law in by_ohms_law(sheet, assessment):
        where = f"{law.setup}: " if sheet.several else ""
        yield OhmsRow(
            f"{where}{called(law.part, sheet) if law.part else 'the whole'}",
            _written(law.resistance, OHM),
            rounded(law.ohmmeter, None, OHM) if law.ohmmeter else "",
            rounded(law.nominal, None, OHM) if law.nominal else "",
            _written(law.power, WATT),
            _written(law.current, AMPERE),
            Mark(law.outcome, "" if law.outcome is Outcome.NEUTRAL else law.outcome.value),
        )


def _written(derived: Derived | None, unit: str) -> str:
    if derived is None:
        return ""
    own = rounded(derived.expanded, derived.expanded, unit) if derived.expanded else ""
    return f"{rounded(derived.value, derived.expanded or None, unit)}{f' ± {own}' if own else ''}"
