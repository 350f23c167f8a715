"""What does a step of each kind of job; whoever makes jobs of a kind says so when the site starts."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from django.utils.module_loading import import_string

if TYPE_CHECKING:
    from recensor.jobs.models import Job, JobFile

# Names of functions, by the kind of job; loaded by whoever works, so that no page waits for what writes reports.
_STEPS: dict[str, str] = {}


def register(kind: str, function: str) -> None:
    """Say which function does a step of a kind of job: of a `Job` it makes a file, or none, and raises `Refused`."""
    _STEPS[kind] = function


def step_of(job: "Job") -> "Callable[[Job], JobFile | None]":
    """What does a step of this job."""
    step: Callable[[Job], JobFile | None] = import_string(_STEPS[job.kind])
    return step
