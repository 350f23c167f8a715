"""What would explain a run, in words, as the bench and its own page show it."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from recensor.core import plan
from recensor.core.circuit import Target, slug
from recensor.core.faults import Cause, Explanation, Family, FaultKind
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment, Outcome
from recensor.core.record import Run
from recensor.ledger import Rows, shown
from recensor.ledger.marks import Mark

# A cause of at least this share, in %, is named in the rows that it explains.
_NAMES_IT = 50

# So many places of one kind are named, and the others counted.
_FEW = 3

# Of a sealed run only where something is wrong is told, and nothing of what it should read.
_SEALED = {
    Family.CIRCUIT: "Something is wrong with {what}, as it is built: look there.",
    Family.INSTRUMENT: "The meter seems to be what is wrong: look at its jack, range and fuse.",
    Family.BOOK: "{what} does not look like what a meter showed there: read it again.",
}


@dataclass(frozen=True)
class ToldReading:
    """A reading that a cause explains or leaves: its words, and the address of what it is of."""

    words: str
    address: str


@dataclass(frozen=True)
class CauseView:
    """A cause in words. `predicts` is what it says of the next reading; `correction` the words of its button.

    `agreeing` are the addresses of what it explains and agrees once it is corrected.
    """

    text: str
    name: str
    percent: int
    share: str
    explains: tuple[ToldReading, ...]
    leaves: tuple[ToldReading, ...]
    agreeing: frozenset[str]
    same: str
    predicts: str
    token: str
    correction: str


@dataclass(frozen=True)
class CausesView:
    """What is said of a run's causes. `address` is that of the reading that settles it, `settles` what it is.

    `remark` is what may be said although nothing is outside.
    """

    causes: tuple[CauseView, ...]
    remark: str
    is_explained: bool
    nothing_wrong: str
    none_of_these: str
    settles: str
    address: str
    otherwise: str
    left_out: int

    @property
    def first(self) -> CauseView | None:
        """The one to name."""
        return self.causes[0] if self.causes else None


def describe_causes(run: Run, explanation: Explanation, *, is_sealed: bool) -> CausesView:
    """The causes of a run in words."""
    told = explanation.told
    settling = explanation.next.target if explanation.next and explanation.is_explained else None
    settling = settling or (told[0].next if told else None)
    address, settles, otherwise = "", "", ""
    if settling:
        address = slug(settling)
        settles = plan.in_a_sentence(plan.title(settling, run.sheet))
        rival = explanation.rival
        if rival and explanation.is_explained and not is_sealed:
            otherwise = f"{_predicted(rival.predicts, settling)} if it is {rival.name}"
    return CausesView(
        tuple(_told(run, cause, explanation, is_sealed=is_sealed) for cause in told),
        "" if is_sealed else " ".join(explanation.remarks),
        explanation.is_explained,
        percent_of(explanation.nothing_wrong),
        percent_of(explanation.none_of_these),
        settles,
        address,
        otherwise,
        explanation.left_out,
    )


def _told(run: Run, cause: Cause, explanation: Explanation, *, is_sealed: bool) -> CauseView:
    predicts = ""
    if cause.next and not is_sealed:
        predicts = _predicted(cause.predicts, cause.next)
    text, name = cause.text, _name(cause, explanation)
    if is_sealed:
        what = " and ".join(dict.fromkeys(_target_words(run, target) for target in cause.targets[:3]))
        text = name = _SEALED[cause.kind.family].format(what=what)
    return CauseView(
        text=text,
        name=name,
        percent=round(100 * cause.score),
        share=percent_of(cause.score),
        explains=tuple(_readings(run, cause.explains)),
        leaves=tuple(_readings(run, cause.leaves)) if cause.kind is not FaultKind.UNEXPLAINED else (),
        agreeing=frozenset(one.address for one in _readings(run, cause.agreeing)),
        same="" if is_sealed else _same(run, cause),
        predicts=predicts,
        token=cause.token,
        correction="" if is_sealed or cause.correction is None else cause.correction.words,
    )


def _name(cause: Cause, explanation: Explanation) -> str:
    """It in a few words, with the other one where two explain it together."""
    two = [one.name for one in explanation.causes if one.together and one.score == cause.score]
    return " and ".join(two) if cause.together else cause.name


def _same(run: Run, cause: Cause) -> str:
    """What else it could be, kind by kind."""
    named: dict[FaultKind, list[str]] = {}
    for kind, place in cause.same:
        named.setdefault(kind, []).append(place)
    texts = [f"{kind} ({_places(run, places)})" for kind, places in named.items()]
    return f"{', '.join(texts)}{f' and {cause.more} more' if cause.more else ''}"


def _places(run: Run, places: Sequence[str]) -> str:
    """The first few of them in words, and how many more."""
    words = "; ".join(_target_words(run, place) for place in places[:_FEW])
    return f"{words} and {len(places) - _FEW} more" if len(places) > _FEW else words


def _predicted(prediction: tuple[float, float] | None, target: Target) -> str:
    if prediction is None:
        return "over-range"
    value, spread = prediction
    return f"{rounded(value, 2.0 * spread, target.unit)} ± {rounded(2.0 * spread, 2.0 * spread, target.unit)}"


def _readings(run: Run, indexes: Iterable[int]) -> Iterator[ToldReading]:
    for k in indexes:
        reading = run.readings[k]
        words = f"{shown(reading)}, {plan.in_a_sentence(plan.title(reading.target, run.sheet))}"
        yield ToldReading(words, slug(reading.target.key))


def _target_words(run: Run, place: str) -> str:
    """What a place of the run document is called on the page."""
    if place.startswith("readings["):
        return next(reading.words for reading in _readings(run, [int(place[9:-1])]))
    what, *rest = place.split(".")
    if what == "leads":
        return f"{rest[0]}, {('first', 'second')[rest[1] == '2']} lead"
    return rest[0] if rest else place


def percent_of(share: float) -> str:
    """A share in %: no certainty is claimed."""
    if share > 0.99:
        return "over 99 %"
    return "under 1 %" if share < 0.01 else f"{100 * share:.0f} %"


@dataclass(frozen=True)
class ExplainedRow:
    """The verdict of a row of the ledger, whose reading a cause may explain."""

    address: str
    mark: Mark
    by: str


def rows_explained(
    run: Run, points: Sequence[Target], assessment: Assessment, causes: CausesView
) -> list[ExplainedRow]:
    """The verdicts of all that is outside: explained by the first cause, which makes them agree, or as they stand."""
    rows, first = Rows(run, points, assessment), causes.first
    explained = first.agreeing if first and first.percent >= _NAMES_IT else frozenset()
    explained_rows = []
    for target in points:
        assessed = assessment.of(target)
        if assessed and assessed.judged.outcome is Outcome.OUTSIDE:
            by = first.name if first and slug(target.key) in explained else ""
            explained_rows.append(ExplainedRow(slug(target), rows.row_of(target).mark, by))
    return explained_rows
