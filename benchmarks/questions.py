"""How often an entry is asked about: on benches with nothing wrong, and with one slip of the person who types.

``python -m benchmarks.questions [benches]``: benches of an ordinary handheld, batteries 20 % down, leads turned here
and there, points in any order; then the same as people really work, who read again, coarser too, do everything twice,
and leave things out: how often they are asked, told another number than they typed, or that a right one is outside.
"""

import sys
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from recensor.core.circuit import Across, JudgedBy, PartAlone, Sheet, Target, TouchedLeads
from recensor.core.entries import Entered, Repeat, enter
from recensor.core.figures import as_read
from recensor.core.judgement import Outcome
from recensor.core.meters import SHIPPED
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter, draw_sheet, draw_values
from recensor.core.standing import Rounds

# How far a battery may be down without being wrong, as a ratio of its label.
DOWN = 0.8

# A slip is found where it is asked about, or something is marked, within so many entries.
SOON = 3


@dataclass(frozen=True)
class Typed:
    """One thing that a person types: what the display shows, at a point."""

    target: Target
    text: str


def battery(sheet: Sheet) -> Sheet:
    """The sheet with a source that states no tolerance, as a battery does."""
    parts = {n: replace(p, tolerance=None) if p.kind.is_source else p for n, p in sheet.parts.items()}
    return replace(sheet, parts=parts)


def draw_bench(draw: np.random.Generator, *, again: bool = False) -> tuple[Sheet, list[Typed]]:
    """A circuit, and everything that is typed at it in the order in which the person happens to read.

    Perhaps `again`: with some points read a second time, everything in two rounds, or a part of it left out.
    """
    sheet = battery(draw_sheet(draw))
    true = draw_values(sheet, draw)
    true |= {n: true[n] * draw.uniform(DOWN, 1.0) for n, part in sheet.parts.items() if part.kind.is_source}
    bench = SimulatedBench(sheet, true, SimulatedMeter(SHIPPED["ordinary handheld"], draw))
    order = [int(k) for k in draw.permutation(len(sheet.asked))]
    if draw.random() < 0.7:  # most people take what needs no power first
        order.sort(key=lambda k: _needs_power(sheet.asked[k]))
    if again and draw.random() < 0.3:
        sheet, order = replace(sheet, rounds=2), [*order, *order]
    elif again:
        order = [k for k in order if draw.random() > 0.1]
        order = [
            j for n, k in enumerate(order) for j in (k, *([order[draw.integers(n + 1)]] if draw.random() < 0.2 else []))
        ]
    typed = []
    for k in order:
        target = sheet.asked[k]
        shown = bench.read(target)
        text = as_read(shown.value, target.unit).replace("−", "-") if shown.value.value is not None else "OL"
        if isinstance(target, Across) and target.measurand is VOLTAGE and draw.random() < 0.1:
            text = text.removeprefix("-") if text.startswith("-") else f"-{text}"
        if again and text != "OL" and draw.random() < 0.1:
            text = _coarser(text)
        typed.append(Typed(target, text))
    return sheet, typed


def _coarser(text: str) -> str:
    """The same number with its last digit left off, where there is one behind the point."""
    number, _, unit = text.partition(" ")
    fraction = number.partition(".")[2]
    return f"{float(number):.{len(fraction) - 1}f} {unit}".strip() if len(fraction) > 1 else text


def _needs_power(target: Target) -> bool:
    return not (isinstance(target, PartAlone | TouchedLeads) or target.measurand is not VOLTAGE) or target.setup is None


def entries_of(sheet: Sheet, typed: list[Typed]) -> Iterator[Entered]:
    """What comes of each entry; a question is answered with *as typed*."""
    run = Run(sheet)
    for one in typed:
        reading = Rounds.of(sheet, run.readings).add(Reading(one.target, parse(one.text, one.target.unit)))
        entered = enter(run, reading, sheet.asked)
        yield entered
        run = entered.run
        if entered.doubted:
            *before, last = run.readings
            run = replace(run, readings=(*before, replace(last, counted=True, confirmed=True)))


Slip = Callable[[list[Typed], int, np.random.Generator], list[Typed]]


def prefix(typed: list[Typed], k: int, draw: np.random.Generator) -> list[Typed]:
    """The unit forgotten: off by a thousand."""
    target, value = typed[k].target, parse(typed[k].text, typed[k].target.unit)
    power = 3 if draw.random() < 0.5 else -3
    text = f"{float(value) * 10.0**power:.4g}" if value.value else "12"
    return [*typed[:k], Typed(target, text), *typed[k + 1 :]]


def point(typed: list[Typed], k: int, draw: np.random.Generator) -> list[Typed]:
    """The decimal point one place off."""
    target, value = typed[k].target, parse(typed[k].text, typed[k].target.unit)
    text = f"{float(value) * (10.0 if draw.random() < 0.5 else 0.1):.4g}" if value.value else "12"
    return [*typed[:k], Typed(target, text), *typed[k + 1 :]]


def one_enter_too_many(typed: list[Typed], k: int, draw: np.random.Generator) -> list[Typed]:
    """From here on every number stands one row on; those of one kind of point, as the page goes."""
    after = [j for j in range(k, len(typed)) if typed[j].target.measurand is typed[k].target.measurand]
    moved = list(typed)
    for j, there in pairwise(after):
        moved[there] = Typed(typed[there].target, typed[j].text)
    del moved[k]
    return moved


def elsewhere(typed: list[Typed], k: int, draw: np.random.Generator) -> list[Typed]:
    """Typed at a point whose number belongs to another one."""
    others = [one for one in typed if one.target.measurand is typed[k].target.measurand and one is not typed[k]]
    text = others[int(draw.integers(len(others)))].text if others else typed[k].text
    return [*typed[:k], Typed(typed[k].target, text), *typed[k + 1 :]]


SLIPS: dict[str, Slip] = {
    "prefix": prefix,
    "decimal point": point,
    "one Enter too many": one_enter_too_many,
    "another point's number": elsewhere,
}


def questions(benches: int, seed: int = 1) -> tuple[int, int]:
    """How many entries of clean benches were asked about, and how many there were."""
    draw = np.random.default_rng(seed)
    asked = count = 0
    for _ in range(benches):
        sheet, typed = draw_bench(draw)
        for entered in entries_of(sheet, typed):
            asked += entered.doubted is not None
            count += 1
    return asked, count


@dataclass
class Again:
    """What came of benches that are read as people read: entries, those asked about, those told another number than was
    typed; measurements at the end, and those that are outside though nothing is wrong."""

    entries: int = 0
    asked: int = 0
    told_another: int = 0
    measurements: int = 0
    outside: int = 0


def again(benches: int, seed: int = 3) -> Again:
    """Benches with nothing wrong, read again, in rounds, and in part; judged by uncertainty."""
    draw, came = np.random.default_rng(seed), Again()
    for _ in range(benches):
        sheet, typed = draw_bench(draw, again=True)
        sheet = replace(sheet, judge=replace(sheet.judge, by=JudgedBy.UNCERTAINTY))
        entered = None
        for entered in entries_of(sheet, typed):
            came.entries += 1
            came.asked += entered.doubted is not None
            came.told_another += _is_told_another(entered)
        if entered is not None:
            read = entered.assessment.targets.items()  # a battery that is down is off its label, and is told so
            judged = [target.judged for key, target in read if sheet.source_read_at(key) is None]
            came.measurements += len(judged)
            came.outside += sum(one.outcome is Outcome.OUTSIDE for one in judged)
    return came


def _is_told_another(entered: Entered) -> bool:
    """Whether what is said of an entry is said of another number, or another stands than it says."""
    reading = entered.run.readings[entered.index]
    if reading.counted is False or reading.value.value is None or reading.target.is_part_alone:
        return False
    told = next(one for one in entered.assessment.readings if one.index == entered.index)
    standing = entered.assessment.of(reading.target)
    stands = standing is not None and entered.index in standing.measurement.indexes
    is_other = abs(abs(told.judged.value or 0.0) - abs(float(reading.value))) > abs(standing.measurement.leads) + 1e-9
    return is_other or stands is (entered.repeat in (Repeat.CONFIRMS, Repeat.BESIDE))


def found(benches: int, slip: Slip, seed: int = 2) -> tuple[int, int]:
    """In how many benches with one slip it was asked about or marked soon, and how many benches had one."""
    draw = np.random.default_rng(seed)
    noticed = count = 0
    for _ in range(benches):
        sheet, typed = draw_bench(draw)
        k = int(draw.integers(max(1, len(typed) - SOON)))
        wrong = slip(typed, k, draw)
        first = next((j for j, one in enumerate(wrong) if _is_wrong(one, typed)), None)
        if first is None:
            continue
        count += 1
        seen = {one.target for one in wrong[: first + SOON]}
        *_, clean = entries_of(sheet, [one for one in typed if one.target in seen])
        for j, entered in enumerate(entries_of(sheet, wrong[: first + SOON])):
            if j >= first and (entered.doubted or _outside(entered) > _outside(clean)):
                noticed += 1
                break
    return noticed, count


def _is_wrong(one: Typed, typed: list[Typed]) -> bool:
    """Whether a point got a number that is not, within 10 %, its own."""
    right = next(other.text for other in typed if other.target == one.target)
    if "OL" in (one.text, right):
        return one.text != right
    value, own = (abs(float(parse(text, one.target.unit))) for text in (one.text, right))
    return abs(value - own) > 0.1 * own


def _outside(entered: Entered) -> int:
    """How much is marked: targets outside, and accounts that are out."""
    judged = entered.assessment
    marks = Counter(target.judged.outcome for target in judged.targets.values())
    return marks[Outcome.OUTSIDE] + sum(account.verdict.outcome is Outcome.OUTSIDE for account in judged.laws)


def main() -> None:
    """Say both for so many benches."""
    benches = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    asked, count = questions(benches)
    print(f"{benches} clean benches: {asked} of {count} entries asked about, {100 * asked / count:.2f} %")
    came = again(benches)
    print(
        f"read again, in rounds, in part: {came.asked} of {came.entries} entries asked about, {came.told_another} told"
    )
    print(f"another number; {came.outside} of {came.measurements} measurements outside by uncertainty")
    for name, slip in SLIPS.items():
        noticed, wrong = found(benches, slip)
        print(f"{name}: noticed in {noticed} of {wrong}, {100 * noticed / max(1, wrong):.1f} %")


if __name__ == "__main__":
    main()
