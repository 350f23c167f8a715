"""What corrects a meter: it is judged as it was found, where one meter read all of a quantity."""

from recensor.core.faults.candidate import FaultContext
from recensor.core.faults.correction import MeterFound, MeterProperty
from recensor.core.quantity import Measurand
from recensor.core.sentences import Sentence


def meter_found(
    context: FaultContext, words: Sentence, what: MeterProperty, measurand: Measurand, *, full: float = 1.0
) -> MeterFound | None:
    """The correction; None where several meters read the quantity, or one that is perfect."""
    run, observed = context.run, context.observed
    readings = [observed.reading(k) for k in observed.of(measurand)]
    names = {observed.measurements.meters.name(reading) for reading in readings}
    name = next(iter(names), None)
    profile = run.profile_of(readings[0]) if readings else None
    if len(names) != 1 or (profile is not None and profile.is_exact) or (name is None and run.meters):
        return None
    return MeterFound(words, name, what, measurand, full=full)
