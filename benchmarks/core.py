"""Speed of the core as ratios in one run: ``.venv/bin/python -m benchmarks.core``."""

import random
import time
from collections.abc import Callable
from dataclasses import replace
from itertools import cycle

import numpy as np

from recensor.core.circuit import RESISTOR, VOLTAGE_SOURCE, Part
from recensor.core.examples.shapes import Shape, shaped
from recensor.core.judgement import assess
from recensor.core.quantity import parse, parse_percent
from recensor.core.record import Reading, Run
from recensor.core.solving import Element, Network, solve


def best(action: Callable[[], object], repeats: int, rounds: int = 7) -> float:
    """The best mean time in seconds over some rounds."""
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        for _ in range(repeats):
            action()
        times.append((time.perf_counter() - begun) / repeats)
    return min(times)


def ladder(parts: int) -> list[Element]:
    """A source and a ladder of `parts` − 1 resistors."""
    elements = [Element("V1", VOLTAGE_SOURCE, "n0", "g", 9.0)]
    for k in range(parts - 1):
        ends = (f"n{k // 2}", f"n{k // 2 + 1}") if k % 2 == 0 else (f"n{k // 2 + 1}", "g")
        elements.append(Element(f"R{k}", RESISTOR, *ends, 1000.0 + k))
    return elements


def sixty_readings() -> Run:
    """A chain with a group, every point read several times with a little scatter."""
    resistors = [Part(f"R{k}", RESISTOR, parse("1k"), parse_percent("5%")) for k in range(1, 9)]
    sheet = shaped(Shape.CHAIN_WITH_GROUP, "bench", Part("V1", VOLTAGE_SOURCE, parse("9")), resistors, (3, 5))
    assessed, draw = assess(Run(sheet)), random.Random(1)
    readings = []
    while len(readings) < 60:
        for target in sheet.asked:
            value = (assessed.calculations.both(target)[0].value or 0.0) * (1 + draw.uniform(-0.002, 0.002))
            readings.append(Reading(target, parse(f"{value:.6f}", target.unit)))
    return Run(sheet, tuple(readings[:60]))


def main() -> None:
    """Print the ratios."""
    six = ladder(6)
    solution = Network(six, "g").solve()
    matrix, drive = solution.matrix, np.ones(solution.matrix.shape[0])
    bare = best(lambda: np.linalg.solve(matrix, drive), 2000)
    whole = one_solve = best(lambda: solve(six, "g"), 2000)
    beyond = (whole - bare) * 1e6
    print(f"one solve, 6 parts: {whole * 1e6:.0f} µs, bare numpy {bare * 1e6:.0f} µs: {beyond:.0f} µs beyond")

    twelve = ladder(12)
    values = np.array([e.value for e in twelve]) * np.random.default_rng(1).uniform(0.95, 1.05, (10_000, 12))
    many = Network(twelve, "g").solve(values)
    bare = best(lambda: np.linalg.solve(many.matrix, np.ones((*many.matrix.shape[:2], 1))), 1)
    whole = best(lambda: Network(twelve, "g").solve(values), 1)
    print(f"10 000 samples, 12 parts: {whole * 1e3:.0f} ms, bare numpy {bare * 1e3:.0f} ms: {whole / bare:.2f} times")

    run = sixty_readings()
    whole = best(lambda: assess(run), 20)
    half = best(lambda: assess(replace(run, readings=run.readings[:30])), 20)
    print(f"assess, 60 readings: {whole * 1e3:.1f} ms; 30 readings {half * 1e3:.1f} ms: {whole / half:.2f} times")
    first, others = run.readings[0], run.readings[1:]
    changed = cycle(
        replace(run, readings=(replace(first, value=parse(f"{1000 + k / 10}", first.target.unit)), *others))
        for k in range(600)
    )
    anew = best(lambda: assess(next(changed)), 50)
    print(
        f"the same where a part was read anew: {anew * 1e3:.1f} ms, {anew / one_solve:.0f} times one solve of 6 parts"
    )


if __name__ == "__main__":
    main()
