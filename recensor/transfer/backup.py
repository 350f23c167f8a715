"""Backups: a ZIP file with every row, as Django's serializer writes it, one JSON object in a line.

`about.json` beside it says which migrations the rows fit, how many there are of each kind, and the checksum of them.
Sign-ins and throttles are not in it. No row points to a file yet.
"""

import contextlib
import hashlib
import io
import json
import os
import re
import tempfile
import zipfile
from collections import Counter
from collections.abc import Collection, Iterator
from dataclasses import asdict, dataclass
from datetime import datetime
from importlib.metadata import version
from pathlib import Path
from typing import Any

from django.apps import apps
from django.core import serializers
from django.core.management import call_command
from django.core.serializers.json import DjangoJSONEncoder
from django.db import IntegrityError, connection, models, transaction
from django.db.migrations import operations as operation
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from django.utils import timezone

from recensor.core.errors import Refused
from recensor.people.models import Session, User
from recensor.transfer.published import labels, published_name
from recensor.web.transactions import consistent_read

ROWS, ABOUT = "rows.jsonl", "about.json"

# How a line of the rows begins.
_KIND = re.compile(r'(?P<open>\{"model": ")(?P<name>[a-z_.]+)(?=")')

_APPS = ("people", "meters", "kits", "experiments", "bench", "reports")


class _Exactly(DjangoJSONEncoder):
    """As Django writes JSON, with every digit of a time."""

    def default(self, o: Any) -> Any:
        return o.isoformat() if isinstance(o, datetime) else super().default(o)


class NotRestoredError(Refused):
    """A backup cannot come back; the message says why, and nothing was changed."""


@dataclass(frozen=True)
class BackupAbout:
    """What is in a backup; `migrations` as ``app.name``, `checksum` as SHA-256 of the rows' file."""

    version: str
    made: str
    migrations: list[str]
    counts: dict[str, int]
    checksum: str


def kept() -> list[type[models.Model]]:
    """Every kind of row that is kept, in an order in which nothing points at what comes later."""
    found = serializers.sort_dependencies([(apps.get_app_config(label), None) for label in _APPS], allow_cycles=True)
    return [model for model in found if model is not Session]


def backup(file: Path) -> BackupAbout:
    """Write a backup of the rows as they are at one moment, while others go on working. Raises OSError.

    The file appears under its name once it is whole, and only its owner can read it: it holds the hashes of passwords.
    """
    part = file.with_name(f"{file.name}.part")
    with contextlib.suppress(FileNotFoundError):
        part.unlink()
    try:
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
            about = _written(out)
            out.flush()
            os.fsync(out.fileno())
        part.rename(file)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    return about


def restore(file: Path) -> BackupAbout:
    """Bring a backup into an installation in which nothing was recorded yet; its accounts go.

    Raises `NotRestoredError`, and nothing is changed.
    """
    with _opened(file) as (about, rows):
        _refuse_what_does_not_fit(about)
        with transaction.atomic():
            User.objects.all().delete()
            try:
                call_command("loaddata", str(rows), verbosity=0, ignorenonexistent=True)  # a field that is gone by now
            except (serializers.base.DeserializationError, IntegrityError, ValueError) as error:
                raise NotRestoredError(f"A row of the backup cannot be kept: {error}") from None
            counts = counted()
            expected = dict.fromkeys(counts, 0) | about.counts  # a kind that came later has no rows yet
            if counts != expected:
                different = sorted(set(counts.items()) ^ set(expected.items()))
                raise NotRestoredError(f"Not every row came back: {different}.")
    return about


def counted() -> dict[str, int]:
    """How many rows there are of each kind."""
    return {published_name(model): model._base_manager.count() for model in kept()}


def _written(out: io.BufferedIOBase) -> BackupAbout:
    counts: Counter[str] = Counter({published_name(model): 0 for model in kept()})
    checksum = hashlib.sha256()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        with archive.open(ROWS, "w", force_zip64=True) as lines:
            for label, line in _lines():
                counts[label] += 1
                checksum.update(line)
                lines.write(line)
        about = BackupAbout(
            version("recensor"), timezone.now().isoformat(), _migrations(), dict(counts), checksum.hexdigest()
        )
        archive.writestr(ABOUT, json.dumps(asdict(about), indent=1))
    return about


def _lines() -> Iterator[tuple[str, bytes]]:
    """Each row with its kind, all as they were at the moment of the first."""
    with consistent_read():
        for model in kept():
            for row in model._base_manager.order_by("pk").iterator(chunk_size=2000):
                line = serializers.serialize("jsonl", [row], cls=_Exactly)
                name = published_name(model)
                yield name, line.replace(f'"{model._meta.label_lower}"', f'"{name}"', 1).encode()


@contextlib.contextmanager
def _opened(file: Path) -> Iterator[tuple[BackupAbout, Path]]:
    """What a backup says of itself, and its rows as a file, once their checksum is right."""
    with tempfile.TemporaryDirectory() as folder:
        try:
            with zipfile.ZipFile(file) as archive:
                about = BackupAbout(**json.loads(archive.read(ABOUT)))
                rows = Path(archive.extract(ROWS, folder))
        except FileNotFoundError:
            raise NotRestoredError(f"There is no file {file}.") from None
        except (zipfile.BadZipFile, KeyError, TypeError, ValueError) as error:
            raise NotRestoredError(f"{file} is no backup of Recensor, or it was cut off: {error}") from None
        with rows.open("rb") as lines:
            if hashlib.file_digest(lines, "sha256").hexdigest() != about.checksum:
                raise NotRestoredError(f"{file} is damaged: its rows are not those that were written.")
        yield about, _by_classes(rows, Path(folder) / "by-classes.jsonl")


def _by_classes(rows: Path, named: Path) -> Path:
    """The rows under the names of their classes of today, for Django to read."""
    with rows.open() as lines, named.open("w") as out:
        for line in lines:
            start = _KIND.match(line)
            if start is None or start["name"] not in labels():
                raise NotRestoredError(f"A row of the backup is of no kind that is known here: {line[:60]}")
            out.write(f"{start['open']}{labels()[start['name']]}{line[start.end('name') :]}")
    return named


def _refuse_what_does_not_fit(about: BackupAbout) -> None:
    here = set(_migrations())
    if not set(about.migrations) <= here or not _keep_rows(here - set(about.migrations)):
        raise NotRestoredError(
            f"This backup was made by version {about.version}, whose database has another shape: restore it with that "
            "version, then start this one over it."
        )
    recorded = {label: count for label, count in counted().items() if count and not label.startswith("people.")}
    if recorded:
        what = ", ".join(f"{count} of {label}" for label, count in sorted(recorded.items()))
        raise NotRestoredError(f"Something is here already ({what}): a backup comes back into an empty installation.")


def _keep_rows(migrations: Collection[str]) -> bool:
    """Whether rows of before these migrations are whole after them.

    Those add what may be empty, rename classes, let go of a field that nobody asks for any more, or change no column.
    """
    known = MigrationLoader(connection).disk_migrations
    operations = [step for name in migrations for step in known[_key(name)].operations]
    return all(
        isinstance(
            step, operation.CreateModel | operation.RenameModel | operation.AlterModelTable | operation.RemoveField
        )
        or (isinstance(step, operation.AddField) and (step.field.null or step.field.has_default()))
        or (isinstance(step, operation.SeparateDatabaseAndState) and not step.database_operations)
        for step in operations
    )


def _key(name: str) -> tuple[str, str]:
    app, _, migration = name.partition(".")
    return app, migration


def _migrations() -> list[str]:
    applied = MigrationRecorder(connection).applied_migrations()
    return sorted(f"{app}.{name}" for app, name in applied if app in _APPS)
