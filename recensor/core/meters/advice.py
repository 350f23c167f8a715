"""How to set a meter for a reading: dial, jack and range, and what to look out for.

The rules are common practice, no source: the smallest range that holds the value; a current that is not known from the
highest jack and range down; no jack above its fuse.
"""

from dataclasses import dataclass
from functools import cached_property

from recensor.core.figures import plainly
from recensor.core.meters.display import Display, display, unit_of
from recensor.core.meters.profile import SHIPPED, Profile, Range
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.sentences import say

_USUAL = SHIPPED["3½-digit manual"]

# A jack is warned of where the current takes up more than this share of its fuse.
_NEAR_THE_FUSE = 0.8

# What is read above it is read with the amperes on the dial, in the high-current jack.
_AMPERES = 1.0

_DIALS = {RESISTANCE: "Ω", VOLTAGE: "V DC", CURRENT: "mA DC"}


def usual_range(measurand: Measurand, value: float, profile: Profile = _USUAL) -> float:
    """The full scale of the smallest range that holds a value, both in the SI unit; the largest where none does.

    Examples
    --------
    >>> usual_range(Measurand.CURRENT, 0.00247), usual_range(Measurand.VOLTAGE, 9.0)
    (0.02, 20.0)
    """
    ranges = ranges_of(profile, measurand)
    return next((one.full for one in ranges if one.full > abs(value)), ranges[-1].full)


def ranges_of(profile: Profile, measurand: Measurand) -> tuple[Range, ...]:
    """A function's ranges, smallest first; those of an ordinary handheld where the profile does not say."""
    return profile.as_found(profile.ranges.get(measurand) or _USUAL.ranges[measurand], measurand)


def disturbs_by(profile: Profile, measurand: Measurand, value: float, named: float | None = None) -> float | None:
    """The resistance in ohms that a meter puts across a voltage, or into a current; None where it disturbs nothing.

    In the range that is `named` by its full scale, else in the one to take for a `value`; both in the SI unit.
    """
    if profile.is_exact or measurand is RESISTANCE:
        return None
    by_name = profile.range_for(measurand, value, None, named) if named is not None else None
    taken = by_name or setting(profile, measurand, value).taken
    return taken.input_resistance if measurand is VOLTAGE else taken.burden


@dataclass(frozen=True)
class Setting:
    """A meter set for one reading: the range, and those to come down to where the size is not known.

    `jack` is the red lead's, by the profile's name; None where the profile names none. `expected` is the value to
    expect in the SI unit; None where that is not known. `cautions` say what to look out for; `others` are the ranges
    that could be taken instead. `fuse` is the rating in amperes behind the jack of a current.
    """

    measurand: Measurand
    taken: Range
    jack: str | None
    is_manual: bool
    expected: float | None = None
    over_range: str = "OL"
    then: tuple[Range, ...] = ()
    cautions: tuple[str, ...] = ()
    others: tuple[Range, ...] = ()
    fuse: float | None = None

    @cached_property
    def shows(self) -> Display | None:
        """The display to expect; None where that is not known."""
        return None if self.expected is None else display(self.expected, self.measurand, self.taken, self.over_range)

    @property
    def is_beyond(self) -> bool:
        """Whether what is expected is more than any jack or range of this meter bears: it must not be read with it."""
        if self.measurand is not CURRENT or self.expected is None:
            return False
        return abs(self.expected) > min(self.taken.full, self.taken.full if self.fuse is None else self.fuse)

    def elsewhere(self) -> list[tuple[str, str]]:
        """What the display would show in each other range: the range, and the display."""
        if self.expected is None:
            return []
        shown = (display(self.expected, self.measurand, other, self.over_range).text for other in self.others)
        return [(plainly(one.full, self.measurand.unit), text) for one, text in zip(self.others, shown, strict=True)]

    @property
    def dial(self) -> str:
        """The function on the dial: the amperes only where the high-current jack is."""
        is_amperes = self.measurand is CURRENT and self.taken.full > _AMPERES
        return "A DC" if is_amperes else _DIALS[self.measurand]

    @property
    def range(self) -> str:
        """The range as it stands on the dial, such as ``20 mA``."""
        return plainly(self.taken.full, self.measurand.unit)

    @property
    def unit(self) -> str:
        """The unit beside the display."""
        return unit_of(self.taken, self.measurand)

    def down(self) -> list[str]:
        """From here down, range by range, where the size is not known."""
        return [plainly(one.full, self.measurand.unit) for one in (self.taken, *self.then)] if self.then else []


def setting(profile: Profile, measurand: Measurand, expected: float | None, at_most: float | None = None) -> Setting:
    """How to set a meter for a value to expect, in the SI unit.

    Where it is not known: for a current the highest jack and range, for anything else the smallest range that holds
    what it is `at_most`, else the highest; and from there down.

    Examples
    --------
    >>> known = setting(SHIPPED["3½-digit manual"], CURRENT, 0.00189)
    >>> known.jack, known.dial, known.range, known.shows.digits, known.shows.unit
    ('mA', 'mA DC', '2 mA', '1.890', 'mA')
    >>> unknown = setting(SHIPPED["3½-digit manual"], CURRENT, None)
    >>> unknown.jack, unknown.dial, unknown.down()
    ('10A', 'A DC', ['10 A', '200 mA', '20 mA', '2 mA'])
    """
    ranges = ranges_of(profile, measurand)
    if expected is None:
        held = [one for one in ranges if at_most is not None and at_most < one.full and measurand is not CURRENT]
        taken = held[0] if held else ranges[-1]
        down = tuple(reversed(ranges[: ranges.index(taken)]))
        return Setting(measurand, taken, _jack(profile, taken), not profile.auto_range, then=down)
    expected = profile.found.shown(expected, measurand)
    fit = [one for one in ranges if _holds(one, expected, profile)]
    taken = fit[0] if fit else ranges[-1]
    over_range = profile.over_range[0] if profile.over_range else "OL"
    cautions = tuple(_cautions(profile, taken, expected)) if measurand is CURRENT else ()
    others = tuple(one for one in ranges if one is not taken and one.jack == taken.jack)
    return Setting(
        measurand,
        taken,
        _jack(profile, taken),
        not profile.auto_range,
        expected,
        over_range,
        cautions=cautions,
        others=others,
        fuse=fuse_of(profile, taken) if measurand is CURRENT else None,
    )


def fuse_of(profile: Profile, taken: Range) -> float | None:
    """The rating in amperes of the fuse behind a range; of an ordinary handheld where the profile names no jacks."""
    fuses = profile.fuses or _USUAL.fuses
    return fuses.get(taken.jack or "")


def _holds(taken: Range, expected: float, profile: Profile) -> bool:
    fuse = fuse_of(profile, taken)
    return round(abs(expected) / taken.step) < round(taken.full / taken.step) and not (fuse and abs(expected) > fuse)


def _jack(profile: Profile, taken: Range) -> str | None:
    return taken.jack if taken.jack in profile.fuses else None


def _cautions(profile: Profile, taken: Range, expected: float) -> list[str]:
    fuse, current = fuse_of(profile, taken), abs(expected)
    most = min(taken.full, taken.full if fuse is None else fuse)
    if current <= min(most, most if fuse is None else _NEAR_THE_FUSE * fuse):
        return []
    about = plainly(float(f"{current:.2g}"), "A")
    if current > most or fuse is None:
        return [say("meters.more_than_any_jack", about=about)]
    return [say("meters.near_the_fuse", about=about, fuse=plainly(fuse, "A"), jack=taken.jack)]
