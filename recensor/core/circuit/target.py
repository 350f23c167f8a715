"""One thing that can be read: a part by itself, the touched leads, across two nodes, or through a part.

A target answers for itself: whether it is read in a circuit, of which parts it is, how it stands to another of the same
kind. It is the same thing however the leads were turned: its `key` is the form that all readings of it share. What all
that names it comes to are its `columns`; as one word, for an address, it is its slug (`recensor.core.circuit.address`).
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING, ClassVar, Literal, NamedTuple

from recensor.core.circuit.setup import Leads
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.sentences import say

if TYPE_CHECKING:
    from recensor.core.circuit.sheet import Sheet

Yes = Literal[True]
No = Literal[False]


class Columns(NamedTuple):
    """What names a target, one thing in each column: one of `of`, (`red`, `black`) and `through`, or the touched leads.

    Empty where nothing is said; `step` is None but in a row of a sweep.
    """

    quantity: str = RESISTANCE.value
    of: str = ""
    red: str = ""
    black: str = ""
    through: str = ""
    setup: str = ""
    at: str = ""
    step: int | None = None

    def renamed(self, names: Mapping[str, str]) -> "Columns":
        """The same with parts called otherwise, by what they were called."""
        of, through, at = (names.get(name, name) for name in (self.of, self.through, self.at))
        return self._replace(of=of, through=through, at=at)


@dataclass(frozen=True, slots=True)
class PartAlone:
    """A part by itself, out of circuit; a source before connecting, perhaps as `setup` has it set."""

    part: str
    measurand: Measurand
    setup: str | None = None
    step: ClassVar[None] = None
    at: ClassVar[None] = None
    in_circuit: ClassVar[No] = False
    is_part_alone: ClassVar[Yes] = True
    is_leads: ClassVar[No] = False
    is_across: ClassVar[No] = False
    is_through: ClassVar[No] = False
    needs_dead_circuit: ClassVar[bool] = False

    @property
    def unit(self) -> str:
        """The SI unit it is read in."""
        return self.measurand.unit

    @property
    def key(self) -> "PartAlone":
        """The form that all readings of it share."""
        return self

    def reversed_against(self, other: "Target") -> bool:
        """Whether a reading here has the opposite sign of one at `other`, the leads being reversed."""
        return False

    def needs_power(self, sheet: "Sheet") -> bool:
        """Whether it is read with a supply on: a source's own."""
        return sheet.parts[self.part].kind.is_source

    def parts_read(self, sheet: "Sheet") -> tuple[str, ...]:
        """The parts that a reading is of."""
        return (self.part,)

    def in_setup(self, name: str, sheet: "Sheet") -> "PartAlone":
        """The same in another setup; a source before connecting as that one has it set."""
        return replace(self, setup=name) if sheet.parts[self.part].kind.is_source else self

    @property
    def columns(self) -> Columns:
        """What names it."""
        return Columns(self.measurand.value, of=self.part, setup=self.setup or "")

    @property
    def words(self) -> str:
        """The target in words."""
        return say("circuit.part_by_itself", part=self.part)


@dataclass(frozen=True)
class TouchedLeads:
    """The meter's own leads, their probes touched together."""

    measurand: ClassVar[Measurand] = RESISTANCE
    unit: ClassVar[str] = RESISTANCE.unit
    setup: ClassVar[None] = None
    step: ClassVar[None] = None
    at: ClassVar[None] = None
    in_circuit: ClassVar[No] = False
    is_part_alone: ClassVar[No] = False
    is_leads: ClassVar[Yes] = True
    is_across: ClassVar[No] = False
    is_through: ClassVar[No] = False
    needs_dead_circuit: ClassVar[bool] = False
    columns: ClassVar[Columns] = Columns()
    words: ClassVar[str] = say("circuit.touched_leads")

    @property
    def key(self) -> "TouchedLeads":
        """The form that all readings of it share."""
        return self

    def reversed_against(self, other: "Target") -> bool:
        """Never: there is no direction."""
        return False

    def needs_power(self, sheet: "Sheet") -> bool:
        """Never: they are read as a resistance."""
        return False

    def parts_read(self, sheet: "Sheet") -> tuple[str, ...]:
        """None."""
        return ()

    def in_setup(self, name: str, sheet: "Sheet") -> "TouchedLeads":
        """They are in none."""
        return self


@dataclass(frozen=True, slots=True)
class Across:
    """A voltage or resistance between two nodes of a setup, [red, black].

    `at` is the part whose own leads the probes touch, where several share the two nodes: a target of its own. `step`
    is the row of a sweep, counted from 0.
    """

    measurand: Measurand
    nodes: Leads
    setup: str
    at: str | None = None
    step: int | None = None
    in_circuit: ClassVar[Yes] = True
    is_part_alone: ClassVar[No] = False
    is_leads: ClassVar[No] = False
    is_across: ClassVar[Yes] = True
    is_through: ClassVar[No] = False

    @property
    def unit(self) -> str:
        """The SI unit it is read in."""
        return self.measurand.unit

    @property
    def red(self) -> str:
        """Where the red probe goes."""
        return self.nodes[0]

    @property
    def black(self) -> str:
        """Where the black probe goes."""
        return self.nodes[1]

    @property
    def key(self) -> "Across":
        """The form that all readings of it share, whichever way round the leads were."""
        return self if self.nodes[0] <= self.nodes[1] else replace(self, nodes=self.nodes[::-1])

    @property
    def needs_dead_circuit(self) -> bool:
        """Whether it is read with every source out of the circuit: a resistance."""
        return self.measurand is RESISTANCE

    def reversed_against(self, other: "Target") -> bool:
        """Whether a reading here has the opposite sign of one at `other`, the leads being reversed."""
        return self.measurand is VOLTAGE and other.is_across and self.nodes != other.nodes

    def needs_power(self, sheet: "Sheet") -> bool:
        """Whether it is read with a supply on: a voltage, where anything drives its circuit."""
        return not self.needs_dead_circuit and bool(sheet.setups[self.setup].driving(sheet.parts))

    def parts_read(self, sheet: "Sheet") -> tuple[str, ...]:
        """The part that it is read at, else those whose leads are at just these two nodes, in a setup that is there."""
        if self.at:
            return (self.at,)
        return tuple(sheet.setups[self.setup].across(*self.nodes)) if self.setup in sheet.setups else ()

    def in_setup(self, name: str, sheet: "Sheet") -> "Across":
        """The same in another setup."""
        return replace(self, setup=name)

    @property
    def columns(self) -> Columns:
        """What names it."""
        at = self.at or ""
        return Columns(self.measurand.value, "", self.red, self.black, "", self.setup, at, self.step)

    @property
    def words(self) -> str:
        """The target in words, such as ``voltage from top to mid``."""
        kind = _kind("circuit.across", self)
        return say(kind, measurand=self.measurand, red=self.red, black=self.black, **_where(self))


@dataclass(frozen=True, slots=True)
class Through:
    """A current through a part of a setup: positive from its first lead to its second, for a source when delivered.

    `at` is the part beside which the loop is opened for the meter, where that matters: a target of its own. `step` is
    the row of a sweep, counted from 0.
    """

    part: str
    setup: str
    at: str | None = None
    step: int | None = None
    measurand: ClassVar[Measurand] = CURRENT
    unit: ClassVar[str] = CURRENT.unit
    in_circuit: ClassVar[Yes] = True
    is_part_alone: ClassVar[No] = False
    is_leads: ClassVar[No] = False
    is_across: ClassVar[No] = False
    is_through: ClassVar[Yes] = True
    needs_dead_circuit: ClassVar[bool] = False

    @property
    def key(self) -> "Through":
        """The form that all readings of it share."""
        return self

    def reversed_against(self, other: "Target") -> bool:
        """Never: the direction is the part's."""
        return False

    def needs_power(self, sheet: "Sheet") -> bool:
        """Always."""
        return True

    def parts_read(self, sheet: "Sheet") -> tuple[str, ...]:
        """The part that the current is of."""
        return (self.part,)

    def in_setup(self, name: str, sheet: "Sheet") -> "Through":
        """The same in another setup."""
        return replace(self, setup=name)

    @property
    def columns(self) -> Columns:
        """What names it."""
        return Columns(CURRENT.value, through=self.part, setup=self.setup, at=self.at or "", step=self.step)

    @property
    def words(self) -> str:
        """The target in words."""
        return say(_kind("circuit.through", self), part=self.part, **_where(self))


def _kind(kind: str, target: Across | Through) -> str:
    """The kind of sentence of a target: whether it is read at a part, and in a row of a sweep."""
    kind = f"{kind}_at" if target.at else kind
    return f"{kind}_in_row" if target.step is not None else kind


def _where(target: Across | Through) -> dict[str, object]:
    return {"at": target.at, "row": None if target.step is None else target.step + 1}


Target = PartAlone | TouchedLeads | Across | Through


@lru_cache(maxsize=4096)
def target_of(columns: Columns) -> Target:
    """The target that columns name; readings of one share it. Raises ValueError for a quantity that is none."""
    quantity, of, red, black, through, setup, at, step = columns
    if of:
        return PartAlone(of, Measurand(quantity), setup or None)
    if red:
        return Across(Measurand(quantity), (red, black), setup, at or None, step)
    return Through(through, setup, at or None, step) if through else TouchedLeads()
