"""The run: parts, setups, readings and claims. The one input of every judgement."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from recensor.core.circuit import Kind, Part, Setup
from recensor.core.quantity import AMPERE, OHM, VOLT, Quantity, parse_percent

RESISTANCE, VOLTAGE, CURRENT = "resistance", "voltage", "current"
UNITS = {RESISTANCE: OHM, VOLTAGE: VOLT, CURRENT: AMPERE}
QUANTITIES = {unit: quantity for quantity, unit in UNITS.items()}
LEADS = "leads"
PERCENT, UNCERTAINTY = "percent", "uncertainty"
NOMINAL, MEASURED = "nominal", "measured"


class RecordError(ValueError):
    """The record contradicts itself. `place` names where, such as ``readings[3].across``."""

    def __init__(self, place: str, message: str) -> None:
        super().__init__(f"{place}: {message}")
        self.place = place
        self.message = message


@dataclass(frozen=True)
class Target:
    """One thing read, however often: just one of `of`, `across` ([red, black]) and `through` is set.

    `of` is a part by itself, out of circuit; a source before connecting; or the touched leads.
    """

    quantity: str
    of: str | None = None
    across: tuple[str, str] | None = None
    through: str | None = None
    setup: str | None = None

    @property
    def unit(self) -> str:
        """The SI unit it is read in."""
        return UNITS[self.quantity]

    @property
    def key(self) -> tuple[str | None, str, str, tuple[str, ...]]:
        """The same for every reading of this target, whichever way round the leads were."""
        if self.across:
            return self.setup, self.quantity, "across", tuple(sorted(self.across))
        if self.of:
            return self.setup, self.quantity, "of", (self.of,)
        return self.setup, self.quantity, "through", (self.through or "",)

    def turned_against(self, other: "Target") -> bool:
        """Whether a reading here has the opposite sign of one at `other`, the leads being reversed."""
        return self.quantity == VOLTAGE and self.across is not None and self.across != other.across

    def words(self) -> str:
        """The target in words, such as ``voltage from top to mid``."""
        if self.of:
            return "the touched leads" if self.of == LEADS else f"{self.of} by itself"
        if self.through:
            return f"current through {self.through}"
        red, black = self.across or ("", "")
        return f"{self.quantity} from {red} to {black}"


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


@dataclass(frozen=True)
class Claim:
    """Something worked out by hand; with `sources` (indexes of readings) and `combined` also how."""

    target: Target
    value: Quantity
    sources: tuple[int, ...] = ()
    combined: str | None = None


@dataclass(frozen=True)
class Judge:
    """What decides: `by` percent or uncertainty, within `limit`, against measured or nominal values."""

    by: str = PERCENT
    limit: Quantity = field(default_factory=lambda: parse_percent("5%"))
    against: str = MEASURED


@dataclass(frozen=True)
class Run:
    """One performance of an experiment; without readings, the experiment itself."""

    title: str
    parts: Mapping[str, Part]
    setups: Mapping[str, Setup]
    readings: tuple[Reading, ...] = ()
    judge: Judge = field(default_factory=Judge)
    claims: tuple[Claim, ...] = ()
    asked: tuple[Target, ...] = ()
    sealed: bool | None = None
    meters: Mapping[str, object] = field(default_factory=dict)
    placements: Mapping[str, Mapping[str, tuple[str, ...]]] = field(default_factory=dict)


def check(run: Run) -> None:
    """Raise `RecordError` at the first place that names something the run does not have."""
    for name, part in run.parts.items():
        _check_part(f"parts.{name}", part)
    for name, setup in run.setups.items():
        _check_setup(f"setups.{name}", setup, run)
    for k, reading in enumerate(run.readings):
        check_target(f"readings[{k}]", reading.target, run)
    for k, target in enumerate(run.asked):
        check_target(f"asked[{k}]", target, run)
    for k, claim in enumerate(run.claims):
        check_target(f"claims[{k}]", claim.target, run)
        for source in claim.sources:
            if not 0 <= source < len(run.readings):
                raise RecordError(f"claims[{k}].from", f"there is no readings[{source}]")
    for setup_name, placed in run.placements.items():
        if setup_name not in run.setups:
            raise RecordError(f"placements.{setup_name}", "there is no setup of this name")
        for part_name in placed:
            if part_name not in run.parts:
                raise RecordError(f"placements.{setup_name}.{part_name}", "there is no part of this name")


def check_target(place: str, target: Target, run: Run) -> None:
    """Raise `RecordError` when the target names a part, node or setup that the run does not have."""
    if target.setup is not None and target.setup not in run.setups:
        raise RecordError(f"{place}.setup", f"there is no setup {target.setup!r}")
    if target.of is not None:
        if target.of == LEADS and LEADS not in run.parts:
            if target.quantity != RESISTANCE:
                raise RecordError(f"{place}.quantity", "touched leads are read as a resistance")
            return
        if target.of not in run.parts:
            raise RecordError(f"{place}.of", f"there is no part {target.of!r}")
        kind = run.parts[target.of].kind
        if UNITS[target.quantity] != kind.unit:
            raise RecordError(f"{place}.quantity", f"{target.of} is a {kind} and is read by itself in {kind.unit}")
        if target.setup is not None and not kind.is_source:
            raise RecordError(f"{place}.setup", "only a source is read by itself for one setup")
        return
    if target.setup is None:
        raise RecordError(f"{place}.setup", "say in which setup this was read")
    setup = run.setups[target.setup]
    if target.across is not None:
        red, black = target.across
        for node in target.across:
            if node not in setup.nodes:
                raise RecordError(f"{place}.across", f"setup {setup.name!r} has no node {node!r}")
        if red == black:
            raise RecordError(f"{place}.across", f"red and black are both at node {red!r}")
        if target.quantity == CURRENT:
            raise RecordError(f"{place}.quantity", "a current is read through a part, not across nodes")
    elif target.through is not None:
        if target.through not in setup.connections:
            raise RecordError(f"{place}.through", f"setup {setup.name!r} has no part {target.through!r}")
        if target.quantity != CURRENT:
            raise RecordError(f"{place}.quantity", "through a part only a current is read")


def _check_part(place: str, part: Part) -> None:
    if part.kind.is_source and part.nominal is None:
        raise RecordError(f"{place}.nominal", "a source needs the value it is set to")
    if not part.kind.is_source and part.internal is not None:
        raise RecordError(f"{place}.internal", "only a source has an internal resistance")
    if part.internal is not None and part.internal_resistance < 0:
        raise RecordError(f"{place}.internal", "an internal resistance cannot be negative")
    if part.rating is not None and float(part.rating) <= 0:
        raise RecordError(f"{place}.rating", "a rating is above zero watts")


def _check_setup(place: str, setup: Setup, run: Run) -> None:
    for name in setup.connections:
        if name not in run.parts:
            raise RecordError(f"{place}.connections.{name}", "there is no part of this name")
    for name in sorted(setup.sources_off):
        if name not in setup.connections or run.parts[name].kind is Kind.RESISTOR:
            raise RecordError(f"{place}.sources_off", f"{name!r} is not a source of this setup")
    for name, value in setup.values.items():
        if name not in run.parts:
            raise RecordError(f"{place}.values.{name}", "there is no part of this name")
        if value.unit not in (None, run.parts[name].kind.unit):
            raise RecordError(f"{place}.values.{name}", f"{name} is given in {run.parts[name].kind.unit}")
