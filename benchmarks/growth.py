"""How the judgement grows with parts and readings, as ratios in one run: ``.venv/bin/python -m benchmarks.growth``."""

import resource
import sys
import time
from collections.abc import Iterator

import numpy as np

from recensor.core.circuit import (
    RESISTOR,
    SETUP,
    VOLTAGE_SOURCE,
    Across,
    Leads,
    Part,
    PartAlone,
    Setup,
    Sheet,
    Through,
)
from recensor.core.judgement import assess
from recensor.core.quantity import VOLTAGE, parse, parse_percent
from recensor.core.record import Reading, Run
from recensor.core.solving import Element, Network


def grid(side: int) -> Iterator[Leads]:
    """A square grid of nodes."""
    for i in range(side):
        for j in range(side):
            for a, b in ((i + 1, j), (i, j + 1)):
                if a < side and b < side:
                    yield f"n{i}_{j}", f"n{a}_{b}"


def chain(length: int) -> Iterator[Leads]:
    """Parts in a row."""
    for k in range(length):
        yield f"n{k}", f"n{k + 1}"


def sheet_of(ends: Leads, leads: Iterator[Leads]) -> Sheet:
    """A source across two nodes, and 1 kΩ parts."""
    connections = {"V1": ends, **{f"R{k}": pair for k, pair in enumerate(leads)}}
    kinds = {"V": (VOLTAGE_SOURCE, "9"), "R": (RESISTOR, "1k")}
    parts = {name: Part(name, kinds[name[0]][0], parse(kinds[name[0]][1]), parse_percent("5%")) for name in connections}
    return Sheet("growth", parts, {SETUP: Setup(SETUP, ends[1], connections)})


def read_thrice(sheet: Sheet) -> Run:
    """Every part by itself, its voltage and its current."""
    readings = []
    for name, leads in sheet.setup().connections.items():
        readings += [
            Reading(PartAlone(name, sheet.parts[name].kind.measured_as), parse("1.00k" if name != "V1" else "9.00")),
            Reading(Across(VOLTAGE, leads, SETUP), parse("0.10" if name != "V1" else "9.00")),
            Reading(Through(name, SETUP), parse("1.00m")),
        ]
    return Run(sheet, tuple(readings))


def bare_solve(sheet: Sheet) -> float:
    """Seconds that numpy takes for the circuit's own matrix, once for every part's voltage and current."""
    setup = sheet.setup()
    values = {"V1": 9.0}
    elements = [
        Element(name, sheet.parts[name].kind, *leads, values.get(name, 1000.0))
        for name, leads in setup.connections.items()
    ]
    matrix = Network(elements, setup.reference).solve().matrix
    right = np.ones((len(matrix), 2 * len(elements)))
    begun = time.perf_counter()
    np.linalg.solve(matrix, right)
    return time.perf_counter() - begun


def main() -> None:
    """Print the ratios."""
    for name, sheet in [
        ("grid of 421 parts", sheet_of(("n0_0", "n14_14"), grid(15))),
        ("chain of 1001 parts", sheet_of(("n0", "n1000"), chain(1000))),
    ]:
        run, bare = read_thrice(sheet), bare_solve(sheet)
        begun = time.perf_counter()
        assess(run)
        first = time.perf_counter() - begun
        print(f"assess, {name}, {len(run.readings)} readings: {first:.2f} s, {first / bare:.1f} × numpy's bare solve")
    run = read_thrice(sheet_of(("n0", "n12"), chain(12)))
    few = Run(run.sheet, run.readings * 52)
    many = Run(run.sheet, tuple(_scattered(run, 200_000)))
    times = []
    for one in (few, many):
        begun = time.perf_counter()
        assess(one)
        times.append((time.perf_counter() - begun) / len(one.readings))
    room = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    print(f"assess, {len(many.readings)} readings: {times[1] * len(many.readings):.1f} s, at most {room} MB; "
          f"each reading {times[1] / times[0]:.2f} × one of {len(few.readings)}")  # fmt: skip


def _scattered(run: Run, count: int) -> Iterator[Reading]:
    """Readings of the same points with digits of their own; the source stands still."""
    draw = np.random.default_rng(1)
    sources = [reading for reading in run.readings if "V1" in (getattr(reading.target, "part", ""),)]
    yield from sources
    points = [reading for reading in run.readings if reading not in sources and not _is_loaded(reading)]
    for k in range(count - len(sources)):
        reading = points[k % len(points)]
        text = f"{float(reading.value) * (1 + 0.002 * draw.standard_normal()):.4g}"
        yield Reading(reading.target, parse(text, reading.target.unit))


def _is_loaded(reading: Reading) -> bool:
    return isinstance(reading.target, Across) and reading.target.nodes == ("n0", "n12")


if __name__ == "__main__":
    sys.exit(main())
