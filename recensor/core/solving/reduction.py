"""Series and parallel reduction: a circuit shrunk step by step to one resistance, then followed back out.

Everything is carried in full precision, in ohms, volts and amperes; rounding is for whoever writes it down.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from recensor.core.circuit import Leaf, Parallel, Series, Tree


@dataclass(frozen=True)
class Merge:
    """One step in: `members` become one resistance. `left` is the circuit afterwards.

    `kind` is ``series`` or ``parallel``.
    """

    kind: str
    members: tuple[tuple[str, float], ...]
    result: str
    value: float
    left: Tree


@dataclass(frozen=True)
class Share:
    """What one member of a merged group gets: volts across, amperes through, and the same by the divider rule."""

    name: str
    resistance: float
    voltage: float
    current: float
    by_divider: float


@dataclass(frozen=True)
class Split:
    """One step back out: a group whose voltage and current are known, and its members' shares."""

    kind: str
    group: str
    voltage: float
    current: float
    shares: tuple[Share, ...]


@dataclass(frozen=True)
class Reduction:
    """The whole calculation: in to `total`, ohms, then `voltage` and `current` at the source, then back out."""

    merges: tuple[Merge, ...]
    total: float
    name: str
    voltage: float
    current: float
    splits: tuple[Split, ...]


def reduce(
    whole: Tree, values: Mapping[str, float], *, voltage: float | None = None, current: float | None = None
) -> Reduction:
    """Work a series-parallel circuit out on one source, given by its voltage or by its current.

    Currents are positive from the tree's start to its end.

    Examples
    --------
    >>> divider = Series((Leaf("R1", "a", "b"), Leaf("R2", "b", "g")), "a", "g")
    >>> done = reduce(divider, {"R1": 2200.0, "R2": 1000.0}, voltage=5.0)
    >>> done.total, round(done.current, 6), round(done.splits[0].shares[1].voltage, 4)
    (3200.0, 0.001563, 1.5625)
    """
    known = dict(values)
    merges: list[Merge] = []
    left = whole
    while not isinstance(left, Leaf):
        left, merge = _shrunk(left, known)
        merges.append(merge)
    total = known[left.part]
    if voltage is None:
        if current is None:
            raise ValueError("a source has a voltage or a current")
        voltage = current * total
    current = voltage / total
    at: dict[str, tuple[float, float]] = {left.part: (voltage, current)}
    splits = [_split(merge, at) for merge in reversed(merges)]
    return Reduction(tuple(merges), total, left.part, voltage, current, tuple(splits))


def _shrunk(tree: Series | Parallel, known: dict[str, float]) -> tuple[Tree, Merge]:
    """The tree with its first innermost group made one resistance, and the step that did it."""
    for k, member in enumerate(tree.members):
        if not isinstance(member, Leaf):
            after, merge = _shrunk(member, known)
            left = type(tree)((*tree.members[:k], after, *tree.members[k + 1 :]), tree.start, tree.end)
            return left, replace(merge, left=left)
    names = [member.part for member in tree.members if isinstance(member, Leaf)]
    resistances = [known[name] for name in names]
    is_series = isinstance(tree, Series)
    value = sum(resistances) if is_series else 1.0 / sum(1.0 / resistance for resistance in resistances)
    result = _name(names, known)
    known[result] = value
    leaf = Leaf(result, tree.start, tree.end)
    return leaf, Merge(
        "series" if is_series else "parallel", tuple(zip(names, resistances, strict=True)), result, value, leaf
    )


def _name(names: list[str], taken: Mapping[str, float]) -> str:
    """R1 and R2 become R12; names of another make are simply counted."""
    numbers = [name[1:] for name in names if name[0] == "R" and name[1:].isdigit()]
    joined = f"R{''.join(numbers)}"
    if len(numbers) == len(names) and joined not in taken:
        return joined
    return next(name for k in range(len(taken) + 1) if (name := f"R{chr(97 + k % 26) * (k // 26 + 1)}") not in taken)


def _split(merge: Merge, at: dict[str, tuple[float, float]]) -> Split:
    voltage, current = at[merge.result]
    total = sum(resistance for _, resistance in merge.members)
    shares = []
    for name, resistance in merge.members:
        if merge.kind == "series":
            # Ohm's law with the common current; the divider rule shares the voltage by resistance.
            own, through, by_divider = current * resistance, current, voltage * resistance / total
        else:
            # Ohm's law with the common voltage; the divider rule shares the current by conductance.
            own, through, by_divider = voltage, voltage / resistance, current * merge.value / resistance
        at[name] = (own, through)
        shares.append(Share(name, resistance, own, through, by_divider))
    return Split(merge.kind, merge.result, voltage, current, tuple(shares))
