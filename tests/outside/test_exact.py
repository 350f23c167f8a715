"""Zeros and open circuits against exact fractions: no rounding can make nothing out of something, or the reverse."""

import random
from fractions import Fraction
from unittest import TestCase

from recensor.core.circuit import (
    RESISTOR,
    VOLTAGE_SOURCE,
    Across,
    Part,
    Setup,
    Sheet,
    Target,
    Through,
)
from recensor.core.judgement import calculate, gather
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Run

OHMS, VOLTS = ("100", "220", "330", "470", "1000", "4700"), ("3", "5", "9", "9")


class Exact:
    """Potentials of a circuit of resistors and ideal voltage sources by Gauss elimination in fractions.

    Each joined piece counts from a node of its own.
    """

    def __init__(self, sheet: Sheet, setup: Setup) -> None:
        self.setup = setup
        self.ohms = {n: Fraction(p.nominal.value) for n, p in sheet.parts.items() if not p.kind.is_source}
        self.volts = {
            n: Fraction(0 if n in setup.sources_off else p.nominal.value)
            for n, p in sheet.parts.items() if p.kind.is_source
        }  # fmt: skip
        self.piece = self._pieces()
        self.at = self._solve()

    def _pieces(self) -> dict[str, str]:
        piece = {node: node for node in self.setup.nodes}
        for _ in piece:
            for a, b in self.setup.connections.values():
                piece[a] = piece[b] = min(piece[a], piece[b])
        return piece

    def _solve(self) -> dict[str, Fraction]:
        nodes, sources = list(self.setup.nodes), list(self.volts)
        size = len(nodes) + len(sources)
        rows = [[Fraction(0)] * (size + 1) for _ in range(size)]
        place = {node: k for k, node in enumerate(nodes)}
        for name, (a, b) in self.setup.connections.items():
            i, j = place[a], place[b]
            if name in self.ohms:
                for row, column, sign in ((i, i, 1), (j, j, 1), (i, j, -1), (j, i, -1)):
                    rows[row][column] += sign / self.ohms[name]
            else:
                k = len(nodes) + sources.index(name)
                rows[i][k], rows[j][k] = rows[i][k] + 1, rows[j][k] - 1
                rows[k][i], rows[k][j] = rows[k][i] + 1, rows[k][j] - 1
                rows[k][size] += self.volts[name]
        for node, k in place.items():
            if self.piece[node] == node:  # the piece's own ground
                rows[k] = [Fraction(int(column == k)) for column in range(size)] + [Fraction(0)]
        for k in range(size):
            pivot = next(row for row in range(k, size) if rows[row][k])
            rows[k], rows[pivot] = rows[pivot], rows[k]
            rows[k] = [value / rows[k][k] for value in rows[k]]
            for row in range(size):
                if row != k and rows[row][k]:
                    rows[row] = [x - rows[row][k] * y for x, y in zip(rows[row], rows[k], strict=True)]
        return {node: rows[k][size] for node, k in place.items()}

    def value(self, target: Target) -> Fraction | None:
        """What is there exactly; None where nothing joins the two nodes."""
        first, second = target.nodes if isinstance(target, Across) else self.setup.connections[target.part]
        if self.piece[first] != self.piece[second]:
            return None
        drop = self.at[first] - self.at[second]
        return drop if isinstance(target, Across) else drop / self.ohms[target.part]


def drawn(draw: random.Random) -> Sheet:
    """A circuit with loops cut open, sources off, and values that balance."""
    nodes = ["gnd", *"abcdef"[: draw.randint(2, 6)]]
    connections, parts = {}, {}
    held = {node: node for node in nodes}
    for k in range(draw.randint(1, 3)):
        a, b = draw.sample(nodes, 2)
        if held[a] != held[b]:
            held = {node: held[b] if top == held[a] else top for node, top in held.items()}
            connections[f"V{k}"] = (a, b)
            parts[f"V{k}"] = Part(f"V{k}", VOLTAGE_SOURCE, parse(draw.choice(VOLTS)))
    for k in range(draw.randint(2, 9)):
        a, b = draw.sample(nodes, 2)
        connections[f"R{k}"] = (a, b)
        parts[f"R{k}"] = Part(f"R{k}", RESISTOR, parse(draw.choice(OHMS[:2] if draw.random() < 0.5 else OHMS)))
    off = {name for name in connections if name[0] == "V" and draw.random() < 0.3}
    reference = next(iter(connections.values()))[1]
    return Sheet("exact", parts, {"main": Setup("main", reference, connections, frozenset(off))})


class ZerosAndOpens(TestCase):
    def test_both_are_told_just_where_they_are(self) -> None:
        draw, seen = random.Random(4711), {"zero": 0, "open": 0, "value": 0}
        for _ in range(400):
            sheet = drawn(draw)
            setup = sheet.setup()
            exact = Exact(sheet, setup)
            nodes = list(setup.nodes)
            targets: list[Target] = [Through(name, "main") for name in setup.connections if name[0] == "R"]
            targets += [Across(VOLTAGE, (a, b), "main") for k, a in enumerate(nodes) for b in nodes[k + 1 :]]
            found = calculate(sheet, targets, gather(Run(sheet)))
            for target in targets:
                calculated, value = found.both(target)[0], exact.value(target)
                if value is None:
                    self.assertTrue(calculated.open, (setup, target))
                    seen["open"] += 1
                    continue
                self.assertEqual(calculated.zero, value == 0, (setup, target, value))
                self.assertAlmostEqual(calculated.value, float(value), delta=1e-9 * max(1.0, abs(float(value))))
                seen["value" if value else "zero"] += 1
        self.assertGreater(min(seen.values()), 200, seen)
