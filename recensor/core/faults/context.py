"""A judged run set out for the hypotheses: what was expected of every point, and which readings do not fit."""

import numpy as np

from recensor.core.faults.candidate import FaultContext
from recensor.core.faults.model.evidence import refined
from recensor.core.faults.model.observations import observe
from recensor.core.faults.model.prediction import FaultModel
from recensor.core.judgement import Assessment


def fault_context(assessment: Assessment) -> FaultContext | None:
    """The context of a judged run; None where nothing was read that says anything."""
    observed = observe(assessment.against.run, assessment.against.measurements)
    if not observed.count and not observed.over_range:
        return None
    model = FaultModel(observed)
    expected, slopes = model.points_beforehand
    broad = np.sqrt((slopes**2).sum(axis=1))
    return FaultContext(assessment, model, expected, broad, _odd(model))


def _odd(model: FaultModel) -> np.ndarray:
    """How far each reading lies from what all others say of it, in standard deviations, nothing being wrong."""
    batch = model.batch(1)
    if not model.observed.count:
        return np.zeros(0)
    evidence = refined(model, batch, steps=1)
    variances, left = evidence.predicted.variances[0], model.observed.values - evidence.predicted.shown[0]
    return np.asarray(left / np.sqrt(np.maximum(variances - evidence.by_unknowns[0], 1e-9 * variances)))
