"""Keeping how a revision was judged: when it is signed, and in the background for those of before."""

import logging

from django.utils import timezone

from recensor import __version__
from recensor.core.faults import explain
from recensor.core.judgement import assess
from recensor.core.record import Run
from recensor.formats.documents import assessment, run_document
from recensor.jobs import queue
from recensor.runs.models import KeptAssessment, Revision

_LOG = logging.getLogger(__name__)

_KEEP_NEXT = "recensor.runs.services.keep_assessment.keep_next"


def keep_assessment(revision: Revision, core: Run) -> KeptAssessment:
    """Keep how a run is judged by the rules of now, beside its revision; kept already, it stays as it is."""
    judged = assess(core)
    tree = assessment.to_tree(judged, explain(judged))
    row = KeptAssessment(revision=revision, rules=__version__, tree=tree, time=timezone.now())
    return row.append_once(revision=revision)


def keep_missing() -> None:
    """Have those revisions judged in the background that were signed before anything was kept."""
    if _missing().exists():
        queue.put(_KEEP_NEXT)


def keep_next(after: int = 0) -> None:
    """Judge one revision of before, and put the next one into the queue. Called by a worker."""
    revision = _missing().filter(pk__gt=after).order_by("pk").first()
    if revision is None:
        return
    try:
        keep_assessment(revision, run_document.read(revision.document))
    except Exception:  # what cannot be judged any more is left as it is, and does not stop the others
        _LOG.exception("Revision %s could not be judged.", revision.pk)
    queue.put(_KEEP_NEXT, revision.pk)


def _missing():
    return Revision.objects.filter(assessment=None)
