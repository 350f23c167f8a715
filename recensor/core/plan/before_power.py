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


def _read(run: Run, assessment: Assessment) -> dict[str, float]:
    """What unmarked parts were read to be: all that is known of them."""
    parts = assessment.parts.items()
    return {
        name: part.measured
        for name, part in parts
        if run.sheet.parts[name].nominal is None and part.measured is not None
    }


def _shorts(run: Run, setup: Setup, bench: Bench) -> Iterator[Check]:
    built = bench.boards.get(setup.name)
    nets = built.nets() if built else None
    for name in setup.driving(run.sheet.parts):
        leads = nets.connections.get(name) if nets else None
        if leads and leads[0] == leads[1]:
            yield Check(f"Both leads of {name} are joined on the board: it is shorted.", False)
    problem = operate(run.sheet, setup).problem
    if problem and problem.nodes:
        yield Check(f"{str(problem)[:1].upper()}{str(problem)[1:]}.", False)
    elif not problem:
        sources = " and ".join(setup.driving(run.sheet.parts))
        yield Check(f"Nothing in the drawing lies across {sources} as a short.")


def _voltages(run: Run, setup: Setup, assessment: Assessment) -> Iterator[Check]:
    largest = safety.largest_voltage(run.sheet, _read(run, assessment))
    caution = safety.of_volts(largest)
    if caution is safety.Caution.PAPER_ONLY:
        yield Check(f"More than {safety.PAPER_ONLY_ABOVE:.0f} V DC: for paper only.", False)
    elif caution is safety.Caution.WARNING:
        yield Check(f"More than {safety.WARNING_ABOVE:.0f} V DC: keep off bare leads while it is on.", False)
    else:
        yield Check(f"Nothing above {safety.WARNING_ABOVE:.0f} V DC.")
    unbounded = [name for name in safety.unbounded(run.sheet) if name in setup.connections]
    for name in unbounded:
        yield Check(f"How far {name} can go up when it is opened is not stated: state its compliance.", False)


def _powers(run: Run, setup: Setup, assessment: Assessment, bench: Bench) -> Iterator[Check]:
    powers = [one for one in safety.dissipations(run.sheet, _read(run, assessment)) if one.setup == setup.name]
    known = [(one.power, one) for one in powers if one.power is not None]
    for power, dissipation in known:
        text = "" if bench.sealed else f" up to {rounded(power, None, WATT)},"
        if dissipation.is_over:
            yield Check(f"{dissipation.part} takes{text} more than its {plainly(dissipation.rating, WATT)}.", False)
        elif power > _HOT:
            yield Check(
                f"{dissipation.part} gets hot:{text or ' it takes much'} of its {plainly(dissipation.rating, WATT)}."
            )
    if missing := [one.part for one in powers if one.power is None]:
        yield Check(f"What {' and '.join(missing)} takes is not known before it is read: read it first.", False)
    elif known and not any(one.is_over for _, one in known):
        worst, dissipation = max(known, key=lambda pair: pair[0] / pair[1].rating)
        most = "" if bench.sealed else f"; most has {dissipation.part}, {rounded(worst, None, WATT)}"
        yield Check(f"No part above its rating{most}.")


def _fuses(run: Run, setup: Setup, bench: Bench) -> Iterator[Check]:
    asked = [target for target in run.sheet.asked if target.is_through and target.setup == setup.name]
    if not asked:
        return
    cautions = [text for target in asked for text in bench.setting(target).cautions]
    yield from (Check(text, False) for text in dict.fromkeys(cautions))
    known = [abs(value) for target in asked if (value := bench.told(target)) is not None]
    if known and not cautions:
        fuse = fuse_of(bench.profile(CURRENT), bench.setting(asked[0]).taken)
        below = f", below the {plainly(fuse, 'A')} fuse" if fuse else ""
        yield Check(f"No current above {rounded(max(known), None, 'A')}{below}.")


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
            yield Check(f"Set the current limit of {name} before connecting, if it has one.")
        elif drawn > 0:
            delivers, limit = f"{name} delivers {rounded(drawn, None, 'A')}", part.limit
            if limit is None:
                above = plainly(_rounded_up(_LIMIT_ABOVE * drawn), "A")
                yield Check(f"{delivers}: set its current limit, if it has one, to {above}.")
            elif float(limit) < drawn:
                yield Check(f"{delivers}, and its limit is set to {as_read(limit, 'A')}: it would sag in limit.", False)
            else:
                yield Check(f"{delivers}, below the {as_read(limit, 'A')} of its limit.")
