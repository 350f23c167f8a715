"""The reports of many runs, one for each step."""

from recensor.core.errors import Refused
from recensor.jobs.models import Job, JobFile
from recensor.jobs.queue import given_up
from recensor.reports import files, queries
from recensor.runs import queries as bench

# What a database takes in one piece, in bytes; a report with hundreds of photos is larger.
_LARGEST = 12_000_000


def report_of(job: Job) -> JobFile:
    """The report of the run that is next, as the person would have it; of one that cannot be written why not."""
    run_id, ending = job.wanted["runs"][job.made], job.wanted["ending"]
    file = JobFile(job=job, number=job.made, name=f"{job.made + 1:03}-run-{run_id}{ending}")
    run = bench.any_run().filter(pk=run_id, owner=job.person).first()
    if run is None:
        file.why = "The run is not there any more."
        return file
    file.name = f"{job.made + 1:03}-{files.file_name(run.title)}{ending}"
    if why := given_up(job):
        file.why = why
        return file
    wanted = queries.wanted(run, job.person, inside=True)
    try:
        content = files.of_run(ending, wanted)
    except Refused as error:
        file.why = error.message[:500]
        return file
    if len(content) > _LARGEST:
        file.why = f"It has {len(content) / 1e6:.0f} MB: take it from the page of its report."
    else:
        file.content = content
    return file
