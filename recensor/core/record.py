"""The run: one performance of a sheet, with what was read and claimed in it. The one input of every judgement."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from recensor.core.boards import Built
from recensor.core.circuit import RecordError, Sheet, Target, sheet
from recensor.core.meters import EXACT, Profile
from recensor.core.quantity import Measurand, Quantity
from recensor.core.sentences import say

__all__ = [
    "Claim",
    "ClaimOperation",
    "DisagreementAnswer",
    "DisagreementReason",
    "Happening",
    "Light",
    "Reading",
    "RecordError",
    "Run",
    "Seen",
    "Signature",
    "SignedAs",
    "Strike",
    "check",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Strike:
    """Why, by whom and when a reading was struck through. It is kept and not judged."""

    reason: str
    by: str | None = None
    time: datetime | None = None


class DisagreementReason(StrEnum):
    """Why a measurement reads otherwise than before, though nothing was changed on purpose."""

    CONTACT = "contact"
    SLIP = "slip"
    KNOB = "knob"
    REWIRED = "rewired"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True)
class DisagreementAnswer:
    """What somebody said of a reading that contradicts an earlier one, which is at the place `earlier` in the run."""

    earlier: int
    reason: DisagreementReason


@dataclass(frozen=True, slots=True)
class Reading:
    """One reading as it was typed, with what a reading must carry for good.

    `counted`: False makes it a look, kept and not counted; None leaves it to what stands beside it. `later`: read
    again after others were read. `instead_of`: the index of the struck reading that it replaces. `confirmed`: typed so
    on purpose. `contradicts`: why it reads otherwise than before, once said. `photos` are SHA-256 sums. `round`: which
    time of reading everything it belongs to, from 1; None where everything is read once.
    """

    target: Target
    value: Quantity
    range: Quantity | None = None
    meter: str | None = None
    note: str | None = None
    time: datetime | None = None
    by: str | None = None
    struck: Strike | None = None
    counted: bool | None = None
    later: bool = False
    instead_of: int | None = None
    confirmed: bool = False
    photos: tuple[str, ...] = ()
    contradicts: DisagreementAnswer | None = None
    round: int | None = None


class ClaimOperation(StrEnum):
    """How a claim is said to follow from the readings it names."""

    SUM = "sum"
    DIFFERENCE = "difference"
    PARALLEL = "parallel"
    RATIO = "ratio"
    PRODUCT = "product"
    QUOTIENT = "quotient"
    MEAN = "mean"


@dataclass(frozen=True)
class Claim:
    """Something worked out by hand; with `sources` (indexes of readings) and `combined` also how.

    `formula` is kept as it was typed.
    """

    target: Target
    value: Quantity
    sources: tuple[int, ...] = ()
    combined: ClaimOperation | None = None
    formula: str | None = None


class Light(StrEnum):
    """How bright a lamp or a light diode was seen."""

    DARK = "dark"
    DIM = "dim"
    BRIGHT = "bright"


@dataclass(frozen=True)
class Seen:
    """What was seen of a lamp or a light diode in a setup, before any meter."""

    setup: str
    part: str
    light: Light


class SignedAs(StrEnum):
    """What somebody signs a run as."""

    PERFORMER = "performer"
    REVIEWER = "reviewer"


@dataclass(frozen=True)
class Signature:
    """Somebody's name under a run; `checksum` is that of the run's document as it was signed, 64 hexadecimal digits."""

    by: str
    signed_as: SignedAs
    checksum: str
    time: datetime | None = None


@dataclass(frozen=True)
class Happening:
    """One thing that was done in a run, in words, for whoever reads it later; nothing is judged by it."""

    text: str
    by: str | None = None
    time: datetime | None = None


@dataclass(frozen=True)
class Run:
    """One performance of a sheet. `boards` are what stands on the board of a setup, by its name.

    `meters` are profiles by the name that readings give their meter, as a run document holds them. A run that is
    `simulated` was read off a screen, whose meter is exact where nothing else is said.
    `by_size`: plain drops are judged by their size. `seen` is what was seen of what lights, the last of a part counts.
    `notes` and `conclusion` are text with light markup; they, the signatures and the history are judged by nothing.
    """

    sheet: Sheet
    readings: tuple[Reading, ...] = ()
    claims: tuple[Claim, ...] = ()
    meters: Mapping[str, Profile] = field(default_factory=dict)
    boards: Mapping[str, Built] = field(default_factory=dict)
    simulated: bool = False
    by_size: bool = False
    seen: tuple[Seen, ...] = ()
    notes: str = ""
    conclusion: str = ""
    signed: tuple[Signature, ...] = ()
    history: tuple[Happening, ...] = ()

    def profile_of(self, reading: Reading) -> Profile | None:
        """The profile of a reading's meter: of the run's only meter where none is named. None where it is unknown."""
        if self.simulated and not self.meters:
            return EXACT
        if reading.meter is None:
            return next(iter(self.meters.values())) if len(self.meters) == 1 else None
        return self.meters.get(reading.meter)

    def meter_for(self, measurand: Measurand) -> Profile | None:
        """The profile of the meter that the next reading of a quantity is taken with: the first that reads it."""
        if self.simulated and not self.meters:
            return EXACT
        return next((profile for profile in self.meters.values() if profile.reads(measurand)), None)


def check(run: Run) -> None:
    """Raise `RecordError` at the first place that names something the run does not have."""
    sheet.check(run.sheet)
    known: set[Target] = set()
    for k, reading in enumerate(run.readings):
        if reading.target not in known:
            sheet.check_target(f"readings[{k}]", reading.target, run.sheet)
            known.add(reading.target)
        if reading.instead_of is not None:
            _check_replaced(k, reading.instead_of, run)
        if reading.contradicts is not None:
            _check_contradicted(k, reading.contradicts.earlier, run)
    for k, claim in enumerate(run.claims):
        sheet.check_target(f"claims[{k}]", claim.target, run.sheet)
        for source in claim.sources:
            if not 0 <= source < len(run.readings):
                raise RecordError(f"claims[{k}].from", say("record.no_readings", source=source))
    for k, seen in enumerate(run.seen):
        _check_seen(f"seen[{k}]", seen, run.sheet)
    for name in run.boards:
        if name not in run.sheet.setups:
            raise RecordError(f"placements.{name}", say("record.no_setup_name"))


def _check_contradicted(index: int, earlier: int, run: Run) -> None:
    place = f"readings[{index}].contradicts"
    if not 0 <= earlier < index:
        raise RecordError(place, say("record.no_earlier_reading", earlier=earlier))
    if run.readings[earlier].target.key != run.readings[index].target.key:
        raise RecordError(place, say("record.of_another_measurement", earlier=earlier))


def _check_seen(place: str, seen: Seen, sheet: Sheet) -> None:
    if seen.setup not in sheet.setups:
        raise RecordError(f"{place}.setup", say("record.there_is_no_setup", setup=seen.setup))
    if seen.part not in sheet.setups[seen.setup].connections:
        raise RecordError(f"{place}.part", say("record.setup_has_no_part", setup=seen.setup, part=seen.part))
    if not sheet.parts[seen.part].kind.lights:
        raise RecordError(
            f"{place}.part", say("record.does_not_light", part=seen.part, word=sheet.parts[seen.part].kind.word)
        )


def _check_replaced(k: int, replaced: int, run: Run) -> None:
    place = f"readings[{k}].instead_of"
    if not 0 <= replaced < len(run.readings) or replaced == k:
        raise RecordError(place, say("record.no_other_readings", replaced=replaced))
    if run.readings[replaced].struck is None:
        raise RecordError(place, say("record.readings_not_struck", replaced=replaced))
