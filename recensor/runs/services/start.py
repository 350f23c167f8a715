"""Runs begin, follow another sheet, and give their parts back."""

import uuid
from collections.abc import Mapping
from dataclasses import replace

from django.db import IntegrityError, transaction
from django.utils import timezone

from recensor.core import record, safety
from recensor.core.boards import built_setup, compare
from recensor.core.circuit import Setup, Sheet, has_place, one_line
from recensor.core.editing import accepted
from recensor.core.errors import Refused
from recensor.experiments.models import Experiment, SheetRow
from recensor.experiments.queries import kept_sheet, sheet_of
from recensor.experiments.services import make_experiment
from recensor.kits.models import Bin, Kit
from recensor.kits.services import put_back, take
from recensor.kits.stock import from_kit
from recensor.meters.services import meter_named
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActRow, DrawnPart, RunRow, RunSheet
from recensor.web.transactions import atomic_with_retry


def start_experiment(
    owner: User, experiment: Experiment, meter: str = "", kit: Kit | None = None, key: uuid.UUID | None = None
) -> RunRow:
    """Begin a run of an experiment as it stands now, its resistors perhaps out of a kit.

    Raises `Refused` when it is for paper only, or when the kit lacks a part.
    """
    sheet, drawn = sheet_of(experiment), None
    safety.refuse_paper_only(sheet)
    if kit is not None:
        stock_found = from_kit(kit, sheet.parts.values())
        if stock_found.missing:
            raise Refused(" ".join(stock_found.missing.values()))
        sheet, drawn = replace(sheet, parts={**sheet.parts, **stock_found.parts}), stock_found.bins
    return start_run(
        owner,
        sheet,
        meter,
        drawn,
        key,
        experiment=experiment,
        version=experiment.at,
        own_calculations=experiment.own_calculations,
    )


@atomic_with_retry
def start_run(
    owner: User,
    sheet: Sheet,
    meter: str = "",
    drawn: Mapping[str, Bin] | None = None,
    key: uuid.UUID | None = None,
    **follows: object,
) -> RunRow:
    """Begin a run of its own new sheet; `drawn` names the parts that come out of a kit's bins.

    Asked for again under the same key it is the run that was begun, unless the sheet became another one meanwhile.
    `follows` says which experiment it follows. Raises `Refused` when a bin was emptied meanwhile.
    """
    drawn = drawn or {}
    if follows.get("simulated"):  # a perfect meter has no leads to be touched
        sheet = replace(sheet, asked=tuple(target for target in sheet.asked if not target.is_leads))
    begun = _begun(owner, key)
    if begun:
        if begun.sheets.order_by("id")[0].sheet.holds(sheet):
            return begun
        key = None
    run = RunRow(
        owner=owner,
        key=key,
        title=sheet.title,
        sealed=sheet.sealed,
        meter=meter_named(owner, meter),
        judged_by=sheet.judge.by,
        limit=sheet.judge.limit.text,
        against=sheet.judge.against,
        meter_in=sheet.judge.meter_in,
        **follows,
    )
    try:
        with transaction.atomic():
            run.save()
    except IntegrityError:  # begun at this very moment, by the same press
        return queries.any_run().get(owner=owner, key=key)
    follow(run, owner, SheetRow.of(sheet, owner), RunSheet.Kind.START)
    draw(run, drawn)
    return run


def draw(run: RunRow, drawn: Mapping[str, Bin]) -> None:
    """Parts come out of their bins. Raises `Refused` where one is empty."""
    take(drawn.values())
    DrawnPart.objects.bulk_create(DrawnPart(run=run, name=name, bin=row) for name, row in drawn.items())


def _begun(owner: User, key: uuid.UUID | None) -> RunRow | None:
    """The run that a press has begun already."""
    return queries.any_run().filter(owner=owner, key=key).first() if key else None


def follow(
    run: RunRow,
    author: User,
    sheet: SheetRow,
    kind: RunSheet.Kind,
    act: ActRow | None = None,
    renamed: Mapping[str, str] | None = None,
) -> RunSheet:
    """From now on the run follows this sheet; `act` is the one that brought it.

    `renamed` has what is called otherwise on it than readings name it; as before where nothing is said. Raises
    `Refused` for a circuit that is for paper only, however it came to be one.
    """
    safety.refuse_paper_only(kept_sheet(sheet.pk), simulated=run.simulated)
    names = getattr(run, "renamed", {}) if renamed is None else dict(renamed)
    row = RunSheet(run=run, sheet=sheet, kind=kind, author=author, time=timezone.now(), act=act, renamed=names)
    row.save()
    run.run_sheet_id, run.sheet_id, run.renamed = row.pk, sheet.pk, names
    return row


def take_back(run: RunRow, author: User, act: ActRow) -> None:
    """Where an act brought a sheet, follow again the one before it.

    Raises `Refused` where something was read since for which the circuit of before has no place.
    """
    brought = run.sheets.filter(act=act).first()
    if brought is None:
        return
    before = run.sheets.filter(pk__lt=brought.pk).order_by("-pk")[0]
    if run.sheets.order_by("-pk")[0].sheet_id != brought.sheet_id:
        raise Refused("The circuit was changed once more since; take that back first.")
    was, now = before.sheet.as_sheet(), brought.sheet.as_sheet()
    back = {new: old for old, new in brought.renamed.items() if before.renamed.get(old, old) != new}
    run.renamed = {**before.renamed, **back}
    if all(has_place(reading.target, was) for reading in queries.load(run).core.readings):
        follow(run, author, before.sheet, RunSheet.Kind.CORRECTION)
    elif brought.kind == RunSheet.Kind.CHANGE:
        # What was read on it, and struck since, keeps its place; it is not asked for any more.
        follow(run, author, SheetRow.of(replace(now, asked=was.asked), author), RunSheet.Kind.CORRECTION)
    else:
        raise Refused("Something was read since that the circuit of before has no place for.")


@atomic_with_retry
def begin_on_board(owner: User, key: uuid.UUID | None = None) -> RunRow:
    """A run whose board is empty, with one source and one resistor to begin with; others are brought to it.

    Asked for again under the same key it is the run that was begun.
    """
    User.objects.select_for_update().only("pk").get(pk=owner.pk)  # two presses wait for one another
    begun = _begun(owner, key)
    if begun:
        return begun
    sheet = accepted(one_line.read("9V: 1k; 5%", "Begun on a board"))
    return start_experiment(owner, make_experiment(owner, sheet), key=key)


def adopt_board(owner: User, run: record.Run, setup: Setup) -> Experiment:
    """Make an experiment of what is built: the circuit is derived from the board.

    Raises `EditError` when it is no circuit that can be solved.
    """
    sheet, built = run.sheet, run.boards.get(setup.name)
    if built is None:
        raise Refused("Nothing is on the board yet.")
    derived = built_setup(sheet, built, setup.reference, compare(sheet, setup, built).nodes)
    short = {node: f"n{k}" for k, node in enumerate(derived.nodes, 1) if " " in node}
    connections = {
        name: (short.get(first, first), short.get(second, second))
        for name, (first, second) in derived.connections.items()
    }
    reference = short.get(derived.reference, derived.reference)
    made = Sheet(
        f"{sheet.title[:110]}, as built",
        {name: sheet.parts[name] for name in connections},
        {setup.name: Setup(setup.name, reference, connections)} if connections else {},
        judge=sheet.judge,
    )
    return make_experiment(owner, accepted(made))


@atomic_with_retry
def return_parts(run: RunRow) -> int:
    """Put the parts that were drawn from a kit back into their bins; how many went back."""
    out = list(run.drawn_parts.select_for_update().filter(put_back=None).select_related("bin"))
    put_back([part.bin for part in out])
    run.drawn_parts.filter(put_back=None).update(put_back=timezone.now())
    return len(out)


def numbered_key(run: RunRow, number: int) -> uuid.UUID:
    """The key of a run's n-th reading that comes from a document rather than from a page."""
    return uuid.uuid5(uuid.NAMESPACE_OID, f"reading {number} of run {run.pk}")
