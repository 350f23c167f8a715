"""The sheet: what is drawn and asked. An experiment keeps one, a run follows one, an edit makes another."""

from collections.abc import Container, Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property

from recensor.core.circuit.parts import Part, SourceType
from recensor.core.circuit.setup import COLDEST, HOTTEST, Setup
from recensor.core.circuit.sweep import MOST_STEPS, Sweep
from recensor.core.circuit.target import Across, PartAlone, Target, Through
from recensor.core.errors import Refused
from recensor.core.quantity import CURRENT, VOLTAGE, Quantity, parse_percent
from recensor.core.sentences import say

# The name that the touched leads have in a run document; a part may bear it too, and then means itself.
LEADS = "leads"


class Basis(StrEnum):
    """The values that a calculation starts from."""

    NOMINAL = "nominal"
    MEASURED = "measured"

    @property
    def other(self) -> "Basis":
        """The one that is used where this one gives nothing."""
        return MEASURED if self is NOMINAL else NOMINAL


NOMINAL, MEASURED = Basis


class JudgedBy(StrEnum):
    """What decides whether a reading agrees."""

    PERCENT = "percent"
    UNCERTAINTY = "uncertainty"


@dataclass(frozen=True)
class Judge:
    """What decides: `by` percent or uncertainty, within `limit`, against measured or nominal values.

    `meter_in`: calculated values are those of the circuit with each reading's meter drawn into it.
    """

    by: JudgedBy = JudgedBy.PERCENT
    limit: Quantity = field(default_factory=lambda: parse_percent("5%"))
    against: Basis = MEASURED
    meter_in: bool = False


class RecordError(Refused):
    """What is written contradicts itself. `place` names where, such as ``readings[3].across``."""

    def __init__(self, place: str, message: str) -> None:
        super().__init__(f"{place}: {message}", place=place)


# Everything is read so often at most.
MOST_ROUNDS = 20


class Rule(StrEnum):
    """What setups are held against each other for."""

    EXCHANGE = "exchange"
    SERIES_AND_PARALLEL = "series and parallel"
    BRANCH_ADDED = "branch added"
    LOADED = "loaded"
    EQUIVALENT = "equivalent"
    SUPERPOSITION = "superposition"


@dataclass(frozen=True)
class Comparison:
    """Setups to be held against each other: the first against the second, or against all others together."""

    rule: Rule
    setups: tuple[str, ...]


@dataclass(frozen=True)
class Handout:
    """What a handout says beside a measurement: what it calls it, and whether it wants a photo of it.

    `hold`: somebody looks at it before power comes on.
    """

    label: str = ""
    photo: bool = False
    hold: bool = False


@dataclass(frozen=True)
class Sheet:
    """Parts, the setups that connect them, the targets asked for in order, and what judges.

    `sealed`: calculated values are shown only once a point has been read. `sweeps` are the lines to be read, by their
    names; `compare` the setups to be held against each other. A potentiometer is two rheostats, from its first end to
    its slider and from there to its other end: `potentiometers` says which two. `waived` are the keys of targets that
    are asked for and left out on purpose, `predicted` those that somebody writes down before reading. `rounds`: how
    often everything that is asked for is read. `handout` has what is said beside targets, by their keys. `groups` are
    parts that are marked alike and that nobody can tell apart.
    """

    title: str
    parts: Mapping[str, Part]
    setups: Mapping[str, Setup]
    asked: tuple[Target, ...] = ()
    judge: Judge = field(default_factory=Judge)
    sealed: bool = False
    sweeps: Mapping[str, Sweep] = field(default_factory=dict)
    compare: tuple[Comparison, ...] = ()
    potentiometers: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    waived: frozenset[Target] = frozenset()
    predicted: frozenset[Target] = frozenset()
    rounds: int = 1
    handout: Mapping[Target, Handout] = field(default_factory=dict)
    groups: tuple[tuple[str, ...], ...] = ()

    @property
    def wanted(self) -> tuple[Target, ...]:
        """What is asked for and not left out."""
        return tuple(target for target in self.asked if target.key not in self.waived) if self.waived else self.asked

    def group_of(self, part: str) -> tuple[str, ...]:
        """The parts from which nobody can tell a part, with itself; none where it can be told."""
        return next((group for group in self.groups if part in group), ())

    def half_of(self, part: str) -> tuple[str, bool] | None:
        """Of which potentiometer a part is a half, and whether it is the lower one; None for every other part."""
        for name, halves in self.potentiometers.items():
            if part in halves:
                return name, part == halves[1]
        return None

    def setup(self, name: str | None = None) -> Setup:
        """The setup of this name, else the first."""
        return self.setups.get(name or "") or next(iter(self.setups.values()))

    def not_measured(self, read: Container[Target]) -> list[Target]:
        """What is asked for, left out on purpose, and not among what was `read` all the same, by its key."""
        return [target for target in self.asked if target.key in self.waived and target.key not in read]

    def set_alike(self, part: str) -> bool:
        """Whether a part should be the same in all setups that set it, or say how warm it is."""
        return len({float(value) for _, value in self._settings(part)}) < 2

    def only_setting(self, part: str) -> Setup | None:
        """A setup that sets a part or says how warm it is, where it is the same in all that do; else None."""
        setting = [setup for setup, _ in self._settings(part)]
        return setting[0] if setting and self.set_alike(part) else None

    def alone(self, part: str, setup: str | None = None) -> Quantity | None:
        """What a part should be by itself: for the named setup, else as all of them set or warm it, else as marked.

        None when it is unmarked, or to be set.
        """
        there = self.setup_alone(part, setup)
        return there.stated(self.parts[part]) if there else self.parts[part].marked

    def setup_alone(self, part: str, setup: str | None = None) -> Setup | None:
        """The setup that says what a part should be by itself; None where its marking does."""
        differs = self.parts[part].kind.differs_by_setup
        return self.setups.get(setup or "") or (self.only_setting(part) if differs else None)

    def _settings(self, part: str) -> Iterator[tuple[Setup, Quantity]]:
        """The setups in which a part is not what it is marked, each with what it is there."""
        for setup in self.setups.values():
            warm = setup.temperature is not None and part in setup.connections and self.parts[part].kind.warms
            value = setup.stated(self.parts[part]) if warm or part in setup.values else None
            if value is not None:
                yield setup, value

    def source_read_at(self, target: Target) -> Part | None:
        """The source that a target reads by itself or under load; None for every other."""
        if target.is_part_alone:
            part = self.parts[target.part]
            return part if part.kind.is_source else None
        if not target.is_across or target.measurand is not VOLTAGE:
            return None
        setup = self.setups[target.setup]
        lying = [self.parts[name] for name in setup.across(*target.nodes) if name in setup.driving(self.parts)]
        voltage = [part for part in lying if part.kind.measured_as is VOLTAGE]
        return voltage[0] if len(voltage) == 1 else None

    def sweep_of(self, target: Target) -> Sweep | None:
        """The sweep of whose row a target is: one that asks for it before one that only has that source."""
        if not target.in_circuit or target.step is None or not self.sweeps:
            return None
        return self._in_rows.get(replace(target, step=None).key)

    @cached_property
    def _in_rows(self) -> Mapping[Target, Sweep]:
        """The sweep that reads each target in its rows, by the target's key without its row."""
        asked, sources = dict[Target, Sweep](), dict[Target, Sweep]()
        for sweep in self.sweeps.values():
            asked.setdefault(sweep.volts.key, sweep)
            asked.setdefault(sweep.amps.key, sweep)
            setup = self.setups.get(sweep.setup)
            if setup is not None and sweep.source in setup.connections:
                sources.setdefault(replace(sweep.source_at(0, setup), step=None).key, sweep)
        return {**sources, **asked}

    def bends(self, setup: Setup) -> bool:
        """Whether a part of a setup is no straight line: then nothing simply adds up, or grows with its source."""
        return any(self.parts[name].kind.is_nonlinear for name in setup.connections)

    def is_free(self, target: Target) -> bool:
        """Whether a target is in a row of a sweep without settings: its source may be turned to anything."""
        sweep = self.sweep_of(target)
        return sweep is not None and not sweep.settings

    def state_of(self, target: Target) -> Setup | None:
        """The setup that a target is read in, in a row of a sweep with its source as it is set there; None of none."""
        setup = self.setups.get(target.setup or "")
        sweep = self.sweep_of(target) if setup else None
        return sweep.at(target.step, setup) if sweep and setup and target.step is not None else setup

    @property
    def several(self) -> bool:
        """Whether there are several setups, so that each has to be named."""
        return len(self.setups) > 1


def check(sheet: Sheet) -> None:
    """Raise `RecordError` at the first place that names something the sheet does not have."""
    if not 1 <= sheet.rounds <= MOST_ROUNDS:
        raise RecordError("rounds", say("circuit.rounds_between", most=MOST_ROUNDS))
    for name, part in sheet.parts.items():
        _check_part(f"parts.{name}", part)
    for name, setup in sheet.setups.items():
        _check_setup(f"setups.{name}", setup, sheet)
    for name, sweep in sheet.sweeps.items():
        _check_sweep(f"sweeps.{name}", sweep, sheet)
    for k, target in enumerate(sheet.asked):
        check_target(f"asked[{k}]", target, sheet)
    for k, comparison in enumerate(sheet.compare):
        _check_comparison(f"compare[{k}]", comparison, sheet)
    for k, group in enumerate(sheet.groups):
        _check_group(f"groups[{k}]", k, group, sheet)


def _check_sweep(place: str, sweep: Sweep, sheet: Sheet) -> None:
    setup = sheet.setups.get(sweep.setup)
    if setup is None:
        raise RecordError(f"{place}.setup", say("circuit.there_is_no_setup", setup=sweep.setup))
    if sweep.source not in setup.driving(sheet.parts):
        raise RecordError(f"{place}.source", say("circuit.source_not_on", source=sweep.source, setup=setup.name))
    check_target(f"{place}.volts", sweep.volts, sheet)
    check_target(f"{place}.amps", sweep.amps, sheet)
    if len(sweep.settings) > MOST_STEPS:
        raise RecordError(f"{place}.settings", say("circuit.sweep_at_most_rows", most_steps=MOST_STEPS))
    unit = sheet.parts[sweep.source].kind.unit
    for k, setting in enumerate(sweep.settings):
        if setting.unit not in (None, unit):
            raise RecordError(f"{place}.settings[{k}]", say("circuit.set_in", source=sweep.source, unit=unit))


def _check_comparison(place: str, comparison: Comparison, sheet: Sheet) -> None:
    for k, name in enumerate(comparison.setups):
        if name not in sheet.setups:
            raise RecordError(f"{place}.setups[{k}]", say("circuit.there_is_no_setup", setup=name))
    if len(set(comparison.setups)) < max(2, len(comparison.setups)):
        raise RecordError(f"{place}.setups", say("circuit.setups_held_against_each"))


def _check_group(place: str, k: int, group: tuple[str, ...], sheet: Sheet) -> None:
    for name in group:
        if name not in sheet.parts:
            raise RecordError(place, say("circuit.there_is_no_part", part=name))
        if not sheet.parts[name].kind.has_bands:
            raise RecordError(place, say("circuit.only_resistors_in_a_group", part=name))
        if any(name in other for other in sheet.groups[:k]):
            raise RecordError(place, say("circuit.part_is_in_another_group", part=name))
    if len(set(group)) < max(2, len(group)):
        raise RecordError(place, say("circuit.group_has_several_parts"))
    if len({marking(sheet.parts[name]) for name in group}) > 1:
        raise RecordError(place, say("circuit.group_is_marked_alike"))


def marking(part: Part) -> tuple[object, ...]:
    """What is marked on a part; parts of which it is the same look alike."""
    return part.kind.word, part.nominal and part.nominal.value, part.tolerance and part.tolerance.value


def check_target(place: str, target: Target, sheet: Sheet) -> None:
    """Raise `RecordError` when the target names a part, node or setup that the sheet does not have."""
    if target.setup is not None and target.setup not in sheet.setups:
        raise RecordError(f"{place}.setup", say("circuit.there_is_no_setup", setup=target.setup))
    if target.is_leads:
        return
    if target.is_part_alone:
        _check_alone(place, target, sheet)
        return
    setup = sheet.setups[target.setup]
    if target.step is not None:
        _check_step(place, target, sheet)
    if target.at is not None:
        _check_at(place, target, setup)
    if target.is_across:
        for node in target.nodes:
            if node not in setup.nodes:
                raise RecordError(f"{place}.across", say("circuit.setup_has_no_node", setup=setup.name, node=node))
        if target.red == target.black:
            raise RecordError(f"{place}.across", say("circuit.red_and_black_are_both_at_node", red=target.red))
        if target.measurand is CURRENT:
            raise RecordError(f"{place}.quantity", say("circuit.current_read_through_part"))
    elif target.is_through and target.part not in setup.connections:
        raise RecordError(f"{place}.through", say("circuit.setup_has_no_part", setup=setup.name, part=target.part))


def _check_step(place: str, target: Across | Through, sheet: Sheet) -> None:
    sweep = sheet.sweep_of(target)
    if sweep is None:
        raise RecordError(f"{place}.step", say("circuit.no_sweep_setup_reads"))
    most = len(sweep.settings) or MOST_STEPS
    if not 0 <= (target.step or 0) < most:
        raise RecordError(f"{place}.step", say("circuit.has_rows_0_to", sweep=sweep.name, last=most - 1))


def _check_at(place: str, target: Across | Through, setup: Setup) -> None:
    if target.at not in setup.connections:
        raise RecordError(f"{place}.at", say("circuit.setup_has_no_part", setup=setup.name, part=target.at))
    if target.is_across and target.at not in setup.across(*target.nodes):
        raise RecordError(
            f"{place}.at", say("circuit.does_not_lie_from", at=target.at, red=target.red, black=target.black)
        )


def _check_alone(place: str, target: PartAlone, sheet: Sheet) -> None:
    if target.part not in sheet.parts:
        raise RecordError(f"{place}.of", say("circuit.there_is_no_part", part=target.part))
    kind = sheet.parts[target.part].kind
    if target.measurand is not kind.measured_as:
        unit = kind.measured_as.unit
        raise RecordError(
            f"{place}.quantity", say("circuit.and_read_itself_in", part=target.part, word=kind.word, unit=unit)
        )
    if target.setup is not None and not (kind.is_source or kind.differs_by_setup):
        raise RecordError(f"{place}.setup", say("circuit.only_what_set_read"))


def check_part(part: Part) -> None:
    """Raise `Refused` where what is said of a part contradicts itself, in words without a place."""
    try:
        _check_part("", part)
    except RecordError as error:
        text = error.message.split(": ", 1)[-1]
        raise Refused(f"{part.name}: {text}.", (part.name,)) from None


def _check_part(place: str, part: Part) -> None:
    if part.nominal is None and not part.kind.may_be_unmarked:
        raise RecordError(f"{place}.nominal", say("circuit.source_needs_value_set"))
    _check_stated(place, part)
    if part.internal is not None and not part.kind.is_source:
        raise RecordError(f"{place}.internal", say("circuit.only_source_internal_resistance"))
    if part.internal is not None and part.internal_resistance < 0:
        raise RecordError(f"{place}.internal", say("circuit.internal_resistance_cannot_negative"))
    if part.adjustable and not part.kind.is_source:
        raise RecordError(f"{place}.adjustable", say("circuit.only_source_knob"))
    if part.source is not None and not part.kind.is_source:
        raise RecordError(f"{place}.source", say("circuit.only_source_is_battery"))
    if part.adjustable and part.source not in (None, SourceType.SUPPLY):
        raise RecordError(f"{place}.adjustable", say("circuit.no_knob_on_source", source=part.source))
    if part.rating is not None and float(part.rating) <= 0:
        raise RecordError(f"{place}.rating", say("circuit.rating_above_zero_watts"))
    if part.limit is not None and (not part.kind.can_state("limit") or float(part.limit) <= 0):
        raise RecordError(f"{place}.limit", say("circuit.only_voltage_source_current"))
    if part.compliance is not None and not part.kind.can_state("compliance"):
        raise RecordError(f"{place}.compliance", say("circuit.only_current_source_compliance"))
    if part.compliance is not None and float(part.compliance) <= 0:
        raise RecordError(f"{place}.compliance", say("circuit.compliance_voltage_above_zero"))


def _check_stated(place: str, part: Part) -> None:
    """What a lamp or a diode is stated by, what is bounded, and that a wire is stated by nothing."""
    kind = part.kind
    if kind.is_wire and part.nominal is not None:
        raise RecordError(f"{place}.nominal", say("circuit.no_value", word=kind.word))
    for stated in kind.states:
        quantity = part.stated(stated.name)
        if quantity is not None and stated.most and not 0 < float(quantity) <= stated.most:
            raise RecordError(f"{place}.{stated.key}", say("circuit.above_zero_and_at_most", most=stated.most))
    if not kind.is_nonlinear:
        return
    own = {stated.name: stated.key for stated in kind.states if stated.name in ("nominal", "current", "cold")}
    for name, key in own.items():
        quantity = part.stated(name)
        if quantity is not None and float(quantity) <= 0:
            raise RecordError(f"{place}.{key}", say("circuit.above_zero"))
    if part.current is not None and part.nominal is None:
        raise RecordError(
            f"{place}.{own['current']}", say("circuit.current_needs_voltage_at", stated_by=own["nominal"])
        )
    if part.nominal is None or part.current is None or part.cold is None:
        return
    hot = float(part.nominal) / float(part.current)
    if float(part.cold) >= hot:
        rated = {"nominal": part.nominal.text, "current": part.current.text, "hot": hot}
        raise RecordError(f"{place}.cold", say("circuit.filament_resists_less_cold", **rated))


def _check_setup(place: str, setup: Setup, sheet: Sheet) -> None:
    if setup.temperature is not None and not COLDEST <= float(setup.temperature) <= HOTTEST:
        raise RecordError(f"{place}.temperature", say("circuit.lies_between", low=COLDEST, high=HOTTEST))
    for name in setup.connections:
        if name not in sheet.parts:
            raise RecordError(f"{place}.connections.{name}", say("circuit.no_part_name"))
    for name in sorted(setup.sources_off):
        if name not in setup.connections or not sheet.parts[name].kind.is_source:
            raise RecordError(f"{place}.sources_off", say("circuit.is_not_a_source_of_this_setup", name=name))
    for name, value in setup.values.items():
        if name not in sheet.parts:
            raise RecordError(f"{place}.values.{name}", say("circuit.no_part_name"))
        part = sheet.parts[name]
        if value.unit not in (None, part.kind.unit):
            raise RecordError(f"{place}.values.{name}", say("circuit.given_in", name=name, unit=part.kind.unit))
        if part.kind.is_wire:
            raise RecordError(f"{place}.values.{name}", say("circuit.no_value", word=part.kind.word))
        if part.kind.adjustable_value and float(value) <= 0:
            raise RecordError(f"{place}.values.{name}", say("circuit.what_set_above_zero"))
        if part.kind.adjustable_value and part.nominal and float(value) > float(part.nominal):
            raise RecordError(
                f"{place}.values.{name}", say("circuit.goes_no_further_than", name=name, nominal=part.nominal.text)
            )
    for name in sorted(setup.open):
        if name not in setup.connections or not sheet.parts[name].kind.can_open:
            raise RecordError(f"{place}.open", say("circuit.is_not_a_switch_of_this_setup", name=name))
