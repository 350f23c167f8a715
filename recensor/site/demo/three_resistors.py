"""A run of the demo in which three resistors make one circuit after the other: made up for it."""

import uuid
from collections.abc import Mapping, Sequence

from recensor.core.circuit import USUAL_WISHES, TableMeters, Target, Through, asking_everything, one_line
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
# The rows of the pair's table, and of one of its parts by one meter.
_ROWS = (("1.00", "0.759"), ("2.00", "1.518"), ("3.00", "2.28"), ("4.00", "3.03"))
_ROWS_OF_R3 = (("1.00", "0.302"), ("2.00", "0.604"), ("3.00", "0.906"))

# The current of the chain beside each of its parts, and the chain again with the source turned down.
_BESIDE = {"R1": "1.388 mA", "R2": "1.387 mA", "R3": "1.386 mA"}
_TURNED = {
    "V1 at 3V": ("0.461 V", "1.011 V", "1.528 V", "3.00 V", "0.462 mA"),
    "V1 at 6V": ("6.00 V", "0.922 V", "2.022 V", "3.06 V", "0.923 mA"),
}


def load(owner: User) -> RunRow:
    """Begin the run, build one circuit after the other, turn the source down, read the lines of a pair and a part."""
    run = services.start_run(owner, asking_everything(one_line.read(_LINE, TITLE)), "DMM-4")
    add_circuits(run, owner, "main", ", ".join(_CIRCUITS), USUAL_WISHES, uuid.uuid4())
    person, asked = AtTheBench(run, owner), queries.load(run).core.sheet.asked
    _read(person, asked, _READ)
    for part, text in _BESIDE.items():
        person.read(Through(part, "main"), *text.split())
    add_circuits(run, owner, "main", "V1=3V, V1=6V", USUAL_WISHES, uuid.uuid4())
    _read(person, queries.load(run).core.sheet.asked, _TURNED)
    begin_table(run, owner, _PAIR, "B gnd", uuid.uuid4())
    begin_table(run, owner, _PAIR, "R3", uuid.uuid4(), TableMeters.ONE)
    of_pair, of_part = queries.load(run).core.sheet.sweeps.values()
    for step, (volts, amps) in enumerate(_ROWS):
        person.read(of_pair.volts_at(step), volts, "V")
        person.read(of_pair.amps_at(step), amps, "mA")
    for step, (volts, _) in enumerate(_ROWS_OF_R3):
        person.read(of_part.volts_at(step), volts, "V")
    for step, (_, amps) in enumerate(_ROWS_OF_R3):
        person.read(of_part.amps_at(step), amps, "mA")
    add_parts(run, owner, "R4 4k7", uuid.uuid4())
    return run


def _read(person: AtTheBench, asked: Sequence[Target], texts: Mapping[str, Sequence[str]]) -> None:
    """Read what is asked for in each setup, in order."""
    for setup, shown in texts.items():
        targets = [target for target in asked if (target.setup or "") == setup]
        for target, text in zip(targets, shown, strict=True):
            person.read(target, *text.split())
