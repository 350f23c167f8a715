"""What a person can do at the bench: one function for each thing, each one transaction."""

import uuid
from collections.abc import Mapping
from contextlib import nullcontext
from dataclasses import replace

from django.db import IntegrityError, connection, transaction
from django.utils import timezone

from recensor.bench.boards import KeptBoard
from recensor.bench.models import DrawnPart, Reading, Run, Strike
from recensor.bench.parts_from_kit import from_kit
from recensor.core import record, safety
from recensor.core.as_built import built_setup, compare
from recensor.core.circuit import Setup
from recensor.core.editing import accepted
from recensor.core.notation import read
from recensor.core.quantity import Quantity, parse
from recensor.core.record import Target
from recensor.library.models import Bin, Experiment, Kit, Sheet
from recensor.library.queries import sheet_of
from recensor.library.services import RefusedError
from recensor.library.services.experiments import make_experiment
from recensor.library.services.kits import put_back, take
from recensor.people.models import User


def start_experiment(owner: User, experiment: Experiment, meter: str = "", kit: Kit | None = None) -> Run:
    """Begin a run of an experiment as it stands now, its resistors perhaps out of a kit.

    Raises `RefusedError` when it is for paper only, or when the kit lacks a part.
    """
    planned, drawn = sheet_of(experiment), None
    if safety.caution(planned) is safety.Caution.PAPER_ONLY:
        raise RefusedError(
            f"It reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: for paper only. "
            "Runs are offered at extra-low voltage and nowhere else."
        )
    if kit is not None:
        found = from_kit(kit, planned.parts.values())
        if found.missing:
            raise RefusedError(" ".join(found.missing.values()))
        planned, drawn = replace(planned, parts={**planned.parts, **found.parts}), found.bins
    follows = {"experiment": experiment, "version": experiment.at, "sealed": experiment.sealed}
    return start_run(owner, planned, meter, drawn, **follows)


def start_run(
    owner: User, planned: record.Run, meter: str = "", drawn: Mapping[str, Bin] | None = None, **follows: object
) -> Run:
    """Begin a run of its own new sheet; `drawn` names the parts that come out of a kit's bins.

    `follows` says which experiment it follows. Raises `RefusedError` when a bin was emptied meanwhile.
    """
    drawn = drawn or {}
    with transaction.atomic():
        take(drawn.values())
        run = Run.objects.create(
            owner=owner,
            title=planned.title,
            sheet=Sheet.of(planned, owner),
            meter=meter,
            judged_by=planned.judge.by,
            limit=planned.judge.limit.text,
            against=planned.judge.against,
            **follows,
        )
        DrawnPart.objects.bulk_create(DrawnPart(run=run, name=name, bin=row) for name, row in drawn.items())
    return run


def begin_on_board(owner: User) -> Run:
    """A run whose board is empty, with one source and one resistor to begin with; others are brought to it."""
    return start_experiment(owner, make_experiment(owner, accepted(read("9V: 1k; 5%", "Begun on a board"))))


def adopt_board(owner: User, planned: record.Run, setup: Setup, bench: KeptBoard) -> Experiment:
    """Make an experiment of what is built: the circuit is derived from the board.

    Raises `EditError` when it is no circuit that can be solved.
    """
    parts = {**planned.parts, **bench.extra}
    nodes = compare(parts, setup, bench.built).nodes
    derived = built_setup(parts, bench.built, setup.reference, nodes)
    short = {node: f"n{k}" for k, node in enumerate(derived.nodes, 1) if " " in node}
    connections = {
        name: (short.get(first, first), short.get(second, second))
        for name, (first, second) in derived.connections.items()
    }
    reference = short.get(derived.reference, derived.reference)
    run = record.Run(
        f"{planned.title[:110]}, as built",
        {name: parts[name] for name in connections},
        {setup.name: Setup(setup.name, reference, connections)} if connections else {},
        judge=planned.judge,
    )
    return make_experiment(owner, accepted(run))


def return_parts(run: Run) -> int:
    """Put the parts that were drawn from a kit back into their bins; how many went back."""
    with transaction.atomic():
        out = list(run.drawn_parts.select_for_update().filter(put_back=None).select_related("bin"))
        put_back(part.bin for part in out)
        run.drawn_parts.filter(put_back=None).update(put_back=timezone.now())
    return len(out)


def record_reading(
    run: Run, author: User, target: Target, quantity: Quantity, key: uuid.UUID, range_text: str = "", note: str = ""
) -> Reading:
    """Append one reading. Sent again under the same key it is the reading that stands already.

    Raises `RefusedError` when the key already stands for something else that was typed.
    """
    reading = Reading(
        run=run,
        quantity=target.quantity,
        of=target.of or "",
        red=target.across[0] if target.across else "",
        black=target.across[1] if target.across else "",
        through=target.through or "",
        setup=target.setup or "",
        text=quantity.text,
        unit=quantity.beside,
        value=quantity.value,
        resolution=quantity.resolution,
        range=range_text,
        meter=run.meter,
        note=note,
        author=author,
        time=timezone.now(),
        key=key,
    )
    try:
        # By itself the one INSERT is its own transaction; inside another it needs a savepoint to fail alone.
        with transaction.atomic() if connection.in_atomic_block else nullcontext():
            reading.save()
    except IntegrityError:
        standing = Reading.objects.get(run=run, key=key)
        if _same_entry(standing, reading):
            return standing
        raise RefusedError(
            f"This entry was already recorded as {standing} and stays so; to add another reading, press Record again."
        ) from None
    return reading


def strike_reading(reading: Reading, author: User, reason: str) -> Strike:
    """Strike a reading through. It stays visible and is not judged any more."""
    reason = reason.strip()
    if not reason:
        raise RefusedError("Say why this reading is struck, in a few words.")
    if len(reason) > 200:
        raise RefusedError(f"The reason is {len(reason)} characters long; keep it under 200.")
    try:
        with transaction.atomic():
            strike = Strike(reading=reading, author=author, reason=reason, time=timezone.now())
            strike.save()
            return strike
    except IntegrityError:
        raise RefusedError("This reading is struck already.") from None


def move_reading(reading: Reading, author: User, target: Target) -> Reading:
    """The reading belongs to another point: strike it here and enter the same text there."""
    if target.quantity != reading.quantity:
        raise RefusedError(f"“{reading}” is a {reading.quantity}; that point asks for a {target.quantity}.")
    quantity = parse(reading.text, target.unit, reading.unit)
    with transaction.atomic():
        strike_reading(reading, author, f"belongs to another point: {target.words()}")
        key = uuid.uuid5(reading.key, f"moved to {target.key}")
        return record_reading(reading.run, author, target, quantity, key, reading.range, "moved from another point")


def undo_last(run: Run, author: User) -> Reading:
    """Strike the author's last standing reading of the run."""
    last = Reading.objects.filter(run=run, author=author, strike=None).order_by("-id").first()
    if last is None:
        raise RefusedError("There is no reading of yours left to undo.")
    strike_reading(last, author, "undone")
    return last


def numbered_key(run: Run, number: int) -> uuid.UUID:
    """The key of a run's n-th reading that comes from a document rather than from a page."""
    return uuid.uuid5(run.sheet_id, str(number))


def _same_entry(one: Reading, other: Reading) -> bool:
    fields = ("quantity", "of", "red", "black", "through", "setup", "text", "unit")
    return all(getattr(one, field) == getattr(other, field) for field in fields)
