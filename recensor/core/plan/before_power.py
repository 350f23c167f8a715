"""What is checked before power comes on for the first time in a setup.

The rules are common practice, no source: no short across a source, no part above its rating, no current above a fuse,
a supply's own current limit a little above what the circuit draws, extra-low voltage only.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core import safety
from recensor.core.circuit import Setup
from recensor.core.figures import as_read, plainly, rounded
from recensor.core.judgement import Assessment
from recensor.core.meters import fuse_of
from recensor.core.plan.steps import Bench
from recensor.core.quantity import CURRENT, VOLT, WATT
from recensor.core.record import Run
from recensor.core.sentences import instruction, say
from recensor.core.solving import operate

# From this power on a quarter-watt part is too hot to touch.
_HOT = 0.1

# A supply's own limit is set so much above what the circuit draws.
_LIMIT_ABOVE = 1.25


@dataclass(frozen=True)
class Check:
    """One thing that was looked at: what was found, and whether power may come on for all of it."""

    text: str
    holds: bool = True


def before_power(run: Run, setup: Setup, assessment: Assessment, bench: Bench) -> list[Check]:
    """All that is to be looked at before power comes on in a setup, what does not hold first.

    In a sealed run no numbers are said that give a reading away.
    """
    checks = [
        *_shorts(run, setup, bench),
        *_voltages(run, setup, assessment),
        *_powers(run, setup, assessment, bench),
        *_fuses(run, setup, bench),
        *_limits(run, setup, bench),
    ]
    return sorted(checks, key=lambda check: check.holds)


def _shorts(run: Run, setup: Setup, bench: Bench) -> Iterator[Check]:
    built = bench.boards.get(setup.name)
    nets = built.nets() if built else None
    for name in setup.driving(run.sheet.parts):
        leads = nets.connections.get(name) if nets else None
        if leads and leads[0] == leads[1]:
            yield Check(say("plan.both_leads_joined_on", name=name), False)
    problem = operate(run.sheet, setup).problem
    if problem and problem.nodes:
        yield Check(instruction(str(problem)), False)
    elif not problem:
        sources = " and ".join(setup.driving(run.sheet.parts))
        yield Check(say("plan.nothing_in_drawing_lies", sources=sources))


def _voltages(run: Run, setup: Setup, assessment: Assessment) -> Iterator[Check]:
    largest = safety.largest_voltage(run.sheet, assessment.of_unmarked)
    caution = safety.of_volts(largest)
    if caution is safety.Caution.PAPER_ONLY:
        yield Check(say("plan.more_than_dc_paper", paper_only_above=safety.PAPER_ONLY_ABOVE), False)
    elif caution is safety.Caution.WARNING:
        yield Check(say("plan.more_than_dc_keep", warning_above=safety.WARNING_ABOVE), False)
    else:
        yield Check(say("plan.nothing_above_dc", warning_above=safety.WARNING_ABOVE))
    unbounded = [name for name in safety.unbounded(run.sheet) if name in setup.connections]
    for name in unbounded:
        yield Check(say("plan.how_far_can_go", name=name), False)


def _powers(run: Run, setup: Setup, assessment: Assessment, bench: Bench) -> Iterator[Check]:
    powers = [one for one in safety.dissipations(run.sheet, assessment.of_unmarked) if one.setup == setup.name]
    known = [(one.power, one) for one in powers if one.power is not None]
    for power, dissipation in known:
        kind = f"plan.{'is_over_its_rating' if dissipation.is_over else 'gets_hot'}{'_sealed' if bench.sealed else ''}"
        shown = {"power": rounded(power, None, WATT), "rating": plainly(dissipation.rating, WATT)}
        if dissipation.is_over or power > _HOT:
            yield Check(say(kind, part=dissipation.part, **shown), not dissipation.is_over)
    if missing := [one.part for one in powers if one.power is None]:
        yield Check(say("plan.what_takes_not_known", missing=" and ".join(missing)), False)
    elif known and not any(one.is_over for _, one in known):
        worst, dissipation = max(known, key=lambda pair: pair[0] / pair[1].rating)
        kind = "plan.no_part_above_rating" if bench.sealed else "plan.no_part_above_rating_most_has"
        yield Check(say(kind, part=dissipation.part, worst=rounded(worst, None, WATT)))


def _fuses(run: Run, setup: Setup, bench: Bench) -> Iterator[Check]:
    asked = [target for target in run.sheet.asked if target.is_through and target.setup == setup.name]
    if not asked:
        return
    cautions = [text for target in asked for text in bench.setting(target).cautions]
    yield from (Check(text, False) for text in dict.fromkeys(cautions))
    known = [abs(value) for target in asked if (value := bench.told(target)) is not None]
    if known and not cautions:
        fuse = fuse_of(bench.profile(CURRENT), bench.setting(asked[0]).taken)
        most = rounded(max(known), None, "A")
        if fuse:
            yield Check(say("plan.no_current_above_below_fuse", most=most, fuse=plainly(fuse, "A")))
        else:
            yield Check(say("plan.no_current_above", most=most))


def _rounded_up(value: float) -> float:
    """A value as two figures, never below it."""
    digit = 10.0 ** (math.floor(math.log10(value)) - 1)
    return float(f"{math.ceil(value / digit - 1e-9) * digit:.2g}")


def _limits(run: Run, setup: Setup, bench: Bench) -> Iterator[Check]:
    """What each supply delivers, for the limit that is set on it."""
    state = operate(run.sheet, setup)
    for name in setup.driving(run.sheet.parts) if not state.problem else ():
        part, drawn = run.sheet.parts[name], state.parts[name].amperes
        if part.kind.unit != VOLT:
            continue
        if bench.sealed:
            yield Check(say("plan.set_current_limit_before", name=name))
        elif drawn > 0:
            delivered = rounded(drawn, None, "A")
            if part.limit is None:
                above = plainly(_rounded_up(_LIMIT_ABOVE * drawn), "A")
                yield Check(say("plan.set_current_limit_if", name=name, delivered=delivered, above=above))
                continue
            fits = float(part.limit) >= drawn
            kind = "plan.limit_is_above_what_it_delivers" if fits else "plan.limit_is_below_what_it_delivers"
            yield Check(say(kind, name=name, delivered=delivered, limit=as_read(part.limit, "A")), fits)
