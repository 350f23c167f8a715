"""What a person can do at the bench: one function for each thing, each one transaction."""

from recensor.bench.services.bringing import import_run, left_behind
from recensor.bench.services.causes import mend_cause
from recensor.bench.services.entering import Entry, accept, enter, record_reading, repeat
from recensor.bench.services.mending import answer_question, mend, strike_reading, undo
from recensor.bench.services.moving import put_back, switch
from recensor.bench.services.own_values import work_out
from recensor.bench.services.photos import attach
from recensor.bench.services.runs import (
    adopt_board,
    begin_on_board,
    follow,
    numbered_key,
    return_parts,
    start_experiment,
    start_run,
)
from recensor.bench.services.sightings import see
from recensor.bench.services.signing import revise, sign
from recensor.bench.services.taking_in import import_readings
from recensor.bench.services.texts import MeanwhileError, write_text

__all__ = [
    "Entry",
    "MeanwhileError",
    "accept",
    "adopt_board",
    "answer_question",
    "attach",
    "begin_on_board",
    "enter",
    "follow",
    "import_readings",
    "import_run",
    "left_behind",
    "mend",
    "mend_cause",
    "numbered_key",
    "put_back",
    "record_reading",
    "repeat",
    "return_parts",
    "revise",
    "see",
    "sign",
    "start_experiment",
    "start_run",
    "strike_reading",
    "switch",
    "undo",
    "work_out",
    "write_text",
]  # fmt: skip
