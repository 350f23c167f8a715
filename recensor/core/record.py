"""The run: one performance of a sheet, with what was read and claimed in it. The one input of every judgement."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from recensor.core.boards import Built
from recensor.core.circuit import RecordError, Sheet, Target, sheet
from recensor.core.quantity import Quantity

__all__ = ["Claim", "Combination", "Reading", "RecordError", "Run", "Strike", "check"]


@dataclass(frozen=True)
class Strike:
    """Why, by whom and when a reading was struck through. It is kept and not judged."""

    reason: str
    by: str | None = None
    time: datetime | None = None


@dataclass(frozen=True)
class Reading:
    """One reading as it was typed, with what a reading must carry for good."""

    target: Target
    value: Quantity
    range: Quantity | None = None
    meter: str | None = None
    note: str | None = None
    time: datetime | None = None
    by: str | None = None
    struck: Strike | None = None


class Combination(StrEnum):
    """How a claim is said to follow from the readings it names."""

    SUM = "sum"
    PARALLEL = "parallel"
    RATIO = "ratio"


@dataclass(frozen=True)
class Claim:
    """Something worked out by hand; with `sources` (indexes of readings) and `combined` also how."""

    target: Target
    value: Quantity
    sources: tuple[int, ...] = ()
    combined: Combination | None = None


@dataclass(frozen=True)
class Run:
    """One performance of a sheet. `boards` are what stands on the board of a setup, by its name.

    `meters` are profiles by the name that readings give their meter, as a run document holds them.
    """

    sheet: Sheet
    readings: tuple[Reading, ...] = ()
    claims: tuple[Claim, ...] = ()
    meters: Mapping[str, object] = field(default_factory=dict)
    boards: Mapping[str, Built] = field(default_factory=dict)


def check(run: Run) -> None:
    """Raise `RecordError` at the first place that names something the run does not have."""
    sheet.check(run.sheet)
    for k, reading in enumerate(run.readings):
        sheet.check_target(f"readings[{k}]", reading.target, run.sheet)
    for k, claim in enumerate(run.claims):
        sheet.check_target(f"claims[{k}]", claim.target, run.sheet)
        for source in claim.sources:
            if not 0 <= source < len(run.readings):
                raise RecordError(f"claims[{k}].from", f"there is no readings[{source}]")
    for name in run.boards:
        if name not in run.sheet.setups:
            raise RecordError(f"placements.{name}", "there is no setup of this name")
