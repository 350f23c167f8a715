"""A colour band was taken for another that looks like it."""

from collections.abc import Iterator
from decimal import Decimal

from recensor.core.faults.candidate import Candidate, FaultContext, part_at
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import ResistanceIs
from recensor.core.figures import to_four_figures
from recensor.core.quantity import OHM
from recensor.core.resistors import bands_saying, lookalikes
from recensor.core.sentences import PENDING, say

# The tolerance band, in %, of a part of which none is stated.
_USUAL = Decimal(5)

_ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth")


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each band of each part that could be another colour."""
    found = []
    for name in context.resistors():
        part = context.run.sheet.parts[name]
        if part.nominal is None or not part.kind.has_bands:
            continue
        bands = bands_saying(part.nominal.value, part.tolerance.value if part.tolerance else _USUAL)
        within = 2.0 * float(part.tolerance or _USUAL) / 100.0
        for alike in lookalikes(bands) if bands else ():
            if abs(float(alike.ratio) - 1.0) > within:
                found.append((name, alike, bands[alike.band]))
    for name, alike, colour in found:
        value = alike.coded.value
        words = say(
            "faults.reads_band_instead",
            name=name,
            value=PENDING,
            ordinals=_ORDINALS[alike.band],
            word=alike.colour.word,
            colour_word=colour.word,
        )
        correction = Restated(say("faults.take", name=name, value=PENDING), name, to_four_figures(float(value), OHM))
        yield Candidate(
            FaultKind.MISREAD_CODE,
            (part_at(name),),
            (ResistanceIs(name, factor=float(alike.ratio)),),
            words,
            len(found),
            value=float(value),
            unit=OHM,
            correction=correction,
        )
