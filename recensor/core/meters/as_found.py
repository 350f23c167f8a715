"""What was found of one meter itself, beside what is known of its kind: what it does to the circuit, and how far off.

A profile says how far such a meter may be off; this says how far this one is.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

from recensor.core.figures import plainly
from recensor.core.quantity import CURRENT, OHM, VOLT, VOLTAGE, Measurand
from recensor.core.sentences import Sentence, say


@dataclass(frozen=True)
class AsFound:
    """How one meter was found to be; what nothing is said about is as its kind is.

    Attributes
    ----------
    burden : in ohms what an ammeter puts into a current, in whatever range; `drop` in volts what falls there at the
        full scale of each range.
    input_resistance : in ohms what a voltmeter puts across what it reads.
    gains : by quantity how many times what is there it shows; `offsets` how much it shows too much, in SI units.
    """

    burden: float | None = None
    drop: float | None = None
    input_resistance: float | None = None
    gains: Mapping[Measurand, float] = field(default_factory=dict)
    offsets: Mapping[Measurand, float] = field(default_factory=dict)

    def disturbs(self, measurand: Measurand) -> bool:
        """Whether it was found what the meter does to a circuit of which it reads this."""
        if measurand is VOLTAGE:
            return self.input_resistance is not None
        return measurand is CURRENT and (self.burden is not None or self.drop is not None)

    def in_amperes(self, full: float) -> float | None:
        """The ohms put into a current in a range of this full scale in amperes; None where that was not found."""
        return self.drop / full if self.drop is not None else self.burden

    def shown(self, there: float, measurand: Measurand) -> float:
        """What is shown of what is there, both in the SI unit.

        Examples
        --------
        >>> AsFound(gains={VOLTAGE: 1.25}, offsets={VOLTAGE: 0.5}).shown(4.0, VOLTAGE)
        5.5
        """
        return there * self.gains.get(measurand, 1.0) + self.offsets.get(measurand, 0.0)

    def there(self, shown: float, measurand: Measurand) -> float:
        """What is there where so much is shown, both in the SI unit.

        Examples
        --------
        >>> AsFound(gains={VOLTAGE: 1.25}, offsets={VOLTAGE: 0.5}).there(5.5, VOLTAGE)
        4.0
        """
        return (shown - self.offsets.get(measurand, 0.0)) / self.gains.get(measurand, 1.0)

    def words(self) -> Iterator[Sentence]:
        """What was found, each in a few words."""
        if self.burden is not None:
            yield say("meters.found_burden", value=plainly(self.burden, OHM))
        if self.drop is not None:
            yield say("meters.found_drop", value=plainly(self.drop, VOLT))
        if self.input_resistance is not None:
            yield say("meters.found_input", value=plainly(self.input_resistance, OHM))
        for measurand, gain in self.gains.items():
            yield say("meters.found_gain", measurand=measurand, value=f"{gain:.4g}")
        for measurand, offset in self.offsets.items():
            yield say("meters.found_offset", measurand=measurand, value=plainly(offset, measurand.unit))

    def beside(self, other: "AsFound") -> "AsFound":
        """Both together; what the other says of the same is what holds, gains one after the other."""
        gains = {m: self.gains.get(m, 1.0) * other.gains.get(m, 1.0) for m in {**self.gains, **other.gains}}
        offsets = {
            m: self.offsets.get(m, 0.0) * other.gains.get(m, 1.0) + other.offsets.get(m, 0.0)
            for m in {**self.offsets, **other.offsets}
        }
        both = replace(self, gains=gains, offsets=offsets)
        if other.disturbs(CURRENT):
            both = replace(both, burden=other.burden, drop=other.drop)
        if other.disturbs(VOLTAGE):
            both = replace(both, input_resistance=other.input_resistance)
        return both


NOTHING_FOUND = AsFound()

# What a meter is called that nobody described, once something was found of it.
UNDESCRIBED = "meter as found"
