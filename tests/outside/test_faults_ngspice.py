"""What every hypothesis about a circuit predicts, against ngspice solving the circuit as it would be built."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from recensor.core.circuit import VOLTAGE_SOURCE, Across, Setup, Through
from recensor.core.faults import FaultKind, Rebuilt
from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.context import fault_context
from recensor.core.faults.hypotheses import HYPOTHESES
from recensor.core.faults.model.changes import (
    Change,
    CurrentLimited,
    Fitted,
    IdealMeters,
    ResistanceIs,
    SourceResistance,
)
from recensor.core.judgement import assess
from recensor.core.quantity import VOLTAGE
from recensor.core.solving import Element, elements_of
from tests.core.faults.benches import drawn, read
from tests.outside.test_ngspice import operating_point

# The kinds that say how the circuit is built.
BUILT = (
    FaultKind.PART_OPEN,
    FaultKind.PART_SHORTED,
    FaultKind.JOINT_OPEN,
    FaultKind.LEADS_IN_ONE_ROW,
    FaultKind.EXCHANGED_PARTS,
    FaultKind.LEAD_ONE_ROW_OFF,
    FaultKind.PART_REVERSED,
)

# An open node of a circuit would float in ngspice too: a faint leak, as in the model.
LEAK = 1e11


def at(value: float) -> Fitted:
    """A number that is looked for from this value."""
    return Fitted(math.log(value), 1.0, (math.log(value),))


def context() -> FaultContext:
    """A ladder with two branches, everything read."""
    sheet = drawn("9V: 1k + (2k2 | 3k3 + 680) + 470; 5%")
    renamed = {
        name: ("g" if a == "gnd" else a, "g" if b == "gnd" else b) for name, (a, b) in sheet.setup().connections.items()
    }
    setup = Setup("main", "g", renamed)
    asked = [Across(VOLTAGE, leads, "main") for leads in renamed.values()] + [Through(name, "main") for name in renamed]
    sheet = replace(sheet, setups={"main": setup}, asked=tuple(asked))
    run = read(sheet)
    found = fault_context(assess(run))
    if found is None:
        raise AssertionError("everything is read")
    return found


def spice(found: FaultContext, setup: Setup, values: dict[str, float]) -> dict[Across | Through, float]:
    """Every voltage and source current of a setup by ngspice."""
    sheet = found.run.sheet
    elements = elements_of(setup, sheet.parts, values)
    return by_ngspice(elements, found)


def by_ngspice(elements: list[Element], found: FaultContext) -> dict[Across | Through, float]:
    """The points that were read, by the node voltages and branch currents of ngspice."""
    nodes = sorted({node for e in elements for node in (e.first, e.second)} - {"g"})
    resistor = next(e.kind for e in elements if e.kind is not VOLTAGE_SOURCE)
    names = {node: f"n{k}" for k, node in enumerate(nodes)} | {"g": "g"}
    renamed = [e._replace(first=names[e.first], second=names[e.second]) for e in elements]
    renamed += [Element(f"leak{k}", resistor, names[node], "g", LEAK) for k, node in enumerate(nodes)]
    told = operating_point(renamed)
    volts = {node: told.get(f"v({name})", 0.0) for node, name in names.items()}
    answers: dict[Across | Through, float] = {}
    for row in sorted(set(found.observed.rows.tolist())):
        target = found.observed.points[row].target
        if isinstance(target, Across) and set(target.nodes) <= set(volts):
            answers[target] = volts[target.red] - volts[target.black]
        elif isinstance(target, Through):
            k = next((k for k, e in enumerate(elements) if e.name == target.part), None)
            if k is None:
                continue
            element = elements[k]
            if element.kind is VOLTAGE_SOURCE:
                answers[target] = -told[f"i(v{k})"]
            else:
                answers[target] = (volts[element.first] - volts[element.second]) / element.value
    return answers


def predicted(found: FaultContext, changes: tuple[Change, ...]) -> dict[Across | Through, float]:
    """The same by the model, where its search begins."""
    batch = found.model.batch(1)
    for change in (IdealMeters(), *changes):
        change.write(batch, 0, 0)
    there = found.model.predict(batch, found.model.start_of(batch)).at_points[0]
    return {
        target: float(there[row])
        for row in sorted(set(found.observed.rows.tolist()))
        if isinstance(target := found.observed.points[row].target, Across | Through)
    }


class Predictions(TestCase):
    def setUp(self) -> None:
        self.context = context()
        self.nominal = {name: float(part.nominal or 0) for name, part in self.context.run.sheet.parts.items()}

    def check(self, changes: tuple[Change, ...], wanted: dict[Across | Through, float], words: str) -> None:
        told = predicted(self.context, changes)
        for target, value in wanted.items():
            scale = 9.0 if isinstance(target, Across) else 9.0 / 400.0
            self.assertAlmostEqual(told[target] / scale, value / scale, delta=2e-4, msg=f"{words} {target.words}")

    def built(self, candidate: Candidate) -> tuple[Setup, dict[str, float]] | None:
        """The circuit as a correction by hand says that it was built, and its values."""
        if not isinstance(candidate.correction, Rebuilt):
            return None
        setup = candidate.correction.applied(self.context.run).sheet.setup()
        values = self.nominal | {name: float(value) for name, value in setup.values.items()}
        return setup, values

    def test_opens_shorts_exchanges_and_leads_elsewhere(self) -> None:
        tried = dict.fromkeys(BUILT, 0)
        for hypothesis in HYPOTHESES:
            for candidate in hypothesis(self.context):
                found = self.built(candidate) if candidate.kind in tried else None
                if found is None or tried[candidate.kind] >= 6:
                    continue
                tried[candidate.kind] += 1
                self.check(candidate.changes, spice(self.context, *found), candidate.words)
        self.assertTrue(all(tried.values()), tried)

    def test_values_sources_that_sag_and_sources_in_their_limit(self) -> None:
        setup = self.context.run.sheet.setup()
        for name in ("R1", "R3"):
            factor = math.exp(0.7)
            off = ResistanceIs(name, fitted=Fitted(0.0, 1.0, (0.7,)))
            values = self.nominal | {name: factor * self.nominal[name]}
            self.check((off,), spice(self.context, setup, values), f"{name} off")
        elements = elements_of(setup, self.context.run.sheet.parts, self.nominal)
        sagging = [e._replace(internal=240.0) if e.name == "V1" else e for e in elements]
        self.check(
            (SourceResistance("V1", Fitted(math.log(240.0), 1.0, (math.log(240.0),))),),
            by_ngspice(sagging, self.context),
            "",
        )
        limited = [e._replace(value=1e7 * 2e-3, internal=1e7) if e.name == "V1" else e for e in elements]
        self.check(
            (CurrentLimited("V1", Fitted(math.log(2e-3), 1.0, (math.log(2e-3),))),),
            by_ngspice(limited, self.context),
            "",
        )

    def test_the_circuit_as_it_is_drawn(self) -> None:
        self.check((), spice(self.context, self.context.run.sheet.setup(), self.nominal), "as drawn")
        self.assertTrue(np.isfinite(self.context.expected).all())
