"""Many hypotheses side by side, as arrays: what each of them changes, and how broadly its own numbers may lie."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import Sheet
from recensor.core.faults.model.observations import Observations
from recensor.core.solving import MovedLead
from recensor.core.uncertainty import Array

# How many numbers of its own a hypothesis can fit.
SLOTS = 2


@dataclass(frozen=True)
class Names:
    """What the columns stand for: the parts that resist, the sources, and the places where each of them counts.

    A place is a setup; the last one is out of every circuit.
    """

    parts: tuple[str, ...]
    sources: tuple[str, ...]
    setups: tuple[str, ...]

    @classmethod
    def of(cls, sheet: Sheet) -> "Names":
        """Those of a sheet."""
        drives = {name: part.kind.is_source for name, part in sheet.parts.items()}
        return cls(
            tuple(name for name, does in drives.items() if not does),
            tuple(name for name, does in drives.items() if does),
            tuple(sheet.setups),
        )

    @property
    def alone(self) -> int:
        """The place out of every circuit."""
        return len(self.setups)

    def places(self, setup: str | None) -> list[int]:
        """The place of a setup; every setup where none is named."""
        return list(range(len(self.setups))) if setup is None else [self.setups.index(setup)]


@dataclass
class Batch:
    """What so many hypotheses change. Shapes begin with (hypotheses,); L places, P parts, S sources, N readings.

    Attributes
    ----------
    fixed : (L, P) ohms that stand instead of a part, NaN where none do; `factor` multiplies what stands there.
    stands : (L, P) which part's own value stands at a part's place.
    turned, inner : (L, S) −1 where a source is in the wrong way round; its own resistance in ohms, NaN as stated.
    of_parts, of_emf, of_inner, of_limit : by how much the logarithms of what parts, sources, their own resistances and
        their current limits are follow each of the hypothesis's own numbers.
    of_drift : (slots, S, N) likewise of a source in single readings; of_gain, of_burden, of_loading of the meters, and
        of_offset what they add, in SI units.
    ideal : whether meters disturb nothing. `since` : from which place of the readings on the circuit is changed.
    rows, signs, shares : of which point each reading really is, and by what it was multiplied.
    values, by_digits, gains, counts : what was really shown, and whether it says anything at all.
    burden, full : (N,) what an ammeter put in, in ohms, by the full scale of the range in amperes that showed it.
    begin : (P,) where the search for each part begins, as a logarithm of its ratio to what stands beforehand.
    loose, wild : (N,) by what ratio of itself each reading is trusted less than its display, and which are given up;
        `firm` those that stand or fall with the hypothesis.
    extra : what is known of the probability beside all this, as a logarithm.
    mean, spread : (slots,) where the hypothesis's own numbers lie beforehand, and how broadly.
    start : (slots,) where the search for them begins.
    """

    observed: Observations
    names: Names
    fixed: Array
    factor: Array
    stands: NDArray[np.int64]
    turned: Array
    inner: Array
    of_parts: Array
    of_emf: Array
    of_inner: Array
    of_limit: Array
    of_drift: Array
    of_gain: Array
    of_offset: Array
    of_burden: Array
    of_loading: Array
    same_ohms: NDArray[np.bool_]
    ideal: NDArray[np.bool_]
    since: NDArray[np.int64]
    rows: NDArray[np.int64]
    shares: Array
    values: Array
    by_digits: Array
    gains: NDArray[np.int64]
    counts: NDArray[np.bool_]
    burden: Array
    full: Array
    begin: Array
    is_over: NDArray[np.bool_]
    loose: Array
    wild: NDArray[np.bool_]
    firm: NDArray[np.bool_]
    extra: Array
    mean: Array
    spread: Array
    start: Array
    used: NDArray[np.int64]
    touched: NDArray[np.bool_]
    moved: dict[int, list[MovedLead]] = field(default_factory=dict)

    @classmethod
    def of(cls, observed: Observations, names: Names, count: int) -> "Batch":
        """So many hypotheses that change nothing yet."""
        places, parts, sources, n = len(names.setups) + 1, len(names.parts), len(names.sources), observed.count
        over = len(observed.over_range)

        def zeros(*shape: int) -> Array:
            return np.zeros((count, *shape))

        return cls(
            observed=observed,
            names=names,
            fixed=np.full((count, places, parts), np.nan),
            factor=np.ones((count, places, parts)),
            stands=np.tile(np.arange(parts), (count, places, 1)),
            turned=np.ones((count, places, sources)),
            inner=np.full((count, places, sources), np.nan),
            of_parts=zeros(SLOTS, places, parts),
            of_emf=zeros(SLOTS, places, sources),
            of_inner=zeros(SLOTS, places, sources),
            of_limit=zeros(SLOTS, places, sources),
            of_drift=zeros(SLOTS, sources, n),
            of_gain=zeros(SLOTS, n),
            of_offset=zeros(SLOTS, n),
            of_burden=zeros(SLOTS),
            of_loading=zeros(SLOTS),
            same_ohms=np.zeros(count, bool),
            ideal=np.zeros(count, bool),
            since=np.zeros(count, int),
            rows=np.tile(observed.rows, (count, 1)),
            shares=np.tile(observed.signs, (count, 1)),
            values=np.tile(observed.values, (count, 1)),
            by_digits=np.tile(observed.by_digits, (count, 1)),
            gains=np.tile(observed.gains, (count, 1, 1)),
            counts=np.tile(observed.taken, (count, 1)),
            burden=np.tile(observed.burden, (count, 1)),
            full=np.tile(observed.full, (count, 1)),
            begin=zeros(parts),
            is_over=np.ones((count, over), bool),
            loose=zeros(n),
            wild=np.zeros((count, n), bool),
            firm=np.zeros((count, n), bool),
            extra=np.zeros(count),
            mean=zeros(SLOTS),
            spread=zeros(SLOTS),
            start=zeros(SLOTS),
            used=np.zeros(count, int),
            touched=np.zeros((count, places), bool),
        )

    @property
    def says(self) -> NDArray[np.bool_]:
        """Which readings say anything, (hypotheses, N)."""
        return np.asarray(self.counts & ~self.wild, bool)

    @property
    def is_rewritten(self) -> NDArray[np.bool_]:
        """Which readings are said to be otherwise than they stand, (hypotheses, N): these are not excused besides."""
        observed = self.observed
        moved = (self.rows != observed.rows) | (self.shares != observed.signs) | (self.values != observed.values)
        return np.asarray(moved | ~self.counts, bool)

    def slot(self, h: int, mean: float, spread: float, start: float) -> int:
        """Give hypothesis `h` another number of its own, and say which it is."""
        slot = int(self.used[h])
        self.used[h] += 1
        self.mean[h, slot], self.spread[h, slot], self.start[h, slot] = mean, spread, start
        return slot

    def __len__(self) -> int:
        return len(self.extra)
