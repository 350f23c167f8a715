"""How each run stands, for the list of runs: discardable, cached by run, last entry and version."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from django.core.cache import cache
from django.db.models import Max

from recensor import __version__
from recensor.core import plan
from recensor.core.judgement import Outcome, assess
from recensor.core.plan import Order
from recensor.ledger.document import books, wanted
from recensor.ledger.marks import Mark
from recensor.ledger.stages import next_point
from recensor.runs import queries
from recensor.runs.models import ActRow, ReadingRow, RunRow


@dataclass(frozen=True)
class RunStanding:
    """How a run stands: the state of its books, how much is read of what is asked, and what comes next."""

    books: Mark
    read: int
    asked: int
    next: str


class RunFilter(StrEnum):
    """How a run stands, as the list is sorted out by it."""

    TO_READ = "to read"
    OUT = "out or outside"
    DONE = "done"


@dataclass(frozen=True)
class ListedRun:
    """A run of the list, with how it stands and when it was last touched."""

    run: RunRow
    standing: RunStanding
    touched: datetime

    @property
    def stands(self) -> RunFilter:
        """What is out comes before what is left to read."""
        if self.standing.books.outcome is Outcome.OUTSIDE:
            return RunFilter.OUT
        return RunFilter.TO_READ if self.standing.next else RunFilter.DONE


def books_of(page: list[RunRow], order: Order = Order.VOLTS_FIRST) -> list[ListedRun]:
    """Each run with how it stands."""
    entries = ReadingRow.objects.filter(run__in=page).values_list("run").annotate(Max("id"), Max("time"))
    newest = {run_id: (last, time) for run_id, last, time in entries}
    acts = dict(ActRow.objects.filter(run__in=page).values_list("run").annotate(Max("id")).order_by())
    keys = {}
    for run in page:
        state = run.run_sheet_id, newest.get(run.pk, (0,))[0], acts.get(run.pk, 0), order.name
        keys[run.pk] = f"books:{__version__}:{run.pk}:{':'.join(map(str, state))}"
    known = cache.get_many(keys.values())
    unknown = [run for run in page if keys[run.pk] not in known]
    for run, core_run in zip(unknown, queries.load_runs(unknown), strict=True):
        points = queries.points(core_run)
        assessment = assess(core_run)
        ways = plan.in_order(points, core_run.sheet, order, plan.bench_of(core_run, assessment))
        following = next_point(core_run, points, assessment, ways)
        asked = wanted(core_run, points, assessment) if core_run.sheet.asked else ()
        known[keys[run.pk]] = RunStanding(
            books(core_run, points, assessment),
            sum(map(assessment.is_read, asked)),
            len(asked),
            "" if following is None else plan.title(following, core_run.sheet),
        )
    cache.set_many({keys[run.pk]: known[keys[run.pk]] for run in unknown})
    return [ListedRun(run, known[keys[run.pk]], newest.get(run.pk, (0, run.created))[1]) for run in page]
