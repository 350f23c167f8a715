"""Values worked out by hand: checked like a reading, and against the readings they are said to come from."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from recensor.core.circuit import MEASURED, NOMINAL, Basis, PartAlone, Setup, Target, Through
from recensor.core.figures import engineering, how_far, rounded
from recensor.core.judgement.calculated_values import Calculations
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.verdicts import EDGE, Judged, Read, Verdict, judged
from recensor.core.quantity import CURRENT, QUANTITY_NAMES, RESISTANCE, VOLTAGE, Measurand, as_ratio
from recensor.core.record import Claim, ClaimOperation, Reading, Run
from recensor.core.sentences import say
from recensor.core.standing import Standing
from recensor.core.uncertainty import Spread, resolution_uncertainty

# What a product or quotient of two measurands is, by Ohm's law.
_QUOTIENTS = {
    (VOLTAGE, CURRENT): RESISTANCE,
    (VOLTAGE, RESISTANCE): CURRENT,
}
_PRODUCTS = {
    (CURRENT, RESISTANCE): VOLTAGE,
    (RESISTANCE, CURRENT): VOLTAGE,
}


@dataclass(frozen=True)
class ClaimAssessment:
    """A claim judged against the calculated values; `follows` is None when its own terms cannot tell."""

    index: int
    claim: Claim
    judged: Judged
    own_terms: float | None
    follows: bool | None
    reason: str


@dataclass(frozen=True)
class _Writing:
    """The variable of how a claim was written down: rounded to its last digit."""

    claim: int


def assess_claims(run: Run, calculations: Calculations, measurements: Measurements) -> list[ClaimAssessment]:
    """Judge every claim, in order."""
    return [_assess(index, claim, run, calculations, measurements) for index, claim in enumerate(run.claims)]


def _assess(
    index: int, claim: Claim, run: Run, calculations: Calculations, measurements: Measurements
) -> ClaimAssessment:
    value = None if claim.value.over_range else float(claim.value)
    digit = float(claim.value.resolution or 0)
    read = Read(value, Spread({_Writing(index): resolution_uncertainty(digit)}), claim.target.measurand)
    compared = judged(read, *calculations.both(claim.target), run.sheet.judge)
    if not claim.sources:  # what follows from readings is as far off as they are
        compared = _held_to_its_digit(compared, digit, claim.target.unit, run.sheet.judge.against)
    if claim.combined is None or not claim.sources or value is None:
        return ClaimAssessment(index, claim, compared, None, None, "")
    if problem := _not_countable(claim, measurements):
        return ClaimAssessment(index, claim, compared, None, None, problem)
    if mismatch := _other_unit(claim, run):
        return ClaimAssessment(index, claim, compared, None, False, mismatch)
    own, problem = _own_terms(claim, run)
    if own is None:
        return ClaimAssessment(index, claim, compared, None, None, problem)
    text = say("judgement.own_terms", combined=claim.combined, own=rounded(own, digit, claim.target.unit))
    if abs(value - own) > digit * (1 + EDGE):
        return ClaimAssessment(index, claim, compared, own, False, say("judgement.claim_does_not_follow", text=text))
    if digit > as_ratio(run.sheet.judge.limit) * abs(own) and value != own:
        unsure = say("judgement.claim_written_too_coarsely", text=text)
        return ClaimAssessment(index, claim, compared, own, None, unsure)
    return ClaimAssessment(index, claim, compared, own, True, say("judgement.claim_follows", text=text))


def _held_to_its_digit(compared: Judged, digit: float, unit: str, against: Basis) -> Judged:
    """What was worked out is no reading: it is right to half of its last digit, by nominal or by measured values.

    A last digit that was cut off rather than rounded, or is one off, passes, and that is said.
    """
    by_basis = {NOMINAL: compared.nominal, MEASURED: compared.measured}
    known = [(basis, by_basis[basis].value) for basis in (against, against.other)]
    sizes = [(basis, value) for basis, value in known if value is not None]
    if compared.value is None or not sizes or not digit:
        return compared
    off = [(abs(compared.value - value), basis, value) for basis, value in sizes]
    least, basis, value = min(off, key=lambda one: one[0])
    should = engineering(value, digit, unit)
    beyond = "judgement.claim_cut_off" if abs(compared.value) < abs(value) else "judgement.claim_last_digit"
    for limit, kind in ((0.5, "judgement.claim_as_calculated"), (1.0, beyond)):
        if least <= limit * digit * (1.0 + EDGE):
            return replace(compared, verdict=Verdict.AGREES, outcome=Verdict.AGREES.outcome,
                           reason=say(kind, basis=basis.value, should=should))  # fmt: skip
    far = how_far((compared.value - value) / abs(value) * 100.0) if value else ""
    return replace(compared, verdict=Verdict.OUTSIDE, outcome=Verdict.OUTSIDE.outcome,
                   reason=say("judgement.claim_off", far=far, basis=basis.value, should=should))  # fmt: skip


def _not_countable(claim: Claim, measurements: Measurements) -> str:
    """Why a claim's own readings cannot be counted with, if so."""
    for k in claim.sources:
        if measurements.standings[k] in (Standing.STRUCK, Standing.REPLACED):
            return say("judgement.readings_struck", k=k)
        if measurements.run.readings[k].value.over_range:
            return say("judgement.readings_over_range_no", k=k)
    return ""


def _other_unit(claim: Claim, run: Run) -> str:
    """Why the claim's unit does not follow from those of its terms; empty where it does."""
    measurands = [run.readings[k].target.measurand for k in claim.sources]
    wanted = claim.target.measurand
    named = " and ".join(dict.fromkeys(measurand.value for measurand in measurands))
    if claim.combined in _OF_ONE_KIND:
        if len(set(measurands)) > 1:
            return say("judgement.terms_no_those", named=named, combined=claim.combined)
        made: Measurand | None = measurands[0]
        if claim.combined is ClaimOperation.PARALLEL and made is not RESISTANCE:
            return say("judgement.only_resistances_lie_in", named=named)
    elif len(measurands) != 2:
        return ""
    else:
        table = _PRODUCTS if claim.combined is ClaimOperation.PRODUCT else _QUOTIENTS
        made = table.get((measurands[0], measurands[1]))
    if made is not wanted:
        wanted_word = QUANTITY_NAMES[claim.target.unit]
        kind = "judgement.claim_makes_another_quantity" if made else "judgement.claim_makes_no_quantity"
        return say(kind, combined=claim.combined, named=named, made=made, wanted=wanted_word)
    return ""


_OF_ONE_KIND = (ClaimOperation.SUM, ClaimOperation.DIFFERENCE, ClaimOperation.PARALLEL, ClaimOperation.MEAN)


def _own_terms(claim: Claim, run: Run) -> tuple[float | None, str]:
    """What the claim's own readings make in the way it names, or why they make nothing."""
    readings = [run.readings[k] for k in claim.sources]
    values = [float(reading.value) for reading in readings]
    two = (ClaimOperation.DIFFERENCE, ClaimOperation.RATIO, ClaimOperation.QUOTIENT, ClaimOperation.PRODUCT)
    if claim.combined in two and len(values) != 2:
        return None, say("judgement.made_two_readings_here", combined=claim.combined, values=len(values))
    if claim.combined is ClaimOperation.PARALLEL:
        if min(values) <= 0:
            return None, say("judgement.parallel_value_made_resistances")
        return 1.0 / math.fsum(1.0 / value for value in values), ""
    if claim.combined in (ClaimOperation.RATIO, ClaimOperation.QUOTIENT, ClaimOperation.PRODUCT):
        first, second = _along_the_part(readings, values, run)
        if claim.combined is ClaimOperation.PRODUCT:
            return first * second, ""
        return (first / second, "") if second else (None, say("judgement.nothing_divided_zero"))
    if claim.combined is ClaimOperation.MEAN:
        turned = [-v if r.target.reversed_against(claim.target) else v for r, v in zip(readings, values, strict=True)]
        return math.fsum(turned) / len(turned), ""
    plain = [1.0] * len(values) if claim.combined is ClaimOperation.SUM else [1.0, -1.0]
    signs = _signs(claim.target, readings, plain, run)
    return math.fsum(sign * value for sign, value in zip(signs, values, strict=True)), ""


def _along_the_part(readings: Sequence[Reading], values: Sequence[float], run: Run) -> list[float]:
    """The values with the voltage turned into the direction in which the part beside it counts its current."""
    part = next((r.target.part for r in readings if isinstance(r.target, Through | PartAlone)), None)
    found = []
    for reading, value in zip(readings, values, strict=True):
        target = reading.target
        leads = run.sheet.setups[target.setup].connections.get(part or "") if target.is_across else None
        turned = target.is_across and leads is not None and target.nodes == leads[::-1]
        found.append(-value if turned else value)
    return found


def _signs(wanted: Target, readings: Sequence[Reading], signs: Sequence[float], run: Run) -> Sequence[float]:
    """The signs with which readings add up to what is claimed: turned leads count with theirs.

    Voltages go from one node to the next, currents into and out of one node; where they do neither in just one way,
    they count as they were read.
    """
    if wanted.is_across and wanted.measurand is VOLTAGE:
        ends = [reading.target.nodes for reading in readings if reading.target.is_across]
        way = _way(ends, signs, wanted.nodes) if len(ends) == len(readings) else None
        return way or signs
    if wanted.is_through:
        parts = [reading.target.part for reading in readings if reading.target.is_through]
        if len(parts) == len(readings):
            return _at_a_node(wanted.part, parts, run.sheet.setups[wanted.setup], run) or signs
    return signs


def _way(ends: Sequence[tuple[str, str]], signs: Sequence[float], wanted: tuple[str, str]) -> Sequence[float] | None:
    """The signs that lead from the first wanted node to the second over every voltage; None where none do."""
    as_read = {node: 0.0 for pair in (*ends, wanted) for node in pair}
    for (red, black), sign in zip(ends, signs, strict=True):
        as_read[red] += sign
        as_read[black] -= sign
    if _ends_at(as_read, wanted):
        return signs
    found, node, left = [0.0] * len(ends), wanted[0], set(range(len(ends)))
    while left:
        onward = sorted(k for k in left if node in ends[k])
        if len(onward) != 1:
            return None
        k = onward[0]
        left.remove(k)
        found[k] = 1.0 if ends[k][0] == node else -1.0
        node = ends[k][1] if ends[k][0] == node else ends[k][0]
    return found if node == wanted[1] else None


def _ends_at(sums: Mapping[str, float], wanted: tuple[str, str]) -> bool:
    return all(total == (node == wanted[0]) - (node == wanted[1]) for node, total in sums.items())


def _at_a_node(wanted: str, parts: Sequence[str], setup: Setup, run: Run) -> Sequence[float] | None:
    """The signs by the current law at the one node whose parts are just these; None where there is no such node."""
    for node in setup.connections[wanted]:
        there = [name for name, leads in setup.connections.items() if node in leads and name not in setup.sources_off]
        if sorted(there) != sorted([wanted, *parts]) or any(len(set(setup.connections[n])) == 1 for n in there):
            continue
        into = {
            name: (1.0 if setup.connections[name][1] == node else -1.0)
            * (-1.0 if run.sheet.parts[name].kind.is_source else 1.0)
            for name in there
        }
        return [-into[name] / into[wanted] for name in parts]
    return None
