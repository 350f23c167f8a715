"""A person at a bench: what the meter shows at each target, and what is written down of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from tests.rough_benches.circuits import BenchPart, Parts, currents_worth_reading, ohms_between, solved

# Displays, and by quantity the smallest full scale of 2000 counts; limits of error as a ratio, and in digits.
_COUNTS = (2000, 2000, 4000, 6000, 20_000)
_SMALLEST = {"voltage": 0.2, "resistance": 200.0, "current": 2e-3}
_LARGEST = {"voltage": 600.0, "resistance": 2e7, "current": 10.0}
_LIMITS = {"voltage": (0.008, 2), "resistance": (0.01, 2), "current": (0.015, 3)}
_BURDEN_AT_FULL, _INPUT = 0.15, 1e7

# What the display shows beyond its largest range.
OVER = "OL"


@dataclass(frozen=True)
class Asked:
    """What is read: a part by itself (`of`), or between two nodes, or through a part."""

    quantity: str
    of: str = ""
    across: tuple[str, str] = ("", "")
    through: str = ""

    def tree(self) -> dict[str, Any]:
        """As a document has it."""
        if self.of:
            return {"of": self.of}
        where: dict[str, Any] = {"across": list(self.across)} if self.across[0] else {"through": self.through}
        return {"setup": "main", "quantity": self.quantity, **where}


@dataclass
class Bench:
    """The circuit as it is drawn and as it is, and the meter with its errors.

    `shows` are factors of a quantity's display, `adds` what it reads with nothing on it; `input_ohms` and `shunt` what
    the meter is if it is another one.
    """

    drawn: Parts
    real: Parts
    ground: str
    draw: np.random.Generator
    is_rough: bool = False
    counts: int = 2000
    shows: Mapping[str, float] = field(default_factory=dict)
    adds: Mapping[str, float] = field(default_factory=dict)
    input_ohms: float = _INPUT
    shunt: float | None = None
    errs: bool = True
    part_as_read: Mapping[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.counts = int(self.draw.choice(_COUNTS))
        self._gains: dict[tuple[str, float], float] = {}

    def there(self, asked: Asked) -> float:
        """What the meter finds at a target, its own disturbance included."""
        if asked.of:
            return self.part_as_read.get(asked.of, self.real[asked.of].value)
        if asked.quantity == "resistance":
            return ohms_between(self.real, *asked.across)
        if asked.quantity == "voltage":
            meter = BenchPart("resistor", asked.across, 0.0, self.input_ohms)
            potentials, _ = solved({**self.real, "\0": meter}, self.ground)
            return potentials[asked.across[0]] - potentials[asked.across[1]]
        part = self.real[asked.through]
        size = abs(solved(self.real, self.ground)[1][asked.through])
        ohms = self.shunt if self.shunt is not None else _BURDEN_AT_FULL / self._full("current", size)
        gap = {asked.through: replace(part, ends=(part.ends[0], "\0")),
               "\0": BenchPart("resistor", ("\0", part.ends[1]), 0.0, ohms)}  # fmt: skip
        return solved({**self.real, **gap}, self.ground)[1][asked.through]

    def _full(self, quantity: str, size: float) -> float:
        full = _SMALLEST[quantity] * {2000: 1.0, 20_000: 1.0, 4000: 2.0, 6000: 3.0}[self.counts]
        while size >= 0.9995 * full and full < _LARGEST[quantity]:
            full *= 10.0
        return full

    def step(self, quantity: str, value: float) -> float:
        """The last digit of the display for a value."""
        return self._full(quantity, abs(value)) / self.counts

    def shown(self, asked: Asked) -> float:
        """What the display shows, rounded to its last digit."""
        value = self.there(asked)
        quantity, draw = asked.quantity, self.draw
        ratio, digits = _LIMITS[quantity]
        if self.errs:
            full = self._full(quantity, abs(value))
            for key, share in (((quantity, 0.0), 0.5), ((quantity, full), 0.3)):
                self._gains.setdefault(key, float(draw.uniform(-share, share)) * ratio)
            gain = self._gains[quantity, 0.0] + self._gains[quantity, full] + float(draw.uniform(-0.15, 0.15)) * ratio
            value *= 1.0 + gain + float(draw.normal(0.0, 5e-4))
            value += float(draw.uniform(-0.6, 0.6)) * digits * self.step(quantity, value)
            if self.is_rough and draw.random() < 0.125:
                value *= 1.0 + float(draw.uniform(0.02, 0.05)) * float(draw.choice([-1.0, 1.0]))
        value = value * self.shows.get(quantity, 1.0) + self.adds.get(quantity, 0.0)
        step = self.step(quantity, value) if self.errs else 1e-9 * max(abs(value), 1e-9)
        return round(value / step) * step

    def written(self, quantity: str, value: float) -> str:
        """A value as it is written: all digits of the display, or three figures on a rough bench."""
        if abs(value) > 1.2 * _LARGEST[quantity]:
            return OVER
        step = self.step(quantity, value)
        if self.is_rough and value:
            step = max(step, 10.0 ** (np.floor(np.log10(abs(value))) - 2))
        return text_of(value, step)

    def targets(self, *, parts_read: bool, source_read: bool) -> list[Asked]:
        """What is read in order: parts, source, total, volts across every part, the currents that differ."""
        found = []
        if parts_read:
            found += [Asked("resistance", of=n) for n, p in self.drawn.items() if p.kind == "resistor"]
        sources = [n for n, p in self.drawn.items() if p.is_source]
        if source_read:
            found += [Asked("voltage", of=n) for n in sources]
        if len(sources) == 1 and not any(p.kind in ("lamp", "diode", "led") for p in self.drawn.values()):
            found.append(Asked("resistance", across=self.drawn[sources[0]].ends))
        across = dict.fromkeys(p.ends for p in self.drawn.values())
        kept = [e for k, e in enumerate(across) if (e[1], e[0]) not in list(across)[:k]]
        found += [Asked("voltage", across=ends) for ends in kept]
        found += [Asked("current", through=name) for name in currents_worth_reading(self.drawn)]
        return found


def text_of(value: float, step: float) -> str:
    """A value with the prefix that people write, down to its step and no finer."""
    prefixes = (("M", 1e6), ("k", 1e3), ("", 1.0), ("m", 1e-3), ("u", 1e-6))
    fitting = [(p, unit) for p, unit in prefixes if unit >= 0.99 * step]
    prefix, unit = next(((p, unit) for p, unit in fitting if abs(value) >= unit), fitting[-1] if value else ("", 1.0))
    return f"{value / unit:.{max(0, round(-np.log10(step / unit)))}f}{prefix}"


def document(parts: Parts, ground: str, readings: Sequence[tuple[Asked, str]], title: str) -> dict[str, Any]:
    """A run document of it."""
    unit = {"voltage source": "V", "resistor": "", "lamp": "V", "diode": "V", "led": "V"}
    trees: dict[str, Any] = {}
    for name, p in parts.items():
        tree: dict[str, Any] = {"kind": p.kind}
        value, amperes = ("drop", "at") if p.kind in ("diode", "led") else ("nominal", "current")
        tree[value] = f"{p.marked:.6g}{unit[p.kind]}"
        if p.kind == "resistor":
            tree["tolerance"] = f"{p.amperes:g}%"
        elif not p.is_source:
            tree[amperes] = text_of(p.amperes, p.amperes / 10)
        trees[name] = tree
    connections = {name: list(p.ends) for name, p in parts.items()}
    return {
        "format": "recensor.run", "version": 1, "title": title, "parts": trees,
        "setups": {"main": {"reference": ground, "connections": connections}},
        "readings": [{**asked.tree(), "value": text} for asked, text in readings],
    }  # fmt: skip
