"""The steps from the bench as it stands to one reading, each safe by itself; and what is put back at the end.

Nothing but probes of a voltmeter is moved under power: whatever else changes, power goes off before it and on after it.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from recensor.core.boards import Built
from recensor.core.circuit import Setup, Sheet, Sweep, TableMeters, Target, Through
from recensor.core.figures import as_read
from recensor.core.meters import ORDINARY_HANDHELD, Profile, Setting, setting
from recensor.core.plan.opening import Opening, Way, opening
from recensor.core.plan.route import Stop
from recensor.core.plan.stage import in_a_sentence, title
from recensor.core.plan.state import Move, State, moves
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.sentences import instruction, say, several

_PROVING = Move(say("plan.prove_fuse_first_since"))


@dataclass(frozen=True)
class Step:
    """One step: the bench while it is carried out, what to do in words, and the moves that it takes.

    A step that `reads` nothing only changes the bench. `setting` is how the meter is set for the reading, which
    `expects` a value in the SI unit; None where it is not known. `jack` is the red lead's by the profile's own name.
    """

    state: State
    words: str
    moves: tuple[Move, ...]
    reads: Target | None = None
    setting: Setting | None = None
    expects: float | None = None
    jack: str | None = None


@dataclass(frozen=True)
class Bench:
    """What the steps hang on: the sheet, the meter that reads each quantity, the boards, how circuits are opened.

    `expected` gives a target's calculated value in the SI unit, None where it is not known; a `sealed` bench tells none
    but those of parts by themselves, whose value stands on them. A `simulated` bench is read off a screen: nothing is
    switched, opened or put back.
    """

    sheet: Sheet
    meters: Mapping[Measurand, Profile] = field(default_factory=dict)
    expected: Callable[[Target], float | None] = lambda target: None
    boards: Mapping[str, Built] = field(default_factory=dict)
    way: Way = Way.LINK
    simulated: bool = False
    sealed: bool = False
    _settings: dict[Target, Setting] = field(default_factory=dict, init=False, repr=False, compare=False)

    def told(self, target: Target) -> float | None:
        """What a target is said to read, in the SI unit; None where that is not known, or kept back."""
        return None if self.sealed and target.in_circuit else self.expected(target)

    def profile(self, measurand: Measurand) -> Profile:
        """The meter that reads a quantity."""
        return self.meters.get(measurand, ORDINARY_HANDHELD)

    def setting(self, target: Target) -> Setting:
        """How the meter is set for a target."""
        if target not in self._settings:  # asked for again and again on the way through a plan
            told, most = self.told(target), _most(target, self.sheet)
            self._settings[target] = setting(self.profile(target.measurand), target.measurand, told, most)
        return self._settings[target]

    def stop(self, target: Target) -> Stop:
        """Where the probes are while a target is read, and how the meter is set."""
        chosen = self.setting(target)
        red, black = self._probes(target)
        return red, black, (chosen.dial, chosen.taken.full if chosen.is_manual else None)

    def _probes(self, target: Target) -> tuple[str, str]:
        """Where red and black are: touched, at a part's leads, at two nodes, or in the gap."""
        if target.is_leads:
            return say("plan.the_black_probe"), say("plan.the_red_probe")
        if target.is_part_alone:
            return _legs(target.part, self.sheet)
        if target.is_across:
            return target.nodes
        gap = self.opening(target)
        return gap.red, gap.black

    def opening(self, target: Through) -> Opening:
        """Where the circuit is opened for a current."""
        return opening(target, self.sheet, self.way, self.boards.get(target.setup))

    def during(self, target: Target, before: State) -> State:
        """The bench while a target is read."""
        sweep = self.sheet.sweep_of(target)
        if sweep is not None and sweep.meters is not TableMeters.ONE and target.in_circuit and target.step is not None:
            return self._in_row(sweep, target.step, before)
        red, black, (dial, full) = self.stop(target)
        in_circuit = target.in_circuit
        powered = target.needs_power(self.sheet)
        is_current = target.is_through
        return State(
            powered=powered,
            connected=powered and in_circuit,
            setup=target.setup if in_circuit else before.setup,
            opened=self.opening(target) if target.is_through else None,
            measurand=target.measurand,
            dial=dial,
            full=full,
            jack=self.setting(target).taken.jack,
            red=red,
            black=black,
            proved=before.proved or (is_current and bool(self.expected(target))),
        )

    def _in_row(self, sweep: Sweep, step: int, before: State) -> State:
        """The bench in a row of a sweep: the voltmeter across, a second meter in the gap, the source as set there.

        With both meters in their places nothing changes from row to row but the source, which is turned under power.
        """
        volts, amps = sweep.volts_at(step), sweep.amps_at(step)
        gap, across = self.opening(amps), self.setting(volts)
        within = self.setting(amps)
        jack = within.taken.jack or "mA"
        second = say("plan.second_meter_red_at", dial=within.dial, jack=jack, red=gap.red, black=gap.black)
        told = None
        if step < len(sweep.settings):
            unit = self.sheet.parts[sweep.source].kind.unit
            told = say("plan.set_source", source=sweep.source, settings=as_read(sweep.settings[step], unit))
        return State(
            powered=True,
            connected=True,
            setup=sweep.setup,
            opened=gap,
            measurand=VOLTAGE,
            dial=across.dial,
            full=before.full if before.second and before.full else across.taken.full if across.is_manual else None,
            jack=across.taken.jack,
            red=sweep.volts.red,
            black=sweep.volts.black,
            proved=True,
            second=before.second if before.second and before.opened == gap else second,
            setting=told,
        )

    def steps(self, before: State, target: Target) -> list[Step]:
        """What leads from the bench as it stands to a reading, the reading last."""
        after = self.during(target, before)
        if self.simulated:
            seen = before._replace(powered=after.powered, connected=after.connected, setup=after.setup)
            return [self._reading(seen._replace(opened=after.opened, jack=after.jack), after, target)]
        found: list[Step] = []
        at = before
        unknown = target.is_through and not self.expected(target) and after.second is None
        if not before.proved and unknown:
            at = self._change(found, at, at._replace(powered=False))
            at = at._replace(proved=True)
            found.append(Step(at, instruction(_PROVING.words), (_PROVING,), jack=self._jack(at)))
        if self._needs_power_off(at, after):
            at = self._change(found, at, at._replace(powered=False))
            # An ammeter's probes go where they read now; any others are put there once power is on.
            changed = after._replace(powered=False, proved=at.proved)
            if after.measurand is not CURRENT:
                stay = at.measurand is not CURRENT
                changed = changed._replace(red=at.red if stay else None, black=at.black if stay else None)
            at = self._change(found, at, changed)
        if at.powered != after.powered:
            at = self._change(found, at, at._replace(powered=after.powered))
        found.append(self._reading(at, after._replace(proved=after.proved or at.proved), target))
        return found

    def put_back(self, before: State) -> list[Step]:
        """What ends a session: power off, everything put back, the red lead in the voltage jack, the dial on volts."""
        if self.simulated:
            return []
        found: list[Step] = []
        at = self._change(found, before, before._replace(powered=False))
        volts = setting(self.profile(VOLTAGE), VOLTAGE, None)
        if at.measurand is CURRENT or at.opened:
            end = at._replace(
                opened=None, measurand=VOLTAGE, dial=volts.dial, full=None, red=None, black=None, second=None
            )
            self._change(found, at, end._replace(jack=volts.taken.jack))
        return found

    @staticmethod
    def _needs_power_off(at: State, after: State) -> bool:
        """Whether something changes that is not changed under power."""
        if not (at.powered or after.powered):
            return False
        if CURRENT in (at.measurand, after.measurand) and (at.red, at.black) != (after.red, after.black):
            return True
        stood = at.setup, at.connected, at.opened, at.dial, at.jack, at.second
        return stood != (after.setup, after.connected, after.opened, after.dial, after.jack, after.second)

    def _change(self, found: list[Step], before: State, after: State) -> State:
        """Append the step from one state to another, where there is anything to do."""
        made = moves(before, after, self.sheet)
        if made:
            words = instruction(*(move.words for move in made))
            found.append(Step(after, words, tuple(made), jack=self._jack(after)))
        return after

    def _reading(self, before: State, after: State, target: Target) -> Step:
        made = moves(before, after, self.sheet)
        chosen = self.setting(target)
        read = say("plan.read_target", in_a_sentence=in_a_sentence(title(target, self.sheet)))
        unknown = proving = ""
        if chosen.then and target.is_through:
            unknown = say("plan.size_is_not_known", ranges=", then ".join(chosen.down()))
        proves = target.is_through and after.proved and not before.proved and after.second is None
        if proves and chosen.fuse is not None:
            proving = say("plan.proves_the_meter_and_its_fuse")
        words = several(instruction(*(move.words for move in made), read), unknown, proving)
        return Step(after, words, tuple(made), target, chosen, self.told(target), self._jack(after))

    def _jack(self, state: State) -> str | None:
        """The jack of the red lead, where the meter's profile names it so."""
        profile = self.meters.get(state.measurand) if state.measurand else None
        return state.jack if profile and state.jack in profile.fuses else None


# Ohms that touched leads, and a lamp in the dark, do not reach (common practice, no source).
_LEADS, _COLD = 10.0, 150.0


def _legs(part: str, sheet: Sheet) -> tuple[str, str]:
    """The legs of a part; half of a potentiometer is from an end, its first or third leg, to the slider, its second."""
    name, is_lower = sheet.half_of(part) or (part, False)
    return (f"{name}.2", f"{name}.3") if is_lower else (f"{name}.1", f"{name}.2")


def _most(target: Target, sheet: Sheet) -> float | None:
    """What a target cannot read more than, from the labels alone; None where they do not say."""
    if target.is_leads:
        return _LEADS
    if target.is_part_alone:
        part = sheet.parts[target.part]
        if part.kind.has_cold:
            return _COLD
        return 1.1 * float(part.nominal) if part.nominal is not None else None
    if target.is_across:
        setup = sheet.setups[target.setup]
        return _sum(setup, sheet, is_source=target.measurand is not RESISTANCE)
    return None


def _sum(setup: Setup, sheet: Sheet, *, is_source: bool) -> float | None:
    """All sources of a setup together, or all that it has in series."""
    parts = [sheet.parts[name] for name in setup.connections if sheet.parts[name].kind.is_source is is_source]
    stated = [setup.stated(part) for part in parts]
    if any(value is None for value in stated) or len({part.kind.unit for part in parts}) > 1:
        return None
    if any(part.kind.measured_as is CURRENT for part in parts):
        return None
    return 1.1 * sum(abs(float(value)) for value in stated if value is not None)
