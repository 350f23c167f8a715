"""What belongs to an account: each kind of row, which of them are a person's, and how one is written without keys.

A row points to another by that one's place among the rows of its kind, so that an archive fits into any database.
"""

import base64
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import models
from django.db.models import Q

from recensor.core.errors import Refused
from recensor.experiments import models as experiments
from recensor.kits import models as kits
from recensor.meters import models as meters
from recensor.people.models import User
from recensor.reports.models import SectionChoice
from recensor.runs import models as bench
from recensor.transfer.published import published_name

# Columns that no archive has: keys, and by which press something was begun here.
_NEVER = frozenset(("id",))

Rows = Sequence[models.Model]
Column = models.Field


@dataclass(frozen=True)
class RowKind:
    """One kind of row: its model, the rows of it that are a person's, and what of them stays behind.

    `by_others`: whose such a row is, is said by name. `believed`: such rows come only out of a file that was written
    here, since anybody could write them into another.
    """

    model: type[models.Model]
    of: Callable[[User], Rows | models.QuerySet[Any]]
    words: str = ""
    stays: frozenset[str] = frozenset()
    by_others: bool = False
    believed: bool = False

    @property
    def name(self) -> str:
        """The kind by its name in an archive."""
        return published_name(self.model)

    @property
    def columns(self) -> list[Column]:
        """The columns that are written."""
        left = _NEVER | self.stays
        return [column for column in self.model._meta.concrete_fields if column.name not in left]


def _profiles(person: User) -> Rows:
    """Profiles that the person wrote or read with, and what those were before."""
    profiles = {
        row.pk: row
        for row in meters.ProfileRow.objects.filter(
            Q(author=person) | Q(meters__owner=person) | Q(readings__run__owner=person) | Q(found_by__run__owner=person)
        )
    }
    while missing := {row.replaces_id for row in profiles.values() if row.replaces_id} - set(profiles):
        profiles |= {row.pk: row for row in meters.ProfileRow.objects.filter(pk__in=missing)}
    return [profiles[pk] for pk in sorted(profiles)]


def _meters(person: User) -> models.QuerySet[Any]:
    mine = Q(owner=person) | Q(runs__owner=person) | Q(readings__run__owner=person)
    return meters.Meter.objects.filter(mine).distinct().order_by("pk")


def _experiments(person: User) -> models.QuerySet[Any]:
    """The person's own, and those of others that their runs follow."""
    return experiments.Experiment.objects.filter(Q(owner=person) | Q(runs__owner=person)).distinct().order_by("pk")


def _sheets(person: User) -> Rows:
    """In the order in which they are pointed at, which no key changes."""
    versions = experiments.Version.objects.filter(experiment__in=_experiments(person)).order_by("pk")
    followed = bench.RunSheet.objects.filter(run__owner=person).order_by("pk")
    order = dict.fromkeys([*versions.values_list("sheet", flat=True), *followed.values_list("sheet", flat=True)])
    rows = experiments.SheetRow.objects.in_bulk(list(order))
    return [rows[pk] for pk in order]


def _owned(model: type[models.Model], owner: str) -> Callable[[User], models.QuerySet[Any]]:
    """The rows of a kind that lead to a person by this name."""
    return lambda person: model._base_manager.filter(**{owner: person}).order_by("pk")


def _choices(person: User) -> models.QuerySet[Any]:
    return SectionChoice.objects.filter(person=person).order_by("pk")


# In an order in which nothing points at what comes later, but for rows that point at earlier ones of their own kind.
KINDS = (
    RowKind(meters.ProfileRow, _profiles, "profiles of meters"),
    RowKind(meters.Meter, _meters, "meters"),
    RowKind(kits.Kit, _owned(kits.Kit, "owner"), "kits", frozenset(("filled",))),
    RowKind(kits.Bin, _owned(kits.Bin, "kit__owner")),
    RowKind(kits.Sorting, _owned(kits.Sorting, "kit__owner")),
    RowKind(kits.SortedPart, _owned(kits.SortedPart, "sorting__kit__owner"), "sorted parts"),
    RowKind(experiments.SheetRow, _sheets),
    RowKind(experiments.Experiment, _experiments, "experiments"),
    RowKind(experiments.Version, lambda person: experiments.Version.objects.filter(
        experiment__in=_experiments(person)).order_by("pk"), "versions of them"),
    RowKind(bench.RunRow, _owned(bench.RunRow, "owner"), "runs", frozenset(("key",))),
    RowKind(bench.ActRow, _owned(bench.ActRow, "run__owner")),
    RowKind(bench.RunSheet, _owned(bench.RunSheet, "run__owner")),
    RowKind(bench.ReadingRow, _owned(bench.ReadingRow, "run__owner"), "readings"),
    RowKind(bench.ActLine, _owned(bench.ActLine, "act__run__owner")),
    RowKind(bench.BenchMove, _owned(bench.BenchMove, "run__owner")),
    RowKind(bench.Photo, _owned(bench.Photo, "reading__run__owner"), "photos"),
    RowKind(bench.OwnValue, _owned(bench.OwnValue, "run__owner")),
    RowKind(bench.Sighting, _owned(bench.Sighting, "run__owner")),
    RowKind(bench.RunText, _owned(bench.RunText, "run__owner")),
    RowKind(bench.Revision, _owned(bench.Revision, "run__owner"), "signed revisions", believed=True),
    RowKind(bench.KeptAssessment, _owned(bench.KeptAssessment, "revision__run__owner"), believed=True),
    RowKind(bench.SignatureRow, _owned(bench.SignatureRow, "revision__run__owner"), "signatures", by_others=True,
            believed=True),
    # Parts out of somebody else's kit go back into that one, and only here.
    RowKind(bench.DrawnPart, lambda person: bench.DrawnPart.objects.filter(
        run__owner=person, bin__kit__owner=person).order_by("pk")),
    RowKind(bench.BoardState, _owned(bench.BoardState, "run__owner"), "states of boards"),
    RowKind(SectionChoice, _choices),
)  # fmt: skip

# The school that a person follows goes with them.
PREFERENCES = (
    "resistor_symbol", "source_letter", "parallel_formula", "voltage_law", "line_axes", "paper", "reading_order",
    "board_lies", "drops_by_size", "own_calculations", "opens_by", "speaks", "bench_shows",
)  # fmt: skip

Places = Mapping[type[models.Model], Mapping[Any, int]]


def written(kind: RowKind, row: models.Model, person: User, places: Places) -> dict[str, Any]:
    """A row as JSON has it; `places` are the rows written so far, by their keys."""
    said: dict[str, Any] = {}
    for column in kind.columns:
        value = getattr(row, column.attname)
        if value is None:
            said[column.name] = None
        elif column.remote_field is None:
            said[column.name] = _plain(column, row, value)
        elif column.related_model is User:
            is_own = value == person.pk or not kind.by_others
            said[column.name] = "" if is_own else getattr(row, column.name).username
        else:
            said[column.name] = places[pointed_at(column)][value]
    return said


def pointed_at(column: Column) -> type[models.Model]:
    """The kind of row that a column points at."""
    model = column.related_model
    if not isinstance(model, type):
        raise TypeError(f"{column} points at nothing")
    return model


def _plain(column: Column, row: models.Model, value: Any) -> Any:
    if isinstance(column, models.BinaryField):
        return base64.b64encode(value).decode()
    if isinstance(value, bool | int) or isinstance(column, models.JSONField):
        return value
    return column.value_to_string(row)


def value_of(column: Column, said: Any) -> Any:
    """The value of a plain column out of JSON. Raises `Refused` for one that it could not hold."""
    if isinstance(column, models.JSONField):
        return said
    if isinstance(column, models.BinaryField):
        return base64.b64decode(said, validate=True)
    value = column.to_python(said)
    if value is None and not column.null:
        raise Refused(f"{column.name} is missing")
    if column.choices and value not in (None, "") and value not in dict(column.flatchoices):
        raise Refused(f"{column.name} is “{str(value)[:40]}”, which is not known here")
    column.run_validators(value)
    return value
