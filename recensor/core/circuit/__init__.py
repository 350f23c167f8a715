"""What is drawn and asked: parts of a kind, setups that connect them, targets, and the sheet that holds them."""

from recensor.core.circuit import asking, loops, node_list, one_line, parts_line, potentiometer, series_parallel, sheet
from recensor.core.circuit.address import LONGEST_SLUG, has_place, read_slug, slug, target_of_slug
from recensor.core.circuit.asking import (
    USUAL_WISHES,
    Asked,
    Wish,
    all_readings,
    asking_everything,
    loaded_target,
    readings_of_set,
    usual_readings,
    voltage_of,
    wished,
    wishes_met,
)
from recensor.core.circuit.entering import Entering, entering
from recensor.core.circuit.kinds import (
    CURRENT_SOURCE,
    DIODE,
    KINDS,
    LAMP,
    LED,
    LIMIT,
    PERCENT,
    RESISTOR,
    RHEOSTAT,
    SWITCH,
    THERMISTOR,
    VOLTAGE_SOURCE,
    WIRE,
    Kind,
    Off,
    Stated,
    kind_called,
    kind_of_name,
    kind_of_unit,
)
from recensor.core.circuit.line_reader import (
    MOST_PARTS,
    NAME,
    REFERENCE,
    SETUP,
    UNMARKED,
    NotationError,
    free_nodes,
    read_part,
)
from recensor.core.circuit.node_list import NODE, NodeListError
from recensor.core.circuit.parts import SOURCE_WORDS, Part, SourceType, first_free, one_of
from recensor.core.circuit.parts_line import PartsLine
from recensor.core.circuit.potentiometer import Halves
from recensor.core.circuit.series_parallel import (
    Leaf,
    NotSeriesParallelError,
    Parallel,
    Series,
    Tree,
    leaves,
    tree_of_source,
)
from recensor.core.circuit.setup import Leads, Setup, read_temperature
from recensor.core.circuit.sheet import (
    LEADS,
    MEASURED,
    MOST_ROUNDS,
    NOMINAL,
    Basis,
    Comparison,
    Handout,
    Judge,
    JudgedBy,
    RecordError,
    Rule,
    Sheet,
    check_part,
    check_target,
    marking,
)
from recensor.core.circuit.sweep import MOST_STEPS, Sweep, TableMeters
from recensor.core.circuit.target import Across, Columns, PartAlone, Target, Through, TouchedLeads, target_of

__all__ = [
    "CURRENT_SOURCE", "DIODE", "KINDS", "LAMP", "LEADS", "LED", "LIMIT", "LONGEST_SLUG", "MEASURED", "MOST_PARTS",
    "MOST_ROUNDS", "MOST_STEPS", "NAME", "NODE", "NOMINAL", "PERCENT", "REFERENCE", "RESISTOR", "RHEOSTAT", "SETUP",
    "SOURCE_WORDS", "SWITCH", "THERMISTOR", "UNMARKED", "USUAL_WISHES", "VOLTAGE_SOURCE", "WIRE", "Across", "Asked",
    "Basis", "Columns", "Comparison", "Entering", "Halves", "Handout", "Judge", "JudgedBy", "Kind", "Leads", "Leaf",
    "NodeListError", "NotSeriesParallelError", "NotationError", "Off", "Parallel", "Part", "PartAlone", "PartsLine",
    "RecordError", "Rule", "Series", "Setup", "Sheet", "SourceType", "Stated", "Sweep", "TableMeters", "Target",
    "Through", "TouchedLeads", "Tree", "Wish", "all_readings", "asking", "asking_everything", "check_part",
    "check_target", "entering", "first_free", "free_nodes", "has_place", "kind_called", "kind_of_name",
    "kind_of_unit", "leaves", "loaded_target", "loops", "marking", "node_list", "one_line", "one_of", "parts_line",
    "potentiometer", "read_part", "read_slug", "read_temperature", "readings_of_set", "series_parallel", "sheet",
    "slug", "target_of", "target_of_slug", "tree_of_source", "usual_readings", "voltage_of", "wished", "wishes_met",
]  # fmt: skip
