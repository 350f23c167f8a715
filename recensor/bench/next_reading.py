"""What to read now, and how every station of the work stands."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.utils import timezone

from recensor.bench.ledger import Rows, shown
from recensor.core import plan
from recensor.core.circuit import NOMINAL, Part, PartAlone, Target, TouchedLeads
from recensor.core.figures import prefixed_unit
from recensor.core.judgement import Assessment
from recensor.core.meters import USUAL_COUNTS, displayed_limits
from recensor.core.plan import Instruction, Station
from recensor.core.quantity import AMPERE, OHM, VOLT, as_ratio
from recensor.core.record import Run
from recensor.drawing.resistor import BandedResistor, resistor_of
from recensor.web.marks import Mark

UNIT_CHOICES = {OHM: ("Ω", "kΩ", "MΩ"), VOLT: ("mV", "V"), AMPERE: ("µA", "mA", "A")}


@dataclass(frozen=True)
class StationSign:
    """A station in the strip: done, now or to do."""

    name: str
    power: str
    state: str


@dataclass(frozen=True)
class PastReading:
    """One reading of a point as the page lists it."""

    index: int
    text: str
    when: str
    by: str
    struck: str = ""


@dataclass(frozen=True)
class NextReading:
    """The reading to take now."""

    point: int
    instruction: Instruction
    expected: str
    unit: str
    units: tuple[str, ...]
    entries: tuple[PastReading, ...]
    mark: Mark
    before: int | None
    after: int | None
    others: tuple[tuple[int, str], ...]
    resistor: BandedResistor | None


def next_point(points: Sequence[Target], assessment: Assessment, after: int = -1) -> int | None:
    """The first point without a reading, looking on from `after` and then from the start."""
    unread = [k for k, target in enumerate(points) if target.key not in assessment.targets]
    return next((k for k in unread if k > after), unread[0] if unread else None)


def stations(run: Run, points: Sequence[Target], assessment: Assessment, chosen: int | None) -> Iterator[StationSign]:
    """Each station's state; the verdict is open once everything is read."""
    now = plan.station(points[chosen], run.sheet) if chosen is not None else Station.VERDICT
    for station in Station:
        here = [target for target in points if plan.station(target, run.sheet) is station]
        if not here and station is not Station.VERDICT:
            continue
        done = bool(here) and all(target.key in assessment.targets for target in here)
        yield StationSign(station.value, station.power, "now" if station is now else "done" if done else "to do")


def next_reading(run: Run, points: Sequence[Target], assessment: Assessment, chosen: int) -> NextReading:
    """How to read the chosen point, and what was read there before."""
    target, rows = points[chosen], Rows(run, points, assessment)
    expected, row = rows.expected(target), rows.row(chosen)
    part = run.sheet.parts[target.part] if isinstance(target, PartAlone) else None
    entries = tuple(_past(k, run) for k, reading in enumerate(run.readings) if reading.target.key == target.key)
    by_nominal = isinstance(target, PartAlone | TouchedLeads) or run.sheet.judge.against is NOMINAL
    return NextReading(
        point=chosen,
        instruction=plan.instruction(target, run.sheet, expected),
        expected=_limits(part) or (row.nominal if by_nominal else row.measured),
        unit=prefixed_unit(expected or 0.0, target.unit),
        units=UNIT_CHOICES[target.unit],
        entries=entries,
        mark=row.mark,
        resistor=resistor_of(part),
        before=chosen - 1 if chosen > 0 else None,
        after=chosen + 1 if chosen + 1 < len(points) else None,
        others=tuple(_others(run, points, chosen)) if entries else (),
    )


def _others(run: Run, points: Sequence[Target], chosen: int) -> Iterator[tuple[int, str]]:
    """The points that a reading of the chosen one might belong to instead."""
    for k, other in enumerate(points):
        same = other.measurand is points[chosen].measurand and not isinstance(other, TouchedLeads)
        if k != chosen and same:
            yield k, plan.instruction(other, run.sheet).title


def _past(index: int, run: Run) -> PastReading:
    reading = run.readings[index]
    return PastReading(
        index=index,
        text=shown(reading),
        when=timezone.localtime(reading.time).strftime("%H:%M") if reading.time else "",
        by=reading.by or "",
        struck=reading.struck.reason if reading.struck else "",
    )


def _limits(part: Part | None) -> str:
    """What a usual meter may show of a part by itself; empty where value or tolerance is not stated."""
    if part is None or not part.kind.has_bands or part.nominal is None or part.tolerance is None:
        return ""
    nominal, allowed = float(part.nominal), float(part.nominal) * as_ratio(part.tolerance)
    return " to ".join(displayed_limits(nominal - allowed, nominal + allowed, USUAL_COUNTS))
