"""A zero, or an open, where something else is expected: what it can be here, and where to look for it in turn.

What costs nothing comes first: the output, the dial, the jack, the range, the fuse. Then the walk: black stays at the
source's minus, red goes from plus from point to point; where the display breaks off, the joint before it is open
(common practice, no source).
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from recensor.core.circuit import Across, Setup, Target
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment, assess
from recensor.core.meters import ORDINARY_HANDHELD, setting
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from recensor.core.record import Reading, Run
from recensor.core.sentences import say

# A circuit of more points is not walked through.
_MOST_POINTS = 9


@dataclass(frozen=True)
class WalkStep:
    """A point that red goes to: what to read there, the parts that lie before it, and what shows if all is well."""

    target: Target
    node: str
    behind: tuple[str, ...]
    expected: str


@dataclass(frozen=True)
class ZeroSearch:
    """What to look at first, in sentences, and the points to walk through with red, from plus on."""

    looks: tuple[str, ...]
    black: str
    walk: tuple[WalkStep, ...]


def zero_search(run: Run, reading: Reading, *, sealed: bool = False) -> ZeroSearch | None:
    """What a reading that shows nothing can be; None where it shows something, or nothing is expected.

    In a sealed run no number is told.
    """
    target = reading.target
    if reading.struck is not None or not target.in_circuit or target.step is not None:
        return None
    is_open = reading.value.over_range and target.measurand is RESISTANCE
    is_zero = reading.value.value is not None and float(reading.value) == 0.0
    if not is_open and not is_zero:
        return None
    without = replace(run, readings=tuple(replace(r, counted=False) if r is reading else r for r in run.readings))
    expected = assess(without, (target,)).expected(target)
    if expected is None or not expected.value or expected.zero or expected.open:
        return None
    if abs(expected.value) < float(reading.value.resolution or 0):
        return None  # it is below what the display can show
    setup = run.sheet.setups[target.setup]
    black, targets = _points(run, setup, target)
    judged = assess(without, tuple(targets))
    looks = tuple(_looks(run, reading, abs(expected.value), sealed=sealed))
    return ZeroSearch(looks, black, tuple(_walk(setup, targets, judged, sealed=sealed)))


def _points(run: Run, setup: Setup, target: Target) -> tuple[str, list[Across]]:
    """Where black stays, and what is read against it from every other point."""
    driving = setup.driving(run.sheet.parts)
    quantity = RESISTANCE if target.measurand is RESISTANCE else VOLTAGE
    if target.is_across and quantity is RESISTANCE:
        black = target.black
    else:
        black = setup.connections[driving[0]][1] if driving else setup.reference
    if len(setup.nodes) > _MOST_POINTS:
        return black, []
    return black, [Across(quantity, (node, black), setup.name) for node in setup.nodes if node != black]


def _looks(run: Run, reading: Reading, expected: float, *, sealed: bool) -> Iterator[str]:
    """What to look at first, in order."""
    target, read = reading.target, run.readings
    if target.measurand is RESISTANCE:
        yield say("entries.zero_probes_touch") if not reading.value.over_range else say("entries.open_probes")
        return
    here = [r for r in read if r.target.setup == target.setup and r.value.value and r.struck is None]
    has_volts = any(r.target.measurand is VOLTAGE and r.target.in_circuit for r in here)
    if not has_volts:
        yield say("entries.zero_output")
    if target.measurand is VOLTAGE:
        yield say("entries.zero_dial_volts")
        return
    yield say("entries.zero_dial_amps")
    jack = setting(run.meter_for(CURRENT) or ORDINARY_HANDHELD, CURRENT, expected).jack if not sealed else None
    flowed = next((r for r in reversed(read) if r.target.measurand is CURRENT and r.value.value and not r.struck), None)
    if flowed is not None:
        yield say("entries.zero_fuse_is_good")
    else:
        yield say("entries.zero_fuse", jack=jack or "mA")
    yield say("entries.zero_beside")


def _walk(setup: Setup, targets: list[Across], judged: Assessment, *, sealed: bool) -> Iterator[WalkStep]:
    """From the point that is farthest from black in potential or in ohms, on towards it."""
    found = [(target, judged.expected(target)) for target in targets]
    known = [(target, e.value) for target, e in found if e is not None and e.value is not None]
    order = sorted(known, key=lambda one: -abs(one[1]))
    for k, (target, value) in enumerate(order):
        before = order[k - 1][0].red if k else None
        behind = tuple(setup.across(before, target.red)) if before else ()
        yield WalkStep(target, target.red, behind, "" if sealed else rounded(value, None, target.unit))
