"""The current in a row of a table whose source is turned to anything: what its own volts drive.

Volts over the resistance that they lie across: of the part whose table it is, else of all that lies between the table's
two nodes, where its current is the one that enters there.
"""

from collections.abc import Callable, Iterator, Mapping

from recensor.core.circuit import MEASURED, NOMINAL, Across, Basis, PartAlone, Sheet, Sweep, Target, entering
from recensor.core.judgement.calculated_values import UNKNOWN, Calculated, Calculations, stated_calculated
from recensor.core.judgement.measurements import Measurements
from recensor.core.meters import disturbs_by
from recensor.core.quantity import CURRENT, RESISTANCE


def resistance_of_table(
    sheet: Sheet, sweep: Sweep, measurements: Measurements, total: Callable[[Target], Calculations]
) -> tuple[Calculated, Calculated]:
    """Across which resistance a table's volts lie, from nominal and from measured values; unknown where none does.

    `total` calculates what an ohmmeter should show across two nodes.
    """
    setup = sheet.setups[sweep.setup]
    part = sweep.part(setup, sheet.parts)
    if part is not None:
        alone = PartAlone(part, RESISTANCE)
        if not sheet.parts[part].kind.ohmic:
            return UNKNOWN, UNKNOWN
        read = measurements.of_part(alone)
        return stated_calculated(sheet, alone), Calculated(read.mean, read.spread) if read else UNKNOWN
    found = entering(setup, sheet.parts, sweep.volts.nodes)
    if found is None or found.part != sweep.amps.part or sheet.bends(setup):
        return UNKNOWN, UNKNOWN
    across = Across(RESISTANCE, sweep.volts.nodes, sweep.setup)
    return total(across).both(across)


def ammeter_ohms(measurements: Measurements, amps: Target, amperes: float) -> float | None:
    """What the ammeter of a row puts into a current of so many amperes, in ohms; None where nobody described it.

    In the range in which it was read, else in the one to take.
    """
    read, run = measurements.read(amps), measurements.run
    reading = run.readings[read.indexes[-1]] if read else None
    profile = run.profile_of(reading) if reading else run.meter_for(CURRENT)
    if profile is None or not profile.reads(CURRENT):
        return None
    named = float(reading.range) if reading and reading.range else None
    return 0.0 if profile.is_exact else disturbs_by(profile, CURRENT, abs(amperes), named)


def amps_of_free_rows(
    sheet: Sheet, measurements: Measurements, rows: Mapping[Target, Sweep], total: Callable[[Target], Calculations]
) -> Iterator[tuple[Target, Basis, Calculated]]:
    """What the currents among the targets of free tables should be; nothing of rows whose volts were not read.

    Of a source's own table nothing: its load may be any.
    """
    known: dict[str, tuple[Calculated, Calculated]] = {}
    for target, sweep in rows.items():
        if target.step is None or target.key != sweep.amps_at(target.step).key:
            continue
        volts = measurements.read(sweep.volts_at(target.step))
        if volts is None or volts.mean is None or sheet.parts[sweep.amps.part].kind.is_source:
            continue
        if sweep.name not in known:
            known[sweep.name] = resistance_of_table(sheet, sweep, measurements, total)
        sign = -1.0 if volts.target.reversed_against(sweep.volts_at(target.step)) else 1.0
        for basis, ohms in zip((NOMINAL, MEASURED), known[sweep.name], strict=True):
            if not ohms.value:
                continue
            inside = 0.0
            if sweep.around_ammeter:
                inside = ammeter_ohms(measurements, target, volts.mean / ohms.value) or 0.0
            whole = ohms.value + inside
            amps = sign * volts.mean / whole
            spread = None
            if ohms.spread is not None:
                spread = volts.spread.times(sign / whole) - ohms.spread.times(amps / whole)
            yield target, basis, Calculated(amps, spread)
