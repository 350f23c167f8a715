"""The state of each run's books for the list of runs: discardable, cached by run, last entry and version."""

from django.core.cache import cache
from django.db.models import Count, Max

from recensor import __version__
from recensor.bench import queries
from recensor.bench.ledger.document import books
from recensor.bench.models import Reading, Run
from recensor.core.judgement import assess
from recensor.web.marks import Mark


def books_of(page: list[Run]) -> list[tuple[Run, Mark]]:
    """Each run with the state of its books."""
    entries = Reading.objects.filter(run__in=page).values_list("run").annotate(Max("id"), Count("lines"))
    newest = {run_id: f"{last}:{acts}" for run_id, last, acts in entries}
    keys = {run.pk: f"books:{__version__}:{run.pk}:{newest.get(run.pk, 'none')}" for run in page}
    known = cache.get_many(keys.values())
    unknown = [run for run in page if keys[run.pk] not in known]
    for run, core_run in zip(unknown, queries.load_runs(unknown), strict=True):
        points = queries.points(core_run)
        known[keys[run.pk]] = books(core_run, points, assess(core_run))
    cache.set_many({keys[run.pk]: known[keys[run.pk]] for run in unknown})
    return [(run, known[keys[run.pk]]) for run in page]
