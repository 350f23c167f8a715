"""What can go wrong at a bench, one function for each kind; each says what is concerned, by places of a document."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from recensor.core.circuit import Across, PartAlone, Target, Through, TouchedLeads, all_readings
from recensor.core.faults import FaultKind
from recensor.core.figures import as_read
from recensor.core.meters import Range, ranges_of
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Quantity, parse
from recensor.core.record import Run
from recensor.core.resistors import bands_saying, lookalikes
from recensor.core.slips import scaled, transposed, turned
from tests.injected_faults.world import Setting, World


class NoRoomForFaultError(ValueError):
    """Such a thing cannot happen at this bench."""


@dataclass
class InjectedFault:
    """What goes wrong at a bench: the world is changed before it is read, or what was written after."""

    world: World
    targets: list[Target]
    draw: np.random.Generator
    after: Callable[[Run], Run] | None = None

    def finished(self, run: Run) -> Run:
        """The run as it was written down in the end."""
        return self.after(run) if self.after else run

    def a_resistor(self) -> str:
        """Any part that resists."""
        return str(self.draw.choice([n for n, p in self.world.sheet.parts.items() if not p.kind.is_source]))

    def a_source(self) -> str:
        """Any source."""
        return str(self.draw.choice([n for n, p in self.world.sheet.parts.items() if p.kind.is_source]))

    def in_all(self, change: Callable[[Setting], None]) -> None:
        """Change every circuit."""
        for circuit in self.world.circuits.values():
            change(circuit)

    def a_reading(self, *measurands: object, alone: bool | None = None) -> int:
        """The place of any reading of these quantities."""
        places = [
            k
            for k, t in enumerate(self.targets)
            if (not measurands or t.measurand in measurands) and (alone is None or isinstance(t, PartAlone) == alone)
        ]
        if not places:
            raise NoRoomForFaultError
        return int(self.draw.choice(places))

    def slip(self, place: int, how: Callable[[Quantity, str], Quantity | None]) -> tuple[str, ...]:
        """Write at a place what becomes of what was shown."""

        def changed(run: Run) -> Run:
            readings = list(run.readings)
            old = readings[place]
            new = how(old.value, old.target.unit) if old.value.value is not None else None
            if new is None:
                raise NoRoomForFaultError
            readings[place] = replace(old, value=new)
            return replace(run, readings=tuple(readings))

        self.after = changed
        return (f"readings[{place}]",)


def _part_open(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_resistor()
    m.world.alone[name] = 1e12
    m.in_all(lambda c: c.values.__setitem__(name, 1e12))
    return (f"parts.{name}",)


def _part_shorted(m: InjectedFault) -> tuple[str, ...]:
    name, ohms = m.a_resistor(), 0.01 * 30.0 ** float(m.draw.random())
    m.world.alone[name] = ohms
    m.in_all(lambda c: c.values.__setitem__(name, ohms))
    return (f"parts.{name}",)


def _joint_open(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_resistor()
    m.in_all(lambda c: c.values.__setitem__(name, 1e12))
    return (f"leads.{name}.1", f"leads.{name}.2")


def _leads_in_one_row(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_resistor()
    m.in_all(lambda c: c.values.__setitem__(name, 0.02))
    return (f"parts.{name}",)


def _value_off(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_resistor()
    ratio = float(np.exp(m.draw.choice([-1.0, 1.0]) * m.draw.uniform(0.25, 2.5)))
    if m.draw.random() < 0.5:
        m.world.alone[name] *= ratio
    m.in_all(lambda c: c.values.__setitem__(name, c.values[name] * ratio))
    return (f"parts.{name}",)


def _misread_code(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_resistor()
    part = m.world.sheet.parts[name]
    bands = bands_saying(part.nominal.value, part.tolerance.value) if part.nominal and part.tolerance else ()
    alike = lookalikes(bands) if bands else []
    alike = [one for one in alike if abs(float(one.ratio) - 1.0) > 0.12]
    if not alike:
        raise NoRoomForFaultError
    ratio = float(alike[int(m.draw.integers(0, len(alike)))].ratio)
    m.world.alone[name] *= ratio
    m.in_all(lambda c: c.values.__setitem__(name, c.values[name] * ratio))
    return (f"parts.{name}",)


def _exchanged(m: InjectedFault) -> tuple[str, ...]:
    one, other = m.a_resistor(), m.a_resistor()
    if one == other or abs(m.world.alone[one] / m.world.alone[other] - 1.0) < 0.1:
        raise NoRoomForFaultError
    for c in m.world.circuits.values():
        c.values[one], c.values[other] = c.values[other], c.values[one]
    return (f"parts.{one}", f"parts.{other}")


def _lead_off(m: InjectedFault) -> tuple[str, ...]:
    name, lead = m.a_resistor(), int(m.draw.integers(0, 2))
    setup = m.world.sheet.setup()
    others = [node for node in setup.nodes if node not in setup.connections[name]]
    if not others:
        raise NoRoomForFaultError
    node = str(m.draw.choice(others))

    def moved(c: Setting) -> None:
        first, second = c.connections[name]
        c.connections[name] = (node, second) if lead == 0 else (first, node)

    m.in_all(moved)
    return (f"leads.{name}.{lead + 1}",)


def _source_value(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_source()
    ratio = float(np.exp(m.draw.choice([-1.0, 1.0]) * m.draw.uniform(0.15, 0.6)))
    m.world.alone[name] *= ratio
    m.in_all(lambda c: c.values.__setitem__(name, c.values[name] * ratio))
    return (f"parts.{name}",)


def _load(m: InjectedFault, name: str) -> float:
    setup = m.world.sheet.setup()
    amperes = m.world.true_value(Through(name, setup.name))
    if not amperes:
        raise NoRoomForFaultError
    return abs(m.world.alone[name] / amperes)


def _source_resistance(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_source()
    ohms = _load(m, name) * float(np.exp(m.draw.uniform(math.log(0.04), math.log(0.6))))
    m.in_all(lambda c: c.inside.__setitem__(name, ohms))
    return (f"parts.{name}",)


def _source_limit(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_source()
    limit = m.world.alone[name] / _load(m, name) * float(m.draw.uniform(0.3, 0.85))
    m.in_all(lambda c: c.limits.__setitem__(name, limit))
    return (f"parts.{name}",)


def _source_drift(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_source()
    live = [k for k, t in enumerate(m.targets) if not isinstance(t, PartAlone) and t.measurand is not RESISTANCE]
    if len(live) < 6:
        raise NoRoomForFaultError
    world, total = m.world, float(m.draw.choice([-1.0, 1.0]) * m.draw.uniform(0.06, 0.2))
    last = live[-1] - live[0]

    def drifts(k: int) -> None:
        world.times[name] = 1.0 + total * max(0.0, (k - live[0]) / last)

    world.before = drifts
    return (f"parts.{name}",)


def _reversed(m: InjectedFault) -> tuple[str, ...]:
    name = m.a_source()
    m.in_all(lambda c: c.values.__setitem__(name, -c.values[name]))
    return (f"parts.{name}",)


def _link_left_out(m: InjectedFault) -> tuple[str, ...]:
    currents = [k for k, t in enumerate(m.targets) if isinstance(t, Through)]
    live = [k for k in range(len(m.targets)) if m.targets[k].setup and not isinstance(m.targets[k], PartAlone)]
    if not currents:
        raise NoRoomForFaultError
    first = int(m.draw.choice(currents))
    target = m.targets.pop(first)
    place = int(m.draw.choice([k for k in live if k < first] or [first]))
    m.targets.insert(place, target)
    after = [t for t in m.targets[place + 1 :] if t.setup == target.setup and not isinstance(t, PartAlone)]
    if len(after) < 2 or not isinstance(target, Through):
        raise NoRoomForFaultError
    world = m.world

    def opens(k: int) -> None:
        world.opened = (target.part, target.setup) if k > place else None

    world.before = opens
    return (f"parts.{target.part}",)


# There are no such meters (common practice, no source), in ohms.
LEAST_IN_VOLTMETER, MOST_IN_AMMETER = 1e5, 1e3


def _ammeter(m: InjectedFault) -> tuple[str, ...]:
    places = [k for k, t in enumerate(m.targets) if t.measurand is CURRENT]
    if not places:
        raise NoRoomForFaultError
    load = _load(m, m.a_source())
    if m.draw.random() < 0.5:
        m.world.shunt = load * float(m.draw.uniform(0.08, 0.5))
        if m.world.shunt > MOST_IN_AMMETER:
            raise NoRoomForFaultError
    else:
        m.world.shunt_volts = float(m.draw.uniform(0.8, 2.5))
    return tuple(f"readings[{k}]" for k in places)


def _loading(m: InjectedFault) -> tuple[str, ...]:
    places = [k for k, t in enumerate(m.targets) if isinstance(t, Across) and t.measurand is VOLTAGE]
    m.world.input_ohms = float(np.median([v for n, v in m.world.alone.items() if n.startswith("R")])) * float(
        m.draw.uniform(1.0, 8.0)
    )
    if m.world.input_ohms < LEAST_IN_VOLTMETER:
        raise NoRoomForFaultError
    return tuple(f"readings[{k}]" for k in places)


def _fuse(m: InjectedFault) -> tuple[str, ...]:
    places = [k for k, t in enumerate(m.targets) if t.measurand is CURRENT]
    if not places:
        raise NoRoomForFaultError
    m.world.fuse_is_open = True
    return tuple(f"readings[{k}]" for k in places)


def _gain(m: InjectedFault) -> tuple[str, ...]:
    measurand = m.targets[m.a_reading()].measurand
    places = [k for k, t in enumerate(m.targets) if t.measurand is measurand]
    if len(places) < 3:
        raise NoRoomForFaultError
    ratio = 1.0 + float(m.draw.choice([-1.0, 1.0]) * m.draw.uniform(0.08, 0.2))
    m.world.factors[measurand] = ratio
    return tuple(f"readings[{k}]" for k in places)


def _wrong_range(m: InjectedFault) -> tuple[str, ...]:
    place = m.a_reading()
    over = m.world.profile.over_range[0]
    ranges = ranges_of(m.world.profile, m.targets[place].measurand)
    if m.draw.random() < 0.5:
        return m.slip(
            place,
            lambda value, unit: (
                None if value.value is None else Quantity(over if over != "1" else "OL", None, None, unit)
            ),
        )
    return m.slip(place, lambda value, unit: _zero(float(value), ranges[-1], unit))


def _zero(value: float, taken: Range, unit: str) -> Quantity | None:
    return parse("0.00", unit) if abs(value) < 0.3 * taken.step else None


def _mix_up(m: InjectedFault) -> tuple[str, ...]:
    place = m.a_reading(VOLTAGE, CURRENT, alone=False)
    target = m.targets[place]
    setup = m.world.sheet.setups[target.setup or ""]
    if isinstance(target, Through):
        other: Target = Across(VOLTAGE, setup.connections[target.part], setup.name)
    else:
        there = [n for n in setup.across(*target.nodes) if not m.world.sheet.parts[n].kind.is_source]  # type: ignore[union-attr]
        if not there or len(setup.across(*target.nodes)) > 1:  # type: ignore[union-attr]
            raise NoRoomForFaultError
        other = Through(there[0], setup.name)
    shown = m.world.read(other)
    if shown.value is None or not shown.value:
        raise NoRoomForFaultError
    digits = as_read(shown, other.unit).split(" ")[0].replace("−", "-")
    return m.slip(place, lambda value, unit: parse(digits, unit))


def _prefix(m: InjectedFault) -> tuple[str, ...]:
    power = int(m.draw.choice([-3, 3]))
    return m.slip(m.a_reading(), lambda value, unit: scaled(value, power, unit))


def _decimal(m: InjectedFault) -> tuple[str, ...]:
    power = int(m.draw.choice([-1, 1]))
    return m.slip(m.a_reading(), lambda value, unit: scaled(value, power, unit))


def _sign(m: InjectedFault) -> tuple[str, ...]:
    place = m.a_reading(VOLTAGE, CURRENT)
    return m.slip(place, lambda value, unit: turned(value, unit) if value.value else None)


def _transposed(m: InjectedFault) -> tuple[str, ...]:
    which = int(m.draw.integers(0, 2))

    def how(value: Quantity, unit: str) -> Quantity | None:
        found = (
            [one for one in transposed(value, unit) if abs(float(one) / float(value) - 1.0) > 0.03]
            if value.value
            else []
        )
        return found[which % len(found)] if found else None

    return m.slip(m.a_reading(), how)


def _wrong_target(m: InjectedFault) -> tuple[str, ...]:
    place = m.a_reading()
    target = m.targets[place]
    others = [t for t in all_readings(m.world.sheet) if t.measurand is target.measurand and t.key != target.key]
    others = [t for t in others if not isinstance(t, TouchedLeads)]
    if not others:
        raise NoRoomForFaultError
    other = others[int(m.draw.integers(0, len(others)))]
    value = m.world.read(other)
    if value.value is None or value.value == 0:
        raise NoRoomForFaultError
    return m.slip(place, lambda _, unit: parse(value.text, unit))


def _swapped(m: InjectedFault) -> tuple[str, ...]:
    one = m.a_reading()
    other = m.a_reading(m.targets[one].measurand)
    if one == other:
        raise NoRoomForFaultError

    def changed(run: Run) -> Run:
        readings = list(run.readings)
        first, second = readings[one], readings[other]
        if first.value.value == second.value.value or first.value.value is None or second.value.value is None:
            raise NoRoomForFaultError
        readings[one], readings[other] = replace(first, value=second.value), replace(second, value=first.value)
        return replace(run, readings=tuple(readings))

    m.after = changed
    return tuple(f"readings[{k}]" for k in sorted((one, other)))


def _shifted(m: InjectedFault) -> tuple[str, ...]:
    measurand = m.targets[m.a_reading()].measurand
    alone = bool(m.draw.random() < 0.5)
    places = [k for k, t in enumerate(m.targets) if t.measurand is measurand and isinstance(t, PartAlone) == alone]
    if len(places) < 4 or places[-1] - places[0] != len(places) - 1:
        raise NoRoomForFaultError
    start = int(m.draw.integers(0, len(places) - 3))
    skipped, run_of = places[start], places[start + 1 :]
    targets = [m.targets[k] for k in places[start:]]
    del m.targets[skipped]
    values: list[Quantity] = []

    def changed(run: Run) -> Run:
        readings = list(run.readings)
        values[:] = [m.world.read(target) for target in targets[:-1]]
        for k, value in zip(range(skipped, skipped + len(run_of)), values, strict=True):
            if value.value is None:
                raise NoRoomForFaultError
            readings[k] = replace(readings[k], value=parse(value.text, readings[k].target.unit))
        return replace(run, readings=tuple(readings))

    m.after = changed
    return tuple(f"readings[{k}]" for k in range(skipped, skipped + len(run_of)))


def _over_range_as_number(m: InjectedFault) -> tuple[str, ...]:
    return m.slip(m.a_reading(), lambda value, unit: parse("1", unit))


def _read_in_circuit(m: InjectedFault) -> tuple[str, ...]:
    place = m.a_reading(RESISTANCE, alone=True)
    target = m.targets[place]
    if not isinstance(target, PartAlone):
        raise NoRoomForFaultError
    setup = m.world.sheet.setup()
    value = m.world.read(Across(RESISTANCE, setup.connections[target.part], setup.name))
    if value.value is None or abs(float(value) / m.world.alone[target.part] - 1.0) < 0.05:
        raise NoRoomForFaultError
    return m.slip(place, lambda _, unit: parse(value.text, unit))


INJECTED: dict[FaultKind, Callable[[InjectedFault], tuple[str, ...]]] = {
    FaultKind.PART_OPEN: _part_open,
    FaultKind.PART_SHORTED: _part_shorted,
    FaultKind.VALUE_OFF: _value_off,
    FaultKind.MISREAD_CODE: _misread_code,
    FaultKind.EXCHANGED_PARTS: _exchanged,
    FaultKind.JOINT_OPEN: _joint_open,
    FaultKind.LEAD_ONE_ROW_OFF: _lead_off,
    FaultKind.LEADS_IN_ONE_ROW: _leads_in_one_row,
    FaultKind.LINK_LEFT_OUT: _link_left_out,
    FaultKind.PART_REVERSED: _reversed,
    FaultKind.SOURCE_VALUE: _source_value,
    FaultKind.SOURCE_RESISTANCE: _source_resistance,
    FaultKind.SOURCE_LIMIT: _source_limit,
    FaultKind.SOURCE_DRIFT: _source_drift,
    FaultKind.AMMETER_RESISTANCE: _ammeter,
    FaultKind.VOLTMETER_LOADING: _loading,
    FaultKind.METER_FUSE_OPEN: _fuse,
    FaultKind.METER_GAIN: _gain,
    FaultKind.WRONG_RANGE: _wrong_range,
    FaultKind.FUNCTION_MIX_UP: _mix_up,
    FaultKind.PREFIX_SLIP: _prefix,
    FaultKind.DECIMAL_SLIP: _decimal,
    FaultKind.SIGN: _sign,
    FaultKind.TRANSPOSED_DIGITS: _transposed,
    FaultKind.WRONG_TARGET: _wrong_target,
    FaultKind.SWAPPED_READINGS: _swapped,
    FaultKind.SHIFTED_READINGS: _shifted,
    FaultKind.OVER_RANGE_AS_NUMBER: _over_range_as_number,
    FaultKind.READ_IN_CIRCUIT: _read_in_circuit,
}
