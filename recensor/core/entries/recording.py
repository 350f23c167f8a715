"""Entering a reading: how it stands beside what was read before, and whether it is asked about."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from recensor.core.circuit import Part, Sheet, Target
from recensor.core.entries import plausibility
from recensor.core.entries.plausibility import Answer, AnswerKind, Query
from recensor.core.entries.repeat import Repeat, classify_repeat, nothing
from recensor.core.figures import as_read
from recensor.core.judgement import Assessment, Calculated, assess
from recensor.core.quantity import as_ratio
from recensor.core.record import Reading, Run, Strike
from recensor.core.sentences import say
from recensor.core.standing import READ_AGAIN, standing_at, was_left


@dataclass(frozen=True)
class Entered:
    """A run with one reading more, judged. `replaced` is the place of the one that it stands instead of."""

    run: Run
    assessment: Assessment
    repeat: Repeat
    doubted: Query | None = None
    replaced: int | None = None

    @property
    def index(self) -> int:
        """The place of the reading."""
        return len(self.run.readings) - 1

    @property
    def stays(self) -> bool:
        """Whether its point stays next: it is a look, or something about it can hurt; a question alone stops nobody."""
        return self.doubted.holds if self.doubted else self.repeat is Repeat.LOOK


def enter(
    run: Run,
    reading: Reading,
    points: Sequence[Target],
    *,
    unit_is_default: bool = False,
    sealed: bool | None = None,
    meanwhile: bool = False,
    declared_as: Repeat | None = None,
    powered: bool | None = None,
) -> Entered:
    """A run after a reading was typed at one of its points. Pure.

    Parameters
    ----------
    unit_is_default : whether the unit beside the digits is the page's and not the person's.
    sealed : whether calculated values are kept back still; by default as long as the sheet says.
    declared_as : whether the person says that it is another trial, or stands instead of the last.
    powered : whether the supply is on, as far as was said; None where nobody is to be asked.
    meanwhile : whether another reading stands here by now than the one that was seen when this was typed; both stand.
    """
    sealed = run.sheet.sealed if sealed is None else sealed
    before = run.readings
    tried = replace(run, readings=(*before, reading))
    kind = classify_repeat(before, reading, run.sheet, nothing if sealed else lambda: _expected(tried))
    if declared_as and kind not in (Repeat.FIRST, Repeat.LOOK):
        kind = declared_as
    if kind is Repeat.LOOK or (kind is not Repeat.LATER and is_turned_up(reading, run)):
        return _kept_as_look(tried, Repeat.LOOK)
    if meanwhile:
        return Entered(tried, assess(tried), Repeat.TRIAL, found_otherwise(before, reading))
    place = standing_at(before, reading.target, reading.round)
    entered = _standing(tried, kind, place)
    # Whatever is doubtful is doubted against what is known with it: a source has told what it gives.
    earlier = before[place] if place is not None and kind is Repeat.LATER else None
    doubtful = plausibility.EntryCheck(
        entered.run, entered.assessment, reading, points, before, sealed, unit_is_default, earlier, powered
    )
    if query := plausibility.plausibility_query(doubtful):
        return _kept_as_look(tried, kind, query)
    return entered


def _expected(tried: Run) -> Calculated | None:
    return assess(tried).expected(tried.readings[-1].target)


def _standing(tried: Run, kind: Repeat, place: int | None) -> Entered:
    """The run in which the last reading stands as its kind says, beside or instead of the one at a place."""
    *before, reading = tried.readings
    if kind is Repeat.INSTEAD and place is not None:
        before[place] = replace(before[place], struck=Strike(READ_AGAIN, reading.by, reading.time))
        reading = replace(reading, instead_of=place)
    left = was_left(before, reading.target)
    if kind is Repeat.TRIAL and left:
        reading = replace(reading, counted=True)
    elif left or kind in (Repeat.LATER, Repeat.CONFIRMS, Repeat.BESIDE):
        reading = replace(reading, later=True)
    run = replace(tried, readings=(*before, reading))
    return Entered(run, assess(run), kind, replaced=place if kind is Repeat.INSTEAD else None)


def found_otherwise(before: Sequence[Reading], reading: Reading) -> Query | None:
    """What is asked where somebody else, or another page, has read the point meanwhile."""
    place = standing_at(before, reading.target)
    if place is None:
        return None
    shown = as_read(before[place].value, reading.target.unit)
    answers = AnswerKind.TRIAL, AnswerKind.INSTEAD, AnswerKind.AGAIN
    return Query(say("entries.meanwhile_recorded_here", shown=shown), tuple(map(Answer, answers)))


def _kept_as_look(tried: Run, kind: Repeat, doubted: Query | None = None) -> Entered:
    *before, reading = tried.readings
    run = replace(tried, readings=(*before, replace(reading, counted=False)))
    return Entered(run, assess(run), kind, doubted)


def is_turned_up(reading: Reading, run: Run) -> bool:
    """Whether what is set by meter is not there yet: a source still below its setting, a rheostat to either side."""
    part = turned_at(reading.target, run.sheet)
    if part is None or not (part.has_knob or part.kind.adjustable_value) or reading.value.value is None:
        return False
    if run.sheet.is_free(reading.target):
        return False
    if part.kind.adjustable_value:
        wanted, ohms = setting_of(part, reading.target, run.sheet), abs(float(reading.value))
        return wanted > 0 and abs(ohms - wanted) > wanted * as_ratio(run.sheet.judge.limit)
    if not reading.target.is_part_alone and was_accepted(run, part):
        return False  # under load it sags
    setting = setting_of(part, reading.target, run.sheet)
    return abs(float(reading.value)) < setting * (1.0 - as_ratio(run.sheet.judge.limit))


def turned_at(target: Target, sheet: Sheet) -> Part | None:
    """The part with a knob that is read while it is turned: a source, or a rheostat by itself."""
    if target.is_part_alone and sheet.parts[target.part].kind.adjustable_value:
        return sheet.parts[target.part]
    return sheet.source_read_at(target)


def was_accepted(run: Run, part: Part) -> bool:
    """Whether a source was read before connecting, and that stands."""
    return any(
        r.struck is None and r.counted is not False and r.target.is_part_alone and r.target.part == part.name
        for r in run.readings
    )


def setting_of(part: Part, target: Target, sheet: Sheet) -> float:
    """What a source is to be set to where a target reads it, without its sign, in SI units."""
    setup = sheet.state_of(target)
    stated = setup.stated(part) if setup else sheet.alone(part.name)
    return abs(float(stated)) if stated else 0.0
