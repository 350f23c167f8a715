"""One thing, or two, that go wrong on a bench, each as it happens to people; and the trials that are made of them."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tests.rough_benches.bench import OVER, Asked, Bench, document
from tests.rough_benches.circuits import drawn_circuit, renamed

# What changes nothing by this share is no fault that anyone could see.
_VISIBLE = 0.08

_ATTEMPTS = 400

Written = list[tuple[Asked, str]]


class NoRoomError(Exception):
    """The bench has no room for such a fault."""


@dataclass(frozen=True)
class RoughCase:
    """A run document, the kinds and targets of what is wrong on it, and the same with other names."""

    document: dict[str, Any]
    faults: tuple[tuple[str, tuple[str, ...]], ...]
    renamed: dict[str, Any]


def _circuit(bench: Bench, name: str, **changes: float) -> tuple[str, ...]:
    bench.real = {**bench.real, name: replace(bench.real[name], **changes)}
    return (f"parts.{name}",)


def _resistor(bench: Bench) -> str:
    return str(bench.draw.choice([n for n, p in bench.drawn.items() if p.kind == "resistor"]))


def value_off(bench: Bench) -> tuple[str, ...]:
    name = _resistor(bench)
    factor = float(np.exp(bench.draw.uniform(0.25, 1.2))) ** float(bench.draw.choice([-1, 1]))
    return _circuit(bench, name, value=bench.real[name].value * factor)


def part_open(bench: Bench) -> tuple[str, ...]:
    name = _resistor(bench)
    bench.part_as_read = {name: bench.real[name].value}  # out of the circuit it is whole
    _circuit(bench, name, value=1e10)
    return (f"parts.{name}", f"leads.{name}.1", f"leads.{name}.2")


def part_shorted(bench: Bench) -> tuple[str, ...]:
    name = _resistor(bench)
    bench.part_as_read = {name: bench.real[name].value}
    return _circuit(bench, name, value=0.05)


def exchanged(bench: Bench) -> tuple[str, ...]:
    names = [n for n, p in bench.drawn.items() if p.kind == "resistor"]
    if len(names) < 2:
        raise NoRoomError
    one, other = (str(n) for n in bench.draw.choice(names, 2, replace=False))
    bench.part_as_read = {n: bench.real[n].value for n in (one, other)}
    first, second = bench.real[one].value, bench.real[other].value
    return (*_circuit(bench, one, value=second), *_circuit(bench, other, value=first))


def _source(bench: Bench) -> str:
    return str(bench.draw.choice([n for n, p in bench.drawn.items() if p.is_source]))


def source_value(bench: Bench) -> tuple[str, ...]:
    name = _source(bench)
    factor = 1.0 + float(bench.draw.uniform(0.1, 0.35)) * float(bench.draw.choice([-1, 1]))
    return _circuit(bench, name, value=bench.real[name].value * factor)


def source_resistance(bench: Bench) -> tuple[str, ...]:
    name = _source(bench)
    from tests.rough_benches.circuits import solved

    amperes = solved(bench.real, bench.ground)[1][name]
    if amperes <= 0:
        raise NoRoomError
    share = float(bench.draw.uniform(0.12, 0.5))
    return _circuit(bench, name, inside=share * bench.real[name].value / amperes)


def source_reversed(bench: Bench) -> tuple[str, ...]:
    if sum(p.is_source for p in bench.drawn.values()) < 2:
        raise NoRoomError
    name = _source(bench)
    bench.part_as_read = {name: bench.real[name].value}
    return _circuit(bench, name, value=-bench.real[name].value)


def ammeter(bench: Bench) -> tuple[str, ...]:
    sizes = [p.value for p in bench.drawn.values() if p.kind == "resistor"]
    bench.shunt = float(bench.draw.uniform(0.1, 0.4)) * min(sizes)
    if bench.shunt > 900:
        raise NoRoomError
    return ("current",)


def voltmeter(bench: Bench) -> tuple[str, ...]:
    sizes = [p.value for p in bench.drawn.values() if p.kind == "resistor"]
    bench.input_ohms = float(bench.draw.uniform(1.5, 6.0)) * max(sizes)
    if not 1e5 <= bench.input_ohms <= 2e6:
        raise NoRoomError
    return ("voltage",)


def gain(bench: Bench) -> tuple[str, ...]:
    quantity = str(bench.draw.choice(["voltage", "current", "resistance"]))
    bench.shows = {quantity: 1.0 + float(bench.draw.uniform(0.1, 0.25)) * float(bench.draw.choice([-1, 1]))}
    return (quantity,)


def leads_interchanged(bench: Bench) -> tuple[str, ...]:
    bench.shows = {"voltage": -1.0, "current": -1.0}
    return ("voltage", "current")


def zero_offset(bench: Bench) -> tuple[str, ...]:
    volts = max(p.value for p in bench.drawn.values() if p.is_source)
    bench.adds = {"voltage": volts * float(bench.draw.uniform(0.02, 0.06)) * float(bench.draw.choice([-1, 1]))}
    return ("voltage",)


CIRCUIT: dict[str, Callable[[Bench], tuple[str, ...]]] = {
    "value off": value_off, "part open": part_open, "part shorted": part_shorted, "exchanged parts": exchanged,
    "source value": source_value, "source resistance": source_resistance, "part reversed": source_reversed,
    "ammeter resistance": ammeter, "voltmeter loading": voltmeter, "meter gain": gain,
    "leads interchanged": leads_interchanged, "zero offset": zero_offset,
}  # fmt: skip


def _number(text: str) -> tuple[str, str]:
    if text == OVER:
        return "nan", ""
    digits = text.rstrip("kMmu")
    return digits, text[len(digits) :]


def _figures(text: str) -> str:
    return "".join(character for character in text if character.isdigit()).lstrip("0")


def _some(bench: Bench, written: Written, *, across: bool = False) -> int:
    places = [
        k for k, (asked, text) in enumerate(written) if len(_figures(text)) > 2 and (not across or not asked.of)
    ]  # where next to nothing was read, no slip says anything
    if not places:
        raise NoRoomError
    return int(bench.draw.choice(places))


def prefix(bench: Bench, written: Written) -> list[int]:
    k = _some(bench, written)
    asked, text = written[k]
    digits, letter = _number(text)
    others = {"k": ["", "M"], "M": ["k"], "": ["m", "k"], "m": ["", "u"], "u": ["m"]}[letter]
    written[k] = asked, digits + str(bench.draw.choice(others))
    return [k]


def decimal(bench: Bench, written: Written) -> list[int]:
    k = _some(bench, written)
    asked, text = written[k]
    digits, letter = _number(text)
    if "." not in digits:
        raise NoRoomError
    decimals = len(digits.split(".")[1]) + int(bench.draw.choice([-1, 1]))
    figures = _figures(text)
    if not 0 <= decimals < len(figures):
        raise NoRoomError
    sign = "-" if digits.startswith("-") else ""
    body = figures if not decimals else f"{figures[:-decimals] or '0'}.{figures[-decimals:]}"
    written[k] = asked, sign + body + letter
    return [k]


def sign(bench: Bench, written: Written) -> list[int]:
    k = _some(bench, written, across=True)
    asked, text = written[k]
    if asked.quantity == "resistance":
        raise NoRoomError
    written[k] = asked, text[1:] if text.startswith("-") else f"-{text}"
    return [k]


def _digits(bench: Bench, written: Written, change: Callable[[list[str], int], bool]) -> list[int]:
    k = _some(bench, written)
    asked, text = written[k]
    figures = list(text)
    at = [i for i, c in enumerate(figures) if c.isdigit()]
    if not change(figures, int(bench.draw.integers(len(at)))) or not any(c not in "0" for c in figures if c.isdigit()):
        raise NoRoomError
    written[k] = asked, "".join(figures)
    return [k]


def misread(bench: Bench, written: Written) -> list[int]:
    def change(figures: list[str], i: int) -> bool:
        at = [j for j, c in enumerate(figures) if c.isdigit()]
        other = str(int(bench.draw.integers(10)))
        if other == figures[at[i]] or (i == 0 and other == "0"):
            return False
        figures[at[i]] = other
        return True

    return _digits(bench, written, change)


def transposed(bench: Bench, written: Written) -> list[int]:
    def change(figures: list[str], i: int) -> bool:
        at = [j for j, c in enumerate(figures) if c.isdigit()]
        if i + 1 >= len(at) or figures[at[i]] == figures[at[i + 1]] or (i == 0 and figures[at[1]] == "0"):
            return False
        figures[at[i]], figures[at[i + 1]] = figures[at[i + 1]], figures[at[i]]
        return True

    return _digits(bench, written, change)


def _alike(written: Written) -> list[list[int]]:
    groups: dict[tuple[str, bool], list[int]] = {}
    for k, (asked, text) in enumerate(written):
        if len(_figures(text)) > 2 and (asked.quantity != "resistance" or asked.of):
            groups.setdefault((asked.quantity, bool(asked.of)), []).append(k)
    return [places for places in groups.values() if len(places) >= 2]


def swapped(bench: Bench, written: Written) -> list[int]:
    groups = _alike(written)
    if not groups:
        raise NoRoomError
    places = groups[int(bench.draw.integers(len(groups)))]
    one, other = (int(k) for k in bench.draw.choice(places, 2, replace=False))
    written[one], written[other] = (written[one][0], written[other][1]), (written[other][0], written[one][1])
    return [one, other]


def shifted(bench: Bench, written: Written) -> list[int]:
    groups = [places for places in _alike(written) if len(places) >= 3]
    if not groups:
        raise NoRoomError
    places = groups[int(bench.draw.integers(len(groups)))]
    texts = [written[k][1] for k in places]
    for k, text in zip(places, [texts[-1], *texts[:-1]], strict=True):
        written[k] = written[k][0], text
    return places


BOOK: dict[str, Callable[[Bench, Written], list[int]]] = {
    "prefix slip": prefix, "decimal slip": decimal, "sign": sign, "misread digit": misread,
    "transposed digits": transposed, "swapped readings": swapped, "shifted readings": shifted,
}  # fmt: skip

KINDS = (*CIRCUIT, *BOOK)

# What befalls circuits with lamps and diodes in the trial.
NONLINEAR = ("prefix slip", "decimal slip", "sign", "misread digit", "swapped readings", "source value", "part open")


def drawn_case(
    draw: np.random.Generator,
    kinds: tuple[str, ...],
    *,
    rough: bool = False,
    thinned: bool = False,
    nonlinear: bool = False,
) -> RoughCase:
    """A bench with these faults; none for a clean one. Raises `NoRoomError`."""
    for _ in range(_ATTEMPTS):
        try:
            return _case(draw, kinds, rough=rough, thinned=thinned, nonlinear=nonlinear)
        except (NoRoomError, np.linalg.LinAlgError):
            continue
    raise NoRoomError(kinds)


def _case(
    draw: np.random.Generator, kinds: tuple[str, ...], *, rough: bool, thinned: bool, nonlinear: bool
) -> RoughCase:
    parts, ground = drawn_circuit(draw, nonlinear=nonlinear)
    bench = Bench(parts, parts, ground, draw, is_rough=rough)
    targets = bench.targets(parts_read=bool(draw.random() < 0.6), source_read=bool(draw.random() < 0.5))
    if thinned:
        kept = [t for t in targets if draw.random() >= 0.4]
        targets = kept if len(kept) >= 4 else targets
    bench.errs = False
    plain = [bench.shown(t) for t in targets]
    concerned: dict[str, tuple[str, ...]] = {kind: CIRCUIT[kind](bench) for kind in kinds if kind in CIRCUIT}
    wrong = [bench.shown(t) for t in targets]
    if concerned and not any(abs(a - b) > _VISIBLE * abs(a) for a, b in zip(plain, wrong, strict=True)):
        raise NoRoomError
    bench.errs = True
    written: Written = [(t, bench.written(t.quantity, bench.shown(t))) for t in targets]
    right = [float(_number(text)[0]) for _, text in written]
    for kind in kinds:
        if kind in BOOK:
            places = BOOK[kind](bench, written)
            concerned[kind] = tuple(f"readings[{k}]" for k in places)
            for k in places:
                was, now = right[k], float(_number(written[k][1])[0])
                if kind not in ("prefix slip", "decimal slip") and abs(was - now) <= _VISIBLE * abs(was):
                    raise NoRoomError
    for kind, where in concerned.items():
        if where[0] in ("voltage", "current", "resistance"):
            concerned[kind] = tuple(f"readings[{k}]" for k, t in enumerate(targets) if t.quantity in where)
    title = " and ".join(kinds) or "clean"
    faults = tuple((kind, concerned[kind]) for kind in kinds)
    moves = {"swapped readings", "shifted readings"} & set(kinds)  # whose currents stand at parts of other directions
    other, other_ground, names = renamed(parts, ground, draw, turn=not moves)
    again: Written = []
    for asked, text in written:
        if asked.across[0]:
            asked = replace(asked, across=(names[asked.across[0]], names[asked.across[1]]))
        if asked.through and other[asked.through].ends[0] != names[parts[asked.through].ends[0]]:
            text = text[1:] if text.startswith("-") else f"-{text}"
        again.append((asked, text))
    return RoughCase(document(parts, ground, written, title), faults, document(other, other_ground, again, title))
