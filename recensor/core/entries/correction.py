"""Putting right what was recorded, one press each: what the reading was meant to be, and what the books then say."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit import Sheet, Target, has_place, slug
from recensor.core.figures import as_read
from recensor.core.judgement import Assessment
from recensor.core.quantity import parse
from recensor.core.record import Reading, Run, Strike
from recensor.core.sentences import say
from recensor.core.slips import scaled, turned
from recensor.core.standing import standing_at


class CorrectionKind(StrEnum):
    """What a correction does."""

    SIGN = "sign"
    THOUSAND = "thousand"
    THOUSANDTH = "thousandth"
    BELONGS = "belongs"
    SHIFT_BACK = "shift back"
    SHIFT_ON = "shift on"
    STRIKE = "strike"
    TRIAL = "trial"
    INSTEAD = "instead"
    LOOK = "look"
    COUNT = "count"


# As far from what is expected, as a share of it, a reading may be and still be what was meant (common practice).
_NEAR = 0.2


@dataclass(frozen=True)
class ReadingCorrection:
    """One correction of a reading: the run as it then is, and the readings that are other than before, by their places.

    `target` is what it belongs to.
    """

    kind: CorrectionKind
    run: Run
    moved: dict[int, Reading]
    target: Target | None = None

    @property
    def name(self) -> str:
        """Its name in a request."""
        return self.kind.value if self.target is None else f"{self.kind.value} {slug(self.target)}"


def corrections(run: Run, points: Sequence[Target], index: int) -> Iterator[ReadingCorrection]:
    """All that can be done to a standing reading."""
    reading = run.readings[index]
    if reading.value.value is not None:
        if reading.target.in_circuit or float(reading.value) < 0:
            yield _moved(
                run, CorrectionKind.SIGN, {index: replace(reading, value=turned(reading.value, reading.target.unit))}
            )
        for kind, power in ((CorrectionKind.THOUSAND, 3), (CorrectionKind.THOUSANDTH, -3)):
            if other := scaled(reading.value, power, reading.target.unit):
                yield _moved(run, kind, {index: replace(reading, value=other)})
    for target in _same_elsewhere(reading.target, run.sheet, points):
        if target.measurand is reading.target.measurand and target.key != reading.target.key:
            yield _moved(run, CorrectionKind.BELONGS, {index: at_point(reading, target)}, target)
    for kind, step in ((CorrectionKind.SHIFT_BACK, -1), (CorrectionKind.SHIFT_ON, 1)):
        if moved := shifted(run, points, index, step):
            yield _moved(run, kind, moved)
    yield from _standings(run, index)
    yield _moved(run, CorrectionKind.STRIKE, {index: _struck(run, index)})


def _same_elsewhere(target: Target, sheet: Sheet, points: Sequence[Target]) -> list[Target]:
    """What a reading may belong to: the same in every other circuit that has it, and then all other points."""
    others = [name for name in sheet.setups if name != target.setup] if target.in_circuit else []
    same = (target.in_setup(name, sheet) for name in others)
    found = {there.key: there for there in same if has_place(there, sheet)}
    return [*found.values(), *(point for point in points if point.key not in found)]


def likeliest(offered: Sequence[ReadingCorrection], index: int, assessment: Assessment) -> ReadingCorrection | None:
    """The correction after which the reading is nearest to what is expected at its target; None where none comes near.

    Near is within a fifth: parts in use have no wider tolerance (common practice, no source).
    """
    distances = [(_distance(correction.run.readings, index, assessment), correction) for correction in offered]
    near = [(far, k) for k, (far, _) in enumerate(distances) if far is not None and far <= _NEAR]
    return distances[min(near)[1]][1] if near else None


def _distance(readings: Sequence[Reading], index: int, assessment: Assessment) -> float | None:
    """How far a reading that became another is from what is expected there, as a share; None where it did not."""
    reading, before = readings[index], assessment.against.run.readings[index]
    if (reading.target, reading.value) == (before.target, before.value):
        return None
    if reading.struck is not None or reading.counted is False:
        return None
    expected = assessment.expected(reading.target)
    if expected is None or not expected.value or reading.value.value is None:
        return None
    return abs(float(reading.value) / expected.value - 1.0)


def _standings(run: Run, index: int) -> Iterator[ReadingCorrection]:
    """Whether it counts, and beside or instead of what was read before."""
    reading = run.readings[index]
    if reading.counted is False:
        yield _moved(run, CorrectionKind.COUNT, {index: replace(reading, counted=True)})
        return
    yield _moved(run, CorrectionKind.LOOK, {index: replace(reading, counted=False)})
    old = reading.instead_of
    if old is not None:
        both = {old: replace(run.readings[old], struck=None), index: replace(reading, instead_of=None)}
        yield _moved(run, CorrectionKind.TRIAL, both)
        return
    before = standing_at(run.readings[:index], reading.target)
    if before is not None:
        instead = {before: _struck(run, before), index: replace(reading, instead_of=before, later=False)}
        yield _moved(run, CorrectionKind.INSTEAD, instead)
        if reading.later:
            yield _moved(run, CorrectionKind.TRIAL, {index: replace(reading, later=False, counted=True)})


def _struck(run: Run, index: int) -> Reading:
    return replace(run.readings[index], struck=Strike("struck"))


def _moved(
    run: Run, kind: CorrectionKind, moved: dict[int, Reading], target: Target | None = None
) -> ReadingCorrection:
    readings = [moved.get(k, reading) for k, reading in enumerate(run.readings)]
    return ReadingCorrection(kind, replace(run, readings=tuple(readings)), moved, target)


def at_point(reading: Reading, target: Target) -> Reading:
    """The same text at another point."""
    value = parse(reading.value.text, target.unit, reading.value.beside)
    return replace(reading, target=target, value=value, instead_of=None, later=False)


def shifted(run: Run, points: Sequence[Target], index: int, step: int) -> dict[int, Reading]:
    """The readings from a place on, each at the point beside the one that it was typed at; none where that cannot be.

    One Enter too many, and everything since stands one row off: it goes back by one (`step` −1); one reading left
    out, and it goes on (+1). Readings that were struck stay as they are.
    """
    places = {target.key: k for k, target in enumerate(points)}
    readings: dict[int, Reading] = {}
    for k in range(index, len(run.readings)):
        reading = run.readings[k]
        if reading.struck is not None:
            continue
        there = places.get(reading.target.key, -1) + step
        if not 0 <= there < len(points) or points[there].measurand is not reading.target.measurand:
            return {}
        readings[k] = at_point(reading, points[there])
    return readings


def words(correction: ReadingCorrection, reading: Reading, point: str = "") -> str:
    """A correction as its button says it."""
    unit = reading.target.unit
    changed = next(iter(correction.moved.values()), reading)
    return {
        CorrectionKind.SIGN: say("entries.leads_turned", changed=as_read(changed.value, unit)),
        CorrectionKind.THOUSAND: as_read(changed.value, unit),
        CorrectionKind.THOUSANDTH: as_read(changed.value, unit),
        CorrectionKind.BELONGS: say("entries.it_is", point=point),
        CorrectionKind.SHIFT_BACK: say("entries.all_since_here_one"),
        CorrectionKind.SHIFT_ON: say("entries.all_since_here_one_point"),
        CorrectionKind.STRIKE: say("entries.strike"),
        CorrectionKind.TRIAL: say("entries.another_trial"),
        CorrectionKind.INSTEAD: say("entries.instead_one_before"),
        CorrectionKind.LOOK: say("entries.only_look"),
        CorrectionKind.COUNT: say("entries.counts"),
    }[correction.kind]
