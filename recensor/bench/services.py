"""What a person can do at the bench: one function for each thing, each one transaction."""

import uuid
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime

from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils import timezone

from recensor.bench import rows
from recensor.bench.models import Act, ActLine, DrawnPart, Reading, Run, RunSheet
from recensor.core import record, safety
from recensor.core.boards import built_setup, compare
from recensor.core.circuit import Setup, Sheet, Target, one_line
from recensor.core.editing import accepted
from recensor.core.errors import Refused
from recensor.core.quantity import parse
from recensor.experiments.models import Experiment
from recensor.experiments.models import Sheet as SheetRow
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import make_experiment
from recensor.kits.models import Bin, Kit
from recensor.kits.services import put_back, take
from recensor.kits.stock import from_kit
from recensor.meters.services import meter_named
from recensor.people.models import User
from recensor.web.refusals import ConflictError
from recensor.web.transactions import together

LONGEST_REASON = 200


def start_experiment(
    owner: User, experiment: Experiment, meter: str = "", kit: Kit | None = None, key: uuid.UUID | None = None
) -> Run:
    """Begin a run of an experiment as it stands now, its resistors perhaps out of a kit.

    Raises `Refused` when it is for paper only, or when the kit lacks a part.
    """
    sheet, drawn = sheet_of(experiment), None
    if safety.caution(sheet) is safety.Caution.PAPER_ONLY:
        raise Refused(
            f"It reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: for paper only. "
            "Runs are offered at extra-low voltage and nowhere else."
        )
    if kit is not None:
        found = from_kit(kit, sheet.parts.values())
        if found.missing:
            raise Refused(" ".join(found.missing.values()))
        sheet, drawn = replace(sheet, parts={**sheet.parts, **found.parts}), found.bins
    return start_run(owner, sheet, meter, drawn, key, experiment=experiment, version=experiment.at)


@together
def start_run(
    owner: User,
    sheet: Sheet,
    meter: str = "",
    drawn: Mapping[str, Bin] | None = None,
    key: uuid.UUID | None = None,
    **follows: object,
) -> Run:
    """Begin a run of its own new sheet; `drawn` names the parts that come out of a kit's bins.

    Asked for again under the same key it is the run that was begun, unless the sheet became another one meanwhile.
    `follows` says which experiment it follows. Raises `Refused` when a bin was emptied meanwhile.
    """
    drawn = drawn or {}
    begun = _begun(owner, key)
    if begun:
        if begun.sheets.order_by("id")[0].sheet.holds(sheet):
            return begun
        key = None
    run = Run(
        owner=owner,
        key=key,
        title=sheet.title,
        sealed=sheet.sealed,
        meter=meter_named(owner, meter),
        judged_by=sheet.judge.by,
        limit=sheet.judge.limit.text,
        against=sheet.judge.against,
        **follows,
    )
    try:
        with transaction.atomic():
            run.save()
    except IntegrityError:  # begun at this very moment, by the same press
        return Run.objects.get(owner=owner, key=key)
    take(drawn.values())
    follow(run, owner, SheetRow.of(sheet, owner), RunSheet.Kind.START)
    DrawnPart.objects.bulk_create(DrawnPart(run=run, name=name, bin=row) for name, row in drawn.items())
    return run


def _begun(owner: User, key: uuid.UUID | None) -> Run | None:
    """The run that a press has begun already."""
    return Run.objects.filter(owner=owner, key=key).first() if key else None


def follow(run: Run, author: User, sheet: SheetRow, kind: RunSheet.Kind) -> RunSheet:
    """From now on the run follows this sheet."""
    row = RunSheet(run=run, sheet=sheet, kind=kind, author=author, time=timezone.now())
    row.save()
    run.run_sheet_id, run.sheet_id = row.pk, sheet.pk
    return row


@together
def begin_on_board(owner: User, key: uuid.UUID | None = None) -> Run:
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
    sheet, built = run.sheet, run.boards[setup.name]
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


@together
def return_parts(run: Run) -> int:
    """Put the parts that were drawn from a kit back into their bins; how many went back."""
    out = list(run.drawn_parts.select_for_update().filter(put_back=None).select_related("bin"))
    put_back([part.bin for part in out])
    run.drawn_parts.filter(put_back=None).update(put_back=timezone.now())
    return len(out)


def record_reading(
    run: Run, author: User, reading: record.Reading, key: uuid.UUID, received: datetime | None = None
) -> Reading:
    """Append one reading. Sent again under the same key it is the reading that stands already.

    Raises `ConflictError` when the key already stands for something else that was typed.
    """
    row = rows.row_of(reading, run, author, key, received or timezone.now())
    standing = row.append_once(run=run, key=key)
    if standing is not row and not _same_entry(standing, row):
        raise ConflictError(
            f"This entry was already recorded as {standing} and stays so; to add another reading, press Record again."
        )
    return standing


def strike_reading(reading: Reading, author: User, reason: str, kind: Act.Kind = Act.Kind.STRIKE) -> Act:
    """Strike a reading through. It stays visible and is not judged any more."""
    return _strike(reading, author, reason, kind, ActLine.Effect.STRIKE)


@together
def move_reading(reading: Reading, author: User, target: Target) -> Reading:
    """The reading belongs to another point: strike it here and enter the same text there."""
    if target.measurand != reading.quantity:
        raise Refused(f"“{reading}” is a {reading.quantity}; that point asks for a {target.measurand}.")
    quantity = parse(reading.text, target.unit, reading.unit)
    span = parse(reading.range, target.unit) if reading.range else None
    moved = record.Reading(target, quantity, span, note="moved from another point")
    key = uuid.uuid5(reading.key, f"moved to {target.key}")
    there = record_reading(reading.run, author, moved, key)
    reason = f"belongs to another point: {target.words}"
    _strike(reading, author, reason, Act.Kind.MOVE, ActLine.Effect.MOVE, there)
    return there


def undo_last(run: Run, author: User, named: int | None) -> Reading:
    """Strike the author's last standing reading of the run, which must be the one that the page named.

    Asked for again, since its answer was lost, it is done already and stays so.
    """
    mine = Reading.objects.filter(run=run, author=author)
    reading = mine.filter(pk=named).first()
    if reading is None:
        raise Refused("There is no reading of yours left to undo.")
    later = standing(mine.filter(pk__gt=reading.pk)).order_by("-id").first()
    if later is not None:
        raise ConflictError(f"You have recorded {later} since; undo once more takes that one back.")
    if standing(mine.filter(pk=reading.pk)).exists():
        strike_reading(reading, author, "undone", Act.Kind.UNDO)
    return reading


def standing(readings: QuerySet[Reading]) -> QuerySet[Reading]:
    """Those of the readings on which no act that was not undone has struck."""
    struck = ActLine.objects.filter(effect__in=rows.STRIKING, act__undone_by=None).values("reading")
    return readings.exclude(pk__in=struck)


def numbered_key(run: Run, number: int) -> uuid.UUID:
    """The key of a run's n-th reading that comes from a document rather than from a page."""
    return uuid.uuid5(run.sheet_id, str(number))


@together
def _strike(
    reading: Reading,
    author: User,
    reason: str,
    kind: Act.Kind,
    effect: ActLine.Effect,
    other: Reading | None = None,
) -> Act:
    reason = reason.strip()
    if not reason:
        raise Refused("Say why this reading is struck, in a few words.")
    if len(reason) > LONGEST_REASON:
        raise Refused(f"The reason is {len(reason)} characters long; keep it under {LONGEST_REASON}.")
    # Whoever strikes a reading first holds its row; the other then finds it struck.
    Reading.objects.select_for_update().only("pk").get(pk=reading.pk)
    if not standing(Reading.objects.filter(pk=reading.pk)).exists():
        raise Refused("This reading is struck already.")
    act = Act(run=reading.run, kind=kind, reason=reason, author=author, time=timezone.now())
    act.save()
    ActLine(act=act, reading=reading, effect=effect, other=other).save()
    return act


def _same_entry(one: Reading, other: Reading) -> bool:
    fields = ("quantity", "of", "red", "black", "through", "setup", "text", "unit")
    return all(getattr(one, field) == getattr(other, field) for field in fields)
