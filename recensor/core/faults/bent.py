"""What would explain a circuit with lamps or diodes: few causes, each tried by solving the circuit with it.

The search of the straight circuits rests on slopes and batches of one factorisation; here the operating point moves
with every cause. So only what befalls such circuits is tried: a part open (a lamp burnt out), a part shorted, a part or
a source the wrong way round. Readings that do not fit are excused at the same price as elsewhere; what was seen of
lights counts too.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from recensor.core.circuit import MEASURED, RESISTOR, Across, Setup, Sheet, Target, Through
from recensor.core.faults.kinds import NOTHING_WRONG, OF_A_KIND, FaultKind
from recensor.core.judgement import Assessment, values_of
from recensor.core.quantity import RESISTANCE
from recensor.core.record import Light
from recensor.core.solving import Element, NetworkError, Solution, UnknownNodeError, elements_of, solve

# How far the law of a lamp or a diode may be off, as a share of what is predicted, and of what drives the circuit.
_LAW, _FLOOR = 0.05, 0.005

# What a reading costs at most that does not fit, and how sure it is what was seen, as logarithms.
_EXCUSED, _SEEN = math.log(0.02), math.log(0.03)

# A reading farther off than this, in standard deviations, does not fit.
_MISFIT = 3.0

_OPEN, _SHORTED = 1e14, 1e-3

# Of its stated current, or of its rated power, a light that takes less than this is dark.
_DARK_BELOW = 0.02


@dataclass(frozen=True)
class Befallen:
    """One cause with its share of all weight: what it explains of what does not fit, and what it leaves."""

    kind: FaultKind
    target: str
    words: str
    explains: tuple[int, ...]
    leaves: tuple[int, ...]
    score: float
    same: tuple[tuple[FaultKind, str], ...] = ()


@dataclass(frozen=True)
class _Tried:
    """A cause as it is tried: its elements instead of those that are drawn."""

    kind: FaultKind | None
    part: str
    words: str
    elements: tuple[Element, ...]


def befallen(assessment: Assessment) -> tuple[list[Befallen], float]:
    """The causes in every setup with a lamp or a diode, the likeliest first, and the share of nothing wrong."""
    sheet = assessment.against.run.sheet
    found: list[Befallen] = []
    nothing = 1.0
    for setup in sheet.setups.values():
        if any(sheet.parts[name].kind.bends for name in setup.connections):
            here, fine = _in_setup(setup, sheet, assessment)
            found += here
            nothing = min(nothing, fine)
    return sorted(found, key=lambda one: -one.score), nothing


def _in_setup(setup: Setup, sheet: Sheet, assessment: Assessment) -> tuple[list[Befallen], float]:
    read = [
        found.measurement
        for key, found in assessment.targets.items()
        if isinstance(key, Across | Through) and (key.setup, key.step) == (setup.name, None)
        and key.measurand is not RESISTANCE and found.measurement.mean is not None
    ]  # fmt: skip
    values = values_of(sheet, setup, assessment.against.measurements, MEASURED)
    seen = {one.part: one.light for one in assessment.against.run.seen if one.setup == setup.name}
    if values.missing or not (read or seen):
        return [], 1.0
    elements = tuple(elements_of(setup, sheet.parts, values.known))
    tried = [_Tried(None, "", "", elements), *_causes(elements, sheet)]
    weighed: list[tuple[float, _Tried, list[float]]] = []
    for one in tried:
        off = _misfits(one, setup, [(m.target, m.mean or 0.0, m.spread.standard) for m in read])
        if off is None:
            continue
        log = sum(max(-0.5 * z * z, _EXCUSED) for z in off[0]) + _seen(off[1], seen, sheet)
        prior = NOTHING_WRONG if one.kind is None else OF_A_KIND / max(1, sum(o.kind is one.kind for o in tried))
        weighed.append((log + math.log(prior), one, off[0]))
    if not weighed or weighed[0][1].kind is not None:
        return [], 1.0
    top = max(log for log, _, _ in weighed)
    total = math.fsum(math.exp(log - top) for log, _, _ in weighed)
    misfitting = [k for k, z in enumerate(weighed[0][2]) if abs(z) > _MISFIT]
    told = []
    for log, one, misfits in sorted(weighed, key=lambda entry: -entry[0]):
        share = math.exp(log - top) / total
        if one.kind is None or log < weighed[0][0] + math.log(10.0) or share < 0.01:
            continue
        left = [k for k in misfitting if abs(misfits[k]) > _MISFIT]
        explained = [k for k in misfitting if k not in left]
        told.append(
            Befallen(
                one.kind,
                f"parts.{one.part}",
                one.words,
                tuple(sorted(i for k in explained for i in read[k].indexes)),
                tuple(sorted(i for k in left for i in read[k].indexes)),
                share,
            )
        )
    fine = math.exp(weighed[0][0] - top) / total
    return _together(told), fine


def _together(told: Sequence[Befallen]) -> list[Befallen]:
    """The causes, those that come to the same by what was read as one entry."""
    found: list[Befallen] = []
    for one in told:
        alike = (k for k, o in enumerate(found) if abs(o.score - one.score) < 1e-3 and o.leaves == one.leaves)
        like = next(alike, None)
        if like is None:
            found.append(one)
        else:
            leader = found[like]
            same = (*leader.same, (one.kind, one.target))
            found[like] = replace(leader, same=same)
    return [replace(one, score=one.score * (1 + len(one.same))) for one in found]


def _causes(elements: Sequence[Element], sheet: Sheet) -> Iterator[_Tried]:
    """What may have befallen each part of the circuit."""
    for element in elements:
        kind, name = element.kind, element.name
        if kind.is_wire:
            continue
        if kind.polarised:
            turned = element._replace(first=element.second, second=element.first)
            yield _Tried(FaultKind.PART_REVERSED, name, f"{name} is the wrong way round.", _with(elements, turned))
        if kind.drives:
            continue
        burnt = (
            f"{name} is burnt out: nothing flows through it." if kind.has_cold else f"{name} is open: nothing flows."
        )
        yield _Tried(FaultKind.PART_OPEN, name, burnt, _with(elements, _resisting(element, _OPEN)))
        shorted = f"{name} is shorted: nothing lies across it."
        yield _Tried(FaultKind.PART_SHORTED, name, shorted, _with(elements, _resisting(element, _SHORTED)))


def _resisting(element: Element, ohms: float) -> Element:
    return element._replace(kind=RESISTOR, value=ohms, rated=None)


def _with(elements: Sequence[Element], other: Element) -> tuple[Element, ...]:
    return tuple(other if element.name == other.name else element for element in elements)


def _misfits(
    tried: _Tried, setup: Setup, read: Sequence[tuple[Target, float, float]]
) -> tuple[list[float], dict[str, float]] | None:
    """How far each reading is off with a cause, in standard deviations, and what each part then takes in watts."""
    try:
        solution = solve(tried.elements, setup.reference)
        off = [_off(target, value, own, solution, tried) for target, value, own in read]
        return off, {e.name: abs(float(solution.power(e.name))) for e in tried.elements}
    except NetworkError:
        return None


def _off(target: Target, value: float, own: float, solution: Solution, tried: _Tried) -> float:
    if isinstance(target, Across):
        predicted, scale = float(solution.voltage(*target.nodes)), solution.driving_voltage
    elif isinstance(target, Through):
        predicted = float(solution.current(target.part))
        drawn_turned = tried.kind is FaultKind.PART_REVERSED and target.part == tried.part
        predicted = -predicted if drawn_turned else predicted
        scale = max(abs(float(solution.current(e.name))) for e in tried.elements if e.kind.drives) or abs(value)
    else:
        raise UnknownNodeError(f"{target.words} is no reading of a circuit")
    apart = math.hypot(own, _LAW * abs(predicted), _FLOOR * scale)
    return (value - predicted) / apart if apart else 0.0


def _seen(watts: Mapping[str, float], seen: Mapping[str, Light], sheet: Sheet) -> float:
    """How likely it is, as a logarithm, that lights were seen so."""
    total = 0.0
    for name, light in seen.items():
        part = sheet.parts[name]
        if part.nominal is None or part.current is None or name not in watts:
            continue
        share = watts[name] / (float(part.nominal) * float(part.current))
        total += _SEEN if (light is Light.DARK) != (share < _DARK_BELOW) else 0.0
    return total
