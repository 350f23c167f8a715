"""Claims that do not follow from the readings that they name: nothing is weighed, they can be worked out."""

from collections.abc import Iterator

from recensor.core.judgement import Assessment
from recensor.core.sentences import say


def claims_that_do_not_follow(assessment: Assessment) -> Iterator[tuple[int, str]]:
    """The index of each, and why."""
    for claim in assessment.claims:
        if claim.follows is False:
            yield claim.index, say("faults.what_worked_out_does", target=claim.claim.target.words, reason=claim.reason)
