"""Every hypothesis that is tried, one module for each kind: a new one takes a file here and a line below."""

from collections.abc import Callable, Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.hypotheses.book import (
    decimal_slip,
    misread_digit,
    over_range_as_number,
    prefix_slip,
    read_in_circuit,
    shifted_readings,
    sign,
    swapped_readings,
    transposed_digits,
    wrong_target,
)
from recensor.core.faults.hypotheses.circuit import (
    exchanged_parts,
    joint_open,
    lead_one_row_off,
    leads_in_one_row,
    link_left_out,
    misread_code,
    part_open,
    part_reversed,
    part_shorted,
    source_drift,
    source_limit,
    source_resistance,
    source_value,
    value_off,
)
from recensor.core.faults.hypotheses.meter import (
    ammeter_resistance,
    function_mix_up,
    leads_interchanged,
    meter_fuse_open,
    meter_gain,
    voltmeter_loading,
    wrong_range,
    zero_offset,
)

Hypothesis = Callable[[FaultContext], Iterator[Candidate]]

# What was written down differs from what was shown.
BOOK: tuple[Hypothesis, ...] = (
    prefix_slip.candidates,
    decimal_slip.candidates,
    sign.candidates,
    transposed_digits.candidates,
    misread_digit.candidates,
    wrong_target.candidates,
    swapped_readings.candidates,
    shifted_readings.candidates,
    over_range_as_number.candidates,
    read_in_circuit.candidates,
)

HYPOTHESES: tuple[Hypothesis, ...] = (
    part_open.candidates,
    part_shorted.candidates,
    value_off.candidates,
    misread_code.candidates,
    exchanged_parts.candidates,
    joint_open.candidates,
    lead_one_row_off.candidates,
    leads_in_one_row.candidates,
    link_left_out.candidates,
    part_reversed.candidates,
    source_value.candidates,
    source_resistance.candidates,
    source_limit.candidates,
    source_drift.candidates,
    ammeter_resistance.candidates,
    voltmeter_loading.candidates,
    meter_fuse_open.candidates,
    meter_gain.candidates,
    wrong_range.candidates,
    function_mix_up.candidates,
    leads_interchanged.candidates,
    zero_offset.candidates,
    *BOOK,
)
