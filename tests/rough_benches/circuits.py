"""Circuits as a bench has them, and what a meter finds in them: plain node equations of our own, straight or nonlinear.

Everything in volts, amperes and ohms. Nothing here is shared with the product: it is what its causes are tried against.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

# What ties every node faintly to ground, so that an open circuit has a solution.
_LEAK = 1e-11

# The node names that people write, without the order of the alphabet; ground comes last.
_NAMES = (
    ("A", "B", "C", "D", "E", "F", "gnd"),
    ("n1", "n2", "n3", "n4", "n5", "n6", "0"),
    ("in", "x", "out", "q", "b", "m", "gnd"),
    ("top", "mid", "low", "c", "k", "a", "gnd"),
    ("1", "2", "3", "4", "5", "6", "0"),
    ("p", "m", "k", "z", "e", "u", "gnd"),
)

_E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)


@dataclass(frozen=True)
class BenchPart:
    """A part: its kind as a document has it, its two nodes, what it is marked, and what it is.

    `amperes` is the current at which a lamp or a light diode has its value in volts; `inside` what a source resists.
    """

    kind: str
    ends: tuple[str, str]
    marked: float
    value: float
    amperes: float = 0.0
    inside: float = 0.0

    @property
    def is_source(self) -> bool:
        return self.kind == "voltage source"

    def flows(self, drop: float) -> tuple[float, float]:
        """The current of a lamp or a diode at a drop, and its slope."""
        if self.kind == "lamp":  # cold a tenth of what it is at work; the current follows the root of the voltage
            cold = 0.1 * self.value / self.amperes
            c = 10.0 ** (1.0 / 0.225) - 1.0
            f = lambda u: u / (cold * (1.0 + c * (u / self.value) ** 2) ** 0.225)  # noqa: E731
        else:  # Shockley's law, twice its thermal voltage for light diodes
            volts = 0.02585 * (2.0 if self.kind == "led" else 1.0)
            f = lambda u: self.amperes * (math.exp(min((u - self.value) / volts, 14.0)) - math.exp(-self.value / volts))  # noqa: E731
        step = 1e-6
        return f(drop), max((f(drop + step) - f(drop - step)) / (2 * step), 1e-12)


Parts = Mapping[str, BenchPart]


def solved(parts: Parts, ground: str) -> tuple[dict[str, float], dict[str, float]]:
    """The potential of every node, and the current of every part from its first end; a source's as it delivers."""
    nodes = [n for n in dict.fromkeys(n for p in parts.values() for n in p.ends) if n != ground]
    index = {n: k for k, n in enumerate(nodes)}
    sources = [name for name, p in parts.items() if p.is_source]
    size = len(nodes) + len(sources)
    drops = {name: 0.5 * p.value for name, p in parts.items() if p.kind in ("lamp", "diode", "led")}
    found = np.zeros(size)
    for _ in range(200):
        matrix, right = np.zeros((size, size)), np.zeros(size)
        matrix[range(len(nodes)), range(len(nodes))] = _LEAK
        for name, p in parts.items():
            a, b = (index.get(n, -1) for n in p.ends)
            if p.is_source:
                j = len(nodes) + sources.index(name)
                for k, sign in ((a, 1.0), (b, -1.0)):
                    if k >= 0:
                        matrix[k, j] -= sign
                        matrix[j, k] += sign
                matrix[j, j] = p.inside
                right[j] = p.value
                continue
            amperes, siemens = p.flows(drops[name]) if name in drops else (0.0, 1.0 / p.value)
            rest = amperes - siemens * drops[name] if name in drops else 0.0
            for k, sign in ((a, 1.0), (b, -1.0)):
                if k >= 0:
                    right[k] -= sign * rest
                    for other, turn in ((a, 1.0), (b, -1.0)):
                        if other >= 0:
                            matrix[k, other] += sign * turn * siemens
        found = np.linalg.solve(matrix, right)
        at = lambda n: float(found[index[n]]) if n in index else 0.0  # noqa: B023, E731
        wanted = {name: at(parts[name].ends[0]) - at(parts[name].ends[1]) for name in drops}
        moved = 0.0
        for name, drop in wanted.items():
            limit = 0.1 if parts[name].kind != "lamp" else math.inf
            step = min(max(drop - drops[name], -limit * 20), limit)
            drops[name] += step
            moved = max(moved, abs(step))
        if moved < 1e-9:
            break
    potentials = {n: at(n) for n in (*nodes, ground)}
    currents = {}
    for name, p in parts.items():
        drop = potentials[p.ends[0]] - potentials[p.ends[1]]
        if p.is_source:
            currents[name] = float(found[len(nodes) + sources.index(name)])
        else:
            currents[name] = p.flows(drops[name])[0] if name in drops else drop / p.value
    return potentials, currents


def ohms_between(parts: Parts, first: str, second: str) -> float:
    """The resistance between two nodes, every source taken out."""
    rest = {name: p for name, p in parts.items() if not p.is_source}
    tester = BenchPart("voltage source", (first, second), 1.0, 1.0, inside=1e-3)
    return 1.0 / max(solved({**rest, "\0": tester}, second)[1]["\0"], 1e-12) - 1e-3


def drawn_circuit(draw: np.random.Generator, *, nonlinear: bool = False) -> tuple[dict[str, BenchPart], str]:
    """A circuit of one of the everyday shapes with the values of a drawer, and its ground."""
    names = _NAMES[int(draw.integers(len(_NAMES)))]
    ground, free = names[-1], iter(names[:-1])
    top = next(free)
    ends: list[tuple[str, str]] = []
    shape = str(draw.choice(["series", "series", "pair", "pair", "bank", "ladder", "bridge"]))
    more = []
    if shape == "series":
        chain = [top, *(next(free) for _ in range(int(draw.integers(1, 5)))), ground]
        ends = list(pairwise(chain))
    elif shape == "pair":
        mid, low = next(free), next(free)
        ends = [(top, mid), (mid, low), (mid, low), (low, ground)]
    elif shape == "bank":
        mid = next(free)
        ends = [(top, mid), *[(mid, ground)] * int(draw.integers(2, 4))]
    elif shape == "ladder":
        a, b = next(free), next(free)
        ends = [(top, a), (a, ground), (a, b), (b, ground)]
    else:
        a, b = next(free), next(free)
        ends = [(top, a), (a, ground), (top, b), (b, ground), (a, b)]
    if shape == "ladder" and draw.random() < 0.5:
        far = next(free)
        more = [(far, ground)]
        ends += [(ends[-1][0], far)]
    decade = 10.0 ** float(draw.choice([2, 3, 3, 4]))
    parts = {}
    for k, volts in enumerate([float(draw.choice([3, 5, 6, 9, 12])), float(draw.choice([3, 5, 9]))][: 1 + len(more)]):
        parts[f"V{k + 1}"] = BenchPart(
            "voltage source", (top, ground) if not k else more[0], volts, volts * (1.0 + float(draw.normal(0, 4e-3)))
        )
    percent = float(draw.choice([5, 5, 1]))
    for k, pair in enumerate(ends):
        marked = decade * float(draw.choice(_E12)) * float(draw.choice([1.0, 1.0, 1.0, 0.1]))
        off = float(np.clip(draw.normal(0, percent / 250), -percent / 100, percent / 100))
        turned = (pair[1], pair[0]) if draw.random() < 0.3 else pair
        parts[f"R{k + 1}"] = BenchPart("resistor", turned, marked, marked * (1.0 + off), amperes=percent)
    if nonlinear:
        _with_nonlinear(parts, draw)
    return parts, ground


def _with_nonlinear(parts: dict[str, BenchPart], draw: np.random.Generator) -> None:
    """Put a lamp, a diode or a light diode in the place of one resistor, so that it glows."""
    name = str(draw.choice([n for n, p in parts.items() if p.kind == "resistor"]))
    old = parts.pop(name)
    potentials, currents = solved({**parts, name: replace(old, value=max(old.value, 50.0))}, old.ends[1])
    flows = currents[name]
    ends = old.ends if flows >= 0 else (old.ends[1], old.ends[0])
    drop = abs(potentials[ends[0]] - potentials[ends[1]])
    kind = str(draw.choice(["lamp", "diode", "led"] if drop > 2.5 else ["lamp", "diode"]))
    marked = {"lamp": round(max(drop, 1.0), 1), "diode": 0.7, "led": 1.9}[kind]
    amperes = float(f"{max(abs(flows), 1e-4):.1g}")
    scale = float(np.exp(draw.normal(0, 0.02)))
    letter = {"lamp": "L1", "diode": "D1", "led": "D1"}[kind]
    parts[letter] = BenchPart(kind, ends, marked, marked * scale, amperes=amperes)


def renamed(
    parts: Parts, ground: str, draw: np.random.Generator, *, turn: bool
) -> tuple[dict[str, BenchPart], str, dict[str, str]]:
    """The same circuit with other names for its nodes; `turn`: the leads of some resistors the other way round too."""
    nodes = [n for n in dict.fromkeys(n for p in parts.values() for n in p.ends) if n != ground]
    letters = [f"{c}{k}" for k, c in enumerate("qzbxamdhy")]
    others = dict(zip(nodes, (str(n) for n in draw.permutation(letters)), strict=False))
    others[ground] = "ref"
    found = {}
    for name, p in parts.items():
        a, b = (others[n] for n in p.ends)
        is_turned = turn and p.kind == "resistor" and bool(draw.random() < 0.5)
        found[name] = replace(p, ends=(b, a) if is_turned else (a, b))
    return found, "ref", others


def currents_worth_reading(parts: Parts) -> Iterator[str]:
    """The parts through which a current is read: one of each set that is plainly in series."""
    at: dict[str, list[str]] = {}
    for name, p in parts.items():
        for node in p.ends:
            at.setdefault(node, []).append(name)
    seen: set[frozenset[str]] = set()
    for name, p in parts.items():
        if p.is_source:
            continue
        alike, edge = {name}, [name]
        while edge:
            for node in parts[edge.pop()].ends:
                if len(at[node]) == 2:
                    edge += [other for other in at[node] if other not in alike]
                    alike.update(at[node])
        key = frozenset(alike)
        if key not in seen:
            seen.add(key)
            yield name
