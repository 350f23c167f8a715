"""Operating points against ngspice, an independent circuit simulator, on generated networks.

Each answer is checked as a person would read it: every node voltage and every source current.
"""

import random
import re
import subprocess
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings

from recensor.core.circuit import (
    CURRENT_SOURCE,
    RESISTOR,
    VOLTAGE_SOURCE,
    Across,
    Judge,
    Sheet,
    Through,
    asking_everything,
    node_list,
    one_line,
)
from recensor.core.examples import experiments
from recensor.core.judgement import assess
from recensor.core.meters import Accuracy, Profile, Range
from recensor.core.quantity import CURRENT, VOLTAGE, parse
from recensor.core.record import Run
from recensor.core.solving import (
    Element,
    Sought,
    Unknown,
    elements_of,
    equations,
    operate,
    resistance_between,
    solve,
)
from recensor.formats import spice
from tests.samples import samples
from tests.strategies import hostile

R, V, I = RESISTOR, VOLTAGE_SOURCE, CURRENT_SOURCE  # noqa: E741
LETTER = {R: "r", V: "v", I: "i"}


def netlist(elements: list[Element]) -> str:
    """The circuit in SPICE's own lines; node g is ground. A current source there pushes out of its second node."""
    lines = ["generated network"]
    for k, e in enumerate(elements):
        a, b = (("0" if node == "g" else node) for node in (e.first, e.second))
        if e.kind is I:
            lines.append(f"i{k} {b} {a} dc {e.value!r}")
            if e.internal:
                lines.append(f"ri{k} {a} {b} {e.internal!r}")
        elif e.kind is V and e.internal:
            lines += [f"v{k} s{k} {b} dc {e.value!r}", f"rs{k} s{k} {a} {e.internal!r}"]
        else:
            lines.append(f"{LETTER[e.kind]}{k} {a} {b} {'dc ' if e.kind is V else ''}{e.value!r}")
    return "\n".join(lines)


def operating_point(elements: list[Element]) -> dict[str, float]:
    """ngspice's node voltages by name, and source currents as ``v3#branch`` (counted into the + terminal)."""
    nodes = {node for e in elements for node in (e.first, e.second)} - {"g"}
    wanted = [f"v({node})" for node in nodes] + [f"i(v{k})" for k, e in enumerate(elements) if e.kind is V]
    return printed(netlist(elements), wanted)


def printed(lines: str, wanted: list[str]) -> dict[str, float]:
    """What ngspice prints of a netlist's operating point."""
    control = ["set numdgt=12", "op", *(f"print {name}" for name in wanted)]
    text = "\n".join([lines, ".options gmin=1e-30 reltol=1e-9", ".control", *control, ".endc", ".end", ""])
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "network.cir"
        file.write_text(text)
        done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=30, check=False)
    found = dict(re.findall(r"^(\S+) = (\S+)$", done.stdout, re.MULTILINE))
    return {name: float(found[name]) for name in wanted}


def generated(shape: str, draw: random.Random) -> list[Element]:
    """A network of the named shape with random values."""

    def resistor(k: int, a: str, b: str) -> Element:
        return Element(f"R{k}", R, a, b, round(10 ** draw.uniform(0.5, 5.5), 1))

    source = Element("V1", V, "a0", "g", round(draw.uniform(1, 24), 2), draw.choice([0.0, 0.4]))
    count = draw.randint(3, 8)
    if shape == "series":
        return [source, *(resistor(k, f"a{k}", f"a{k + 1}" if k < count - 1 else "g") for k in range(count))]
    if shape == "parallel":
        return [source, *(resistor(k, "a0", "g") for k in range(count))]
    if shape == "ladder":
        rungs = [
            part
            for k in range(count)
            for part in (resistor(2 * k, f"a{k}", f"a{k + 1}"), resistor(2 * k + 1, f"a{k + 1}", "g"))
        ]
        return [source, *rungs]
    bridge = [
        resistor(k, *nodes) for k, nodes in enumerate([("a0", "x"), ("a0", "y"), ("x", "g"), ("y", "g"), ("x", "y")])
    ]
    if shape == "bridge":
        return [source, *bridge]
    if shape == "two voltage sources":
        return [source, *bridge, Element("V2", V, "y", "z", round(draw.uniform(-9, 9), 2)), resistor(9, "z", "g")]
    internal = draw.choice([0.0, 10e3])
    return [
        source,
        *bridge,
        Element("I1", I, "y", "g", round(draw.uniform(-0.05, 0.05), 4), internal),
        resistor(9, "y", "g"),
    ]


class OperatingPoints(TestCase):
    def test_generated_networks(self) -> None:
        draw = random.Random(60062)
        for shape in ("series", "parallel", "ladder", "bridge", "two voltage sources", "current source"):
            for trial in range(6):
                elements = generated(shape, draw)
                theirs, ours = operating_point(elements), solve(elements, "g")
                scale = max(abs(value) for name, value in theirs.items() if name.startswith("v("))
                for name, value in theirs.items():
                    with self.subTest(shape=shape, trial=trial, answer=name):
                        if name.startswith("v("):
                            self.assertAlmostEqual(float(ours.voltage(name[2:-1], "g")), value, delta=1e-6 * scale)
                        else:
                            delivered = float(ours.current(elements[int(name[3:-1])].name))
                            self.assertAlmostEqual(delivered, -value, delta=1e-6 * abs(value) + 1e-9)

    def test_resistance_between_two_nodes(self) -> None:
        """ngspice has no ohmmeter: 1 A is driven in and the voltage read, with its own source."""
        draw = random.Random(60063)
        for shape in ("ladder", "bridge"):
            passive = generated(shape, draw)[1:]
            (seen,) = resistance_between(passive, [("a0", "g")])
            theirs = operating_point([*passive, Element("I1", I, "a0", "g", 1.0)])["v(a0)"]
            self.assertAlmostEqual(seen[0] / theirs, 1.0, places=6)


class ExportedNetlists(TestCase):
    def test_an_exported_netlist_runs_and_gives_the_same_numbers(self) -> None:
        for text in [
            "V1 A gnd 9V internal 0.4\nR1 A B 1k\nR2 A C 2k2\nR3 B gnd 3k3\nR4 C gnd 470\nR5 B C 10k",
            "V1 A gnd 12V\nR1 A J 100\nV2 K gnd 5V\nR2 K J 220\nR3 J gnd 330\nI1 J gnd 10mA internal 10k",
        ]:
            run = node_list.read(text)
            setup = run.setups["main"]
            values = {name: float(part.nominal) for name, part in run.parts.items()}
            ours = solve(elements_of(setup, run.parts, values), "gnd")
            exported = spice.write(run, setup).replace(".op\n.end\n", "")
            nodes = [node for node in setup.nodes if node != "gnd"]
            theirs = printed(exported, [f"v({node.lower()})" for node in nodes])
            for node in nodes:
                self.assertAlmostEqual(theirs[f"v({node.lower()})"], float(ours.voltage(node, "gnd")), places=6)

    def test_generated_circuits_exported_solved_and_worked_out_by_hand_agree(self) -> None:
        """The written netlist run by ngspice, the node and mesh equations as written down, and our solver."""
        draw = random.Random(20)
        for number in range(12):
            nodes = ["gnd", *"ABCDE"[: draw.randint(2, 5)]]
            lines = [f"R{k} {node} {draw.choice(nodes[:k])} {draw.choice(['470', '1k', '4k7'])}"
                     for k, node in enumerate(nodes) if k]  # fmt: skip
            for k in range(draw.randint(1, 5)):
                first, second = draw.sample(nodes, 2)
                lines.append(f"Rx{k} {first} {second} {draw.choice(['330', '2k2', '10k'])}")
            lines.append(f"V1 {nodes[1]} gnd {draw.randint(1, 24)}V internal 0.5")
            if number % 2:
                lines.append(f"I1 {nodes[-1]} gnd {draw.randint(1, 20)}mA")
            run = node_list.read("\n".join(lines))
            setup = run.setups["main"]
            elements = elements_of(setup, run.parts, {name: float(part.nominal) for name, part in run.parts.items()})
            ours = solve(elements, "gnd")
            others = [node for node in setup.nodes if node != "gnd"]
            exported = spice.write(run, setup).replace(".op\n.end\n", "")
            printed_ = printed(exported, [f"v({node.lower()})" for node in others])
            theirs = {node: printed_[f"v({node.lower()})"] for node in others}
            by_node = equations.node_equations(elements, "gnd").solution
            around = equations.meshes(elements)
            by_mesh = equations.mesh_equations(elements)
            for node in others:
                self.assertAlmostEqual(theirs[node], float(ours.voltage(node, "gnd")), places=6)
                self.assertAlmostEqual(by_node[Unknown(Sought.POTENTIAL, node)], theirs[node], places=6)
            at = {"gnd": 0.0, **theirs}
            for element in elements:
                if element.kind is R:
                    drop = at[element.first] - at[element.second]
                    through = equations.current_from_meshes(element.name, around, by_mesh)
                    self.assertAlmostEqual(through, drop / element.value, places=8)

    @settings(max_examples=samples(60, 500), derandomize=True)
    @given(hostile())
    def test_names_that_spice_takes_for_others_make_no_other_circuit(self, sheet: Sheet) -> None:
        """ngspice as the judge of what was written: every node's voltage, in the order in which nodes are named."""
        setup = sheet.setups["main"]
        ours = operate(sheet, setup)
        if ours.problem:
            return
        written = spice.write(sheet, setup).replace(".op\n.end\n", "")
        lines = iter([line for line in written.splitlines()[1:] if not line.startswith("*")])
        at: dict[str, str] = {}
        for name, leads in setup.connections.items():
            _, first, second, *_ = next(lines).split()
            part = sheet.parts[name]
            if part.internal and name not in setup.sources_off:
                next(lines)
            if not part.kind.is_source:
                at.update(zip(leads, (first, second), strict=True))
        at.pop(setup.reference, None)
        wanted = {node: f"v({there.lower()})" for node, there in at.items()}
        theirs = printed(written, list(wanted.values()))
        scale = max([1.0, *map(abs, theirs.values())])
        for node, there in wanted.items():
            self.assertAlmostEqual(
                float(ours.solution.voltage(node, setup.reference)), theirs[there], delta=1e-6 * scale
            )

    def test_superposition_and_equivalent_source_run_in_ngspice(self) -> None:
        """Each setup exported by itself: voltages alone add up, and the equivalent does what the network does."""

        def junction(run: object, setup: str, node: str) -> float:
            state = run.setups[setup]
            text = spice.write(run, state).replace(".op\n.end\n", "")
            return printed(text, [f"v({node.lower()})"])[f"v({node.lower()})"]

        both = experiments.two_source_superposition().sheet
        together, *alone = (junction(both, setup, "J") for setup in both.setups)
        self.assertAlmostEqual(together, sum(alone), places=6)
        loaded = experiments.equivalent_of_a_divider().sheet
        node, _ = loaded.setups["equivalent"].connections["RL"]
        for setup in ("loaded", "equivalent"):
            self.assertAlmostEqual(junction(loaded, setup, node), 2.1013, delta=0.001)


class MeterDrawnIn(TestCase):
    def test_loading_and_burden_are_what_a_resistor_in_the_netlist_makes(self) -> None:
        """The meter as a resistor that is written into ngspice's own lines, across the nodes or into the gap."""
        for seed in range(12):
            draw = random.Random(seed)
            count, volts = draw.randint(2, 5), draw.randint(3, 24)
            ohms = [round(10 ** draw.uniform(2, 6.5)) for _ in range(2 * count)]
            nodes = [("abcdefg"[k // 2], "gnd" if k % 2 else "bcdefg"[k // 2]) for k in range(2 * count)]
            rungs = [f"R{k + 1} {a} {b} {ohms[k]}" for k, (a, b) in enumerate(nodes)]
            rungs += [f"R{2 * count + 1} {'abcdefg'[count]} gnd 1000"]
            sheet = asking_everything(node_list.read("\n".join([f"V1 a gnd {volts}V", *rungs])))
            sheet = replace(sheet, judge=Judge(meter_in=True))
            meter = Profile("own", {VOLTAGE: (Range(1000.0, 0.001, Accuracy(0, 0), input_resistance=3e6),),
                                    CURRENT: (Range(1.0, 1e-9, Accuracy(0, 0), burden=470.0),)})  # fmt: skip
            assessed = assess(Run(sheet, meters={"own": meter}))
            lines = ["metered", f"v1 a 0 dc {volts}", *(rung.lower().replace("gnd", "0") for rung in rungs)]
            for target in sheet.asked:
                if isinstance(target, Across) and target.measurand is VOLTAGE:
                    red, black = (node.replace("gnd", "0") for node in target.nodes)
                    wanted = f"v({red}{'' if black == '0' else ',' + black})"
                    found = printed("\n".join([*lines, f"rm {red} {black} 3e6"]), [wanted])[wanted]
                elif isinstance(target, Through) and target.part != "V1":
                    opened = [re.sub(rf"^({target.part.lower()}) (\S+)", r"\1 gap", line) for line in lines]
                    node = next(line.split()[1] for line in lines if line.startswith(f"{target.part.lower()} "))
                    meter_lines = [f"vs {node} sense dc 0", "rm sense gap 470"]
                    found = printed("\n".join([*opened, *meter_lines]), ["i(vs)"])["i(vs)"]
                else:
                    continue
                self.assertAlmostEqual(assessed.expected(target).value, found, delta=1e-7 * abs(found) + 3e-10)


class NonlinearLaw(TestCase):
    """Diodes by their models, lamps as behavioural sources, switches and wires: as our netlists write them."""

    def drawn(self, draw: random.Random, number: int) -> Sheet:
        """A ladder in which some rungs are lamps, diodes or light diodes, and some rails a switch or a wire."""
        parts = ["diode 0.7V 10mA", "led 1.9V 10mA", "lamp 6V 50mA cold 12", "lamp 12V 20mA", "rheostat 1k set 270"]
        rung = draw.choice(["1k", "470"])
        for _ in range(draw.randint(1, 4)):
            group = f"{draw.choice(['100', '330', '1k'])} + {draw.choice(parts)}"
            rail = draw.choice(["", "switch + ", "wire + "])
            rung = f"({group} | {rail}{draw.choice(['47', '220'])} + {rung})"
        return one_line.read(
            f"{draw.choice([3, 5, 9, 12])}V: {draw.choice(['10', '100'])} + {rung}", f"NonlinearLaw {number}"
        )

    def test_operating_points(self) -> None:
        draw, nonlinear = random.Random(1949), 0
        for number in range(24):
            sheet = self.drawn(draw, number)
            setup = sheet.setup()
            solution = operate(sheet, setup).solution
            nodes = [node for node in setup.nodes if node != setup.reference]
            exported = spice.write(sheet, setup).replace(".op\n.end\n", "")
            self.assertEqual(spice.read(spice.write(sheet, setup)).sheet, sheet)
            # Nodes that hang on a blocked diode alone float at its leak.
            theirs = printed(exported, [f"v({node.lower()})" for node in nodes])
            nonlinear += sum(part.kind.is_nonlinear for part in sheet.parts.values())
            for node in nodes:
                with self.subTest(number=number, node=node):
                    ours = float(solution.voltage(node, setup.reference))
                    self.assertAlmostEqual(ours, theirs[f"v({node.lower()})"], delta=2e-5 * max(1.0, abs(ours)))
        self.assertGreater(nonlinear, 40)

    def test_a_foreign_diode_comes_in_by_its_model(self) -> None:
        """The drop at 10 mA that a netlist's own model has is what ngspice finds of it."""
        lines = "foreign\nV1 a 0 dc 5\nR1 a b 430\nD1 b 0 DX\n.model DX d (is=1.5e-14 n=1.0)"
        sheet = spice.read(f"{lines}\n.end\n").sheet
        self.assertEqual((sheet.parts["D1"].kind.word, sheet.parts["D1"].current), ("diode", parse("10mA")))
        ours = float(operate(sheet, sheet.setup()).solution.voltage("b", "0"))
        self.assertAlmostEqual(ours, printed(lines, ["v(b)"])["v(b)"], 3)
        for wrong in ("D1 b 0 DY", "D1 b 0"):
            with self.assertRaises(spice.NetlistError):
                spice.read(lines.replace("D1 b 0 DX", wrong))
