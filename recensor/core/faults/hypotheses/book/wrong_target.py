"""A reading was entered at another point than the one where it was read."""

from collections.abc import Iterator

import numpy as np

from recensor.core.faults.candidate import PLAUSIBLE, Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import odd_places
from recensor.core.faults.model.changes import OtherTarget
from recensor.core.plan import in_a_sentence, title
from recensor.core.sentences import say

# What was known before must not favour a reading's own point by more than this, as a logarithm.
_LEAST_GAIN = -1.0


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make possible a reading that does not fit at its own point."""
    observed, found, chances = context.observed, [], 0
    for place in range(observed.count):
        chances += len(context.same_quantity(observed.measurands[place]))
    turned = -observed.values[:, None] - context.reads
    gains = context.log_density - context.log_density[np.arange(observed.count), observed.rows][:, None]
    fits, fits_turned = (
        (np.abs(context.away) <= PLAUSIBLE) & (gains > _LEAST_GAIN),
        np.abs(turned) <= PLAUSIBLE * context.off,
    )
    for place in odd_places(context):
        own, value = int(observed.rows[place]), observed.values[place]
        for row in context.same_quantity(observed.measurands[place]):
            target = observed.points[row].target
            if row == own or target.is_leads:
                continue
            if fits[place, row]:
                found.append((place, row, float(observed.directions[row])))
            elif fits_turned[place, row] and value * context.expected[row] and target.in_circuit:
                found.append((place, row, -float(observed.directions[row])))
    for place, row, share in found:
        index, target = int(observed.indexes[place]), observed.as_read(row)
        where = in_a_sentence(title(target, context.run.sheet))
        is_turned = share != observed.directions[row]
        correction = Reentered(say("faults.move", where=where), {index: (target, observed.reading(place).value)})
        yield Candidate(
            FaultKind.WRONG_TARGET,
            (reading_at(index),),
            (OtherTarget(place, row, share),),
            say(
                "faults.belongs_with_leads_turned" if is_turned else "faults.belongs",
                reading=context.said(place),
                where=where,
            ),
            4 * chances if is_turned else chances,
            correction=correction,
        )
