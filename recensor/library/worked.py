"""The worked calculation as a view model: reduction steps with drawings, or node and mesh equations."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from django.utils.safestring import SafeString, mark_safe

from recensor.core import equations, loops, network
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.network import Element
from recensor.core.quantity import AMPERE, OHM, VOLT, WATT, parse, rounded
from recensor.core.record import Run
from recensor.core.reduction import Merge, Reduction, Split, reduce
from recensor.core.structure import Leaf, NotSeriesParallelError, Parallel, Series, Tree, leaves, tree_of_source
from recensor.drawing import mathml
from recensor.drawing.mathml import formula, fraction, in_brackets, indexed, joined, name, quantity, signed_sum
from recensor.library import drawings
from recensor.people.models import User

REDUCTION, NODES, MESHES = "reduction", "nodes", "meshes"
SIEMENS = "S"


@dataclass(frozen=True)
class Step:
    """One step: what is done, the formulas, and the circuit afterwards."""

    title: str
    formulas: tuple[SafeString, ...]
    drawing: str = ""
    check: str = ""


@dataclass(frozen=True)
class Result:
    """A part's voltage, current and power, as calculated."""

    part: str
    voltage: str
    current: str
    power: str


@dataclass(frozen=True)
class Worked:
    """Everything the page shows. `way` is the one shown, `ways` those there are; `missing` says why there is none."""

    way: str
    ways: tuple[str, ...]
    steps: tuple[Step, ...]
    results: tuple[Result, ...]
    laws: tuple[SafeString, ...]
    missing: str = ""


def build(run: Run, setup: Setup, values: Mapping[str, float | None], way: str, person: User) -> Worked:
    """Work a setup out with these values in SI units, written the way the person prefers."""
    unknown = [part for part in setup.connections if values.get(part) is None and part not in setup.sources_off]
    if unknown:
        return Worked("", (), (), (), (), f"{' and '.join(unknown)} has no value yet: mark it, or read it by itself.")
    elements = network.elements_of(setup, run.parts, values)
    try:
        solution = network.solve(elements, setup.reference)
    except network.NetworkError as error:
        return Worked("", (), (), (), (), f"{error}.")
    writer = _Writer(run, setup, elements, person)
    ways = (NODES, MESHES)
    reduction = None
    try:
        source, tree = tree_of_source(setup, run.parts)
        if source not in setup.sources_off:
            reduction = writer.reduced(source, tree)
            ways = (REDUCTION, *ways)
    except NotSeriesParallelError:
        pass
    way = way if way in ways else ways[0]
    steps = {
        REDUCTION: lambda: writer.reduction_steps(*reduction) if reduction else (),
        NODES: writer.node_steps,
        MESHES: writer.mesh_steps,
    }[way]()
    results = tuple(
        Result(e.name, *(rounded(abs(float(value)), None, unit) for value, unit in (
            (_drop(solution, e), VOLT), (solution.current(e.name), AMPERE), (solution.power(e.name), WATT))))
        for e in elements
    )  # fmt: skip
    return Worked(way, ways, tuple(steps), results, tuple(writer.laws(solution)))


@dataclass(frozen=True)
class _Writer:
    """Writes one setup's calculation down."""

    run: Run
    setup: Setup
    elements: Sequence[Element]
    person: User

    def reduced(self, source: str, tree: Tree) -> tuple[str, Tree, Reduction]:
        """The source, the tree with the source's own resistance in it, and the reduction of it."""
        driving = next(e for e in self.elements if e.name == source)
        values = {e.name: e.value for e in self.elements if e.name != source}
        if driving.internal:
            own = f"r{source}"
            values[own] = driving.internal
            if driving.kind is Kind.CURRENT_SOURCE:
                beside = tree.members if isinstance(tree, Parallel) else (tree,)
                tree = Parallel((Leaf(own, tree.start, tree.end), *beside), tree.start, tree.end)
            else:
                behind = tree.members if isinstance(tree, Series) else (tree,)
                tree = Series((Leaf(own, tree.start, f"{source} inside"), *behind), tree.start, tree.end)
        drive = {"voltage": driving.value} if driving.kind is Kind.VOLTAGE_SOURCE else {"current": driving.value}
        return source, tree, reduce(tree, values, **drive)

    def reduction_steps(self, source: str, tree: Tree, done: Reduction) -> Iterator[Step]:
        """In to one resistance, Ohm's law, and back out."""
        known = {e.name: e.value for e in self.elements}
        for merge in done.merges:
            known[merge.result] = merge.value
            names = " and ".join(member for member, _ in merge.members)
            yield Step(f"{names} in {merge.kind}", self._merged(merge), self._shrunk(source, merge.left, known))
        yield Step("Ohm's law for the whole", tuple(self._whole(source, done)))
        for split in done.splits:
            yield self._split(split)

    def _merged(self, merge: Merge) -> tuple[SafeString, ...]:
        symbols = [name(member) for member, _ in merge.members]
        numbers = [quantity(rounded(value, None, OHM)) for _, value in merge.members]
        result = quantity(rounded(merge.value, None, OHM))
        if merge.kind == "series":
            return (_safe(formula(name(merge.result), joined("+", *symbols), joined("+", *numbers), result)),)
        if len(symbols) == 2 and self.person.parallel_formula == "product":
            sides = [fraction(joined("·", *both), joined("+", *both)) for both in (symbols, numbers)]
            return (_safe(formula(name(merge.result), *sides, result)),)
        one = mathml.number("1")
        sums = [joined("+", *(fraction(one, each) for each in both)) for both in (symbols, numbers)]
        return (_safe(formula(fraction(one, name(merge.result)), *sums)), _safe(formula(name(merge.result), result)))

    def _whole(self, source: str, done: Reduction) -> Iterator[SafeString]:
        letter = indexed(self.person.source_letter, source[1:] or source)
        total, volts = quantity(rounded(done.total, None, OHM)), quantity(rounded(done.voltage, None, VOLT))
        amps = quantity(rounded(done.current, None, AMPERE))
        if self.run.parts[source].kind is Kind.VOLTAGE_SOURCE:
            yield _safe(formula(name("I"), fraction(letter, name(done.name)), fraction(volts, total), amps))
        else:
            yield _safe(formula(name("V"), joined("·", name(source), name(done.name)), joined("·", amps, total), volts))

    def _split(self, split: Split) -> Step:
        names = " and ".join(share.name for share in split.shares)
        volts, amps = rounded(split.voltage, None, VOLT), rounded(split.current, None, AMPERE)
        lines, agree = [], True
        for share in split.shares:
            symbol = name(share.name)
            ohms = quantity(rounded(share.resistance, None, OHM))
            if split.kind == "series":
                own = rounded(share.voltage, None, VOLT)
                left = _of("V", share.name)
                lines.append(
                    formula(left, joined("·", name("I"), symbol), joined("·", quantity(amps), ohms), quantity(own))
                )
                agree &= rounded(share.by_divider, None, VOLT) == own
            else:
                own = rounded(share.current, None, AMPERE)
                left = _of("I", share.name)
                lines.append(formula(left, fraction(name("V"), symbol), fraction(quantity(volts), ohms), quantity(own)))
                agree &= rounded(share.by_divider, None, AMPERE) == own
        common = f"the same {amps} through each" if split.kind == "series" else f"the same {volts} across each"
        rule = "voltage" if split.kind == "series" else "current"
        check = f"The {rule} divider gives the same." if agree else f"The {rule} divider does not give the same."
        return Step(
            f"Back out of {split.group}: {names} in {split.kind}, {common}", tuple(map(_safe, lines)), check=check
        )

    def _shrunk(self, source: str, left: Tree, known: Mapping[str, float]) -> str:
        """The circuit as it is after a step, with made-up parts for what was merged."""
        parts: dict[str, Part] = {source: self.run.parts[source]}
        connections = {source: (left.start, left.end)}
        for leaf in leaves(left):
            value = parse(rounded(known[leaf.part], None, OHM).replace(" ", ""), OHM) if leaf.part in known else None
            parts[leaf.part] = self.run.parts.get(leaf.part, Part(leaf.part, Kind.RESISTOR, value))
            connections[leaf.part] = (leaf.start, leaf.end)
        setup = replace(self.setup, connections=connections, reference=left.end, values={}, sources_off=frozenset())
        return drawings.of_setup(replace(self.run, parts=parts), setup, zigzag=self.person.draws_zigzag)

    def node_steps(self) -> Iterator[Step]:
        """Kirchhoff's current law at each node, with symbols and with numbers, and the solution."""
        system = equations.node_equations(self.elements, self.setup.reference)
        for equation in system.equations:
            if equation.about in self.setup.nodes:
                leaving = [(sign, term) for e in self.elements for sign, term in self._leaving(e, equation.about)]
                symbols = formula(signed_sum(leaving), mathml.number("0"))
                yield Step(f"Node {equation.about}: what leaves it adds up to zero",
                           (_safe(symbols), _safe(_in_numbers(equation, AMPERE))))  # fmt: skip
            else:
                yield Step(f"{equation.about} holds its voltage", (_safe(_in_numbers(equation, VOLT)),))
        yield self._solved(system)

    def _leaving(self, element: Element, node: str) -> Iterator[tuple[int, str]]:
        """The current that leaves a node through a part, as a signed term."""
        for here, other, sign in ((element.first, element.second, -1), (element.second, element.first, 1)):
            if here != node:
                continue
            if element.kind is Kind.RESISTOR:
                potentials = [(1, _of("V", here))] + ([(-1, _of("V", other))] if other != self.setup.reference else [])
                yield 1, fraction(signed_sum(potentials), name(element.name))
            else:
                yield sign, _of("I", element.name)

    def mesh_steps(self) -> Iterator[Step]:
        """Kirchhoff's voltage law round each mesh, with symbols and with numbers, and the solution."""
        system, around = equations.mesh_equations(self.elements), equations.meshes(self.elements)
        by_name = {e.name: e for e in self.elements}
        if not around:
            yield Step("There is no closed loop: no current flows", ())
            return
        for equation in system.equations:
            mesh = next((one for one in around if one.current == equation.about), None)
            if mesh is None:
                yield Step(f"{equation.about} holds its current", (_safe(_in_numbers(equation, AMPERE)),))
                continue
            terms = []
            for part, sign in mesh.parts:
                element = by_name[part]
                if element.kind is Kind.RESISTOR:
                    passing = [
                        (sign * other, name(one.current)) for one in around for p, other in one.parts if p == part
                    ]
                    currents = signed_sum(passing)
                    terms.append((1, joined("·", name(part), in_brackets(currents) if len(passing) > 1 else currents)))
                else:
                    letter = self.person.source_letter if element.kind is Kind.VOLTAGE_SOURCE else "U"
                    terms.append((sign, indexed(letter, part[1:] or part)))
            title = f"Mesh {mesh.current}: {' · '.join(part for part, _ in mesh.parts)}"
            yield Step(
                title, (_safe(formula(signed_sum(terms), mathml.number("0"))), _safe(_in_numbers(equation, VOLT)))
            )
        yield self._solved(system)
        lines = []
        for element in self.elements:
            passing = [
                (sign, name(mesh.current)) for mesh in around for part, sign in mesh.parts if part == element.name
            ]
            if passing and element.kind is Kind.RESISTOR:
                through = rounded(equations.current_from_meshes(element.name, around, system), None, AMPERE)
                lines.append(_safe(formula(_of("I", element.name), signed_sum(passing), quantity(through))))
        yield Step("Each resistor's current, from the meshes that pass it", tuple(lines))

    def _solved(self, system: equations.System) -> Step:
        units = {"V": VOLT, "I": AMPERE}
        lines = tuple(
            _safe(formula(_unknown(unknown), quantity(rounded(value, None, units[system.units[unknown]]))))
            for unknown, value in system.solution.items()
        )
        return Step("Solved together", lines)

    def laws(self, solution: network.Solution) -> Iterator[SafeString]:
        """Kirchhoff's voltage law round every loop, in the person's way of saying it."""
        connections = {e.name: (e.first, e.second) for e in self.elements}
        sources = frozenset(e.name for e in self.elements if e.kind.is_source)
        by_name = {e.name: e for e in self.elements}
        for loop in loops.independent_loops(connections, sources):
            rises = []
            for step in loop:
                drop = _drop(solution, by_name[step.part]) * (1 if step.forward else -1)
                rises.append((1 if drop <= 0 else -1, quantity(rounded(abs(drop), None, VOLT))))
            if self.person.voltage_law == "signed":
                yield _safe(formula(signed_sum(rises), mathml.number("0")))
            else:
                up, down = ([(1, text) for sign, text in rises if sign == way] for way in (1, -1))
                yield _safe(formula(signed_sum(up), signed_sum(down)))


def _in_numbers(equation: equations.Equation, right_unit: str) -> str:
    """An equation with its numbers put in; each coefficient's unit follows from both sides."""
    terms = []
    for coefficient, unknown in equation.terms:
        per = {("V", AMPERE): SIEMENS, ("I", VOLT): OHM, ("U", AMPERE): SIEMENS}.get((unknown[0], right_unit))
        size = quantity(rounded(abs(coefficient), None, per)) if per else ""
        symbol = _unknown(unknown)
        terms.append((1 if coefficient > 0 else -1, joined("·", size, symbol) if size else symbol))
    right = quantity(rounded(equation.right, None, right_unit)) if equation.right else mathml.number("0")
    return formula(signed_sum(terms), right)


def _unknown(text: str) -> str:
    """``V(B)`` is V with the index B; ``I2`` is I with the index 2."""
    return indexed(text[0], text[2:-1]) if text[1:2] == "(" else name(text)


def _of(letter: str, part: str) -> str:
    """A part's voltage or current: ``V`` with the part's number, or its whole name where it has none."""
    return indexed(letter, part[1:] if part[0] == "R" and part[1:] else part)


def _drop(solution: network.Solution, element: Element) -> float:
    return float(solution.voltage(element.first, element.second))


def _safe(markup: str) -> SafeString:
    return mark_safe(markup)  # noqa: S308 (made by drawing.mathml, which escapes every name)
