"""What each source gave while the readings of a setup were taken."""

import math
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from recensor.core import graph
from recensor.core.circuit import PartAlone, Setup, Sheet, Target, loaded_target
from recensor.core.figures import rounded
from recensor.core.judgement.measurements import Measurement, Measurements, gathered
from recensor.core.judgement.precision import Own
from recensor.core.quantity import as_ratio
from recensor.core.sentences import say
from recensor.core.solving import LAWS
from recensor.core.standing import Standing
from recensor.core.uncertainty import Spread

# A source that was read more often than this in a setup is taken in stretches.
_MOST_OCCASIONS = 64


@dataclass(frozen=True)
class Given:
    """What a source gave, in volts or amperes; `at_terminals` where it was read under load, so that nothing inside it
    counts any more. `how` says in words which reading was taken, `indexes` which readings.
    """

    value: float
    spread: Spread = field(compare=False)
    at_terminals: bool
    how: str
    indexes: tuple[int, ...]


@dataclass(frozen=True)
class UnfitSource:
    """A source reading that is not taken for what the source gave, and why."""

    index: int
    text: str


@dataclass(frozen=True)
class _SourceDrift:
    """The variable of what a source drifted between two readings of it."""

    setup: str
    source: str


# What each source of a setup gave, in the order of its connections.
AllGiven = tuple[tuple[str, Given], ...]


class Sources:
    """The sources of a run's setups, by what was read of them."""

    def __init__(self, sheet: Sheet, measurements: Measurements) -> None:
        self.sheet = sheet
        self.measurements = measurements
        self.doubted: dict[UnfitSource, None] = {}
        self._kept: dict[tuple[str, str], list[Given]] = {}
        self._before: dict[tuple[str, str], Given | None] = {}
        self._driving_in: dict[str, list[str]] = {}
        self._wandering: dict[str, bool] = {}
        self._read_under_load: dict[str, Mapping[Target, frozenset[str]]] = {}
        self._given: dict[tuple[str, tuple[int, ...], frozenset[str]], AllGiven] = {}

    def read_at(self, target: Target) -> frozenset[str]:
        """The sources that a reading at this target reads under load."""
        if target.setup is None or target.is_part_alone:
            return frozenset()
        if target.setup not in self._read_under_load:
            self._read_under_load[target.setup] = self._loaded_targets(self.sheet.setups[target.setup])
        return self._read_under_load[target.setup].get(target.key, frozenset())

    def _loaded_targets(self, setup: Setup) -> Mapping[Target, frozenset[str]]:
        """Where each source of a setup is read under load, by the target's key."""
        found: dict[Target, frozenset[str]] = {}
        for name in self._driving(setup):
            for at in (None, name):
                key = loaded_target(setup, self.sheet, name, at).key
                found[key] = found.get(key, frozenset()) | {name}
        return found

    def wander(self, setup: Setup) -> bool:
        """Whether a source of the setup was read under load at several times."""
        if setup.name not in self._wandering:
            self._wandering[setup.name] = any(len(self._occasions(setup, name)) > 1 for name in self._driving(setup))
        return self._wandering[setup.name]

    def _driving(self, setup: Setup) -> list[str]:
        if setup.name not in self._driving_in:
            self._driving_in[setup.name] = setup.driving(self.sheet.parts)
        return self._driving_in[setup.name]

    def given(self, setup: Setup, place: int | None, without: frozenset[str]) -> AllGiven:
        """What each source of a setup gave at one place in the order of readings; None is after the last.

        Of the sources `without`, the reading under load is not taken: it is itself judged. Sources that were not
        read, or not believably, are left out: they are taken as they are set.
        """
        begun = tuple(self._begun(setup, place)) if self.wander(setup) else ()
        asked = setup.name, begun, without
        if asked not in self._given:
            self._given[asked] = tuple(self._find(setup, begun, without))
        return self._given[asked]

    def _begun(self, setup: Setup, place: int | None) -> Iterator[int]:
        """How many of each source's occasions had begun at a place."""
        for name in self._driving(setup):
            occasions = self._occasions(setup, name)
            last = math.inf if place is None else place
            yield bisect_right(occasions, last, key=lambda one: one.indexes[0])

    def _find(self, setup: Setup, begun: tuple[int, ...], without: frozenset[str]) -> Iterator[tuple[str, Given]]:
        held: graph.Groups[str] = graph.Groups()
        driving = self._driving(setup)
        for name in driving:
            part = self.sheet.parts[name]
            if LAWS[part.kind].has_branch and not part.internal_resistance:
                held.join(*setup.connections[name])
        for k, name in enumerate(driving):
            loaded = None if name in without else self._loaded(setup, name, begun[k] if begun else 0)
            part = self.sheet.parts[name]
            if loaded and LAWS[part.kind].has_branch and part.internal_resistance:
                # Of two sources side by side only one can be taken as ideal.
                loaded = loaded if held.join(*setup.connections[name]) else None
            taken = loaded or self.before(setup, name)
            if taken:
                yield name, taken

    def before(self, setup: Setup, name: str) -> Given | None:
        """A source before connecting: as read for this setup, else in general where it is not set differently here."""
        if (setup.name, name) not in self._before:
            self._before[setup.name, name] = self._find_before(setup, name)
        return self._before[setup.name, name]

    def _find_before(self, setup: Setup, name: str) -> Given | None:
        kind = self.sheet.parts[name].kind
        for own in (setup.name, None):
            if own is None and name in setup.values:
                return None
            measurement = self.measurements.read(PartAlone(name, kind.measured_as, own))
            if measurement and self._is_believed(setup, name, measurement, None):
                how = say("judgement.read_before_connecting_for", setup=own) if own else say("judgement.read_before")
                return Given(measurement.mean or 0.0, measurement.spread, False, how, measurement.indexes)
        return None

    def _loaded(self, setup: Setup, name: str, begun: int) -> Given | None:
        """Under load, once so many occasions had begun: the mean of the last one and the next, else the nearest."""
        occasions = self._occasions(setup, name)
        if not 0 < begun < len(occasions):
            return occasions[-1 if begun else 0] if occasions else None
        first, last = occasions[begun - 1], occasions[begun]
        drift = Spread(
            {_SourceDrift(setup.name, name): abs(last.value - first.value) / 2.0 / 2.0}
        )  # half of it joins U = 2u
        return Given(
            (first.value + last.value) / 2.0,
            first.spread.times(0.5) + last.spread.times(0.5) + drift,
            True,
            say("judgement.read_under_load_before"),
            first.indexes + last.indexes,
        )

    def _occasions(self, setup: Setup, name: str) -> list[Given]:
        """The readings of a source under load, those taken in one go together; what is not believed is left out."""
        if (setup.name, name) not in self._kept:
            self._kept[setup.name, name] = list(self._believed_occasions(setup, name))
        return self._kept[setup.name, name]

    def _believed_occasions(self, setup: Setup, name: str) -> list[Given]:
        run, standings = self.measurements.run, self.measurements.standings
        targets = [loaded_target(setup, self.sheet, name, at) for at in (None, name)]
        if not any(self.measurements.of(target) for target in targets):
            return []
        keys = {target.key for target in targets}
        goes: list[list[int]] = []
        goes_on = False
        for k in self.measurements.in_setup(setup.name):
            if standings[k] not in (Standing.COUNTED, Standing.LATER, Standing.EARLIER):
                continue
            own = run.readings[k].target.key in keys
            if own and goes_on:
                goes[-1].append(k)
            elif own:
                goes.append([k])
            goes_on = own
        together = gathered([k for go in goes for k in go], targets[0], self.measurements.meters)
        if len(goes) > 1 and not together.scatters:
            goes = [[k for go in goes for k in go]]  # it stood still all the time
        size = -(-len(goes) // _MOST_OCCASIONS)
        goes = [[k for go in goes[start : start + size] for k in go] for start in range(0, len(goes), size)]
        givens = []
        for go in goes:
            measurement = gathered(go, targets[0], self.measurements.meters)
            if measurement.mean is None or not self._is_believed(setup, name, measurement, self.before(setup, name)):
                continue
            spread = measurement.spread
            if len(goes) > 1:  # digits of one occasion are not those of another
                spread = Spread({(v, go[0]) if isinstance(v, Own) else v: u for v, u in spread.shares.items()})
            givens.append(Given(measurement.mean, spread, True, say("judgement.read_under_load"), measurement.indexes))
        return givens

    def _is_believed(self, setup: Setup, name: str, measurement: Measurement, before: Given | None) -> bool:
        """Whether a reading is believable as what a source gave, by its setting and by what it gave before."""
        part, read = self.sheet.parts[name], measurement.mean or 0.0
        stated = setup.stated(part)
        if stated is None or float(stated) == 0:
            return True
        size, unit = float(stated), part.kind.unit
        share = read / size
        kind, than = "", size
        if share < 0:
            kind = "judgement.other_sign_than_set"
        elif share < 0.5:
            kind = "judgement.less_than_half_of_setting"
        elif share > 2.0:
            kind = "judgement.more_than_twice_its_setting"
        elif before and self._is_above(read, measurement, before):
            kind, than = "judgement.more_under_load_than_before", before.value
        if kind and not _is_confirmed(measurement.indexes, self.measurements):
            text = say(kind, name=name, read=rounded(read, None, unit), than=rounded(than, None, unit))
            self.doubted[UnfitSource(measurement.indexes[0], text)] = None
            return False
        return True

    def _is_above(self, read: float, measurement: Measurement, before: Given) -> bool:
        above = abs(read) - abs(before.value)
        limit = as_ratio(self.sheet.judge.limit) * abs(before.value)
        return above > limit and above > 2.0 * measurement.spread.apart_from(before.spread)


def _is_confirmed(indexes: Sequence[int], measurements: Measurements) -> bool:
    return any(measurements.run.readings[k].confirmed for k in indexes)
