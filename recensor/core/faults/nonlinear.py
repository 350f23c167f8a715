"""What would explain a circuit with lamps or diodes: few causes, each tried by solving the circuit with it.

The search of the straight circuits rests on slopes and batches of one factorisation; here the operating point moves
with every cause. So only what befalls such circuits is tried: a part open (a lamp burnt out), a part shorted, a part or
a source the wrong way round. Readings that do not fit are excused at the same price as elsewhere; what was seen of
lights counts too.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from recensor.core.circuit import MEASURED, RESISTOR, Setup, Sheet, Target
from recensor.core.faults.fault_kinds import NOTHING_WRONG, OF_A_KIND, FaultKind
from recensor.core.judgement import Assessment, Measurement, values_of
from recensor.core.quantity import RESISTANCE
from recensor.core.record import Light
from recensor.core.sentences import say
from recensor.core.solving import Element, NetworkError, Solution, UnknownNodeError, elements_of, solve

# How far the law of a lamp or a diode may be off, as a share of what is predicted, and of what drives the circuit.
_LAW, _FLOOR = 0.05, 0.005

# What a reading costs at most that does not fit, and how sure it is what was seen, as logarithms.
_EXCUSED, _SEEN = math.log(0.02), math.log(0.03)

# A reading farther off than this, in standard deviations, does not fit.
_MISFIT = 3.0

# Two causes whose predictions lie no farther apart than this, in standard deviations, are not told apart; less than
# this share is not worth a word.
_APART, _LEAST_SHARE = 0.3, 0.01

# A diode is put in the wrong way round more often than anything befalls one (common practice, no source).
_OFTEN_TURNED = 4.0

_OPEN, _SHORTED = 1e14, 1e-3

# Of its stated current, or of its rated power, a light that takes less than this is dark.
_DARK_BELOW = 0.02


@dataclass(frozen=True)
class NonlinearCause:
    """One cause with its share of all weight: what it explains of what does not fit, and what it leaves."""

    kind: FaultKind
    target: str
    words: str
    explains: tuple[int, ...]
    leaves: tuple[int, ...]
    score: float
    same: tuple[tuple[FaultKind, str], ...] = ()


@dataclass(frozen=True)
class _Trial:
    """A cause as it is tried: its elements instead of those that are drawn."""

    kind: FaultKind | None
    part: str
    words: str
    elements: tuple[Element, ...]
    chance: float = 1.0


# The logarithm of what a cause weighs, the cause, and how far each reading is off with it.
_ScoredTrial = tuple[float, _Trial, list[float]]


def nonlinear_causes(assessment: Assessment) -> tuple[list[NonlinearCause], float]:
    """The causes in every setup with a lamp or a diode, the likeliest first, and the share of nothing wrong."""
    sheet = assessment.against.run.sheet
    causes: list[NonlinearCause] = []
    nothing = 1.0
    for setup in sheet.setups.values():
        if any(sheet.parts[name].kind.is_nonlinear for name in setup.connections):
            here, fine = _in_setup(setup, sheet, assessment)
            causes += here
            nothing = min(nothing, fine)
    return sorted(causes, key=lambda cause: -cause.score), nothing


def _in_setup(setup: Setup, sheet: Sheet, assessment: Assessment) -> tuple[list[NonlinearCause], float]:
    read = [
        target_assessment.measurement
        for key, target_assessment in assessment.targets.items()
        if key.in_circuit and (key.setup, key.step) == (setup.name, None)
        and key.measurand is not RESISTANCE and target_assessment.measurement.mean is not None
    ]  # fmt: skip
    values = values_of(sheet, setup, assessment.against.measurements, MEASURED)
    seen = {one.part: one.light for one in assessment.against.run.seen if one.setup == setup.name}
    if values.missing or not (read or seen):
        return [], 1.0
    elements = tuple(elements_of(setup, sheet.parts, values.known))
    tried = [_Trial(None, "", "", elements), *_causes(elements, sheet)]
    weighed: list[_ScoredTrial] = []
    for trial in tried:
        off = _misfits(trial, setup, [(m.target, m.mean or 0.0, m.spread.standard) for m in read])
        if off is None:
            continue
        log = sum(max(-0.5 * z * z, _EXCUSED) for z in off[0]) + _seen(off[1], seen, sheet)
        prior = (
            NOTHING_WRONG if trial.kind is None else OF_A_KIND / sum(o.kind is trial.kind for o in tried) * trial.chance
        )
        weighed.append((log + math.log(prior), trial, off[0]))
    if not weighed or weighed[0][1].kind is not None:
        return [], 1.0
    top = max(log for log, _, _ in weighed)
    total = math.fsum(math.exp(log - top) for log, _, _ in weighed)
    likelier = [entry for entry in weighed[1:] if entry[0] >= weighed[0][0] + math.log(10.0)]
    causes = []
    for alike in _alike(sorted(likelier, key=lambda entry: -entry[0])):
        share = math.fsum(math.exp(log - top) for log, _, _ in alike) / total
        if share >= _LEAST_SHARE:
            causes.append(_told([one for _, one, _ in alike], alike[0][2], weighed[0][2], read, share))
    return causes, math.exp(weighed[0][0] - top) / total


def _alike(weighed: Sequence[_ScoredTrial]) -> list[list[_ScoredTrial]]:
    """The causes by what they predict: those that no reading so far tells apart are one entry."""
    found: list[list[_ScoredTrial]] = []
    for entry in weighed:
        near = (e for e in found if all(abs(a - b) < _APART for a, b in zip(e[0][2], entry[2], strict=True)))
        like = next(near, None)
        if like is None:
            found.append([entry])
        else:
            like.append(entry)
    return found


def _told(
    alike: Sequence[_Trial],
    misfits: Sequence[float],
    before: Sequence[float],
    read: Sequence[Measurement],
    share: float,
) -> NonlinearCause:
    """A cause with what it explains of what does not fit by itself; the others that come to the same behind it."""
    first, *others = alike
    misfitting = [k for k, z in enumerate(before) if abs(z) > _MISFIT]
    left = {k for k in misfitting if abs(misfits[k]) > _MISFIT}
    explains, leaves = (
        tuple(sorted(i for k in misfitting if (k in left) is is_left for i in read[k].indexes))
        for is_left in (False, True)
    )
    same = tuple((trial.kind, f"parts.{trial.part}") for trial in others if trial.kind)
    return NonlinearCause(
        first.kind or FaultKind.PART_OPEN, f"parts.{first.part}", first.words, explains, leaves, share, same
    )


def _causes(elements: Sequence[Element], sheet: Sheet) -> Iterator[_Trial]:
    """What may have befallen each part of the circuit."""
    for element in elements:
        kind, name = element.kind, element.name
        if kind.is_wire:
            continue
        if kind.polarised:
            turned = element._replace(first=element.second, second=element.first)
            words, chance = say("faults.wrong_way_round", name=name), 1.0 if kind.is_source else _OFTEN_TURNED
            yield _Trial(FaultKind.PART_REVERSED, name, words, _with(elements, turned), chance)
        if kind.is_source:
            continue
        burnt = (
            say("faults.burnt_out_nothing_flows", name=name)
            if kind.has_cold
            else say("faults.open_nothing_flows", name=name)
        )
        yield _Trial(FaultKind.PART_OPEN, name, burnt, _with(elements, _resisting(element, _OPEN)))
        shorted = say("faults.shorted_nothing_lies_across", name=name)
        yield _Trial(FaultKind.PART_SHORTED, name, shorted, _with(elements, _resisting(element, _SHORTED)))


def _resisting(element: Element, ohms: float) -> Element:
    return element._replace(kind=RESISTOR, value=ohms, rated=None)


def _with(elements: Sequence[Element], other: Element) -> tuple[Element, ...]:
    return tuple(other if element.name == other.name else element for element in elements)


def _misfits(
    tried: _Trial, setup: Setup, read: Sequence[tuple[Target, float, float]]
) -> tuple[list[float], dict[str, float]] | None:
    """How far each reading is off with a cause, in standard deviations, and what each part then takes in watts."""
    try:
        solution = solve(tried.elements, setup.reference)
        off = [_off(target, value, own, solution, tried) for target, value, own in read]
        return off, {e.name: abs(float(solution.power(e.name))) for e in tried.elements}
    except NetworkError:
        return None


def _off(target: Target, value: float, own: float, solution: Solution, tried: _Trial) -> float:
    if target.is_across:
        predicted, scale = float(solution.voltage(*target.nodes)), solution.driving_voltage
    elif target.is_through:
        predicted = float(solution.current(target.part))
        drawn_turned = tried.kind is FaultKind.PART_REVERSED and target.part == tried.part
        predicted = -predicted if drawn_turned else predicted
        driven = (abs(float(solution.current(e.name))) for e in tried.elements if e.kind.is_source)
        scale = max(driven, default=0.0) or abs(value)
    else:
        raise UnknownNodeError(say("faults.no_reading_circuit", target=target.words))
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
