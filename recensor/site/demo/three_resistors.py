"""A run of the demo in which three resistors make one circuit after the other: made up for it."""

import uuid

from recensor.core.circuit import USUAL_WISHES, asking_everything, one_line
from recensor.people.models import User
from recensor.runs import queries, services
from recensor.runs.models import RunRow
from recensor.runs.services.build_circuits import add_circuits, add_parts
from recensor.runs.services.line_tables import begin_table
from recensor.site.demo.at_the_bench import AtTheBench

TITLE = "Three resistors of the regulator"
_LINE = "9V: 1k + 2k2 + 3k3; 5%"
_PAIR = "R1 + (R2 | R3)"
_CIRCUITS = ("R1 + R2", "R1 | R2", _PAIR)

# What is read in each circuit, in the order in which it is asked for.
_READ = {
    "": ("0.998 kΩ", "2.19 kΩ", "3.31 kΩ", "9.02 V"),
    "main": ("6.50 kΩ", "1.385 V", "3.04 V", "4.59 V", "9.02 V", "1.387 mA"),
    "R1 + R2": ("3.19 kΩ", "2.82 V", "6.20 V"),
    "R1 | R2": ("686 Ω", "9.01 V", "9.01 V"),
    _PAIR: ("2.31 kΩ", "3.89 V", "5.13 V", "5.13 V"),
}
_ROWS = (("1.00", "0.759"), ("2.00", "1.518"), ("3.00", "2.28"), ("4.00", "3.03"))


def load(owner: User) -> RunRow:
    """Begin the run, build one circuit after the other, and read the line of a pair."""
    run = services.start_run(owner, asking_everything(one_line.read(_LINE, TITLE)), "DMM-4")
    add_circuits(run, owner, "main", ", ".join(_CIRCUITS), USUAL_WISHES, uuid.uuid4())
    person, asked = AtTheBench(run, owner), queries.load(run).core.sheet.asked
    for setup, texts in _READ.items():
        targets = [target for target in asked if (target.setup or "") == setup]
        for target, text in zip(targets, texts, strict=True):
            person.read(target, *text.split())
    begin_table(run, owner, _PAIR, "B gnd", uuid.uuid4())
    (table,) = queries.load(run).core.sheet.sweeps.values()
    for step, (volts, amps) in enumerate(_ROWS):
        person.read(table.volts_at(step), volts, "V")
        person.read(table.amps_at(step), amps, "mA")
    add_parts(run, owner, "R4 4k7", uuid.uuid4())
    return run
