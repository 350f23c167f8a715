"""Packing an account: all rows as they are at one moment, and each run as a document that anybody can read."""

import hashlib
import json
import tempfile
import zipfile
from collections import defaultdict
from collections.abc import Iterator
from typing import IO, Any

from django.db.models import QuerySet
from django.utils import timezone

from recensor import __version__
from recensor.core.errors import Refused
from recensor.formats.documents import run_document
from recensor.jobs.models import Job, JobFile
from recensor.jobs.queue import given_up
from recensor.people.models import User
from recensor.reports.files import file_name
from recensor.runs import queries
from recensor.transfer.account.about import ABOUT, DOCUMENTS, ROWS, AccountAbout, mark_of
from recensor.transfer.account.row_kinds import KINDS, PREFERENCES, Rows, written
from recensor.web.transactions import consistent_read

# Files in the database are kept in pieces, which every server takes.
_PIECE = 2_000_000

# So many rows are read together.
_TOGETHER = 100


def packed(job: Job) -> None:
    """The whole archive, in one step."""
    if why := given_up(job):
        raise Refused(why)
    with tempfile.TemporaryFile() as out:
        pack(job.person, out)
        out.seek(0)
        job.files.all().delete()  # of a try before
        number = 0
        while content := out.read(_PIECE):
            JobFile.objects.create(job=job, number=number, content=content)
            number += 1
        Job.objects.filter(pk=job.pk).update(size=out.tell())


def pack(person: User, out: IO[bytes]) -> AccountAbout:
    """Write the archive of an account."""
    counts: dict[str, int] = defaultdict(int)
    checksum = hashlib.sha256()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive, consistent_read():
        with archive.open(ROWS, "w", force_zip64=True) as rows:
            for name, row in lines(person):
                line = json.dumps([name, row], ensure_ascii=False, separators=(",", ":")) + "\n"
                counts[name] += 1
                checksum.update(line.encode())
                rows.write(line.encode())
        for number, run in enumerate(queries.any_run().filter(owner=person).order_by("pk"), 1):
            document = run_document.write(queries.whole(run, queries.load(run)))
            archive.writestr(f"{DOCUMENTS}/{number:04}-{file_name(run.title)}.run.json", document)
        preferences = {name: getattr(person, name) for name in PREFERENCES}
        digits = checksum.hexdigest()
        mark = mark_of(digits, person.username)
        about = AccountAbout(person.username, timezone.now(), __version__, dict(counts), digits, preferences, mark)
        archive.writestr(ABOUT, about.write())
    return about


def lines(person: User) -> Iterator[tuple[str, dict[str, Any]]]:
    """Every row of an account by its kind, in the order in which they are brought in."""
    places: dict[Any, dict[Any, int]] = {}
    for kind in KINDS:
        known = places[kind.model] = {}
        for row in _in_pieces(kind.of(person)):
            known[row.pk] = len(known)
            yield kind.name, written(kind, row, person, places)


def _in_pieces(rows: Rows | QuerySet[Any]) -> Iterator[Any]:
    """Rows in their order, of which never many are in memory: some have a picture each."""
    if not isinstance(rows, QuerySet):
        yield from rows
        return
    keys = list(rows.values_list("pk", flat=True))
    for k in range(0, len(keys), _TOGETHER):
        found = rows.model._base_manager.in_bulk(keys[k : k + _TOGETHER])
        yield from (found[key] for key in keys[k : k + _TOGETHER])
