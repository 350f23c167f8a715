"""Checks that follow from the shape of the circuit alone, before any calculation: one list of rules, `RULES`."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from itertools import pairwise

from recensor.core.circuit import MEASURED, Across, Setup, Sheet, Target, Through, loops
from recensor.core.judgement.by_setup import in_setup
from recensor.core.judgement.calculated_values import Warned
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.same_values import same_currents, same_voltages
from recensor.core.judgement.sanity_readings import Amount, SanityCheck, SanityReadings, readings_of
from recensor.core.judgement.sanity_totals import (
    added_branch,
    parallel_total,
    read_one_by_one,
    series_total,
    smaller_setups,
)
from recensor.core.judgement.starting_values import values_of
from recensor.core.kept import Kept
from recensor.core.quantity import AMPERE, VOLT, VOLTAGE
from recensor.core.record import Light, Run
from recensor.core.sentences import say
from recensor.core.solving import operate


def parallel_voltage(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """Parts side by side share two nodes, and one voltage, as far as it was read at several of them."""
    merged = bench.merged(setup)
    for same in same_voltages(bench, setup):
        if same.holds is not None and same.target.is_across:
            pair = {merged.top(node) for node in same.target.nodes}
            names = [
                name
                for name, leads in setup.connections.items()
                if name not in setup.sources_off and {merged.top(leads[0]), merged.top(leads[1])} == pair
            ]
            words = same.apart.shown(VOLT)
            text = say("judgement.share_two_nodes_voltages", names=", ".join(names), words=words)
            yield SanityCheck("parallel parts have equal voltages", setup.name, same.indexes, same.holds, f"{text}.")


def divider(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """Neighbours in a chain share its voltage as they share its resistance."""
    for branch in loops.branches(setup.joined(bench.sheet.parts)):
        names = [passage.part for passage in branch.passages if not bench.sheet.parts[passage.part].kind.is_source]
        for upper, lower in pairwise(names):
            volts = [bench.read(Across(VOLTAGE, setup.connections[name], setup.name)) for name in (upper, lower)]
            ohms = [bench.resistance(name, setup) for name in (upper, lower)]
            if not (volts[0] and volts[1] and ohms[0] and ohms[1] and ohms[0].indexes and ohms[1].indexes):
                continue
            if not (volts[0].value and volts[1].value and ohms[0].value > 0 and ohms[1].value > 0):
                continue
            # Multiplied across, so that a voltage of a digit or two does not have to be divided by.
            amount, other = abs(volts[0]) * ohms[1], abs(volts[1]) * ohms[0]
            holds = bench.are_equal(amount, other, max(amount.value, other.value))
            if holds is not None:
                by_volts, by_ohms = abs(volts[0].value / volts[1].value), ohms[0].value / ohms[1].value
                text = say("judgement.ratio_between", upper=upper, lower=lower, by_volts=by_volts, by_ohms=by_ohms)
                indexes = readings_of(amount, other)
                yield SanityCheck("divider ratio is the resistance ratio", setup.name, indexes, holds, text)


def series_current(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """One current runs through every part of a chain, and past every place in it."""
    for same in same_currents(bench, setup):
        if same.holds is not None:
            names, words = ", ".join(same.names), same.apart.shown(AMPERE)
            text = say("judgement.one_current_runs_through", fromkeys=names, words=words)
            yield SanityCheck("series parts carry equal currents", setup.name, same.indexes, same.holds, f"{text}.")


# Shares of the rated power, of a filament, and of the stated current, of a light diode: below the first no light is
# seen, above the second nobody calls it dark, and from the third on it may be called bright (common practice, no
# source).
_FILAMENT, _DIODE = (0.01, 0.4, 0.05), (0.001, 0.05, 0.05)


def seen_light(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """What lights is as bright as it should be, by what the circuit should give it."""
    seen = {one.part: one.light for one in bench.measurements.run.seen if one.setup == setup.name}
    if not seen:
        return
    operating = operate(bench.sheet, setup, values_of(bench.sheet, setup, bench.measurements, MEASURED).known)
    for name, light in seen.items():
        part = bench.sheet.parts[name]
        if part.current is None or part.nominal is None or name not in operating.parts:
            continue
        state, amperes = operating.parts[name], float(part.current)
        if part.kind.polarised:
            share, what, limits = state.amperes / amperes, say("judgement.current_stated_at"), _DIODE
        else:
            share, what, limits = state.watts / (float(part.nominal) * amperes), say("judgement.rated_power"), _FILAMENT
        unseen, lit, bright = limits
        fits = {Light.DARK: share < lit, Light.DIM: share > unseen, Light.BRIGHT: share > bright}[light]
        text = say("judgement.seen_what_circuit_gives", name=name, light=light, max=max(share, 0.0), what=what)
        yield SanityCheck("what lights is as bright as it should be", setup.name, (), fits, f"{text}.")


def superposition(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """With every source together a resistor shows what it shows with each alone, added up with signs.

    Silent where a source has something inside: that goes out with it, and each circuit is another one.
    """
    alone = each_alone(bench.sheet, setup)
    if not alone or has_something_inside(bench.sheet, setup, alone) or bench.sheet.bends(setup):
        return
    setups = (setup, *alone)
    for name, leads in setup.connections.items():
        if bench.sheet.parts[name].kind.is_source:
            continue
        across: list[Target] = [Across(VOLTAGE, leads, other.name) for other in setups]
        through: list[Target] = [Through(name, other.name) for other in setups]
        for targets in (across, through):
            unit = targets[0].unit
            read = [known for target in targets if (known := bench.read(target))]
            if len(read) < len(targets):
                continue
            together, *each = read
            total = sum(each, Amount())
            holds = bench.are_equal(
                total, together, max(abs(together.value), sum(abs(amount.value) for amount in each))
            )
            if holds is not None:
                text = say(
                    "judgement.alone_make_together_reads",
                    name=name,
                    shown=" and ".join(amount.shown(unit) for amount in each),
                    unit_shown=total.shown(unit),
                    shown_2=together.shown(unit),
                )
                yield SanityCheck("readings with each source alone add up to those with all", setup.name,
                                  readings_of(*read), holds, f"{text}.")  # fmt: skip


def each_alone(sheet: Sheet, setup: Setup) -> Sequence[Setup]:
    """The setups that have one of the sources each, the others off; none unless there is one for every source."""
    driving = set(setup.driving(sheet.parts))
    if len(driving) < 2:
        return ()
    alone = [
        other
        for name in setup.connections if name in driving
        for other in sheet.setups.values()
        if other.sources_off == setup.sources_off | (driving - {name})
        and (other.connections, other.values, other.open) == (setup.connections, setup.values, setup.open)
    ]  # fmt: skip
    return alone if len(alone) == len(driving) else ()


def has_something_inside(sheet: Sheet, setup: Setup, alone: Sequence[Setup]) -> bool:
    """Whether a source that is off in one of the setups has an internal resistance, which goes out with it."""
    return any(
        sheet.parts[name].internal_resistance for other in alone for name in other.sources_off - setup.sources_off
    )


RULES: tuple[Callable[[SanityReadings, Setup], Iterator[SanityCheck]], ...] = (
    series_total,
    parallel_total,
    read_one_by_one,
    added_branch,
    parallel_voltage,
    series_current,
    divider,
    seen_light,
    superposition,
)


# The setups that the readings of a setup are held against, by its name, for each mapping of setups.
_held_against: Kept[int, tuple[object, ...], Mapping[str, tuple[str, ...]]] = Kept(most=64)


def assess_sanity(run: Run, measurements: Measurements) -> tuple[list[SanityCheck], list[Warned]]:
    """Every rule that has the readings it needs, in every setup; and where one does not hold by its nature."""
    bench, sheet = SanityReadings(run, measurements), run.sheet
    checks: list[SanityCheck] = []
    unsaid: list[Warned] = []
    for name, others in _held_against_in(sheet).items():
        found, silent = in_setup(partial(_in_setup, bench, sheet.setups[name]), measurements, name, "sanity", others)
        checks += found
        unsaid += silent
    return checks, unsaid


def _held_against_in(sheet: Sheet) -> Mapping[str, tuple[str, ...]]:
    key, follows_from = id(sheet.setups), (sheet.setups, sheet.parts)
    found = _held_against.find(key, follows_from)
    if found is None:
        found = {
            name: tuple(other.name for other in (*smaller_setups(sheet, setup), *each_alone(sheet, setup)))
            for name, setup in sheet.setups.items()
        }
        _held_against.keep(key, follows_from, found)
    return found


def _in_setup(bench: SanityReadings, setup: Setup) -> tuple[tuple[SanityCheck, ...], tuple[Warned, ...]]:
    """The checks of one setup, and what is not checked there."""
    checks = tuple(check for rule in RULES for check in rule(bench, setup))
    place, alone = f"setups.{setup.name}", each_alone(bench.sheet, setup)
    unsaid = []
    if has_something_inside(bench.sheet, setup, alone):
        unsaid.append(Warned(place, say("judgement.sources_internal_resistance_goes")))
    if alone and bench.sheet.bends(setup):
        unsaid.append(Warned(place, say("judgement.lamp_or_diode_bends")))
    return checks, tuple(unsaid)
