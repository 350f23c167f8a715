"""Short ways to write runs for tests."""

from recensor.core.circuit import (
    Across,
    Judge,
    Part,
    PartAlone,
    Setup,
    Sheet,
    Target,
    Through,
    TouchedLeads,
    kind_of_name,
)
from recensor.core.meters import EXACT, Profile
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse, parse_percent
from recensor.core.record import Reading, Run


def part(name: str, nominal: str | None, tolerance: str | None = None) -> Part:
    """A part whose kind its name's first letter says."""
    kind = kind_of_name(name)
    value = parse(nominal, kind.unit) if nominal else None
    return Part(name, kind, value, parse_percent(tolerance) if tolerance else None)


def reading(target: Target, text: str, range_text: str | None = None) -> Reading:
    """A reading in the target's unit."""
    return Reading(target, parse(text, target.unit), range=parse(range_text, target.unit) if range_text else None)


def of(name: str, *texts: str, setup: str | None = None) -> list[Reading]:
    """Readings of a part by itself, or of the touched ``leads``."""
    target = TouchedLeads() if name == "leads" else PartAlone(name, kind_of_name(name).measured_as, setup)
    return [reading(target, text) for text in texts]


def volts(red: str, black: str, *texts: str, setup: str = "main") -> list[Reading]:
    """Voltage readings."""
    return [reading(Across(VOLTAGE, (red, black), setup), text) for text in texts]


def ohms(red: str, black: str, *texts: str, setup: str = "main", range_text: str | None = None) -> list[Reading]:
    """Resistance readings in the circuit."""
    return [reading(Across(RESISTANCE, (red, black), setup), text, range_text) for text in texts]


def amps(name: str, *texts: str, setup: str = "main") -> list[Reading]:
    """Current readings."""
    return [reading(Through(name, setup), text) for text in texts]


def run(
    parts: list[Part],
    connections: dict[str, tuple[str, str]],
    *readings: list[Reading],
    judge: Judge | None = None,
    reference: str = "gnd",
    meter: Profile | None = EXACT,
    **setups: Setup,
) -> Run:
    """A run with the setup ``main`` and perhaps more, read with an exact meter; None is one that nobody described."""
    main = Setup("main", reference, connections)
    sheet = Sheet("test", {p.name: p for p in parts}, {"main": main, **setups}, judge=judge or Judge())
    meters = {meter.name: meter} if meter else {}
    return Run(sheet, tuple(one for group in readings for one in group), meters=meters)


def chain(
    *nominals: str, source: str = "12", tolerance: str | None = "5%"
) -> tuple[list[Part], dict[str, tuple[str, str]]]:
    """V1 and a series chain R1, R2, ... over nodes A, B, ..., gnd."""
    names = [f"R{k}" for k in range(1, len(nominals) + 1)]
    nodes = [chr(65 + k) for k in range(len(nominals))] + ["gnd"]
    parts = [part("V1", source), *(part(n, v, tolerance) for n, v in zip(names, nominals, strict=True))]
    connections = {"V1": ("A", "gnd"), **{n: (nodes[k], nodes[k + 1]) for k, n in enumerate(names)}}
    return parts, connections
