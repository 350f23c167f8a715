"""What is known of a kind of meter: its functions, their ranges, and how far it may be off in each.

The one door for accuracy, step and range. Accuracies and ranges of the profiles that ship are those of such meters
in general (common practice, no source).
"""

import math
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from recensor.core.meters.accuracy import Accuracy
from recensor.core.meters.as_found import NOTHING_FOUND, AsFound
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand


@dataclass(frozen=True)
class Range:
    """One range of a function, in SI units: `full` scale, the `step` of its last digit, and its accuracy.

    `input_resistance` of a voltmeter, `burden` of an ammeter, both in ohms, and the jack of the red lead.
    """

    full: float
    step: float
    accuracy: Accuracy
    input_resistance: float | None = None
    burden: float | None = None
    jack: str | None = None


@dataclass(frozen=True)
class Precision:
    """How far one reading may be off: the accuracy, the size of one digit in the SI unit, and the range it is of.

    Readings of one meter and function whose `range` is the same share that range's gain.
    """

    accuracy: Accuracy
    step: float
    range: Hashable


@dataclass(frozen=True)
class Instrument:
    """The instrument itself: its number, and when it was calibrated, as written."""

    number: str | None = None
    calibrated: str | None = None


@dataclass(frozen=True)
class Profile:
    """A kind of meter.

    Attributes
    ----------
    ranges : each function's ranges, smallest first.
    anywhere : a function's accuracy where its ranges are not known.
    fuses : the rating in amperes of each jack's fuse; None without one.
    over_range : the texts that it shows beyond its range.
    auto_range : whether it finds the range by itself.
    found : what was found of this very meter.
    """

    name: str
    ranges: Mapping[Measurand, tuple[Range, ...]] = field(default_factory=dict)
    anywhere: Mapping[Measurand, Accuracy] = field(default_factory=dict)
    fuses: Mapping[str, float | None] = field(default_factory=dict)
    over_range: tuple[str, ...] = ("OL",)
    auto_range: bool = True
    instrument: Instrument = Instrument()
    found: AsFound = NOTHING_FOUND

    def __hash__(self) -> int:
        return hash(self.name)

    @property
    def is_exact(self) -> bool:
        """Whether it stands for a perfect meter, which neither errs nor disturbs."""
        return self.name == EXACT.name and not self.ranges

    def reads(self, measurand: Measurand) -> bool:
        """Whether the profile says anything about a function."""
        return measurand in self.ranges or measurand in self.anywhere

    def range_for(self, measurand: Measurand, value: float, digit: float | None, named: float | None) -> Range | None:
        """The range that a reading was taken in; None where the profile does not know it.

        The one that was `named` by its full scale; else the one whose step is the last `digit` as typed;
        else the smallest that holds the value. All in the SI unit.
        """
        known = self.as_found(self.ranges.get(measurand, ()), measurand)
        if named is not None:
            return next((r for r in known if math.isclose(r.full, named, rel_tol=0.02)), None)
        holding = [r for r in known if abs(value) <= r.full * (1 + 1e-9)]
        by_step = [r for r in holding if digit and math.isclose(r.step, digit, rel_tol=1e-6)]
        return next(iter([*by_step, *holding, *known[-1:]]), None)

    def as_found(self, ranges: tuple[Range, ...], measurand: Measurand) -> tuple[Range, ...]:
        """Ranges of a function as they were found to disturb a circuit."""
        if not self.found.disturbs(measurand):
            return ranges
        if measurand is VOLTAGE:
            return tuple(replace(one, input_resistance=self.found.input_resistance) for one in ranges)
        return tuple(replace(one, burden=self.found.in_amperes(one.full)) for one in ranges)

    def precision(self, measurand: Measurand, value: float, digit: float, named: float | None = None) -> Precision:
        """How far a reading of `value` may be off, whose last typed digit is `digit`; all in the SI unit.

        Of a function that the profile does not say anything about, an ordinary handheld's is taken.
        """
        found = self.range_for(measurand, value, digit, named)
        if found:
            return Precision(found.accuracy, found.step, found.full)
        known = self.anywhere if measurand in self.anywhere else ORDINARY_HANDHELD.anywhere
        return Precision(known[measurand], digit, ("named", named) if named is not None else ("digit", f"{digit:.6g}"))


# What stands for a perfect meter.
EXACT = Profile("exact", anywhere=MappingProxyType(dict.fromkeys(Measurand, Accuracy(0.0, 0))))

# What stands in for a meter that nobody described.
ORDINARY_HANDHELD = Profile(
    "ordinary handheld",
    anywhere=MappingProxyType({VOLTAGE: Accuracy(0.8, 2), RESISTANCE: Accuracy(1.0, 2), CURRENT: Accuracy(1.5, 3)}),
)


def _ranges(
    counts: int,
    decades: tuple[float, ...],
    accuracy: Accuracy,
    *,
    input_resistance: float | None = None,
    drop: float | None = None,
    jacks: Mapping[float, str] = MappingProxyType({}),
) -> tuple[Range, ...]:
    """Ranges that all count to `counts`, by their full scales; `drop` in volts is the burden at full scale."""
    return tuple(
        Range(
            full=full,
            step=10.0 ** math.ceil(math.log10(full / counts) - 1e-9),
            accuracy=accuracy,
            input_resistance=input_resistance,
            burden=float(f"{drop / full:.6g}") if drop else None,
            jack=jacks.get(full, "V/Ω" if drop is None else "mA"),
        )
        for full in decades
    )


def _usual(
    name: str,
    counts: int,
    full: Mapping[Measurand, tuple[float, ...]],
    accuracies: Mapping[Measurand, Accuracy],
    *,
    drop: float,
    fuse: float,
    over_range: str = "OL",
    auto_range: bool = True,
) -> Profile:
    """A meter of 10 MΩ with a fused mA jack and a 10 A jack for its largest current range."""
    most = max(full[CURRENT])
    ranges = {
        VOLTAGE: _ranges(counts, full[VOLTAGE], accuracies[VOLTAGE], input_resistance=1e7),
        RESISTANCE: _ranges(counts, full[RESISTANCE], accuracies[RESISTANCE]),
        CURRENT: _ranges(counts, full[CURRENT], accuracies[CURRENT], drop=drop, jacks={most: "10A"}),
    }
    fuses = {"V/Ω": None, "mA": fuse, "10A": 10.0}
    return Profile(name, ranges, fuses=fuses, over_range=(over_range,), auto_range=auto_range)


def written_out(profile: Profile) -> Profile:
    """A profile that ships, as one that is written out in full and not named."""
    return replace(profile)


SHIPPED = {
    profile.name: profile
    for profile in (
        EXACT,
        ORDINARY_HANDHELD,
        _usual(
            "3½-digit manual",
            2000,
            {
                VOLTAGE: (0.2, 2.0, 20.0, 200.0, 600.0),
                RESISTANCE: (200.0, 2e3, 2e4, 2e5, 2e6, 2e7),
                CURRENT: (2e-3, 2e-2, 0.2, 10.0),
            },
            ORDINARY_HANDHELD.anywhere,
            drop=0.2,
            fuse=0.2,
            over_range="1",
            auto_range=False,
        ),
        _usual(
            "4000-count automatic",
            4000,
            {
                VOLTAGE: (0.4, 4.0, 40.0, 400.0, 600.0),
                RESISTANCE: (400.0, 4e3, 4e4, 4e5, 4e6, 4e7),
                CURRENT: (4e-3, 4e-2, 0.4, 10.0),
            },
            ORDINARY_HANDHELD.anywhere,
            drop=0.3,
            fuse=0.4,
        ),
        _usual(
            "6000-count automatic",
            6000,
            {
                VOLTAGE: (0.6, 6.0, 60.0, 600.0),
                RESISTANCE: (600.0, 6e3, 6e4, 6e5, 6e6, 6e7),
                CURRENT: (6e-3, 6e-2, 0.6, 10.0),
            },
            {VOLTAGE: Accuracy(0.5, 2), RESISTANCE: Accuracy(0.9, 2), CURRENT: Accuracy(1.0, 3)},
            drop=0.3,
            fuse=0.63,
        ),
        _usual(
            "4½-digit bench",
            20_000,
            {
                VOLTAGE: (0.2, 2.0, 20.0, 200.0, 1000.0),
                RESISTANCE: (200.0, 2e3, 2e4, 2e5, 2e6, 2e7),
                CURRENT: (2e-3, 2e-2, 0.2, 2.0),
            },
            {VOLTAGE: Accuracy(0.05, 3), RESISTANCE: Accuracy(0.1, 3), CURRENT: Accuracy(0.2, 5)},
            drop=0.2,
            fuse=0.4,
        ),
    )
}
