"""Claims that do not follow from the readings that they name: nothing is weighed, they can be worked out."""

from collections.abc import Iterator

from recensor.core.judgement import Assessment


def claims_that_do_not_follow(assessment: Assessment) -> Iterator[tuple[int, str]]:
    """The index of each, and why."""
    for claim in assessment.claims:
        if claim.follows is False:
            yield claim.index, f"What was worked out for {claim.claim.target.words} does not follow. {claim.reason}"
