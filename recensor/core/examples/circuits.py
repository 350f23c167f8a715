"""Circuits to start from: the usual shapes with usual values, to be changed by whoever takes one."""

from collections.abc import Callable
from itertools import cycle, islice

from recensor.core.circuit import Sheet, node_list, one_line

FEWEST, MOST = 1, 8
_VALUES = ("1k", "2k2", "3k3", "4k7", "680", "1k5", "8k2", "470")


def _values(count: int) -> list[str]:
    return list(islice(cycle(_VALUES), count))


def chain(count: int) -> Sheet:
    """`count` resistors in series on one source."""
    return one_line.read(f"9V: {' + '.join(_values(count))}; 5%", "Chain")


def bank(count: int) -> Sheet:
    """`count` resistors in parallel on one source."""
    return one_line.read(f"9V: {' | '.join(_values(count))}; 5%", "Bank")


def divider() -> Sheet:
    """Two resistors that share a voltage."""
    return one_line.read("9V: 2k2 + 1k; 5%", "Divider")


def loaded_divider() -> Sheet:
    """A divider with a load across its lower part."""
    return one_line.read("9V: 2k2 + (1k | RL=3k3); 5%", "Loaded divider")


def ladder(count: int) -> Sheet:
    """`count` sections, each a resistor along the rail and one down from it."""
    text = "2k2"
    for _ in range(count - 1):
        text = f"(2k2 | 1k + {text})"
    return one_line.read(f"9V: 1k + {text}; 5%", "Ladder")


def bridge() -> Sheet:
    """Two dividers side by side and a resistor between their middles."""
    return node_list.read(
        "V1 A gnd 9V\nR1 A B 1k 5%\nR2 A C 2k2 5%\nR3 B gnd 2k2 5%\nR4 C gnd 4k7 5%\nR5 B C 3k3 5%", "Bridge"
    )


def two_sources() -> Sheet:
    """Two sources, each through its resistor, feed one junction."""
    return node_list.read(
        "V1 A gnd 9V\nR1 A J 1k 5%\nV2 B gnd 5V\nR2 B J 2k2 5%\nR3 J gnd 3k3 5%", "Two-source junction"
    )


# Shapes of as many resistors, or sections of a ladder, as one likes; and those that are what they are.
COUNTED: dict[str, Callable[[int], Sheet]] = {"chain": chain, "bank": bank, "ladder": ladder}
FIXED: dict[str, Callable[[], Sheet]] = {
    "divider": divider,
    "loaded divider": loaded_divider,
    "bridge": bridge,
    "two-source junction": two_sources,
}
SHAPES = ("chain", "bank", "divider", "loaded divider", "ladder", "bridge", "two-source junction")


def circuit(shape: str, count: int) -> Sheet:
    """The circuit of one of `SHAPES`; `count` matters where there may be as many as one likes."""
    return COUNTED[shape](count) if shape in COUNTED else FIXED[shape]()
