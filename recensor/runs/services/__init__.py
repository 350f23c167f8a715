"""What a person can do at the bench: one function for each thing, each one transaction."""

from recensor.runs.services.correct import answer_question, correct_reading, explain, strike_reading, take_as_read, undo
from recensor.runs.services.correct_cause import correct_cause
from recensor.runs.services.import_document import import_run, left_behind
from recensor.runs.services.import_readings import import_readings
from recensor.runs.services.keep_assessment import keep_missing
from recensor.runs.services.leave_out import leave_out, take_up_again
from recensor.runs.services.own_values import work_out
from recensor.runs.services.photos import attach
from recensor.runs.services.record import Entry, accept, enter, record_reading, repeat
from recensor.runs.services.sightings import see
from recensor.runs.services.sign_off import revise, sign
from recensor.runs.services.start import (
    adopt_board,
    begin_on_board,
    follow,
    numbered_key,
    return_parts,
    start_experiment,
    start_run,
)
from recensor.runs.services.switch_power import put_back, switch
from recensor.runs.services.texts import MeanwhileError, write_text

__all__ = [
    "Entry",
    "MeanwhileError",
    "accept",
    "adopt_board",
    "answer_question",
    "attach",
    "begin_on_board",
    "correct_cause",
    "correct_reading",
    "enter",
    "explain",
    "follow",
    "import_readings",
    "import_run",
    "keep_missing",
    "leave_out",
    "left_behind",
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
    "take_as_read",
    "take_up_again",
    "undo",
    "work_out",
    "write_text",
]  # fmt: skip
