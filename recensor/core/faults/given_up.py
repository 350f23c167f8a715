"""What readings that a hypothesis gives up may have been: slips of the pen that are possible by what it says of them.

By what was known before anything was said to be wrong such a slip may be out of reach.
"""

from collections.abc import Iterator
from itertools import islice

import numpy as np

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.hypotheses import BOOK
from recensor.core.faults.weighing import NONE, ON, Contender, Scored, settled, weigh, written

# So many slips of a kind are thought of.
_MOST = 100


def with_slips(context: FaultContext, scored: Scored) -> list[Scored]:
    """A hypothesis together with each slip of the pen that makes a reading possible which it gives up, weighed.

    None of these gives up readings for no reason: with one it is that slip alone.
    """
    alone = [one for one in scored.candidates if one is not NONE]
    slips = list(_slips(context, scored))
    both = [Contender((*alone, slip), scored.contender.start, scored.excuses.without(slip.about)) for slip in slips]
    if not both:
        return []
    begin = np.tile(scored.at, (len(both), 1))  # a slip has no number of its own: the unknowns are the same
    return settled(context, weigh(context, both, steps=ON, begin=begin))


def _slips(context: FaultContext, scored: Scored) -> Iterator[Candidate]:
    wild = frozenset(scored.excuses.wild)
    if not wild:
        return
    expected, broad = context.model.points_under(written(context, [scored.contender]), scored.at, scored.covariance)
    for place in wild:  # what the meter shows there, with what it does to the circuit
        expected[context.observed.rows[place]] = context.observed.signs[place] * scored.shown[place]
    odd = np.where(np.isin(np.arange(context.observed.count), list(wild)), scored.misfits, 0.0)
    under = FaultContext(context.assessment, context.model, expected, broad, odd)
    for hypothesis in BOOK:
        for candidate in islice(hypothesis(under), _MOST):
            if wild.intersection(candidate.about):
                yield candidate
