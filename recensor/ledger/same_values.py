"""What is to be one value, as a row: each point, the mean, how far they lie apart, and which one is odd."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Sheet
from recensor.core.figures import rounded, with_digits
from recensor.core.judgement import Assessment, Outcome, SameValue, Shared, same_values
from recensor.core.plan import title_in_setup
from recensor.ledger.marks import Mark


@dataclass(frozen=True)
class SameRow:
    """One row; each of the `points` is its name, what was read there, and whether it is the odd one."""

    what: str
    points: tuple[tuple[str, str, bool], ...]
    mean: str
    apart: str
    mark: Mark


def same_rows(sheet: Sheet, assessment: Assessment) -> Iterator[SameRow]:
    """A row for everything that was read at several points, or by several meters."""
    against = assessment.against
    for same in same_values(against.run, against.measurements):
        unit, apart = same.target.unit, same.apart
        tells = rounded(apart.margin, apart.margin, unit) if apart.margin else "nothing"
        yield SameRow(
            _what(same, sheet),
            tuple(
                (point.words, with_digits(point.read.value, point.digit, unit), k == same.odd)
                for k, point in enumerate(same.points)
            ),
            rounded(same.mean, apart.margin or None, unit),
            f"{apart.shown(unit)} apart; the meter explains {tells}",
            _mark(same),
        )


def _what(same: SameValue, sheet: Sheet) -> str:
    """What is the same, and in which circuit where there are several."""
    if same.shared is Shared.METERS:
        return f"{title_in_setup(same.target, sheet)}, by several meters"
    what = "One voltage across" if same.shared is Shared.VOLTAGE else "One current through"
    where = f", in {same.setup}" if sheet.several else ""
    return f"{what} {', '.join(same.names)}{where}"


def _mark(same: SameValue) -> Mark:
    if same.holds is None:
        return Mark(Outcome.UNDECIDED, "undecided", "the meter cannot tell them apart finely enough")
    if same.holds:
        return Mark(Outcome.AGREES, "the same")
    words = "not the same" if same.odd is None else f"{same.points[same.odd].words} is odd"
    return Mark(Outcome.OUTSIDE, words)
