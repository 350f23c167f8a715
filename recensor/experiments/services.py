"""What a person can do with experiments: make, edit, go back and forth, set, duplicate."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace

from recensor.core import circuit, lengths
from recensor.core.circuit import Sheet, Target, all_readings, asking_everything, readings_of_set
from recensor.core.errors import Refused
from recensor.experiments.models import Experiment, SheetRow, Version
from recensor.experiments.queries import kept_sheet
from recensor.people.models import User
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def make_experiment(owner: User, sheet: circuit.Sheet, aim: str = "") -> Experiment:
    """Begin an experiment from a circuit. What is asked is everything, where nothing is."""
    asking = sheet if sheet.asked else asking_everything(sheet)
    experiment = Experiment.objects.create(
        owner=owner,
        title=sheet.title[: lengths.TITLE] or "Experiment",
        aim=aim,
        judged_by=sheet.judge.by,
        limit=sheet.judge.limit.text,
        against=sheet.judge.against,
        meter_in=sheet.judge.meter_in,
        sealed=sheet.sealed,
    )
    Version.objects.create(experiment=experiment, number=1, sheet=SheetRow.of(asking, owner))
    return experiment


@atomic_with_retry
def edit(experiment: Experiment, author: User, act: Callable[[circuit.Sheet], circuit.Sheet]) -> circuit.Sheet:
    """Change the sheet by `act`, whose errors pass through; nothing is kept when it raises. The changed sheet."""
    _lock(experiment)
    numbers = dict(experiment.versions.values_list("number", "sheet"))
    changed = act(kept_sheet(numbers[experiment.at]))
    sheet = SheetRow.of(changed, author)
    Version.objects.create(experiment=experiment, number=max(numbers) + 1, before=experiment.at, sheet=sheet)
    _go_to(experiment, max(numbers) + 1)
    return changed


@atomic_with_retry
def undo(experiment: Experiment) -> None:
    """Go back to the state before."""
    _lock(experiment)
    before = experiment.versions.get(number=experiment.at).before
    if before is None:
        raise Refused("There is nothing to undo.")
    _go_to(experiment, before)


@atomic_with_retry
def redo(experiment: Experiment) -> None:
    """Go on to the state that was last made from this one."""
    _lock(experiment)
    onward = experiment.versions.filter(before=experiment.at).last()
    if onward is None:
        raise Refused("There is nothing to redo.")
    _go_to(experiment, onward.number)


def ask(
    experiment: Experiment, author: User, wanted: Collection[Target], rounds: int = 1, *, predict: bool = False
) -> None:
    """Ask for the readings of these targets, each the key of one, out of all that can be ticked, and for no others.

    All of them are read so many times, one round after the other; and perhaps each is predicted first.
    """
    sheet = kept_sheet(experiment.versions.get(number=experiment.at).sheet_id)
    predicted = frozenset(wanted) if predict else frozenset()
    if (set(wanted), rounds, predicted) == ({target.key for target in sheet.asked}, sheet.rounds, sheet.predicted):
        return  # pressed unchanged it changes nothing

    def asking(now: Sheet) -> Sheet:
        targets = tuple(target for target in all_readings(now) if target.key in wanted)
        return replace(now, asked=targets, rounds=rounds, predicted=predicted)

    edit(experiment, author, asking)


def ask_for(experiment: Experiment, author: User, which: circuit.Asked, part: str = "") -> None:
    """Ask for one of the sets of readings."""
    edit(experiment, author, lambda sheet: replace(sheet, asked=tuple(readings_of_set(sheet, which, part))))


def set_up(experiment: Experiment, settings: Mapping[str, object]) -> None:
    """Title, aim, what judges, open or sealed."""
    for name, value in settings.items():
        setattr(experiment, name, value)
    experiment.save(update_fields=[*settings, "changed"])


@atomic_with_retry
def duplicate(experiment: Experiment, owner: User) -> Experiment:
    """The same experiment for someone to change, from its present state."""
    now = experiment.versions.get(number=experiment.at)
    copy = Experiment.objects.get(pk=experiment.pk)
    copy.pk, copy.owner, copy.at, copy.title = None, owner, 1, f"{experiment.title[:113]}, copy"
    copy._state.adding = True
    copy.save()
    Version.objects.create(experiment=copy, number=1, sheet=now.sheet)
    return copy


def _lock(experiment: Experiment) -> None:
    """Hold an experiment for this transaction, as it stands now and not as some page has shown it."""
    experiment.at = Experiment.objects.select_for_update().only("at").get(pk=experiment.pk).at


def _go_to(experiment: Experiment, number: int) -> None:
    experiment.at = number
    experiment.save(update_fields=["at", "changed"])
