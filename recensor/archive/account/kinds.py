"""What belongs to an account: each kind of row, which of them are a person's, and how one is written without keys.

A row points to another by that one's place among the rows of its kind, so that an archive fits into any database.
"""

import base64
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import models
from django.db.models import Q

from recensor.bench import models as bench
from recensor.core.errors import Refused
from recensor.experiments import models as experiments
from recensor.kits import models as kits
from recensor.meters import models as meters
from recensor.people.models import User
from recensor.reports.models import Choice

# Columns that no archive has: keys, and by which press something was begun here.
_NEVER = frozenset(("id",))

Rows = Sequence[models.Model]
Column = models.Field


@dataclass(frozen=True)
class Kind:
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
        return self.model._meta.label_lower

    @property
    def columns(self) -> list[Column]:
        """The columns that are written."""
        left = _NEVER | self.stays
        return [column for column in self.model._meta.concrete_fields if column.name not in left]


def _profiles(person: User) -> Rows:
    """Profiles that the person wrote or read with, and what those were before."""
    found = {
        row.pk: row
        for row in meters.Profile.objects.filter(
            Q(author=person) | Q(meters__owner=person) | Q(readings__run__owner=person)
        )
    }
    while missing := {row.replaces_id for row in found.values() if row.replaces_id} - set(found):
        found |= {row.pk: row for row in meters.Profile.objects.filter(pk__in=missing)}
    return [found[pk] for pk in sorted(found)]


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
    rows = experiments.Sheet.objects.in_bulk(list(order))
    return [rows[pk] for pk in order]


def _of_run(model: type[models.Model], run: str = "run") -> Callable[[User], models.QuerySet[Any]]:
    return lambda person: model._base_manager.filter(**{f"{run}__owner": person}).order_by("pk")


def _choices(person: User) -> models.QuerySet[Any]:
    return Choice.objects.filter(person=person).order_by("pk")


# In an order in which nothing points at what comes later, but for rows that point at earlier ones of their own kind.
KINDS = (
    Kind(meters.Profile, _profiles, "profiles of meters"),
    Kind(meters.Meter, _meters, "meters"),
    Kind(kits.Kit, lambda person: kits.Kit.objects.filter(owner=person).order_by("pk"), "kits", frozenset(("filled",))),
    Kind(kits.Bin, lambda person: kits.Bin.objects.filter(kit__owner=person).order_by("pk")),
    Kind(kits.Sorting, lambda person: kits.Sorting.objects.filter(kit__owner=person).order_by("pk")),
    Kind(kits.SortedPart, lambda person: kits.SortedPart.objects.filter(sorting__kit__owner=person).order_by("pk"),
         "sorted parts"),
    Kind(experiments.Sheet, _sheets),
    Kind(experiments.Experiment, _experiments, "experiments"),
    Kind(experiments.Version, lambda person: experiments.Version.objects.filter(
        experiment__in=_experiments(person)).order_by("pk"), "versions of them"),
    Kind(bench.Run, lambda person: bench.Run.objects.filter(owner=person).order_by("pk"), "runs", frozenset(("key",))),
    Kind(bench.Act, _of_run(bench.Act)),
    Kind(bench.RunSheet, _of_run(bench.RunSheet)),
    Kind(bench.Reading, _of_run(bench.Reading), "readings"),
    Kind(bench.ActLine, _of_run(bench.ActLine, "act__run")),
    Kind(bench.BenchMove, _of_run(bench.BenchMove)),
    Kind(bench.Photo, _of_run(bench.Photo, "reading__run"), "photos"),
    Kind(bench.OwnValue, _of_run(bench.OwnValue)),
    Kind(bench.Sighting, _of_run(bench.Sighting)),
    Kind(bench.RunText, _of_run(bench.RunText)),
    Kind(bench.Revision, _of_run(bench.Revision), "signed revisions", believed=True),
    Kind(bench.Signature, _of_run(bench.Signature, "revision__run"), "signatures", by_others=True, believed=True),
    # Parts out of somebody else's kit go back into that one, and only here.
    Kind(bench.DrawnPart, lambda person: bench.DrawnPart.objects.filter(
        run__owner=person, bin__kit__owner=person).order_by("pk")),
    Kind(bench.BoardState, _of_run(bench.BoardState), "states of boards"),
    Kind(Choice, _choices),
)  # fmt: skip

# The school that a person follows goes with them.
PREFERENCES = (
    "resistor_symbol", "source_letter", "parallel_formula", "voltage_law", "line_axes", "paper", "reading_order",
    "board_lies", "drops_by_size", "own_calculations", "opens_by", "speaks", "knows_words",
)  # fmt: skip

Places = Mapping[type[models.Model], Mapping[Any, int]]


def written(kind: Kind, row: models.Model, person: User, places: Places) -> dict[str, Any]:
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
