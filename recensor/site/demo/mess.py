"""A run of the demo in which everything happened that happens at a bench: made up for it."""

import uuid
from dataclasses import replace

from recensor.core.circuit import Across, PartAlone, Through
from recensor.core.editing import accepted, colour_words
from recensor.core.entries import AnswerKind
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse_beside_chooser
from recensor.people.models import User
from recensor.runs import queries, services
from recensor.runs.models import RunRow
from recensor.runs.services import change_circuit, circuit_changes
from recensor.site.demo.at_the_bench import AtTheBench

TITLE = "Regulator feed, a long morning"
_LINE = "9V: 1k + 2k2 + 3k3; 5"

_R1, _R2, _R3 = (PartAlone(name, RESISTANCE) for name in ("R1", "R2", "R3"))
_V1 = PartAlone("V1", VOLTAGE)
_TOTAL, _ALL = Across(RESISTANCE, ("A", "gnd"), "main"), Across(VOLTAGE, ("A", "gnd"), "main")
_AB, _BC, _CG, _AC = (Across(VOLTAGE, pair, "main") for pair in (("A", "B"), ("B", "C"), ("C", "gnd"), ("A", "C")))


def load(owner: User) -> RunRow:
    """Begin the run and let it all happen."""
    sheet = accepted(colour_words.read(_LINE, TITLE))
    knob = replace(sheet.parts["V1"], adjustable=True)
    run = services.start_run(owner, replace(sheet, parts={**sheet.parts, "V1": knob}), "DMM-4", own_calculations=True)
    morning = AtTheBench(run, owner)
    morning.type(_R1, "1.021", "kΩ")  # a bad contact
    morning.type(_R1, "0.998", "kΩ")
    morning.type(_R2, "2190", "kΩ")  # the unit was forgotten
    morning.answer(AnswerKind.MEANT, "2.190 kΩ")
    morning.type(_R3, "3.31", "kΩ")
    morning.type(_TOTAL, "OL", "kΩ")  # the range was too small
    morning.type(_TOTAL, "6.49", "kΩ")
    for volts in ("2.1", "6.4", "9.02"):  # turned up
        morning.type(_V1, volts, "V")
    morning.type(_ALL, "9.01", "V")
    services.work_out(run, owner, _AB, parse_beside_chooser("1.38", "V", "V"), "9.02*1/6.5", uuid.uuid4())
    morning.type(_AB, "1.385", "V")
    morning.type(_BC, "1.386", "V")  # the page had gone on, and the probes had not
    morning.answer(AnswerKind.BELONGS, target=_AB)
    morning.correct(morning.type(_BC, "-3.04", "V"), "sign")
    morning.type(_CG, "4.59", "V")
    morning.type(_AC, "4.42", "V")  # over two parts together
    for at in ("R1", "R2"):
        morning.type(Through("V1", "main", at), "1.389", "mA")
    morning.type(_AB, "1.31", "V")  # later, after the supply had been touched
    morning.type(_V1, "8.52", "V")
    morning.answer(AnswerKind.SET_ANEW)
    now = queries.load(run).core.sheet.asked[-1].setup
    change_circuit.change(run, owner, circuit_changes.changed_so("exchange", now or "", "R2", "4k7"))
    morning.type(PartAlone("R2'", RESISTANCE), "4.66", "kΩ")
    return run
