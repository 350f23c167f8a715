"""The state of each run's books for the list of runs: discardable, cached by run, last entry and version."""

from django.core.cache import cache
from django.db.models import Count, Max

from recensor import __version__
from recensor.bench import ledger, queries
from recensor.bench.marks import Mark
from recensor.bench.models import Reading, Run
from recensor.core import judgement


def books_of(page: list[Run]) -> list[tuple[Run, Mark]]:
    """Each run with the state of its books."""
    entries = Reading.objects.filter(run__in=page).values_list("run").annotate(Max("id"), Count("strike"))
    newest = {run_id: f"{last}:{struck}" for run_id, last, struck in entries}
    keys = {run.pk: f"books:{__version__}:{run.pk}:{newest.get(run.pk, 'none')}" for run in page}
    known = cache.get_many(keys.values())
    unknown = [run for run in page if keys[run.pk] not in known]
    for run, core_run in zip(unknown, queries.load_runs(unknown), strict=True):
        points = queries.points(core_run)
        known[keys[run.pk]] = ledger.books(core_run, points, judgement.assess(core_run))
    cache.set_many({keys[run.pk]: known[keys[run.pk]] for run in unknown})
    return [(run, known[keys[run.pk]]) for run in page]
