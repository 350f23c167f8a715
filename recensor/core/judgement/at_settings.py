"""One circuit at several settings of its sources: the same measurements in columns, and whether they go with them.

Where every part is linear and the sources are all turned alike, every voltage and every current is the same share of
the source's at each setting.
"""

from collections import defaultdict
from collections.abc import Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from recensor.core.circuit import Setup, Sheet, Target, loaded_target
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.same_values import odd_one
from recensor.core.judgement.sanity_readings import Amount, SanityReadings
from recensor.core.quantity import RESISTANCE, Quantity
from recensor.core.record import Run


@dataclass(frozen=True)
class SourceSetting:
    """One column: the setup, what its turned sources are set to, and what the first of them gave there.

    `source` is where that is read under load, and `gave` what was; None where it was not.
    """

    setup: str
    sources: Mapping[str, Quantity]
    source: Target
    gave: Amount | None


@dataclass(frozen=True)
class SettingRow:
    """One measurement at every setting, by a target of each column, and what was read there.

    `holds` is whether they all are the same share of what the source gave, by the run's own rule; None where that
    cannot be said. `odd` is the column whose share is not that of the others, which agree.
    """

    targets: tuple[Target, ...]
    read: tuple[Amount | None, ...]
    holds: bool | None
    odd: int | None


@dataclass(frozen=True)
class AtSettings:
    """A circuit at its settings. `grows_alike`: what is read is expected to be in proportion to what is set."""

    settings: tuple[SourceSetting, ...]
    rows: tuple[SettingRow, ...]
    grows_alike: bool


def at_settings(run: Run, measurements: Measurements) -> Iterator[AtSettings]:
    """Every circuit of a run that was asked for, or read, at two settings or more."""
    bench = SanityReadings(run, measurements)
    alike: dict[Hashable, list[Setup]] = defaultdict(list)
    for setup in run.sheet.setups.values():
        if setup.driving(run.sheet.parts):
            alike[_but_for_its_settings(setup, run.sheet)].append(setup)
    for setups in alike.values():
        if len(setups) > 1:
            yield from _columns(bench, setups)


def _but_for_its_settings(setup: Setup, sheet: Sheet) -> Hashable:
    """All of a setup but what its sources are set to."""
    values = {(name, str(value)) for name, value in setup.values.items() if not sheet.parts[name].kind.is_source}
    return (
        frozenset(setup.connections.items()),
        setup.sources_off,
        setup.open,
        str(setup.temperature),
        frozenset(values),
    )


def _columns(bench: SanityReadings, setups: list[Setup]) -> Iterator[AtSettings]:
    """The columns, from the lowest setting to the highest."""
    sheet, driving = bench.sheet, setups[0].driving(bench.sheet.parts)
    for name in reversed(driving):
        setups = sorted(setups, key=lambda setup: float(setup.stated(sheet.parts[name]) or 0))
    stated = {name: [setup.stated(sheet.parts[name]) for setup in setups] for name in driving}
    turned = {
        name: [value for value in values if value is not None]
        for name, values in stated.items()
        if None not in values and len({float(value) for value in values if value is not None}) > 1
    }
    if not turned:
        return
    first = next(iter(turned))
    settings = tuple(
        SourceSetting(
            setup.name,
            {name: values[k] for name, values in turned.items()},
            loaded,
            bench.read(loaded),
        )
        for k, (setup, loaded) in enumerate((setup, loaded_target(setup, sheet, first)) for setup in setups)
    )
    alike = set(turned) == set(driving) and len({_shape(values) for values in turned.values()}) == 1
    grows = alike and not sheet.bends(setups[0])
    source = settings[0].source.key
    rows = []
    for targets in _asked_alike(bench, setups):
        read = tuple(bench.read(target) for target in targets)
        is_of_source = targets[0].key == source
        holds, odd = _in_proportion(bench, read, settings) if grows and not is_of_source else (None, None)
        rows.append(SettingRow(targets, read, holds, odd))
    if rows:
        yield AtSettings(settings, tuple(rows), grows)


def _asked_alike(bench: SanityReadings, setups: list[Setup]) -> Iterator[tuple[Target, ...]]:
    """What was read, or is asked for, at two settings or more, one target for each; resistances stay the same."""
    found: dict[Target, dict[str, Target]] = defaultdict(dict)
    first = setups[0]
    for target in (*bench.sheet.asked, *(one.target for one in bench.measurements.by_target.values())):
        is_here = target.in_circuit and target.step is None and target.measurand is not RESISTANCE
        if is_here and target.setup in {setup.name for setup in setups}:
            found[target.in_setup(first.name, bench.sheet).key].setdefault(target.setup or "", target)
    for columns in found.values():
        if len(columns) > 1:
            like = next(iter(columns.values()))
            yield tuple(like.in_setup(setup.name, bench.sheet) for setup in setups)


def _in_proportion(
    bench: SanityReadings, read: Sequence[Amount | None], settings: Sequence[SourceSetting]
) -> tuple[bool | None, int | None]:
    """Whether what was read is everywhere one share of what the source gave, and the column that is not of it.

    Multiplied across, so that nothing is divided by what may be nought.
    """
    columns = {
        k: (known, setting.gave)
        for k, (known, setting) in enumerate(zip(read, settings, strict=True))
        if known and setting.gave
    }

    def is_one_share(some: Sequence[int]) -> bool | None:
        found: list[bool | None] = []
        for first, second in combinations(some, 2):
            (here, gave), (there, gave_there) = columns[first], columns[second]
            one, other = here * gave_there, there * gave
            found.append(bench.are_equal(one, other, max(abs(one.value), abs(other.value))))
        return False if False in found else None if None in found or not found else True

    return is_one_share(list(columns)), odd_one(list(columns), is_one_share)


def _shape(values: list[Quantity]) -> tuple[float, ...]:
    """What a source is set to, as shares of its largest setting."""
    largest = max((float(value) for value in values), key=abs)
    return tuple(round(float(value) / largest, 9) for value in values)
