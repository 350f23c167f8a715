"""Bringing an account in: every row is looked at, and all of them are kept beside what is here, or none."""

import json
import zipfile
from collections import defaultdict
from collections.abc import Callable, Mapping
from typing import Any

from django.core.exceptions import ValidationError
from django.db import DataError, IntegrityError, models
from django.utils import timezone

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.jobs.models import Job
from recensor.jobs.queue import given_up
from recensor.kits.services import MOST_KITS
from recensor.meters.models import Meter
from recensor.meters.services import MOST_METERS
from recensor.people.models import User
from recensor.reports.models import SectionChoice
from recensor.runs.models import RunRow
from recensor.transfer import checks
from recensor.transfer.account.about import ROWS, AccountAbout, check_rows, opened, read_about
from recensor.transfer.account.row_kinds import KINDS, PREFERENCES, Column, RowKind, pointed_at, value_of
from recensor.web.transactions import atomic_with_retry

_BY_NAME = {kind.name: kind for kind in KINDS}

# So many rows are inserted together, and so many bytes of them.
_BATCH, _WEIGHT = 500, 4_000_000

_LONGEST_LINE = 30_000_000

Made = Mapping[type[models.Model], list[models.Model]]

# What makes a line one that cannot be kept.
_WRONG = (ValueError, TypeError, KeyError, IndexError, AttributeError, ArithmeticError, IntegrityError, DataError)


def import_step(job: Job) -> None:
    """The whole archive, in one step and one transaction."""
    if why := given_up(job):
        raise Refused(why)
    with opened(job) as archive:
        about = read_about(archive)
        check_rows(archive, about)
        _import_for(job, about, archive)


@atomic_with_retry
def _import_for(job: Job, about: AccountAbout, archive: zipfile.ZipFile) -> None:
    """The rows are kept, and the job is done, or neither: begun again it brings nothing twice."""
    made = import_account(job.person, about, archive)
    now = Job.objects.select_for_update().filter(pk=job.pk, state=Job.State.WORKING).first()
    if now is None:
        raise Refused("It was cancelled.")
    now.files.all().delete()
    now.state, now.made, now.size, now.claimed, now.ended = Job.State.DONE, now.total, 0, None, timezone.now()
    now.why = f"{len(made[RunRow])} run{'s' * (len(made[RunRow]) != 1)} came"
    now.save()


@atomic_with_retry
def import_account(person: User, about: AccountAbout, archive: zipfile.ZipFile) -> Made:
    """Keep every row of an archive as the person's. Raises `Refused` with the line that cannot be kept."""
    is_first = not RunRow.objects.filter(owner=person).exists()
    arriving = _ArrivingRows(person, believes=about.is_ours(person))
    try:
        with archive.open(ROWS) as rows:
            while line := rows.readline(_LONGEST_LINE + 1):
                arriving.take(line)
        arriving.flush()
    except ValidationError as error:
        raise Refused(f"Line {arriving.number} of the rows: {' '.join(error.messages)[:200]}") from None
    except (*_WRONG, Refused) as error:
        raise Refused(f"Line {arriving.number} of the rows: {str(error)[:200]}") from None
    _refuse_too_many(person)
    for fault in checks.faults_of(arriving.made, person):
        raise Refused(f"Nothing is brought in: {fault[:300]}")
    if is_first:
        _follow(person, about)
    return arriving.made


def _refuse_too_many(person: User) -> None:
    kept = (("kits", person.kits.count(), MOST_KITS), ("meters", person.meters.count(), MOST_METERS))
    for words, count, most in kept:
        if count > most:
            raise Refused(f"With these you would keep {count} {words}; at most {most} are kept.")


def _follow(person: User, about: AccountAbout) -> None:
    """A person who begins here follows the school that they followed there."""
    for name in PREFERENCES:
        column = User._meta.get_field(name)
        if name in about.preferences and isinstance(column, models.Field):
            try:
                setattr(person, name, value_of(column, about.preferences[name]))
            except ValidationError as error:
                raise Refused(f"The preference {name}: {' '.join(error.messages)[:200]}") from None
    person.save(update_fields=PREFERENCES)


class _ArrivingRows:
    """Rows as they come: each made with the keys of here, inserted in batches.

    `believes`: whether what others gave, their signatures, is as they gave it.
    """

    def __init__(self, person: User, *, believes: bool) -> None:
        self._person, self._believes = person, believes
        self.made: dict[type[models.Model], list[models.Model]] = defaultdict(list)
        self._batch: list[models.Model] = []
        self._at = self._weight = 0
        self.number = 0  # of the line that was taken last
        # What is done to the values of a row that arrives; False where it stays behind.
        self._arrives: dict[type[models.Model], Callable[[dict[str, Any]], bool]] = {
            Meter: self._named_freely,
            RunRow: self._open_unless_believed,
            SectionChoice: self._is_first_choice,
        }

    def take(self, line: bytes) -> None:
        """One row, which comes after those that it points at."""
        self.number += 1
        if len(line) > _LONGEST_LINE:
            raise Refused("it is longer than any row")
        name, said = json.loads(line)
        kind = _BY_NAME[name]
        place = KINDS.index(kind)
        if place < self._at:
            raise Refused(f"{kind.name} comes too late")
        self._weight += len(line)
        if place > self._at or len(self._batch) >= _BATCH or self._weight > _WEIGHT:
            self.flush()
            self._at, self._weight = place, len(line)
        if kind.believed and not self._believes:
            return
        values = {
            column.name: self._value(kind, column, said.pop(column.name)) if column.name in said else _usual(column)
            for column in kind.columns
        }
        if said:
            raise Refused(f"{next(iter(said))[:40]} is no column of {kind.name} here; a newer Recensor may have it")
        if self._arrives.get(kind.model, lambda _: True)(values):
            row = kind.model(**values)
            self.made[kind.model].append(row)
            self._batch.append(row)

    def _value(self, kind: RowKind, column: Column, said: Any) -> Any:
        if column.remote_field is None:
            return value_of(column, said)
        return self._who(kind, said) if pointed_at(column) is User else self._row(column, said)

    def _who(self, kind: RowKind, name: object) -> User:
        """Whose it is: the person's, but for what somebody else gave and is believed."""
        if name == "" or not kind.by_others:
            return self._person
        user = User.objects.filter(username=str(name)).first()
        if user is None:
            raise Refused(f"there is no {str(name)[:60]} here any more, who gave it")
        return user

    def _row(self, column: Column, place: object) -> models.Model | None:
        if place is None:
            if not column.null:
                raise Refused(f"{column.name} is missing")
            return None
        if type(place) is not int or place < 0:
            raise Refused(f"{column.name} is no place of a row")
        made = self.made[pointed_at(column)]
        if made[place]._state.adding:  # of its own kind, and not inserted yet
            self.flush()
        return made[place]

    def _named_freely(self, values: dict[str, Any]) -> bool:
        name = values["name"]
        taken = {*self._person.meters.values_list("name", flat=True)}
        taken |= {row.name for row in self.made[Meter] if isinstance(row, Meter)}
        free = (called for called in (name, f"{name[: lengths.NAME - 16]} from an archive") if called not in taken)
        values["name"] = next(free, "")
        if not values["name"]:
            raise Refused(f"you have two meters called {name} already; rename one")
        return True

    def _open_unless_believed(self, values: dict[str, Any]) -> bool:
        values["closed"] = values["closed"] if self._believes else None
        return True

    def _is_first_choice(self, values: dict[str, Any]) -> bool:
        """What was chosen here stays."""
        return not SectionChoice.objects.filter(person=self._person, experiment=values["experiment"]).exists()

    def flush(self) -> None:
        """Insert what has come."""
        if not self._batch:
            return
        model = type(self._batch[0])
        if _has_own_times(model):
            for row in self._batch:
                row.save_base(raw=True, force_insert=True)  # with the times that it has
        else:
            model._base_manager.bulk_create(self._batch)
        heavy = [column.name for column in model._meta.concrete_fields if isinstance(column, models.BinaryField)]
        for row in self._batch:
            for name in heavy:
                setattr(row, name, b"")  # it is in the database now
        self._batch = []


def _usual(column: Column) -> Any:
    """What a column holds that came later than the archive. Raises `Refused` where a row is nothing without it."""
    if not (column.has_default() or column.null or column.blank):
        raise Refused(f"{column.name} is missing")
    return column.get_default()


def _has_own_times(model: type[models.Model]) -> bool:
    """Whether Django would write the time of now over what a row says."""
    columns = (column for column in model._meta.concrete_fields if isinstance(column, models.DateTimeField))
    return any(column.auto_now or column.auto_now_add for column in columns)
