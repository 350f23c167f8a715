"""The worked calculation as a document: reduction steps with drawings, or node and mesh equations."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit import (
    RESISTOR,
    Leaf,
    NotSeriesParallelError,
    Parallel,
    Part,
    Series,
    Setup,
    Sheet,
    Tree,
    leaves,
    loops,
    tree_of_source,
)
from recensor.core.figures import rounded, to_four_figures
from recensor.core.quantity import AMPERE, OHM, VOLT, WATT
from recensor.core.solving import (
    LAWS,
    AtNode,
    Element,
    Equation,
    LoadLine,
    Merge,
    Mesh,
    OfSource,
    Operating,
    Reduction,
    SetToZero,
    Split,
    System,
    Unknown,
    UnmarkedError,
    equations,
    guesses,
    load_line,
    nonlinear_parts,
    operate,
    reduce,
)
from recensor.drawing import mathml
from recensor.drawing.conventions import Conventions
from recensor.drawing.mathml import Markup, formula, fraction, in_brackets, indexed, joined, name, quantity, signed_sum
from recensor.drawing.plot import Plot, Plotted, PlottedLine, plot
from recensor.drawing.schematic import Schematic, schematic

SIEMENS = "S"


class Method(StrEnum):
    """How a circuit is worked out."""

    LOAD_LINE = "load line"
    GUESSES = "guess and correct"
    REDUCTION = "reduction"
    NODES = "nodes"
    MESHES = "meshes"


@dataclass(frozen=True)
class WorkedStep:
    """One step: what is done, the formulas, and the circuit afterwards."""

    title: str
    formulas: tuple[Markup, ...]
    drawing: Schematic | None = None
    check: str = ""
    plot: Plot | None = None


@dataclass(frozen=True)
class WorkedResult:
    """A part's voltage, current and power, as calculated."""

    part: str
    voltage: str
    current: str
    power: str


@dataclass(frozen=True)
class Worked:
    """The whole calculation by one of the `methods` there are; `missing` says why there is none."""

    method: Method | None = None
    methods: tuple[Method, ...] = ()
    steps: tuple[WorkedStep, ...] = ()
    results: tuple[WorkedResult, ...] = ()
    laws: tuple[Markup, ...] = ()
    missing: str = ""


def worked(sheet: Sheet, setup: Setup, values: Mapping[str, float], method: str, conventions: Conventions) -> Worked:
    """Work a setup out with these values in SI units, written the way the person prefers."""
    setup = setup.without_wires(sheet.parts)
    if not setup.connections:
        return Worked(missing="Nothing here is closed to a loop: no current flows.")
    operating = operate(sheet, setup, values)
    if isinstance(operating.problem, UnmarkedError):
        return Worked(
            missing=f"{' and '.join(operating.problem.parts)} has no value yet: mark it, or read it by itself."
        )
    if operating.problem:
        return Worked(missing=f"{operating.problem}.")
    writer = _Writer(sheet, setup, operating.elements, conventions)
    if nonlinear_parts(operating.elements):
        return _nonlinear(writer, operating, method)
    methods: tuple[Method, ...] = (Method.NODES, Method.MESHES)
    reduction = None
    try:
        source, tree = tree_of_source(setup, sheet.parts)
        if source not in setup.sources_off:
            reduction = writer.reduced(source, tree)
            methods = (Method.REDUCTION, *methods)
    except NotSeriesParallelError:
        pass
    chosen = Method(method) if method in methods else methods[0]
    if chosen is Method.REDUCTION and reduction:
        steps = writer.reduction_steps(*reduction)
    else:
        steps = writer.node_steps() if chosen is Method.NODES else writer.mesh_steps()
    return Worked(chosen, methods, tuple(steps), _results(operating), tuple(writer.laws(operating)))


def _nonlinear(writer: "_Writer", operating: Operating, method: str) -> Worked:
    """A circuit with a lamp or a diode: no equation of the first degree says it, a picture or a few guesses do."""
    line = load_line(writer.elements, writer.setup.reference)
    methods = (Method.LOAD_LINE, Method.GUESSES) if line else (Method.GUESSES,)
    chosen = Method(method) if method in methods else methods[0]
    steps = load_line_steps(line) if chosen is Method.LOAD_LINE and line else writer.guessed_steps()
    return Worked(chosen, methods, tuple(steps), _results(operating), tuple(writer.laws(operating)))


def _results(operating: Operating) -> tuple[WorkedResult, ...]:
    return tuple(
        WorkedResult(name, rounded(abs(state.volts), None, VOLT), rounded(abs(state.amperes), None, AMPERE),
               rounded(abs(state.watts), None, WATT))
        for name, state in operating.parts.items()
    )  # fmt: skip


def load_line_steps(line: LoadLine) -> Iterator[WorkedStep]:
    """What the rest gives the part, the line of that, and where the part's own curve meets it."""
    volts, ohms = rounded(line.volts, None, VOLT), rounded(line.ohms, None, OHM)
    yield WorkedStep(f"Take {line.part} out: what lies across its place", (formula(name("V0"), quantity(volts)),))
    yield WorkedStep(
        f"Look back from its place, the sources off: the resistance behind {line.part}",
        (formula(name("R0"), quantity(ohms)),),
    )
    shorted = rounded(line.shorted, None, AMPERE)
    ends = fraction(signed_sum([(1, name("V0")), (-1, name("V"))]), name("R0"))
    yield WorkedStep(
        f"So the rest gives {line.part} a straight line of volts and amps, from {volts} at no current to {shorted} "
        "at no volts",
        (formula(name("I"), ends),),
    )
    where = rounded(line.at_volts, None, VOLT), rounded(line.at_amperes, None, AMPERE)
    ends_at = (0.0, line.shorted), (line.volts, 0.0)
    points = [
        Plotted(line.at_volts, line.at_amperes, 0.0, 0.0, 1, f"{line.part} at {where[0]}, {where[1]}"),
        *(Plotted(v, i, 0.0, 0.0, 0, "end of the load line", is_end=True) for v, i in ends_at),
    ]
    load = PlottedLine(points, lambda v: (line.volts - v) / line.ohms, line.curve)
    picture = plot([load], (VOLT, AMPERE), ("V", "I"))
    yield WorkedStep(
        f"Both must hold: where the curve of {line.part} (dashed) meets the load line, it works",
        (formula(name("V"), quantity(where[0])), formula(name("I"), quantity(where[1]))),
        plot=picture,
    )


@dataclass(frozen=True)
class _Writer:
    """Writes one setup's calculation down."""

    sheet: Sheet
    setup: Setup
    elements: Sequence[Element]
    conventions: Conventions

    def reduced(self, source: str, tree: Tree) -> tuple[str, Tree, Reduction]:
        """The source, the tree with the source's own resistance in it, and the reduction of it."""
        driving = next(e for e in self.elements if e.name == source)
        values = {e.name: e.value for e in self.elements if e.name != source}
        if driving.internal:
            own = f"r{source}"
            values[own] = driving.internal
            if LAWS[driving.kind].pushes:
                beside = tree.members if isinstance(tree, Parallel) else (tree,)
                tree = Parallel((Leaf(own, tree.start, tree.end), *beside), tree.start, tree.end)
            else:
                behind = tree.members if isinstance(tree, Series) else (tree,)
                tree = Series((Leaf(own, tree.start, f"{source} inside"), *behind), tree.start, tree.end)
        if LAWS[driving.kind].pushes:
            return source, tree, reduce(tree, values, current=driving.value)
        return source, tree, reduce(tree, values, voltage=driving.value)

    def reduction_steps(self, source: str, tree: Tree, done: Reduction) -> Iterator[WorkedStep]:
        """In to one resistance, Ohm's law, and back out."""
        known = {e.name: e.value for e in self.elements}
        for merge in done.merges:
            known[merge.result] = merge.value
            names = " and ".join(member for member, _ in merge.members)
            yield WorkedStep(f"{names} in {merge.kind}", self._merged(merge), self._shrunk(source, merge.left, known))
        yield WorkedStep("Ohm's law for the whole", tuple(self._whole(source, done)))
        for split in done.splits:
            yield self._split(split)

    def _merged(self, merge: Merge) -> tuple[Markup, ...]:
        symbols = [name(member) for member, _ in merge.members]
        numbers = [quantity(rounded(value, None, OHM)) for _, value in merge.members]
        result = quantity(rounded(merge.value, None, OHM))
        if merge.kind == "series":
            return ((formula(name(merge.result), joined("+", *symbols), joined("+", *numbers), result)),)
        if len(symbols) == 2 and self.conventions.product_over_sum:
            sides = [fraction(joined("·", *both), joined("+", *both)) for both in (symbols, numbers)]
            return ((formula(name(merge.result), *sides, result)),)
        one = mathml.number("1")
        sums = [joined("+", *(fraction(one, each) for each in both)) for both in (symbols, numbers)]
        return ((formula(fraction(one, name(merge.result)), *sums)), (formula(name(merge.result), result)))

    def _whole(self, source: str, done: Reduction) -> Iterator[Markup]:
        letter = indexed(self.conventions.source_letter, source[1:] or source)
        total, volts = quantity(rounded(done.total, None, OHM)), quantity(rounded(done.voltage, None, VOLT))
        amps = quantity(rounded(done.current, None, AMPERE))
        if not LAWS[self.sheet.parts[source].kind].pushes:
            yield (formula(name("I"), fraction(letter, name(done.name)), fraction(volts, total), amps))
        else:
            yield (formula(name("V"), joined("·", name(source), name(done.name)), joined("·", amps, total), volts))

    def _split(self, split: Split) -> WorkedStep:
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
        return WorkedStep(f"Back out of {split.group}: {names} in {split.kind}, {common}", tuple(lines), check=check)

    def _shrunk(self, source: str, left: Tree, known: Mapping[str, float]) -> Schematic:
        """The circuit as it is after a step, with made-up parts for what was merged."""
        parts: dict[str, Part] = {source: self.sheet.parts[source]}
        connections = {source: (left.start, left.end)}
        for leaf in leaves(left):
            value = to_four_figures(known[leaf.part], OHM) if leaf.part in known else None
            parts[leaf.part] = self.sheet.parts.get(leaf.part, Part(leaf.part, RESISTOR, value))
            connections[leaf.part] = (leaf.start, leaf.end)
        setup = replace(self.setup, connections=connections, reference=left.end, values={}, sources_off=frozenset())
        return schematic(replace(self.sheet, parts=parts), setup)

    def node_steps(self) -> Iterator[WorkedStep]:
        """Kirchhoff's current law at each node, with symbols and with numbers, and the solution."""
        system = equations.node_equations(self.elements, self.setup.reference)
        for equation in system.equations:
            if isinstance(equation.about, AtNode):
                node = equation.about.node
                leaving = [(sign, term) for e in self.elements for sign, term in self._leaving(e, node)]
                symbols = formula(signed_sum(leaving), mathml.number("0"))
                yield WorkedStep(f"Node {node}: what leaves it adds up to zero",
                           ((symbols), (_in_numbers(equation, AMPERE))))  # fmt: skip
            elif isinstance(equation.about, OfSource):
                yield WorkedStep(f"{equation.about.source} holds its voltage", ((_in_numbers(equation, VOLT)),))
            elif isinstance(equation.about, SetToZero):
                node = equation.about.unknown.of
                yield WorkedStep(f"Node {node} hangs on current sources alone: count potentials there from it",
                           (_in_numbers(equation, VOLT),))  # fmt: skip
        yield self._solved(system)

    def _leaving(self, element: Element, node: str) -> Iterator[tuple[int, str]]:
        """The current that leaves a node through a part, as a signed term."""
        for here, other, sign in ((element.first, element.second, -1), (element.second, element.first, 1)):
            if here != node:
                continue
            if not element.kind.is_source:
                potentials = [(1, _of("V", here))] + ([(-1, _of("V", other))] if other != self.setup.reference else [])
                yield 1, fraction(signed_sum(potentials), name(element.name))
            else:
                yield sign, _of("I", element.name)

    def mesh_steps(self) -> Iterator[WorkedStep]:
        """Kirchhoff's voltage law round each mesh, with symbols and with numbers, and the solution."""
        system, around = equations.mesh_equations(self.elements), equations.meshes(self.elements)
        by_name = {e.name: e for e in self.elements}
        if not around:
            yield WorkedStep("There is no closed loop: no current flows", ())
            return
        for equation in system.equations:
            if isinstance(equation.about, OfSource):
                yield WorkedStep(f"{equation.about.source} holds its current", (_in_numbers(equation, AMPERE),))
            if isinstance(equation.about, SetToZero):
                source = equation.about.unknown.of
                yield WorkedStep(f"Nothing settles the voltage across {source}: count it from zero",
                           (_in_numbers(equation, VOLT),))  # fmt: skip
            if not isinstance(equation.about, Mesh):
                continue
            mesh = equation.about
            terms = []
            for part, sign in mesh.parts:
                element = by_name[part]
                if not element.kind.is_source:
                    passing = [
                        (sign * other, _unknown(passed.current))
                        for passed in around
                        for p, other in passed.parts
                        if p == part
                    ]
                    currents = signed_sum(passing)
                    terms.append((1, joined("·", name(part), in_brackets(currents) if len(passing) > 1 else currents)))
                else:
                    letter = "U" if LAWS[element.kind].pushes else self.conventions.source_letter
                    terms.append((sign, indexed(letter, part[1:] or part)))
            title = f"Mesh I{mesh.number}: {' · '.join(part for part, _ in mesh.parts)}"
            yield WorkedStep(title, ((formula(signed_sum(terms), mathml.number("0"))), (_in_numbers(equation, VOLT))))
        yield self._solved(system)
        lines = []
        for element in self.elements:
            passing = [
                (sign, _unknown(mesh.current)) for mesh in around for part, sign in mesh.parts if part == element.name
            ]
            if passing and not element.kind.is_source:
                through = rounded(equations.current_from_meshes(element.name, around, system), None, AMPERE)
                lines.append(formula(_of("I", element.name), signed_sum(passing), quantity(through)))
        yield WorkedStep("Each resistor's current, from the meshes that pass it", tuple(lines))

    def _solved(self, system: System) -> WorkedStep:
        lines = tuple(
            formula(_unknown(unknown), quantity(rounded(value, None, unknown.sought.unit)))
            for unknown, value in system.solution.items()
        )
        return WorkedStep("Solved together", lines)

    def guessed_steps(self) -> Iterator[WorkedStep]:
        """Each lamp a resistance, each diode a drop; solve, look what they would be then, and once more."""
        for k, guess in enumerate(guesses(self.elements, self.setup.reference), 1):
            lines = []
            for one in guess:
                size = rounded(one.assumed, None, OHM if one.is_ohms else VOLT)
                left = _of("R" if one.is_ohms else "V", one.part)
                lines.append(formula(left, quantity(size)))
                lines.append(formula(_of("I", one.part), quantity(rounded(one.amperes, None, AMPERE))))
                if one.is_ohms:
                    lines.append(formula(_of("V", one.part), quantity(rounded(one.volts, None, VOLT))))
            title = "Begin with what is stated" if k == 1 else f"Once more ({k}) with what they are at that"
            yield WorkedStep(f"{title}, and solve the rest", tuple(lines))

    def laws(self, operating: Operating) -> Iterator[Markup]:
        """Kirchhoff's voltage law round every loop, in the person's way of saying it."""
        connections = {e.name: (e.first, e.second) for e in self.elements}
        sources = frozenset(e.name for e in self.elements if e.kind.is_source)
        for loop in loops.independent_loops(connections, sources):
            rises = []
            for passage in loop:
                drop = operating.parts[passage.part].volts * (1 if passage.forward else -1)
                rises.append((1 if drop <= 0 else -1, quantity(rounded(abs(drop), None, VOLT))))
            if self.conventions.signed_sum:
                yield formula(signed_sum(rises), mathml.number("0"))
            else:
                up, down = ([(1, text) for sign, text in rises if sign == way] for way in (1, -1))
                yield formula(signed_sum(up), signed_sum(down))


def _in_numbers(equation: Equation, right_unit: str) -> Markup:
    """An equation with its numbers put in; each coefficient's unit follows from both sides."""
    terms = []
    for coefficient, unknown in equation.terms:
        per = {(VOLT, AMPERE): SIEMENS, (AMPERE, VOLT): OHM}.get((unknown.sought.unit, right_unit))
        size = quantity(rounded(abs(coefficient), None, per)) if per else ""
        symbol = _unknown(unknown)
        terms.append((1 if coefficient > 0 else -1, joined("·", size, symbol) if size else symbol))
    right = quantity(rounded(equation.right, None, right_unit)) if equation.right else mathml.number("0")
    return formula(signed_sum(terms), right)


def _unknown(unknown: Unknown) -> str:
    """An unknown as its letter with the node, part or mesh as index."""
    return indexed(unknown.sought.letter, unknown.of)


def _of(letter: str, part: str) -> str:
    """A part's voltage or current: ``V`` with the part's number, or its whole name where it has none."""
    return indexed(letter, part[1:] if part[0] == "R" and part[1:] else part)
