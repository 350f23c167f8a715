"""The sources of a run in words and over time: what is inside them, how they sag and drift."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import loaded_target
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment, Internal, internal_resistances
from recensor.core.quantity import AMPERE, OHM, VOLT
from recensor.core.record import Run
from recensor.core.uncertainty import COVERAGE_FACTOR
from recensor.drawing.time_line import Moment, TimeLine, time_line
from recensor.ledger.rows import shown


@dataclass(frozen=True)
class SourceLines:
    """What is said of sources, and each that was read several times over its time."""

    inside: tuple[str, ...]
    drift: tuple[tuple[str, TimeLine], ...]


def source_lines(run: Run, assessment: Assessment) -> SourceLines:
    """Of a judged run; nothing of what was not read."""
    return SourceLines(
        tuple(_inside(internal, run) for internal in internal_resistances(run, assessment)),
        tuple(_drift(run, assessment)),
    )


def _inside(internal: Internal, run: Run) -> str:
    where = f"{internal.setup}: " if run.sheet.several else ""
    how = "read" if internal.is_read else "calculated"
    volts = f"{rounded(internal.open_circuit, None, VOLT)} open, {rounded(internal.loaded, None, VOLT)} under "
    volts += f"{rounded(abs(internal.current), None, AMPERE)} ({how})"
    if internal.sags:
        ohms, own = (rounded(value, internal.expanded, OHM) for value in (internal.ohms, internal.expanded))
        return f"{where}{internal.source}: {volts}: {ohms} ± {own} inside."
    most = rounded(max(internal.ohms, 0.0) + internal.expanded, internal.expanded, OHM)
    return f"{where}{internal.source}: {volts}: no sag that this meter can tell, so no more than {most} inside."


def _drift(run: Run, assessment: Assessment) -> Iterator[tuple[str, TimeLine]]:
    for name, part in run.sheet.parts.items():
        moments = list(_moments(name, run, assessment)) if part.kind.is_source else []
        if len(moments) > 1:
            begun = moments[0].seconds
            placed = [Moment(m.seconds - begun, m.value, m.expanded, m.words, m.is_alone) for m in moments]
            setting = float(part.nominal) if part.nominal else None
            yield name, time_line(placed, part.kind.unit, setting, name)


def _moments(name: str, run: Run, assessment: Assessment) -> Iterator[Moment]:
    """Every reading of a source that stands, before connecting or under load, with its time."""
    measurements = assessment.against.measurements
    alone = run.sheet.parts[name].kind.measured_as
    setups = [setup for setup in run.sheet.setups.values() if name in setup.driving(run.sheet.parts)]
    loaded = {loaded_target(setup, run.sheet, name, at).key for setup in setups for at in (None, name)}
    turned = {loaded_target(setup, run.sheet, name): None for setup in setups}
    for k, reading in enumerate(run.readings):
        target = reading.target
        is_alone = target.is_part_alone and target.part == name and target.measurand is alone
        if reading.struck or reading.counted is False or reading.time is None or not reading.value.value:
            continue
        if not is_alone and target.key not in loaded:
            continue
        sign = 1.0 if is_alone or target in turned or not any(target.reversed_against(t) for t in turned) else -1.0
        taken = measurements.taken(k)
        if taken is not None:
            expanded = COVERAGE_FACTOR * taken.spread.standard
            words = f"{shown(reading)} {'before connecting' if is_alone else 'under load'}"
            yield Moment(reading.time.timestamp(), sign * taken.value, expanded, words, is_alone)
