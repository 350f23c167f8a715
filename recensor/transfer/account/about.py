"""What an archive of an account says of itself, and whether it is one."""

import contextlib
import hashlib
import json
import lzma
import tempfile
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import IO, Any

from django.utils.crypto import constant_time_compare, salted_hmac

from recensor.core.errors import Refused
from recensor.jobs.models import Job
from recensor.people.models import User
from recensor.runs.models import RunRow
from recensor.transfer.account.row_kinds import KINDS

FORMAT, VERSION = "recensor account", 1
ABOUT, ROWS, DOCUMENTS = "about.json", "rows.jsonl", "documents"

# What is read of an archive at all: unpacked, in bytes; in rows; in files.
MOST_UNPACKED, MOST_ROWS, MOST_FILES = 1_000_000_000, 500_000, 20_000
_LONGEST_ABOUT, _PIECE = 100_000, 1_000_000

# What an archive must say of itself, and how; the years in which one can have been made.
_TYPES = {
    "by": str,
    "made": str,
    "version": str,
    "counts": dict,
    "checksum": str,
    "preferences": dict,
    "mark": str,
}
_LONGEST_SAID, _YEARS = 200, (1970, 9998)

# What opening or reading an archive raises where it is none, is damaged, or is locked by a password.
_BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    EOFError,
    KeyError,
    OSError,
    RuntimeError,
)


@dataclass(frozen=True)
class AccountAbout:
    """Who packed an archive, when, and how many rows of each kind are in it.

    `checksum` is the SHA-256 of the rows; `mark` shows that this installation wrote them and for whom. `preferences`
    are the person's.
    """

    by: str
    made: datetime
    version: str
    counts: Mapping[str, int]
    checksum: str
    preferences: Mapping[str, object]
    mark: str = ""

    @property
    def contents(self) -> list[tuple[str, int]]:
        """The kinds that have words, each with how many there are."""
        return [(kind.words, self.counts[kind.name]) for kind in KINDS if kind.words and self.counts.get(kind.name)]

    def is_ours(self, person: User) -> bool:
        """Whether this installation wrote it for the same person: then signatures in it are as they were given."""
        return self.by == person.username and constant_time_compare(self.mark, mark_of(self.checksum, self.by))

    def said_to(self, person: User) -> Iterator[str]:
        """What somebody should know before they bring it in."""
        here = RunRow.objects.filter(owner=person).count()
        if here and self.counts.get("bench.run"):
            yield f"You have {here} run{'s' * (here > 1)} here; these come beside, also where they are the same."
        if self.counts.get("bench.signature") and not self.is_ours(person):
            yield (
                "It was not packed here for you, and signatures cannot be believed out of a file: signed runs come "
                "open, as they stood. What was signed is kept in the archive as documents."
            )

    def write(self) -> str:
        """As it stands in the archive."""
        said = {**asdict(self), "made": self.made.isoformat()}
        return json.dumps({"format": FORMAT, "format_version": VERSION, **said}, indent=1)


def mark_of(checksum: str, name: str) -> str:
    """What only this installation can write beside a checksum and a name."""
    return salted_hmac("recensor.archive", f"{checksum} {name}", algorithm="sha256").hexdigest()


def read_about(archive: zipfile.ZipFile) -> AccountAbout:
    """What an archive says of itself. Raises `Refused`."""
    files = archive.infolist()
    if len(files) > MOST_FILES or sum(file.file_size for file in files) > MOST_UNPACKED:
        raise Refused(f"Unpacked it is larger than {MOST_UNPACKED / 1e6:.0f} MB, or of more than {MOST_FILES} files.")
    if ABOUT not in archive.namelist() or archive.getinfo(ABOUT).file_size > _LONGEST_ABOUT:
        raise Refused("This is no archive of an account: it does not say what is in it.")
    try:
        said = json.loads(archive.read(ABOUT))
    except (ValueError, RecursionError) as error:
        raise _unreadable(str(error)) from None
    if not isinstance(said, dict) or (said.pop("format", None), said.pop("format_version", None)) != (FORMAT, VERSION):
        raise Refused(f"This is no archive of version {VERSION}, which is read here.")
    about = _about(said)
    if sum(about.counts.values()) > MOST_ROWS:
        raise Refused(f"It has more than {MOST_ROWS} rows, which is the most that is brought in at once.")
    return about


def _about(said: Mapping[str, Any]) -> AccountAbout:
    """What is said, each as the type that it must be. Raises `Refused`."""
    for name, wanted in (*_TYPES.items(), *((name, None) for name in said if name not in _TYPES)):
        value = said.get(name, "" if name == "mark" else None)
        if wanted is None or not isinstance(value, wanted):
            raise _unreadable(f"“{name[:40]}”")
        if isinstance(value, str) and not (value.isprintable() and len(value) <= _LONGEST_SAID):
            raise _unreadable(f"“{name}”")
    counts = said["counts"]
    if not all(type(count) is int and 0 <= count <= MOST_ROWS for count in counts.values()):
        raise _unreadable("“counts”")
    try:
        made = datetime.fromisoformat(said["made"])
    except ValueError as error:
        raise _unreadable(str(error)) from None
    made = made if made.tzinfo else made.replace(tzinfo=UTC)
    if not _YEARS[0] <= made.year <= _YEARS[1]:
        raise _unreadable("“made”")
    return AccountAbout(**{**said, "made": made})


def _unreadable(what: str) -> Refused:
    return Refused(f"What it says of itself cannot be read: {what[:80]}.")


def check_rows(archive: zipfile.ZipFile, about: AccountAbout) -> None:
    """Refuse rows that are not those that were written."""
    digits = hashlib.sha256()
    with archive.open(ROWS) as rows:
        while some := rows.read(_PIECE):
            digits.update(some)
    if digits.hexdigest() != about.checksum:
        raise Refused("The archive is damaged: its rows are not those that were written.")


@contextlib.contextmanager
def opened(job: Job) -> Iterator[zipfile.ZipFile]:
    """The archive whose pieces a job has. Raises `Refused` for what is none, or is damaged anywhere within."""
    with tempfile.TemporaryFile() as whole:
        _put_together(job, whole)
        try:
            with zipfile.ZipFile(whole) as archive:
                yield archive
        except _BROKEN as error:
            raise Refused(f"This is no archive, or it was cut off: {str(error)[:80]}.") from None


def _put_together(job: Job, whole: IO[bytes]) -> None:
    for piece in job.made_files():
        whole.write(piece.content)
    whole.seek(0)


def about_of(job: Job) -> tuple[AccountAbout, list[str]]:
    """What is in an archive that was sent, and what its person should know. Raises `Refused`."""
    with opened(job) as archive:
        about = read_about(archive)
    return about, list(about.said_to(job.person))
